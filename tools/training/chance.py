"""Random numbers drawn once and used again and again, from other places: to draw them takes a third of all training.

Which place comes next follows from the seed that is set before each round (needs PyTorch).
"""

from functools import cache

import torch
from torch import nn

SIZE = 1 << 24  # numbers in store: twelve clips of a thousand candidates want fewer


@cache
def _normals() -> torch.Tensor:
    return torch.randn(SIZE, generator=torch.Generator().manual_seed(1))


@cache
def _masks(share: float) -> torch.Tensor:
    kept = torch.rand(SIZE, generator=torch.Generator().manual_seed(2)) >= share
    return kept.float() / (1 - share)


def _like(store: torch.Tensor, x: torch.Tensor) -> torch.Tensor:
    count = x.numel()
    at = int(torch.randint(SIZE - count, ()))
    return store[at : at + count].view(x.shape)


def noise_like(x: torch.Tensor) -> torch.Tensor:
    """Normal numbers in the shape of `x`."""
    return _like(_normals(), x)


class Dropout(nn.Module):
    """Dropout (Srivastava et al. 2014), its masks from the store."""

    def __init__(self, share: float) -> None:
        super().__init__()
        self.share = share

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        return x * _like(_masks(self.share), x) if self.training else x
