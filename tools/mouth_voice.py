"""A simulated beatboxer: lip, tongue and breath sounds by rule, for the demo and for tests. No one's voice is used."""

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

Mono = NDArray[np.float64]
# What the mouth does for a voice: "b", "pf", "ts" and "tss".
MOUTHED = ("kick", "snare", "hat_closed", "hat_open")


def mouth_sound(voice: str, strength: float, rng: np.random.Generator, *, rate: int, person: int = 0) -> Mono:
    """One sound of a person (a seed); strength 0 to 1. Each repetition comes out a little different."""
    own = np.random.default_rng([77, person])
    low = own.uniform(70, 115)
    crack, hiss = own.uniform(1200, 2600), own.uniform(4800, 7000)
    time_s = np.arange(round(0.5 * rate)) / rate
    wobble = float(np.exp(rng.normal(0, 0.04)))
    if voice == "kick":
        sweep = low * wobble * (1 + 1.6 * np.exp(-time_s / 0.018))
        out = np.sin(2 * np.pi * np.cumsum(sweep) / rate) * np.exp(-time_s / 0.055)
        out += 0.25 * _noise(time_s, rng, rate, 120, 900) * np.exp(-time_s / 0.012)
    elif voice == "snare":
        burst = (1 - np.exp(-time_s / 0.002)) * np.exp(-time_s / (0.055 * wobble))
        out = _noise(time_s, rng, rate, crack * 0.5 * wobble, crack * 2.4) * burst
        out += 0.35 * np.sin(2 * np.pi * 190 * wobble * time_s) * np.exp(-time_s / 0.02)
    else:
        decay = 0.022 if voice == "hat_closed" else 0.16
        burst = (1 - np.exp(-time_s / 0.003)) * np.exp(-time_s / (decay * wobble))
        out = 0.7 * _noise(time_s, rng, rate, hiss * wobble, min(hiss * 2.2, 0.45 * rate)) * burst
    return np.asarray(out * strength**2)


def _noise(time_s: Mono, rng: np.random.Generator, rate: int, low: float, high: float) -> Mono:
    band = sosfilt(butter(2, (low, high), "bandpass", fs=rate, output="sos"), rng.standard_normal(len(time_s)))
    return np.asarray(band / max(float(np.sqrt(np.mean(band**2))), 1e-9) * 0.35)


def mouthed(
    hits: list[tuple[float, str, int]], *, rate: int, length_s: float, seed: int, person: int = 0
) -> NDArray[np.float32]:
    """A phrase of (seconds, voice, velocity) with breath between the sounds; mono, peak 0.8."""
    rng = np.random.default_rng([seed, person])
    out = np.zeros(round(length_s * rate))
    for time_s, voice, velocity in hits:
        sound = mouth_sound(voice, velocity / 127, rng, rate=rate, person=person)
        start = round(time_s * rate)
        sound = sound[: max(0, len(out) - start)]
        out[start : start + len(sound)] += sound
    breath = _noise(np.zeros(len(out)), rng, rate, 300, 3000)
    out += 0.004 * breath * (1 + np.sin(2 * np.pi * 0.3 * np.arange(len(out)) / rate))
    return (0.8 * out / np.abs(out).max()).astype(np.float32)
