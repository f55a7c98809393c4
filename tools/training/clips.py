"""The clips that the network learns from, and how a batch of them is shown to it (needs PyTorch)."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np
import torch

from ghoststep.listen.strokes.own_strokes import OWN_SCALE, template_shares
from tools.training.network import GROUPS, PARTS

GROUP_OF_VOICE = np.array([4, 4, 4, 4, 2, 2, 2, 3, 3, 1, 1, 3, 0, 2])  # kick, snare, hat, toms, cymbals
SECONDS_OF_A_BAR = 2.0
BATCH = 12  # clips
_KEYS = ("x", "hit", "velocity", "late_s", "ornament", "time_s", "bar", "asked")


@dataclass
class Clips:
    """Arrays over all candidates, and where each clip begins and ends.

    `said`, (candidates, groups), are the log-odds of a first hearing by the network that learns, as `train.say_alone`
    fills them in.
    """

    arrays: dict[str, torch.Tensor]
    spans: list[tuple[int, int]]


def load(*folders: Path) -> Clips:
    """All examples of some folders, in an order that follows from their names.

    Raises
    ------
    SystemExit
        Where a folder holds none.
    """
    for folder in folders:
        if not any(folder.glob("examples-*.npz")):
            raise SystemExit(f"{folder} holds no examples: make some with tools.training.examples first.")
    found = [file for folder in folders for file in folder.glob("examples-*.npz")]
    files = sorted(found, key=lambda f: f.stem.split("-")[::-1])
    parts = [dict(np.load(f)) for f in files]
    arrays = {k: np.concatenate([p[k] for p in parts]) for k in _KEYS}
    spans, start = [], 0
    for p in parts:
        edges = [0, *p["ends"]]
        spans += [(start + a, start + b) for a, b in pairwise(edges) if b > a]
        start += len(p["x"])
    arrays["said"] = np.full((start, GROUPS), -10, np.float16)
    arrays["group"] = np.stack([arrays["hit"][:, g == GROUP_OF_VOICE].max(axis=1) for g in range(GROUPS)], axis=1)
    return Clips({k: torch.from_numpy(np.asarray(a)) for k, a in arrays.items()}, spans)


def batches(clips: Clips, used: list[int], seed: int, epoch: int) -> Iterator[list[int]]:
    """All of `used` once, in batches of clips of about one length, since padding costs as much as what is real.

    Their order follows from seed and epoch.
    """
    chance = np.random.default_rng([seed, epoch])
    length = np.array([clips.spans[i][1] - clips.spans[i][0] for i in used])
    order = np.argsort(length * chance.uniform(0.85, 1.15, len(used)), kind="stable")
    rows = [order[at : at + BATCH] for at in range(0, len(order), BATCH)]
    for row in chance.permutation(len(rows)):
        yield [used[i] for i in rows[row]]


def batch_of(clips: Clips, chosen: list[int], *, own_known: bool = True) -> dict[str, torch.Tensor]:
    """Padded arrays of some clips, (clips, longest, ...), and `real`, which says what is no padding.

    `shares`, (clips, longest, longest), is what makes each candidate's template: left out without `own_known`.
    """
    spans = [clips.spans[i] for i in chosen]
    longest = max(b - a for a, b in spans)
    out = {key: torch.zeros(len(spans), longest, *a.shape[1:], dtype=torch.float32) for key, a in clips.arrays.items()}
    out["real"] = torch.zeros(len(spans), longest)
    if own_known:
        out["shares"] = torch.zeros(len(spans), longest, longest)
    for row, (a, b) in enumerate(spans):
        for key, source in clips.arrays.items():
            out[key][row, : b - a] = source[a:b].float()
        out["real"][row, : b - a] = 1
        if own_known:
            out["shares"][row, : b - a, : b - a] = torch.from_numpy(template_shares(clips.arrays["said"][a:b].numpy()))
    return out


def own(x: torch.Tensor, batch: dict[str, torch.Tensor]) -> torch.Tensor | None:
    """What differs from the clip's own strokes, as `own_strokes.py`; shape (clips, n, OWN_SIZE), if known."""
    if "shares" not in batch:
        return None
    shares, fine = batch["shares"], x[..., : PARTS[0]]
    has = (shares.sum(dim=-1, keepdim=True) > 0).float()
    return torch.cat([OWN_SCALE * has * (fine - shares @ fine), has], dim=-1)


def place_in_time(batch: dict[str, torch.Tensor], *, bars: float, wrong: float) -> tuple[torch.Tensor, torch.Tensor]:
    """Place of each candidate in bars, and whether it is in bars (1) or in seconds by a made-up bar (0)."""
    steady = ~torch.isnan(batch["bar"]).any(dim=1)
    known = (torch.rand(len(steady)) < bars) & steady
    factor = torch.where(torch.rand(len(steady)) < wrong, 2.0 ** torch.randint(-1, 2, (len(steady),)).float(), 1.0)
    by_bars = torch.nan_to_num(batch["bar"]) * factor[:, None]
    place = torch.where(known[:, None], by_bars, batch["time_s"] / SECONDS_OF_A_BAR)
    return place, known.float()


def varied(x: torch.Tensor, parts: tuple[int, ...], bands: int) -> torch.Tensor:
    """Other tone, more noise and other level of each clip, made on the features themselves."""
    clips = len(x)
    out = x.clone()
    t = torch.linspace(0, np.pi, bands)
    waves = torch.stack([torch.cos(k * t) for k in range(1, 5)])
    tone = (torch.randn(clips, 4) * torch.tensor([0.24, 0.18, 0.12, 0.09])) @ waves + 0.05 * torch.randn(clips, 1)
    tone = tone * (torch.rand(clips, 1) < 0.8)
    noise = torch.rand(clips, 1) * 1.2 - 0.6 + 0.2 * torch.randn(clips, 1) * torch.linspace(-1, 1, bands)
    noise = torch.where(torch.rand(clips, 1) < 0.4, noise, torch.full_like(noise, -3.0))
    fine, context = parts[0], parts[-1]
    for a, b in ((0, fine), (x.shape[2] - context, x.shape[2])):
        part = out[:, :, a:b].reshape(clips, x.shape[1], -1, bands) + tone[:, None, None]
        part = torch.logaddexp(4 * part, 4 * noise[:, None, None].expand_as(part)) / 4
        out[:, :, a:b] = part.clamp(0, 3).reshape(clips, x.shape[1], -1)
    return out
