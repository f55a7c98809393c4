"""Short-time spectra in bands, on a frame grid and at chosen moments.

All listening happens on mono sound at LISTEN_RATE. Bands are triangles spaced evenly on a scale that is linear at
the bottom, where one FFT bin is the limit, and logarithmic above.
"""

from collections.abc import Iterator
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.transforms import rfft

LISTEN_RATE = 44100
Floats = NDArray[np.float32]
_FLOOR = 1e-5
_AT_ONCE = 128  # windows: what is made of them stays in the processor's cache, and memory is bounded


@lru_cache(maxsize=8)
def band_matrix(n_fft: int, bands: int, low_hz: float, high_hz: float) -> Floats:
    """Triangular bands that each average the bins they cover; shape (n_fft // 2 + 1, bands)."""
    bin_hz = LISTEN_RATE / n_fft
    # The warp log(1 + f / 4 bins) is linear below some four bins, so that no band is emptier than its neighbours.
    knee = 4 * bin_hz
    edges = knee * np.expm1(np.linspace(np.log1p(low_hz / knee), np.log1p(high_hz / knee), bands + 2))
    hz = np.arange(n_fft // 2 + 1) * bin_hz
    rise = (hz[:, None] - edges[:-2]) / np.maximum(edges[1:-1] - edges[:-2], 1e-9)
    fall = (edges[2:] - hz[:, None]) / np.maximum(edges[2:] - edges[1:-1], 1e-9)
    weights = np.clip(np.minimum(rise, fall), 0, None)
    for b in np.flatnonzero(weights.sum(axis=0) < 1e-6):
        weights[round((edges[b + 1]) / bin_hz), b] = 1.0
    out: Floats = (weights / weights.sum(axis=0)).astype(np.float32)
    return out


@lru_cache(maxsize=8)
def _window(n_fft: int) -> Floats:
    hann = np.hanning(n_fft + 1)[:-1]
    return (hann * 2 / hann.sum()).astype(np.float32)


def windows_at(sound: Floats, starts: NDArray[np.int64], length: int) -> Iterator[Floats]:
    """The sound from each of some samples on, some windows at a time; shape (k, length) each.

    Outside the sound there is silence.
    """
    starts = np.maximum(np.minimum(starts, len(sound)), -length)
    views = np.lib.stride_tricks.sliding_window_view(sound, length) if len(sound) >= length else None
    for a in range(0, len(starts), _AT_ONCE):
        part = starts[a : a + _AT_ONCE]
        inside = (part >= 0) & (part + length <= len(sound))
        if views is not None and inside.all():
            yield views[part]
            continue
        # Only what reaches over an edge is filled up: a sound may be long.
        windows = np.zeros((len(part), length), sound.dtype)
        for window, start in zip(windows, part.tolist(), strict=True):
            heard = sound[max(start, 0) : max(start + length, 0)]
            window[max(-start, 0) : max(-start, 0) + len(heard)] = heard
        yield windows


def magnitudes_in_parts(sound: Floats, centres: NDArray[np.int64], n_fft: int) -> Iterator[Floats]:
    """Magnitude spectra of windows centred on the given samples, some at a time; shape (k, n_fft // 2 + 1) each.

    A sine of amplitude 1 reads 1. Outside the sound there is silence.
    """
    for windows in windows_at(sound, centres.ravel() - n_fft // 2, n_fft):
        yield np.abs(rfft(windows * _window(n_fft)))


def bands_at(sound: Floats, centres: NDArray[np.int64], n_fft: int, matrix: Floats) -> Floats:
    """Log bands of windows centred on the given samples; shape (..., bands), the first axes those of `centres`."""
    out = np.empty((centres.size, matrix.shape[1]), np.float32)
    at = 0
    for part in magnitudes_in_parts(sound, centres, n_fft):
        out[at : at + len(part)] = log_bands(part, matrix)
        at += len(part)
    return out.reshape(*centres.shape, -1)


def log_bands(magnitudes: Floats, matrix: Floats) -> Floats:
    """Bands in natural-log units above a floor of -100 dB full scale, so that silence is 0."""
    return np.log(np.maximum(magnitudes @ matrix, _FLOOR) / _FLOOR).astype(np.float32)


def frame_bands(sound: Floats, *, hop: int, n_fft: int, bands: int, low_hz: float, high_hz: float) -> Floats:
    """Log bands on a regular frame grid, frame i centred on sample i * hop; shape (frames, bands)."""
    matrix = band_matrix(n_fft, bands, low_hz, high_hz)
    return bands_at(sound, np.arange(0, len(sound) + hop, hop), n_fft, matrix)
