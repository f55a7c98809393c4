"""Hats and cymbals of other makers, imitated: the metal of a kit retuned, stacked, recoloured, with tones of its own.

What a network mistakes on kits it never learnt from is one metal for another, and banks hold only a handful of open
hats and rides. What is the same in all strokes of one piece of metal is changed for all of them alike, and it rings on
as metal does: hats that are open for a quarter of a second at least, cymbals longer.
"""

import numpy as np

from tools.training.kits import RATE, KitSamples, Layers, Mono, retuned
from tools.training.recolour import in_other_bands, smooth_curve

FAMILIES = (("hat_closed", "hat_half", "hat_open", "hat_pedal"), ("ride", "ride_bell"), ("crash",), ("splash",))
_RETUNED, _STACKED, _BANDED, _TONED = 0.5, 0.35, 0.5, 0.25  # shares of families
_LONGEST_S = 3.0


def other_metal(kit: KitSamples, bank: list[KitSamples], rng: np.random.Generator) -> KitSamples:
    """The kit with metal as there is no other; drums stay as they are."""
    out = dict(kit)
    for voices in FAMILIES:
        ratio = float(np.exp(rng.normal(0, 0.2))) if rng.random() < _RETUNED else 1.0
        beside = bank[int(rng.integers(len(bank)))] if rng.random() < _STACKED else None
        share = rng.uniform(0.15, 0.85)
        gains_db, damping = 5.0 * smooth_curve(rng), np.maximum(0.0, 2.0 * smooth_curve(rng))
        banded = rng.random() < _BANDED
        tones = _tones(rng) if rng.random() < _TONED else None
        for voice in voices:
            layers = [(v, retuned(s, ratio, 1.0, 30.0)) for v, s in out[voice]]
            if beside:
                layers = stacked(layers, beside[voice], share)
            if banded:
                layers = in_other_bands(layers, gains_db, damping)
            out[voice] = _toned(layers, tones) if tones is not None else layers
    return out


def stacked(layers: Layers, others: Layers, share: float) -> Layers:
    """Two pieces of metal struck as one, each layer with the one that is nearest in velocity."""
    out: Layers = []
    for velocity, sound in layers:
        other = min(others, key=lambda layer: abs(layer[0] - velocity))[1][: round(_LONGEST_S * RATE)]
        level = _strength(sound) / max(_strength(other), 1e-9)
        both = np.zeros(max(len(sound), len(other)), np.float32)
        both[: len(sound)] += (1 - share) * sound
        both[: len(other)] += share * level * other
        out.append((velocity, both))
    return out


def _tones(rng: np.random.Generator) -> Mono:
    """A few partials that ring together, of unit strength."""
    t = np.arange(round(rng.uniform(0.3, 2.0) * RATE)) / RATE
    out = np.zeros(len(t))
    for _ in range(int(rng.integers(2, 9))):
        hz, decay_s = np.exp(rng.uniform(np.log(250), np.log(7000))), np.exp(rng.uniform(np.log(0.05), np.log(1.2)))
        out += rng.uniform(0.2, 1.0) * np.sin(2 * np.pi * (hz * t + rng.random())) * np.exp(-t / decay_s)
    out *= 10 ** (rng.uniform(-22, -5) / 20) / _strength(out)
    return out.astype(np.float32)


def _toned(layers: Layers, tones: Mono) -> Layers:
    """The layers with the tones, as loud against each as against the others, for as long as the stroke is there."""
    out: Layers = []
    for velocity, sound in layers:
        n = min(len(sound), len(tones))
        both = sound.copy()
        both[:n] += _strength(sound) * tones[:n]
        out.append((velocity, both))
    return out


def _strength(sound: np.ndarray) -> float:
    return float(np.sqrt(np.sum(np.square(sound[: RATE // 10], dtype=float)))) + 1e-9
