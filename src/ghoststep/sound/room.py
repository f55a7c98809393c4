"""A room around the kit: a few early reflections and a short, darkening tail."""

import numpy as np
from numpy.typing import NDArray
from scipy.signal import fftconvolve

from ghoststep.music.butterworth import filtered


def room_response(*, rate: int, decay_s: float, seed: int, first_s: float = 0.006) -> NDArray[np.float64]:
    """An impulse response of shape (n, 2) without the direct sound, unit energy in each channel."""
    rng = np.random.default_rng(seed)
    length = round(decay_s * 1.5 * rate)
    time_s = np.arange(length) / rate
    tail = rng.standard_normal((length, 2)) * np.exp(-6.9 * time_s / decay_s)[:, None]
    tail[: round(first_s * 3 * rate)] *= 0.2
    for _ in range(7):
        at = round((first_s + rng.exponential(0.012)) * rate)
        if at < length:
            tail[at] += rng.uniform(1.5, 5.0, 2) * rng.choice([-1, 1], 2)
    dark = filtered(tail, 1, 0.0, 5500.0, rate)
    return np.asarray(dark / np.sqrt((dark**2).sum(axis=0)))


def in_room(
    sound: NDArray[np.floating], *, rate: int, decay_s: float = 0.35, wet: float = 0.15, seed: int = 1
) -> NDArray[np.float64]:
    """Stereo sound of shape (n, 2) with a room mixed in; the tail is kept."""
    response = room_response(rate=rate, decay_s=decay_s, seed=seed)
    reflected = fftconvolve(sound.mean(axis=1, dtype=float)[:, None], response, axes=0)
    out = wet * reflected
    out[: len(sound)] += sound
    return out
