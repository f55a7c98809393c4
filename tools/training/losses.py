"""How far what the network says is from what was played, or from what its teachers say (needs PyTorch)."""

from pathlib import Path

import torch
from torch import nn

from tools.training.network import GROUPS, ORNAMENTS, OUTPUTS, VOICES, VoiceNet, unfolded

SNARE_VOICE, SNARE_GROUP = 10, 1
LATE_SCALE_S = 0.010
LEAD_SCALE_S = 0.030


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
        out.append(net.train(False))
    return out


def mean_said(teachers: list[VoiceNet], *inputs: torch.Tensor | None) -> torch.Tensor:
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
