"""Butterworth filters as responses over a spectrum.

The response is that of the digital filter made by the bilinear transform (Butterworth 1930; Oppenheim & Schafer 1989),
phase and all, so what is filtered with it is what a recursive filter gives, to rounding. Whoever filters has the
spectrum at hand or needs one anyway, and SciPy's signal package takes one to two seconds to load, which would be heard
as a wait before the first sound.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray


@lru_cache(maxsize=64)
def butterworth(order: int, low_hz: float, high_hz: float, length: int, rate: int) -> NDArray[np.complex128]:
    """Complex response at the frequencies of a real transform of `length` samples; shape (length // 2 + 1,).

    Passes what lies between two edges in Hz: a `low_hz` of 0 makes it a low-pass, a `high_hz` of 0 a high-pass. `order`
    is that of the low-pass it is made of.
    """
    hz = np.minimum(np.arange(length // 2 + 1) * (rate / length), rate / 2 * (1 - 1e-12))
    s, low, high = 1j * np.tan(np.pi * hz / rate), *(np.tan(np.pi * f / rate) for f in (low_hz, high_hz))
    with np.errstate(divide="ignore", invalid="ignore"):
        if low_hz and high_hz:
            lowpass = (s * s + low * high) / (s * (high - low))
        elif low_hz:
            lowpass = low / s
        else:
            lowpass = s / high
        poles = np.exp(1j * np.pi * (2 * np.arange(order) + order + 1) / (2 * order))
        found = 1 / np.prod(lowpass[:, None] - poles, axis=1)
    return np.nan_to_num(found, nan=0.0, posinf=0.0, neginf=0.0)


def filtered(sound: NDArray[np.float64], order: int, low_hz: float, high_hz: float, rate: int) -> NDArray[np.float64]:
    """A short sound, shape (n,) or (n, channels), through the filter; its ringing after the end is cut off."""
    size = 1 << (len(sound) + rate // 4 - 1).bit_length()  # the ringing has died away before the end comes round
    response = butterworth(order, low_hz, high_hz, size, rate)
    spectrum = np.fft.rfft(sound, size, axis=0)
    return np.asarray(np.fft.irfft((spectrum.T * response).T, size, axis=0)[: len(sound)])
