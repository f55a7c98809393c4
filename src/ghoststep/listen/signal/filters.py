"""Butterworth bands of a sound: one Fourier transform of the sound serves them all."""

from collections.abc import Mapping, Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats
from ghoststep.listen.signal.transforms import irfft, rfft
from ghoststep.music.butterworth import butterworth

# Samples of one transform, and after how many of them a band has died away: of any band, and of those that reach no
# lower than _QUICK_HZ, whose transforms fit into the processor's cache and so take a third of the time.
_BLOCK, _QUICK_BLOCK, _QUICK_HZ = (1 << 16, 1 << 13), (1 << 14, 1 << 11), 140.0
_BATCH = 4  # blocks at once, which are transformed side by side and stay in the cache
GRAIN = 8  # samples, of which energies are kept
_COARSE_HZ = 400.0  # bands that end here or lower need every GRAIN-th sample only
Band = tuple[int, float, float]  # order, lower edge in Hz (0: lowpass), upper edge in Hz (0: highpass)


@lru_cache(maxsize=32)
def response(band: Band, length: int) -> NDArray[np.complex64]:
    """Complex response at the frequencies of a real transform of `length` samples; shape (length // 2 + 1,)."""
    return butterworth(*band, length, LISTEN_RATE).astype(np.complex64)


Energies = Mapping[Band, NDArray[np.float64]]


def energies(sound: Floats, wanted: Sequence[Band]) -> Energies:
    """The energy of the sound in several bands, summed up from its start: value i is of the samples before i * GRAIN.

    Shape (len(sound) // GRAIN + 1,) each. Bands that end low are kept at the rate of the grains from the start, as
    what lies above that rate's middle is 50 dB down in them.
    """
    powers = _by_kind(sound, wanted, coarse=True)
    count, out = len(sound) // GRAIN, {}
    for k, band in enumerate(wanted):
        summed = np.zeros(count + 1)
        np.cumsum(powers[k][:count], dtype=np.float64, out=summed[1:])
        out[band], powers[k] = summed, powers[k][:0]  # let go of one by one: a long sound is large
    return out


def grains(samples: NDArray[np.int64], count: int) -> NDArray[np.int64]:
    """The indices into `energies` of `count` values that lie nearest to some samples."""
    return np.clip((samples + GRAIN // 2) // GRAIN, 0, count - 1)


def bands(sound: Floats, wanted: Sequence[Band]) -> list[Floats]:
    """The sound in several bands, each as long as the sound; silence goes before it."""
    return _by_kind(sound, wanted, coarse=False)


def _by_kind(sound: Floats, wanted: Sequence[Band], *, coarse: bool) -> list[Floats]:
    """The sound in several bands, or with `coarse` the energy of every GRAIN samples in them."""
    kinds = [_kind(band, coarse) for band in wanted]
    out: dict[int, Floats] = {}
    for kind in sorted(set(kinds)):
        members = [i for i, k in enumerate(kinds) if k == kind]
        out |= zip(members, _filtered(sound, [wanted[i] for i in members], *kind, coarse=coarse), strict=True)
    return [out[i] for i in range(len(wanted))]


def _kind(band: Band, coarse: bool) -> tuple[int, int, int]:
    """Samples of one transform, how many of them the band needs to die away, and of how many samples one is kept."""
    _, low, high = band
    part = GRAIN if coarse and 0 < high <= _COARSE_HZ else 1
    quick = part == 1 and (low or high) >= _QUICK_HZ
    return (*(_QUICK_BLOCK if quick else _BLOCK), part)


def _filtered(sound: Floats, wanted: Sequence[Band], size: int, tail: int, part: int, *, coarse: bool) -> list[Floats]:
    """The sound in bands of one kind, block by block, each block from a tail before what is kept of it."""
    size = min(size, 1 << (len(sound) + tail).bit_length())
    step, kept = size - tail, size // part // 2 + 1
    blocks = -(-len(sound) // step)
    out = [np.empty((blocks, step // (GRAIN if coarse else 1)), np.float32) for _ in wanted]
    for a in range(0, blocks, _BATCH):
        rows = np.zeros((min(_BATCH, blocks - a), size), np.float32)
        for row, start in zip(rows, range(a * step - tail, blocks * step - tail, step), strict=False):
            inside = sound[max(start, 0) : start + size]  # a long sound is not copied as a whole
            row[max(-start, 0) : max(-start, 0) + len(inside)] = inside
        spectrum = rfft(rows)
        for band, target in zip(wanted, out, strict=True):
            filtered = irfft(spectrum[:, :kept] * response(band, size)[:kept], size // part)[:, tail // part :]
            target[a : a + _BATCH] = _grain_energy(filtered, part) if coarse else filtered
    return [rows.reshape(-1)[: -(-len(sound) // (GRAIN if coarse else 1))] for rows in out]


def _grain_energy(filtered: Floats, part: int) -> Floats:
    """The energy of every GRAIN samples of a sound of which one sample in `part` is kept; shape (rows, grains)."""
    power = np.square(filtered)
    if part == GRAIN:
        return power * np.float32(GRAIN / GRAIN**2)  # a transform back that is shorter divides by less
    # As a product, which is several times faster than a sum over so few.
    return np.asarray(power.reshape(len(power), -1, GRAIN) @ np.ones(GRAIN, np.float32))
