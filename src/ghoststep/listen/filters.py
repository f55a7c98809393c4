"""Butterworth bands of a sound, by the Fourier transform.

The response is that of the digital filter made by the bilinear transform (Butterworth 1930; Oppenheim & Schafer 1989),
phase and all, so the result is what a recursive filter gives, to rounding. One transform of the sound serves all bands,
and SciPy's signal package, which takes longer to load than a loop takes to hear, is not needed.
"""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.spectrum import LISTEN_RATE, Floats, is_long, transforms

_BLOCK = 1 << 16
_TAIL = 1 << 13  # samples after which the slowest band used has died away
Band = tuple[int, float, float]  # order, lower edge in Hz (0: lowpass), upper edge in Hz (0: highpass)


@lru_cache(maxsize=32)
def response(band: Band, length: int) -> NDArray[np.complex64]:
    """Complex response at the frequencies of a real transform of `length` samples; shape (length // 2 + 1,)."""
    order, low, high = band
    hz = np.minimum(np.arange(length // 2 + 1) * (LISTEN_RATE / length), LISTEN_RATE / 2 * (1 - 1e-12))

    def warped(f: NDArray[np.float64] | float) -> NDArray[np.float64]:
        out: NDArray[np.float64] = 2 * LISTEN_RATE * np.tan(np.pi * np.asarray(f) / LISTEN_RATE)
        return out

    s = 1j * warped(hz)
    with np.errstate(divide="ignore", invalid="ignore"):
        if low and high:
            lowpass = (s * s + warped(low) * warped(high)) / (s * (warped(high) - warped(low)))
        elif low:
            lowpass = warped(low) / s
        else:
            lowpass = s / warped(high)
        poles = np.exp(1j * np.pi * (2 * np.arange(order) + order + 1) / (2 * order))
        found = 1 / np.prod(lowpass[:, None] - poles, axis=1)
    return np.nan_to_num(found, nan=0.0, posinf=0.0, neginf=0.0).astype(np.complex64)


def bands(sound: Floats, wanted: Sequence[Band]) -> list[Floats]:
    """The sound in several bands, each as long as the sound; silence goes before it."""
    out = [np.empty(len(sound), np.float32) for _ in wanted]
    rfft, irfft = transforms(long=is_long(sound))
    short = len(sound) + _TAIL <= _BLOCK
    block = int(2 ** np.ceil(np.log2(len(sound) + _TAIL + 1))) if short else _BLOCK
    step = block - _TAIL
    for start in range(0, len(sound), step):
        begin = start - _TAIL
        piece = np.zeros(block, np.float32)
        a, b = max(begin, 0), min(begin + block, len(sound))
        piece[a - begin : b - begin] = sound[a:b]
        spectrum = rfft(piece)
        count = min(step, len(sound) - start)
        filtered = irfft(spectrum * np.stack([response(band, block) for band in wanted]), block)
        for target, row in zip(out, filtered, strict=True):
            target[start : start + count] = row[_TAIL : _TAIL + count]
    return out
