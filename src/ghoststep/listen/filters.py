"""Butterworth bands of a sound, by the Fourier transform.

The response is that of the digital filter made by the bilinear transform (Butterworth 1930; Oppenheim & Schafer 1989),
phase and all, so the result is what a recursive filter gives, to rounding. One transform of the sound serves all bands,
and SciPy's signal package, which takes longer to load than a loop takes to hear, is not needed.
"""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.spectrum import LISTEN_RATE, Floats
from ghoststep.listen.transforms import irfft, rfft

_BLOCK = 1 << 16
_TAIL = 1 << 13  # samples after which the slowest band used has died away
GRAIN = 8  # samples, of which energies are kept
_COARSE_HZ = 400.0  # bands that end here or lower need every GRAIN-th sample only
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


def energies(sound: Floats, wanted: Sequence[Band]) -> list[NDArray[np.float64]]:
    """The energy of the sound in several bands, summed up from its start: value i is of the samples before i * GRAIN.

    Shape (len(sound) // GRAIN + 1,) each. Bands that end low are kept at the rate of the grains from the start, as
    what lies above that rate's middle is 50 dB down in them.
    """
    out = []
    for (_, _, high), band in zip(wanted, bands(sound, wanted, coarse=True), strict=True):
        power = np.square(band) * GRAIN if 0 < high <= _COARSE_HZ else _by_grain(np.square(band))
        out.append(np.concatenate([[0.0], np.cumsum(power[: len(sound) // GRAIN], dtype=np.float64)]))
    return out


def _by_grain(power: Floats) -> Floats:
    whole = len(power) // GRAIN
    return np.asarray(power[: whole * GRAIN].reshape(whole, GRAIN).sum(axis=1))


def grains(samples: NDArray[np.int64], count: int) -> NDArray[np.int64]:
    """The indices into `energies` of `count` values that lie nearest to some samples."""
    return np.clip((samples + GRAIN // 2) // GRAIN, 0, count - 1)


def bands(sound: Floats, wanted: Sequence[Band], *, coarse: bool = False) -> list[Floats]:
    """The sound in several bands, each as long as the sound; silence goes before it.

    With `coarse`, bands that end low come with every GRAIN-th sample only.
    """
    rfft_size = _block(len(sound))
    step = rfft_size - _TAIL
    parts = [GRAIN if coarse and 0 < high <= _COARSE_HZ else 1 for _, _, high in wanted]
    out = [np.empty(-(-len(sound) // part), np.float32) for part in parts]
    groups = [(part, [i for i, p in enumerate(parts) if p == part]) for part in sorted(set(parts))]
    for start in range(0, len(sound), step):
        begin = start - _TAIL
        piece = np.zeros(rfft_size, np.float32)
        a, b = max(begin, 0), min(begin + rfft_size, len(sound))
        piece[a - begin : b - begin] = sound[a:b]
        spectrum = rfft(piece)
        count = min(step, len(sound) - start)
        for part, members in groups:
            kept = rfft_size // part // 2 + 1
            product = spectrum[:kept] * np.stack([response(wanted[i], rfft_size)[:kept] for i in members])
            filtered = irfft(product, rfft_size // part) / np.float32(part)
            for i, row in zip(members, filtered, strict=True):
                out[i][start // part : -(-(start + count) // part)] = row[_TAIL // part : -(-(_TAIL + count) // part)]
    return out


def _block(length: int) -> int:
    """Samples of one transform."""
    short = length + _TAIL <= _BLOCK
    return 1 << (length + _TAIL).bit_length() if short else _BLOCK
