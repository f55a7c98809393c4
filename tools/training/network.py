"""The voice network in PyTorch, for training only; `strokes/network.py` is its twin in NumPy."""

from pathlib import Path

import numpy as np
import torch
from torch import nn

from tools.training.chance import Dropout

VOICES, GROUPS, ORNAMENTS = 14, 5, 4
OUTPUTS = 3 * VOICES + GROUPS + ORNAMENTS
HIDDEN, WIDTH, BLOCKS, HEADS = 448, 176, 3, 4
# Wave lengths in bars by which attention tells places apart; each turns one pair of numbers of a head.
WAVES = (16.0, 8.0, 4.0, 2.0, 1.0, 1 / 2, 1 / 3, 1 / 4, 1 / 6, 1 / 8, 1 / 12, 1 / 16)
# As in signal/patches.py, which a test holds to be the same.
PARTS, BANDS, OWN_SIZE = (960, 48, 160, 5, 2, 96), 48, 961


class Block(nn.Module):
    def __init__(self) -> None:
        super().__init__()
        self.norm1, self.norm2 = nn.LayerNorm(WIDTH), nn.LayerNorm(WIDTH)
        self.qkv, self.mix = nn.Linear(WIDTH, 3 * WIDTH), nn.Linear(WIDTH, WIDTH)
        self.wide, self.narrow = nn.Linear(WIDTH, 2 * WIDTH), nn.Linear(2 * WIDTH, WIDTH)
        self.drop = Dropout(0.15)

    def forward(self, x: torch.Tensor, turn: tuple[torch.Tensor, torch.Tensor], shut: torch.Tensor) -> torch.Tensor:
        clips, n, _ = x.shape
        q, k, v = self.qkv(self.norm1(x)).reshape(clips, n, 3, HEADS, -1).permute(2, 0, 3, 1, 4)
        mixed = nn.functional.scaled_dot_product_attention(turned(q, turn), turned(k, turn), v, attn_mask=shut)
        x = x + self.drop(self.mix(mixed.transpose(1, 2).reshape(clips, n, -1)))
        return x + self.drop(self.narrow(torch.relu(self.wide(self.norm2(x)))))


def turned(a: torch.Tensor, turn: tuple[torch.Tensor, torch.Tensor]) -> torch.Tensor:
    """Rotate pairs of numbers by the place in time (rotary embedding, Su et al. 2021); the rest stays as it is."""
    cos, sin = turn
    w = len(WAVES)
    one, two, rest = a[..., :w], a[..., w : 2 * w], a[..., 2 * w :]
    return torch.cat([one * cos - two * sin, one * sin + two * cos, rest], dim=-1)


class VoiceNet(nn.Module):
    parts, bands = PARTS, BANDS

    def __init__(self, size: int) -> None:
        super().__init__()
        self.first, self.second = nn.Linear(size, HIDDEN), nn.Linear(HIDDEN + 1, WIDTH)
        self.own = nn.Linear(OWN_SIZE, HIDDEN, bias=False)  # what differs from the recording's own strokes
        nn.init.zeros_(self.own.weight)
        self.blocks = nn.ModuleList(Block() for _ in range(BLOCKS))
        self.norm, self.out = nn.LayerNorm(WIDTH), nn.Linear(WIDTH, OUTPUTS)
        self.drop = Dropout(0.2)

    def inner_matrices(self) -> list[nn.Parameter]:
        """The weights between what is read and what is said."""
        return [p for name, p in self.named_parameters() if p.ndim == 2 and name.startswith(("second.", "blocks."))]

    def forward(
        self, x: torch.Tensor, own: torch.Tensor | None, place: torch.Tensor, known: torch.Tensor, real: torch.Tensor
    ) -> torch.Tensor:
        """What is said of each candidate, (clips, n, OUTPUTS); shapes as `clips.batch_of` gives them."""
        flag = known[:, None, None].expand(*x.shape[:2], 1)
        inner = self.first(x)
        if own is not None:
            inner = inner + self.own(self.drop(own)) * known[:, None, None]
        h = self.second(torch.cat([self.drop(torch.relu(inner)), flag], dim=-1))
        angle = 2 * np.pi * place[..., None] / torch.tensor(WAVES)
        turn = (torch.cos(angle)[:, None], torch.sin(angle)[:, None])
        shut = (real[:, None, None, :] - 1) * 1e4
        for block in self.blocks:
            h = block(h, turn, shut)
        return self.out(self.norm(h))


def save(net: VoiceNet, mean: torch.Tensor, spread: torch.Tensor, out: Path) -> None:
    """Fold the input scaling into the first layer and write float16 weights."""
    state = {k: v.detach().clone() for k, v in net.state_dict().items()}
    state["first.weight"] = state["first.weight"] / spread
    state["first.bias"] = state["first.bias"] - state["first.weight"] @ mean
    out.parent.mkdir(parents=True, exist_ok=True)
    stored = {
        k: v.numpy().astype(np.float16 if k.endswith("weight") and v.ndim > 1 else np.float32) for k, v in state.items()
    }
    # Not compressed: a twentieth smaller would take a tenth of a second longer to load, each time.
    np.savez(out, waves=np.array(WAVES, np.float32), heads=np.array(HEADS), **stored)


def unfolded(file: Path, mean: torch.Tensor, spread: torch.Tensor) -> dict[str, torch.Tensor]:
    """The state of a network that was saved, for inputs scaled by another mean and spread."""
    with np.load(file) as stored:
        state = {k: torch.from_numpy(stored[k].astype(np.float32)) for k in stored.files if k not in ("waves", "heads")}
    state.setdefault("own.weight", torch.zeros(HIDDEN, OWN_SIZE))  # weights from before it came
    state["first.bias"] = state["first.bias"] + state["first.weight"] @ mean
    state["first.weight"] = state["first.weight"] * spread
    return state
