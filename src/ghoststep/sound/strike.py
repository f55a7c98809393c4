"""One blow on one voice: a recipe made into samples."""

import numpy as np
from numpy.typing import NDArray

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
    from scipy.signal import butter, sosfilt  # half a second to import: not before the first sound is made

    top = 0.45 * rate
    high = min(noise.high_hz * (0.55 + 0.45 * strength), top)
    low = min(noise.low_hz, high / 2)
    white = rng.standard_normal(len(time_s))
    band = sosfilt(butter(2, [low, high], "bandpass", fs=rate, output="sos"), white)
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
    """The sum of decaying sines, each as the impulse response of a two-pole filter (five times faster than sin)."""
    from scipy.signal import lfilter

    total = np.zeros(length)
    for w, d, g, p in zip(2 * np.pi * hz / rate, decay_s * rate, gain, phase, strict=True):
        audible = round(min(7 * d, length))
        impulse = np.zeros(audible)
        impulse[0] = g
        r = np.exp(-1 / d)
        total[:audible] += lfilter([np.sin(p), r * np.sin(w - p)], [1, -2 * r * np.cos(w), r * r], impulse)
    return total
