"""How hard each stroke was, from the level in its drum's own frequency range.

Within one recording a harder stroke is louder by 40 log10 of the velocity (`music.touch`), so the order and spread of
velocities come from levels measured there, while the network, which has heard many kits, says what their middle is.
Where drums sound together the range is not theirs alone; the network then bounds how far the level may lead.
"""

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.filters import Band, Energies, energies, grains
from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats, magnitudes_in_parts

# Range in Hz and time in s over which a stroke of each of NET_GROUPS is measured.
_RANGES: dict[str, tuple[float, float, float]] = {
    "kick": (30, 120, 0.050),
    "snare": (180, 5000, 0.030),
    "hat": (6500, 17000, 0.020),
    "toms": (70, 400, 0.050),
    "cymbals": (3000, 12000, 0.025),
}
LEVEL_BANDS: tuple[Band, ...] = tuple((3, *_RANGES[group][:2]) for group in NET_GROUPS)
_MEASURED_SHARE = 0.8  # of the velocity, in the logarithm; found on the development cases
_TOGETHER_SHARE = 0.7  # the same where another drum sounds in the range at the same moment
_MOST_AWAY = 0.8  # that the level may lead from the network, in the logarithm: a factor of 2.2
_SCALE_LIMITS = (0.6, 1.5)  # of the scale of velocities against the usual curve
_LEAST_STROKES = 4
# Which groups sound in the range of another so strongly that they hide how hard it was struck.
_MASKERS: dict[str, tuple[str, ...]] = {
    "hat": ("snare", "toms", "cymbals"),
    "cymbals": ("snare", "toms"),
}
_LEAST_MASKED, _LEAST_EXCESS_DB = 3, 1.0
# A hat is measured where nothing else is as loud, over some 35 ms; lower ranges are for recordings cut off below.
_HAT_RANGES_HZ = ((11000, 18000), (8000, 12000), (6000, 9000), (3500, 6500))
_HAT_CENTRE_S, _HAT_FFT, _OVER_NOISE_DB = 0.016, 1536, 12.0
_LEAST_LEFT = 0.3  # of the share that is the voice's own


def levels_db(sound: Floats, moments_s: NDArray[np.float64], energy: Energies | None = None) -> NDArray[np.float64]:
    """Level just after each moment in the range of each group, in dB; shape (n, groups).

    Parameters
    ----------
    energy
        Energies of the sound in LEVEL_BANDS, where they are there already.
    """
    starts = np.rint((moments_s - 0.001) * LISTEN_RATE).astype(np.int64)
    out = np.empty((len(moments_s), len(NET_GROUPS)))
    energy = energy or energies(sound, LEVEL_BANDS)
    for g, band in enumerate(LEVEL_BANDS):
        total, time_s = energy[band], _RANGES[NET_GROUPS[g]][2]
        ends = starts + round(time_s * LISTEN_RATE)
        level = total[grains(ends, len(total))] - total[grains(starts, len(total))]
        out[:, g] = 10 * np.log10(np.maximum(level, 1e-12))
    return out


def hat_levels_db(sound: Floats, moments_s: NDArray[np.float64]) -> NDArray[np.float64]:
    """Level of the hats just after each moment, in the highest range that stands over the noise; shape (n,).

    Up there hardly anything else sounds, so nothing has to be taken off; a recording that was cut off below is measured
    where it still has something.
    """
    if not len(moments_s):
        return np.zeros(0)
    centres = np.rint((moments_s + _HAT_CENTRE_S) * LISTEN_RATE).astype(np.int64)
    before = np.rint((moments_s - 2 * _HAT_CENTRE_S) * LISTEN_RATE).astype(np.int64)
    level_db, noise_db = (_range_levels_db(sound, at) for at in (centres, before))
    over_db = np.percentile(level_db, 70, axis=0) - np.percentile(noise_db, 20, axis=0)
    clear = np.flatnonzero(over_db >= _OVER_NOISE_DB)
    return np.asarray(level_db[:, clear[0] if len(clear) else -1])


def _range_levels_db(sound: Floats, centres: NDArray[np.int64]) -> NDArray[np.float64]:
    """Levels in each of the ranges of hats around some samples; shape (n, ranges)."""
    hz = np.arange(_HAT_FFT // 2 + 1) * (LISTEN_RATE / _HAT_FFT)
    inside = np.stack([(hz >= low) & (hz < high) for low, high in _HAT_RANGES_HZ], axis=1).astype(np.float32)
    parts = [np.square(part) @ inside for part in magnitudes_in_parts(sound, centres, _HAT_FFT)]
    return np.asarray(10 * np.log10(np.concatenate(parts).astype(np.float64) + 1e-14))


def velocities(
    heard: NDArray[np.float64], level_db: NDArray[np.float64], alone: NDArray[np.bool_] | None = None
) -> NDArray[np.float64]:
    """Velocities of the strokes of one voice, from what the network heard and the levels measured; shape (n,).

    Few strokes are left as the network heard them, since their levels have nothing to stand against.

    Parameters
    ----------
    alone
        Which strokes have their range to themselves; the level of the others says less. All where not given.
    """
    if len(heard) < _LEAST_STROKES:
        return heard
    alone = np.ones(len(heard), bool) if alone is None else alone
    clear = alone if alone.sum() >= _LEAST_STROKES else np.ones(len(heard), bool)
    known = np.log(np.maximum(heard, 1.0))
    usual = np.log(10) / 40
    level = (level_db - level_db[clear].mean()) * usual
    # The network sets middle and scale (recordings are compressed, kits differ); the level sets the rest.
    middle, own = known[clear].mean(), level[clear]
    scale = float(np.clip((own @ (known[clear] - middle)) / max(own @ own, 1e-9), *_SCALE_LIMITS))
    share = np.where(alone, _MEASURED_SHARE, _TOGETHER_SHARE)
    away = np.clip(share * (middle + scale * level - known), -_MOST_AWAY, _MOST_AWAY)
    return np.asarray(np.clip(np.exp(known + away), 1, 127))


def unmasked(group: str, level_db: NDArray[np.float64], struck: NDArray[np.bool_]) -> NDArray[np.float64]:
    """Levels of the strokes of one voice in its own range, less what other drums add to it; shape (n,).

    A snare under a hat makes the hat seem louder. How much it adds is told by the strokes of the same voice that have
    their range to themselves: on the whole a drummer plays them as hard as the others. What the other drum adds grows
    with its own level; where it adds nearly all, nothing can be read from the level, and the stroke is taken as usual.

    Parameters
    ----------
    level_db
        Levels of the strokes in the ranges of all groups, (n, groups).
    struck
        Which groups are struck at each of them, (n, groups).
    """
    g = NET_GROUPS.index(group)
    out = level_db[:, g].copy()
    maskers = [NET_GROUPS.index(name) for name in _MASKERS.get(group, ())]
    clear = ~struck[:, maskers].any(axis=1)
    if clear.sum() < _LEAST_MASKED:
        return out
    usual_db = float(np.median(out[clear]))
    left = ~clear
    for p in maskers:
        masked = struck[:, p] & left
        left &= ~masked
        excess_db = float(np.median(out[masked])) - usual_db if masked.sum() >= _LEAST_MASKED else 0.0
        if excess_db < _LEAST_EXCESS_DB:
            continue
        added = 1 - 10 ** (-excess_db / 10)
        whole, other = 10 ** (out[masked] / 10), 10 ** (level_db[masked, p] / 10)
        leak = added * float(np.median(whole)) / float(np.median(other))
        own = np.maximum(whole - leak * other, _LEAST_LEFT * (1 - added) * whole)
        out[masked] = (1 - added) * 10 * np.log10(own) + added * usual_db
    return out
