"""Fit the voice network: `python -m tools.training.train EXAMPLES_DIR OUT.npz --minutes M` (needs PyTorch, see README).

The network is small and plain, so that NumPy runs it: three dense layers with ReLU. It gives for each candidate and
voice the log-odds of being struck, the velocity and the moment's correction, and the log-odds of each voice group.
Weights are stored as float16 with the input scaling folded in.
"""

import argparse
import time
from pathlib import Path

import numpy as np
import torch
from torch import nn

VOICES, GROUPS = 14, 5
GROUP_OF_VOICE = np.array([4, 4, 4, 4, 2, 2, 2, 3, 3, 1, 1, 3, 0, 2])  # kick, snare, hat, toms, cymbals
LATE_SCALE_S = 0.010


class VoiceNet(nn.Module):
    def __init__(self, size: int, hidden: tuple[int, int]) -> None:
        super().__init__()
        self.first, self.second = nn.Linear(size, hidden[0]), nn.Linear(hidden[0], hidden[1])
        self.out = nn.Linear(hidden[1], 3 * VOICES + GROUPS)
        self.drop = nn.Dropout(0.25)

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        x = self.drop(torch.relu(self.first(x)))
        return self.out(self.drop(torch.relu(self.second(x))))


def loss_of(
    out: torch.Tensor, hit: torch.Tensor, velocity: torch.Tensor, late: torch.Tensor, group: torch.Tensor
) -> torch.Tensor:
    bce = nn.functional.binary_cross_entropy_with_logits
    presence = bce(out[:, :VOICES], hit, reduction="sum") / len(out)
    groups = bce(out[:, 3 * VOICES :], group, reduction="sum") / len(out)
    struck = hit.sum() + 1
    loud = (((out[:, VOICES : 2 * VOICES] - velocity) ** 2) * hit).sum() / struck
    moved = (
        nn.functional.smooth_l1_loss(out[:, 2 * VOICES : 3 * VOICES], late / LATE_SCALE_S, reduction="none", beta=0.3)
        * hit
    ).sum() / struck
    return presence + 2 * groups + 12 * loud + 0.8 * moved


def load(folder: Path) -> tuple[torch.Tensor, ...]:
    parts = []
    for f in sorted(folder.glob("examples-*.npz")):
        try:
            parts.append(dict(np.load(f)))
        except (OSError, ValueError, EOFError):
            print(f"{f.name} is not complete yet and left out")
    x, hit, velocity, late = (np.concatenate([p[k] for p in parts]) for k in ("x", "hit", "velocity", "late_s"))
    group = np.stack([hit[:, g == GROUP_OF_VOICE].max(axis=1) for g in range(GROUPS)], axis=1)
    return tuple(torch.from_numpy(np.asarray(a)) for a in (x, hit, velocity, late, group))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("examples", type=Path)
    parser.add_argument("out", type=Path)
    parser.add_argument("--minutes", type=float, default=10)
    parser.add_argument("--hidden", type=int, nargs=2, default=(384, 192))
    parser.add_argument("--threads", type=int, default=2)
    options = parser.parse_args()
    torch.manual_seed(1)
    torch.set_num_threads(options.threads)
    x, hit, velocity, late, group = load(options.examples)
    kept = len(x) // 20
    print(f"{len(x)} candidates, the last {kept} kept back")
    mean = x[: -kept or None].float().mean(dim=0)
    spread = x[: -kept or None].float().std(dim=0) + 0.05
    net = VoiceNet(x.shape[1], tuple(options.hidden))
    optimiser = torch.optim.AdamW(net.parameters(), lr=1.5e-3, weight_decay=1e-3)
    started, epoch = time.monotonic(), 0
    rate = 1.0
    while rate > 0:
        net.train()
        order = torch.randperm(len(x) - kept)
        total, count = 0.0, 0
        for batch in order.split(512):
            share = (time.monotonic() - started) / (60 * options.minutes)
            rate = max(0.0, 1 - share)
            for g in optimiser.param_groups:
                g["lr"] = 1.5e-3 * rate * min(1.0, (count + epoch * 100 + 1) / 100)
            inputs = (x[batch].float() - mean) / spread
            inputs = inputs + 0.1 * torch.randn_like(inputs) + 0.08 * torch.randn(len(batch), 1)
            loss = loss_of(net(inputs), hit[batch].float(), velocity[batch], late[batch], group[batch].float())
            optimiser.zero_grad()
            loss.backward()
            optimiser.step()
            total, count = total + float(loss.detach()), count + 1
            if rate == 0:
                break
        epoch += 1
        net.eval()
        with torch.no_grad():
            out = net((x[-kept:].float() - mean) / spread)
            check = loss_of(out, hit[-kept:].float(), velocity[-kept:], late[-kept:], group[-kept:].float())
            told = out[:, 3 * VOICES :] > 0
            truth = group[-kept:].bool()
            f = 2 * (told & truth).sum(0) / (told.sum(0) + truth.sum(0))
        print(
            f"epoch {epoch} loss {total / count:.3f} kept back {float(check):.3f} F {[round(float(v), 3) for v in f]}",
            flush=True,
        )
    save(net, mean, spread, options.out)


def save(net: VoiceNet, mean: torch.Tensor, spread: torch.Tensor, out: Path) -> None:
    """Fold the input scaling into the first layer and write float16 arrays."""
    w = net.first.weight.detach() / spread
    b = net.first.bias.detach() - w @ mean
    arrays = {
        "w0": w,
        "b0": b,
        "w1": net.second.weight,
        "b1": net.second.bias,
        "w2": net.out.weight,
        "b2": net.out.bias,
    }
    out.parent.mkdir(parents=True, exist_ok=True)
    np.savez_compressed(
        out, **{k: v.detach().numpy().astype(np.float16 if k[0] == "w" else np.float32) for k, v in arrays.items()}
    )


if __name__ == "__main__":
    main()
