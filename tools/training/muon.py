"""Steps of equal size in all directions for the matrices inside a network (Muon, Jordan et al. 2024; needs PyTorch).

The mean of past gradients is made orthogonal by a polynomial before it is taken (Newton and Schulz). What PyTorch holds
of it computes in half precision, which these processors do five times more slowly than in single.
"""

from collections.abc import Iterable

import torch
from torch import nn

_KEPT = 0.95  # of the mean of past gradients at each step
_DECAY = 0.02
_ROUNDS, _POLYNOMIAL = 5, (3.4445, -4.775, 2.0315)
_AS_ADAM = 0.2  # the usual size of a step of Adam, so that one rate serves both


class Muon:
    def __init__(self, matrices: Iterable[nn.Parameter]) -> None:
        self.matrices = list(matrices)
        self.means = [torch.zeros_like(m) for m in self.matrices]

    @torch.no_grad()
    def step(self, rate: float) -> None:
        for matrix, mean in zip(self.matrices, self.means, strict=True):
            if matrix.grad is None:
                continue
            mean.lerp_(matrix.grad, 1 - _KEPT)
            ahead = torch.lerp(matrix.grad, mean, _KEPT)  # after Nesterov (1983)
            # Three matrices that stand in one (queries, keys, values) are no one direction.
            parts = ahead.chunk(3 if len(ahead) == 3 * ahead.shape[1] else 1)
            taken = torch.cat([orthogonal(p) * _AS_ADAM * max(p.shape) ** 0.5 for p in parts])
            matrix.mul_(1 - rate * _DECAY).sub_(taken, alpha=rate)


def orthogonal(matrix: torch.Tensor) -> torch.Tensor:
    """Nearly the nearest matrix whose rows (or columns, where those are fewer) are orthogonal and of length one."""
    turned = len(matrix) > matrix.shape[1]
    x = matrix.T if turned else matrix
    x = x / (x.norm() + 1e-9)
    a, b, c = _POLYNOMIAL
    for _ in range(_ROUNDS):
        square = x @ x.T
        x = a * x + (b * square + c * square @ square) @ x
    return x.T if turned else x
