"""One blow on one voice: a recipe made into samples."""

import math

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.butterworth import filtered
from ghoststep.sound.recipe import Metal, Noise, Recipe, Tone

Mono = NDArray[np.float64]
_FADE_S = 0.03


def strike(recipe: Recipe, strength: float, *, rate: int, seed: int | list[int]) -> Mono:
    """The sound of one blow of a given strength (0 to 1, velocity / 127), peak near 1 at full strength.

    Level follows 40 log10(strength); the parts' hardness makes strong blows brighter. The same seed gives the same
    wires and partials at any strength, so that neighbouring strengths can be blended.
    """
    rng = np.random.default_rng(seed)
    time_s = np.arange(round(recipe.length_s * rate)) / rate
    parts = [_part(part, time_s, rate, strength, rng) for part in recipe.parts]
    plain = np.array([part.gain for part in recipe.parts])
    gains = plain * [strength**part.hardness for part in recipe.parts]
    # Hardness moves energy between the parts; the sum of it stays, so level follows strength alone.
    energy = np.array([float(np.dot(sound, sound)) for sound in parts])
    gains *= np.sqrt((plain**2 @ energy) / max(gains**2 @ energy, 1e-12))
    total = sum((gain * sound for gain, sound in zip(gains, parts, strict=True)), np.zeros(len(time_s)))
    if recipe.drive:
        total = np.tanh(recipe.drive * total) / np.tanh(recipe.drive)
    fade = min(len(total), round(_FADE_S * rate))
    total[len(total) - fade :] *= np.linspace(1, 0, fade)
    return total * strength**2


def _part(part: Tone | Noise | Metal, time_s: Mono, rate: int, strength: float, rng: np.random.Generator) -> Mono:
    if isinstance(part, Tone):
        return _tone(part, time_s, rng)
    if isinstance(part, Noise):
        return _noise(part, time_s, rate, strength, rng)
    return _metal(part, time_s, rate, strength, rng)


def _tone(tone: Tone, time_s: Mono, rng: np.random.Generator) -> Mono:
    hz = tone.hz * (1 + rng.uniform(-0.004, 0.004))
    cycles = hz * (time_s + tone.sweep * tone.sweep_s * (1 - np.exp(-time_s / tone.sweep_s)))
    return np.sin(2 * np.pi * cycles) * np.exp(-time_s / tone.decay_s)


def _noise(noise: Noise, time_s: Mono, rate: int, strength: float, rng: np.random.Generator) -> Mono:
    top = 0.45 * rate
    high = min(noise.high_hz * (0.55 + 0.45 * strength), top)
    low = min(noise.low_hz, high / 2)
    white = rng.standard_normal(len(time_s))
    band = filtered(white, 2, low, high, rate)
    band *= 0.35 / max(float(np.sqrt(2 * (high - low) / rate)), 1e-6) * 0.5
    envelope = np.exp(-time_s / noise.decay_s)
    if noise.attack_s:
        envelope *= 1 - np.exp(-time_s / noise.attack_s)
    return band * envelope


def _metal(metal: Metal, time_s: Mono, rate: int, strength: float, rng: np.random.Generator) -> Mono:
    """Partials spread evenly in log frequency with random detuning; the top dies up to three times faster."""
    place = (np.arange(metal.partials) + rng.uniform(0, 1, metal.partials)) / metal.partials
    hz = np.minimum(metal.low_hz * (metal.high_hz / metal.low_hz) ** place, 0.47 * rate)
    decay = metal.decay_s * (1.3 - 0.9 * place)
    gain = rng.uniform(0.3, 1.0, metal.partials) * (0.25 + 0.75 * strength) ** place
    phase = rng.uniform(0, 2 * np.pi, metal.partials)
    return _ringing(hz, decay, gain, phase, len(time_s), rate) / np.sqrt(metal.partials)


def _ringing(hz: Mono, decay_s: Mono, gain: Mono, phase: Mono, length: int, rate: int) -> Mono:
    """The sum of decaying sines, each until it has fallen by 61 dB.

    z^(row * block + column) is the product of z^(row * block) and z^column, so all partials at all samples are one
    product of two small matrices: a cymbal is built three to five times faster than with a filter for each partial.
    """
    block = max(1, math.isqrt(length))
    rows = -(-length // block)
    turn = 2j * np.pi * hz / rate - 1 / (decay_s * rate)  # logarithm of z, per sample
    audible = np.minimum(7 * decay_s * rate, length).round().astype(int)
    heads = gain * np.exp(1j * phase + np.outer(np.arange(rows) * block, turn))
    heads[np.arange(rows)[:, None] * block >= audible] = 0
    within = np.exp(np.outer(turn, np.arange(block)))
    grid = np.hstack([heads.real, heads.imag]) @ np.vstack([within.imag, within.real])
    for partial, end in enumerate(audible):  # the row in which a partial ends goes on too long
        row, column = divmod(int(end), block)
        if column:
            grid[row, column:] -= (heads[row, partial] * within[partial, column:]).imag
    return np.asarray(grid.reshape(-1)[:length])
