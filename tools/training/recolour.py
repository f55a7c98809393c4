"""Kits of other makers, imitated: a kit with another balance and another ring in every part of the spectrum.

Banks are few, and a network soon knows them by heart. Here the spectrum of each family of voices is cut into broad,
overlapping bands, and each band gets a level and a damping of its own, drawn from smooth random curves, so that what
stays is how a voice is struck and how it differs from its neighbours, and what goes is whose sample it was.
"""

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from tools.training.kits import RATE, KitSamples, Layers, Mono

BANDS = 7
_LOWEST_HZ, _HIGHEST_HZ = 70.0, 14000.0
_LONGEST_S = 2.2
_FAMILIES = ("hat", "tom", "ride")

Curve = NDArray[np.float64]


def recoloured(kit: KitSamples, rng: np.random.Generator) -> KitSamples:
    """The kit with bands of each voice re-levelled and damped; voices of a family share most of the change."""
    strength = rng.uniform(0.4, 1.6)
    shared = {family: _curves(rng, strength) for family in _FAMILIES}
    out: KitSamples = {}
    for voice, layers in kit.items():
        family = next((f for f in _FAMILIES if voice.startswith(f)), "")
        gains_db, damping = _curves(rng, strength * (0.35 if family else 1.0))
        if family:
            gains_db, damping = gains_db + shared[family][0], damping + shared[family][1]
        out[voice] = in_other_bands(layers, gains_db, damping)
    return out


def _curves(rng: np.random.Generator, strength: float) -> tuple[Curve, Curve]:
    """Levels in dB and damping in 1/s of each band."""
    gains_db = 6.5 * strength * smooth_curve(rng)
    damping = np.maximum(0.0, 7.0 * strength * (smooth_curve(rng) + rng.normal(-0.3, 0.6)))
    return gains_db, damping


def smooth_curve(rng: np.random.Generator) -> Curve:
    """A random curve over the bands, of about unit spread, whose neighbours go together."""
    steps = rng.standard_normal(BANDS)
    walk = 0.6 * np.cumsum(steps) + 0.6 * rng.standard_normal(BANDS)
    walk -= walk.mean()
    return np.asarray(walk)


def in_other_bands(layers: Layers, gains_db: Curve, damping: Curve) -> Layers:
    """The layers with each band re-levelled by dB and damped by 1/s, as loud at their hardest as they were."""
    gains = 10 ** (gains_db / 20)
    out: Layers = []
    # All layers by the loudness the hardest one had, so that touch stays what it was.
    before = max((_strength(sound) for _, sound in layers), default=1.0)
    for velocity, sound in layers:
        out.append((velocity, _filtered(sound[: round(_LONGEST_S * RATE)], gains, damping)))
    after = max((_strength(sound) for _, sound in out), default=1.0)
    return [(velocity, (sound * (before / max(after, 1e-9))).astype(np.float32)) for velocity, sound in out]


def _strength(sound: Mono) -> float:
    return float(np.sqrt(np.sum(np.square(sound[: RATE // 10], dtype=float))))


def _filtered(sound: Mono, gains: Curve, damping: Curve) -> Mono:
    n = len(sound)
    if n < 64:
        return sound
    size = 1 << (n + RATE // 50 - 1).bit_length()
    spectrum = fft.rfft(sound.astype(np.float32), size)
    hz = np.maximum(np.fft.rfftfreq(size, 1 / RATE), 1.0)
    place = np.interp(np.log(hz), np.log([_LOWEST_HZ, _HIGHEST_HZ]), [0, BANDS - 1])
    t = np.arange(n) / RATE
    out = np.zeros(n)
    for band in range(BANDS):
        share = np.clip(1 - np.abs(place - band), 0, 1).astype(np.float32)
        out += gains[band] * fft.irfft(spectrum * share, size)[:n] * np.exp(-damping[band] * t)
    return out.astype(np.float32)
