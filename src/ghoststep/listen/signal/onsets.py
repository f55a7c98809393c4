"""Moments at which something is struck.

Steps: (1) log-compressed spectral flux with a maximum filter over frequency (Böck & Widmer 2013), in low, middle and
high range, since a kick under ringing cymbals is lost in the sum; (2) peaks over a local mean, with a low threshold,
as what is no hit is sorted out later; (3) the moment is refined to the steepest rise of energy in the waveform.
"""

from bisect import bisect

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats, frame_bands

HOP = 256
_N_FFT = 1024
_BANDS = 60
_RANGES_HZ = ((20, 260), (260, 4000), (4000, 18000))
_LAG = 2
_SPAN = 5.8
_MIN_GAP_S = 0.022
_THRESHOLD = 0.05
_OF_MOVING = 0.5
_LEAD = 8192  # samples of silence put before the first, so that a stroke at the very start has a before


def flux_ranges(sound: Floats) -> Floats:
    """Rise of the log spectrum, averaged over the bands of each range; shape (frames, 3)."""
    bands = frame_bands(sound, hop=HOP, n_fft=_N_FFT, bands=_BANDS, low_hz=20, high_hz=18000)
    edges = np.linspace(0, 1, _BANDS)
    knee = 4 * LISTEN_RATE / _N_FFT
    centre_hz = knee * np.expm1(np.log1p(20 / knee) + edges * (np.log1p(18000 / knee) - np.log1p(20 / knee)))
    parts = []
    for low, high in _RANGES_HZ:
        inside = bands[:, (centre_hz >= low) & (centre_hz < high)]
        # Only what stands within 50 dB of the loudest of its range counts, so that noise in silence does not flicker;
        # each range by itself, since hats may lie 60 dB under a kick.
        inside = np.maximum(inside, inside.max(initial=0.0) - _SPAN)
        before = _widest(inside, 1)
        rise = np.zeros_like(inside)
        rise[_LAG:] = np.maximum(inside[_LAG:] - before[:-_LAG], 0)
        parts.append(rise.mean(axis=1))
    return np.stack(parts, axis=1)


def _widest(curve: Floats, reach: int) -> Floats:
    """The largest value within `reach` places along the last axis, the ends mirrored."""
    padded = np.pad(curve, [(0, 0)] * (curve.ndim - 1) + [(reach, reach)], mode="symmetric")
    length = curve.shape[-1]
    out = padded[..., :length].copy()
    for i in range(1, 2 * reach + 1):
        np.maximum(out, padded[..., i : i + length], out=out)
    return out


def _local_mean(curve: Floats, reach: int) -> NDArray[np.float64]:
    """The mean within `reach` places, the ends mirrored; shape (n,)."""
    short = min(reach, len(curve))
    padded = np.pad(curve.astype(float), short, mode="symmetric")
    padded = np.pad(padded, reach - short, mode="edge")
    total = np.concatenate([[0.0], np.cumsum(padded)])
    return np.asarray((total[2 * reach + 1 :] - total[: -2 * reach - 1]) / (2 * reach + 1))


def candidates_s(sound: Floats, *, from_silence: bool = True) -> NDArray[np.float64]:
    """Moments that may be hits, ascending, in seconds; more of them than there are hits.

    Parameters
    ----------
    sound
        Mono at LISTEN_RATE, shape (n,).
    from_silence
        Whether nothing sounded before its first sample: then what it begins with is a rise out of silence, also where
        the file was cut on the stroke or inside its attack. A piece of a longer sound begins otherwise.
    """
    if not len(sound) or not np.any(sound):
        return np.zeros(0)
    if from_silence:
        lead = np.zeros(_LEAD, sound.dtype)
        later = candidates_s(np.concatenate([lead, sound]), from_silence=False) - _LEAD / LISTEN_RATE
        # Those that came to lie together at the very start are one.
        return np.unique(np.maximum(later[later > -_MIN_GAP_S], 0.0))
    flux = flux_ranges(sound)
    frames_s = HOP / LISTEN_RATE
    found: list[tuple[float, int]] = []
    for part in flux.T:
        scale = _scale(part)
        if scale < 0.05:
            continue
        curve = part / scale
        local = _local_mean(curve, 20)
        peak = (curve == _widest(curve, 2)) & (curve > local * 1.25 + _THRESHOLD)
        found += [(float(curve[i]), int(i)) for i in np.flatnonzero(peak)]
    near_s = np.array([max(0, frame - 1) * frames_s for _, frame in found])
    moments = _refined_s(_step_energy(sound), near_s).tolist()
    strengths = [strength for strength, _ in found]
    kept: list[float] = []
    for _, moment in sorted(zip(strengths, moments, strict=True), reverse=True):
        at = bisect(kept, moment)
        if all(abs(moment - other) >= _MIN_GAP_S for other in kept[max(at - 1, 0) : at + 1]):
            kept.insert(at, moment)
    return np.array(kept)


def _scale(rises: Floats) -> float:
    """What a clear rise of a range is measured by: the strongest of them, but for a few that are out of proportion.

    Only frames in which something rises count, since strokes may fill little of a sound that is mostly rest.
    """
    moving = rises[rises > 0.01 * float(rises.max(initial=0.0))]
    if not len(moving):
        return 0.0
    among_all, among_moving = (float(np.percentile(x, 99.5)) for x in (rises, moving))
    # In a sound full of strokes the two are nearly one; in one that is mostly rest the first falls into the rest.
    return max(among_all, _OF_MOVING * among_moving)


Moments = NDArray[np.float64]
_STEP = 22  # samples of one energy step, half a millisecond


def _step_energy(sound: Floats) -> NDArray[np.float64]:
    """Log energy of the pre-emphasised sound in steps of half a millisecond."""
    sharp = np.diff(sound, prepend=sound[:1]) + 0.03 * sound
    steps = len(sharp) // _STEP
    power = (sharp[: steps * _STEP].reshape(steps, _STEP) ** 2).sum(axis=1, dtype=float)
    return power + 1e-12


def _refined_s(energy: NDArray[np.float64], near_s: NDArray[np.float64], *, reach_s: float = 0.016) -> Moments:
    """The moment of the steepest rise near each frame: most energy after against energy before; shape (n,).

    Where the sound is too short to look around a moment, that stays.
    """
    step_s = _STEP / LISTEN_RATE
    middle = np.rint(near_s / step_s).astype(np.int64)
    reach, before, after = round(reach_s / step_s), 8, 6
    at = middle[:, None] + np.arange(-reach, reach)
    inside = (at >= before) & (at < len(energy) - after)
    at = np.clip(at, before, max(before, len(energy) - after - 1))
    total = np.concatenate([np.zeros(1), np.cumsum(energy), np.full(before + after, energy.sum())])
    behind = (total[at] - total[at - before]) / before
    ahead = (total[at + after] - total[at]) / after
    rise = np.log(ahead / (behind + 0.003 * float(energy.max()) * 0.01))
    best = at[np.arange(len(at)), np.argmax(rise + 0.15 * np.log(ahead), axis=1)] * step_s
    return np.asarray(np.where(inside.any(axis=1), best, near_s))


def nearest_attack_s(samples: NDArray[np.float32], rate: int, moment_s: float, *, reach_s: float = 0.03) -> float:
    """The steepest attack near a moment of a recording, for a hit that is put in by hand.

    Parameters
    ----------
    samples
        The recording, shape (n, channels).
    """
    import soxr

    lead_s = 0.1
    a = max(0, round((moment_s - reach_s - lead_s) * rate))
    piece = samples[a : a + round((2 * (reach_s + lead_s)) * rate)].mean(axis=1)
    if len(piece) < 64 or not np.any(piece):
        return moment_s
    sound = np.asarray(piece if rate == LISTEN_RATE else soxr.resample(piece, rate, LISTEN_RATE), np.float32)
    found = _refined_s(_step_energy(sound), np.array([moment_s - a / rate]), reach_s=reach_s)
    return float(found[0] + a / rate)
