"""Fit the voice network: `python -m tools.training.train EXAMPLES_DIR OUT.npz --minutes M` (needs PyTorch, see README).

Every candidate of a clip is a token: its patch goes through two dense layers, then through a few blocks of attention
over all candidates of the clip. Attention knows how far apart two candidates lie, in bars where the bars are known
(as they are when a recording is heard again) and in seconds where not. NumPy runs the result (`listen/voicenet.py`).
Weights are stored as float16 with the input scaling folded in.
"""

import argparse
import time
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np
import torch
from torch import nn
from torch.optim.swa_utils import AveragedModel, get_ema_multi_avg_fn

from ghoststep.listen.own_strokes import OWN_SCALE, template_shares
from tools.training.network import GROUPS, ORNAMENTS, OUTPUTS, PARTS, VOICES, VoiceNet, save, unfolded

GROUP_OF_VOICE = np.array([4, 4, 4, 4, 2, 2, 2, 3, 3, 1, 1, 3, 0, 2])  # kick, snare, hat, toms, cymbals
SNARE_VOICE, SNARE_GROUP = 10, 1
LATE_SCALE_S = 0.010
LEAD_SCALE_S = 0.030
SECONDS_OF_A_BAR = 2.0
_KEYS = ("x", "hit", "velocity", "late_s", "ornament", "time_s", "bar", "asked", "said")


@dataclass
class Clips:
    """Arrays over all candidates, and where each clip begins and ends."""

    arrays: dict[str, torch.Tensor]
    spans: list[tuple[int, int]]


def load(folder: Path) -> Clips:
    parts = []
    for f in sorted(folder.glob("examples-*.npz"), key=lambda f: f.stem.split("-")[::-1]):
        try:
            parts.append(dict(np.load(f)))
        except (OSError, ValueError, EOFError):
            print(f"{f.name} is not complete yet and left out")
    arrays = {k: np.concatenate([p[k] for p in parts]) for k in _KEYS}
    spans, start = [], 0
    for p in parts:
        edges = [0, *p["ends"]]
        spans += [(start + a, start + b) for a, b in pairwise(edges) if b > a]
        start += len(p["x"])
    arrays["group"] = np.stack([arrays["hit"][:, g == GROUP_OF_VOICE].max(axis=1) for g in range(GROUPS)], axis=1)
    return Clips({k: torch.from_numpy(np.asarray(a)) for k, a in arrays.items()}, spans)


def batch_of(clips: Clips, chosen: list[int]) -> dict[str, torch.Tensor]:
    """Padded arrays of some clips, (clips, longest, ...), and `real`, which says what is no padding."""
    spans = [clips.spans[i] for i in chosen]
    longest = max(b - a for a, b in spans)
    out = {key: torch.zeros(len(spans), longest, *a.shape[1:], dtype=torch.float32) for key, a in clips.arrays.items()}
    out["real"] = torch.zeros(len(spans), longest)
    out["shares"] = torch.zeros(len(spans), longest, longest)
    for row, (a, b) in enumerate(spans):
        for key, source in clips.arrays.items():
            out[key][row, : b - a] = source[a:b].float()
        out["real"][row, : b - a] = 1
        out["shares"][row, : b - a, : b - a] = torch.from_numpy(template_shares(clips.arrays["said"][a:b].numpy()))
    return out


def own(x: torch.Tensor, shares: torch.Tensor) -> torch.Tensor:
    """What differs from the clip's own strokes, as `listen/own_strokes.py`; shape (clips, n, OWN_SIZE)."""
    fine = x[..., : PARTS[0]]
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


def loss_of(out: torch.Tensor, b: dict[str, torch.Tensor]) -> torch.Tensor:
    bce = nn.functional.binary_cross_entropy_with_logits
    smooth = nn.functional.smooth_l1_loss
    real, hit = b["real"][..., None], b["hit"]
    count, struck = b["real"].sum(), hit.sum() + 1
    at = 0
    odds, loud, late, groups, ornament = (
        out[..., at : (at := at + width)] for width in (VOICES, VOICES, VOICES, GROUPS, ORNAMENTS)
    )
    # A snare that nobody could hear is not asked for: to learn it is to learn to guess.
    heard, drum = real.expand_as(odds).clone(), real.expand_as(groups).clone()
    heard[..., SNARE_VOICE], drum[..., SNARE_GROUP] = (b["real"] * b["asked"] for _ in "12")
    presence = (bce(odds, hit, reduction="none") * heard).sum() / count
    group = (bce(groups, b["group"], reduction="none") * drum).sum() / count
    loudness = (((loud - b["velocity"]) ** 2) * hit).sum() / struck
    moved = (smooth(late, b["late_s"] / LATE_SCALE_S, reduction="none", beta=0.3) * hit).sum() / struck
    drums = ((b["group"][..., 1] + b["group"][..., 3]) > 0).float() * b["real"]
    flags = bce(ornament[..., (0, 1, 3)], b["ornament"][..., (0, 1, 3)], reduction="none").sum(dim=-1)
    led = b["ornament"][..., 0] * b["real"]
    leads = smooth(ornament[..., 2], b["ornament"][..., 2] / LEAD_SCALE_S, reduction="none", beta=0.3)
    ornaments = (flags * drums).sum() / (drums.sum() + 1) + 0.5 * (leads * led).sum() / (led.sum() + 1)
    order = disorder(loud, b["velocity"], hit)
    return presence + 2 * group + 10 * loudness + 0.8 * moved + 0.6 * ornaments + 0.5 * order


def teachers_of(files: list[Path], size: int, mean: torch.Tensor, spread: torch.Tensor) -> list[VoiceNet]:
    """The networks to be learnt from, for inputs scaled as here."""
    out = []
    for file in files:
        net = VoiceNet(size)
        net.load_state_dict(unfolded(file, mean, spread))
        out.append(net.eval())
    return out


def mean_said(teachers: list[VoiceNet], *inputs: torch.Tensor) -> torch.Tensor:
    """What the teachers say on average; nothing is learnt there."""
    with torch.no_grad():
        return torch.stack([teacher(*inputs) for teacher in teachers]).mean(dim=0)


def taught_loss(out: torch.Tensor, teacher: torch.Tensor, b: dict[str, torch.Tensor]) -> torch.Tensor:
    """How far a network is from what its teachers say, weighed as in `loss_of` (distillation, Hinton et al. 2015)."""
    odds, flags = list(range(VOICES)), [OUTPUTS - ORNAMENTS, OUTPUTS - ORNAMENTS + 1, OUTPUTS - 1]
    groups = list(range(3 * VOICES, 3 * VOICES + GROUPS))
    real, count, struck = b["real"][..., None], b["real"].sum(), b["hit"].sum() + 1
    bce = nn.functional.binary_cross_entropy_with_logits

    def said(which: list[int]) -> torch.Tensor:
        return (bce(out[..., which], torch.sigmoid(teacher[..., which]), reduction="none") * real).sum() / count

    away = (out - teacher)[..., VOICES : 3 * VOICES]
    loudness = ((away[..., :VOICES] ** 2) * b["hit"]).sum() / struck
    moved = (away[..., VOICES:].abs() * b["hit"]).sum() / struck
    return said(odds) + 2 * said(groups) + 0.6 * said(flags) + 10 * loudness + 0.8 * moved


def disorder(loud: torch.Tensor, velocity: torch.Tensor, hit: torch.Tensor) -> torch.Tensor:
    """1 - correlation of velocities within a voice of a clip, over voices with at least five strokes that differ."""
    n = hit.sum(dim=1)
    enough = n >= 5
    mean = lambda a: (a * hit).sum(dim=1) / n.clamp(min=1)  # noqa: E731
    a = (loud - mean(loud)[:, None]) * hit
    b = (velocity - mean(velocity)[:, None]) * hit
    variance = (b * b).sum(dim=1) / n.clamp(min=1)
    r = (a * b).sum(dim=1) / torch.sqrt((a * a).sum(dim=1) * (b * b).sum(dim=1) + 1e-6)
    weight = enough * variance / (variance + 0.03**2)
    return ((1 - r) * weight).sum() / (weight.sum() + 1e-6)


def checked(net: VoiceNet, clips: Clips, kept: list[int], scaled, *, bars: float) -> str:
    """Loss, F-measure by group and order of velocities on the kept clips."""
    net.eval()
    told = truth = both = torch.zeros(GROUPS)
    losses, orders = [], []
    with torch.no_grad():
        for at in range(0, len(kept), 32):
            b = batch_of(clips, kept[at : at + 32])
            place, known = place_in_time(b, bars=bars, wrong=0.0)
            out = net(scaled(b["x"]), own(b["x"], b["shares"]), place, known, b["real"])
            losses.append(float(loss_of(out, b)))
            orders.append(1 - float(disorder(out[..., VOICES : 2 * VOICES], b["velocity"], b["hit"])))
            said = (out[..., 3 * VOICES : 3 * VOICES + GROUPS] > 0).float() * b["real"][..., None]
            both = both + (said * b["group"]).sum(dim=(0, 1))
            told, truth = told + said.sum(dim=(0, 1)), truth + b["group"].sum(dim=(0, 1))
    f = 2 * both / (told + truth)
    return f"{np.mean(losses):.3f} F {[round(float(v), 3) for v in f]} order {np.mean(orders):.3f}"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("examples", type=Path)
    parser.add_argument("out", type=Path)
    parser.add_argument("--minutes", type=float, default=30)
    parser.add_argument("--threads", type=int, default=2)
    parser.add_argument("--start", type=Path, help="go on from this state (.pt) or these weights (.npz)")
    parser.add_argument("--rate", type=float, default=1e-3, help="learning rate at the beginning")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--teachers", type=Path, nargs="*", default=[], help="weights (.npz) whose mean it learns from")
    parser.add_argument("--only-own", action="store_true", help="train nothing but the new inputs of hearing again")
    options = parser.parse_args()
    torch.manual_seed(options.seed)
    torch.set_num_threads(options.threads)
    clips = load(options.examples)
    kept = list(range(len(clips.spans)))[-max(60, len(clips.spans) // 25) :]
    used = [i for i in range(len(clips.spans)) if i < kept[0]]
    x = clips.arrays["x"]
    print(f"{len(x)} candidates in {len(clips.spans)} clips, the last {len(kept)} clips kept back", flush=True)
    some = x[torch.randperm(len(x))[:60000]].float()
    mean, spread = some.mean(dim=0), some.std(dim=0) + 0.05
    net = VoiceNet(x.shape[1])
    if options.start:
        from_file = options.start.suffix == ".npz"
        net.load_state_dict(
            unfolded(options.start, mean, spread) if from_file else torch.load(options.start, weights_only=True)
        )
    scaled = lambda a: (a - mean) / spread  # noqa: E731
    teachers = teachers_of(options.teachers, x.shape[1], mean, spread)
    # What is saved is a running mean of the weights: it is better on kits of other makers than where the steps end.
    mean_net = AveragedModel(net, multi_avg_fn=get_ema_multi_avg_fn(0.997))
    if options.only_own:  # what was learned stays as it is; only the recording's own strokes are new
        for name, weight in net.named_parameters():
            weight.requires_grad_(name.startswith("own."))
    optimiser = torch.optim.AdamW([p for p in net.parameters() if p.requires_grad], lr=options.rate, weight_decay=0.02)
    # How often the bars are known, and how often wrongly; the new inputs count only where they are.
    shares = (1.0, 0.1) if options.only_own else (0.6, 0.2)
    started, epoch, steps, rate = time.monotonic(), 0, 0, 1.0
    while rate > 0:
        net.train()
        total, count = 0.0, 0
        for chosen in torch.randperm(len(used)).split(12):
            rate = max(0.0, 1 - (time.monotonic() - started) / (60 * options.minutes))
            for g in optimiser.param_groups:
                g["lr"] = options.rate * rate * min(1.0, (steps + 1) / 200)
            b = batch_of(clips, [used[i] for i in chosen])
            place, known = place_in_time(b, bars=shares[0], wrong=shares[1])
            x = varied(b["x"], net.parts, net.bands)
            inputs = scaled(x) + 0.1 * torch.randn_like(x)
            mine = own(x, b["shares"])
            out = net(inputs, mine, place, known, b["real"])
            loss = loss_of(out, b)
            if teachers:
                loss = 0.5 * loss + taught_loss(out, mean_said(teachers, scaled(x), mine, place, known, b["real"]), b)
            optimiser.zero_grad()
            loss.backward()
            nn.utils.clip_grad_norm_(net.parameters(), 2.0)
            optimiser.step()
            mean_net.update_parameters(net)
            total, count, steps = total + float(loss.detach()), count + 1, steps + 1
            if rate == 0:
                break
        epoch += 1
        alone, barred = (checked(mean_net.module, clips, kept, scaled, bars=share) for share in (0.0, 1.0))
        minutes = (time.monotonic() - started) / 60
        print(f"{minutes:.1f} min, epoch {epoch} loss {total / count:.3f} alone {alone} with bars {barred}", flush=True)
        save(mean_net.module, mean, spread, options.out)
        torch.save(mean_net.module.state_dict(), options.out.with_suffix(".pt"))


if __name__ == "__main__":
    main()
