"""A click that sounds in a recording: where it is, and the sound without it.

Steps: (1) spectra of the first minute; in each bin, where a lone tone begins; (2) the bin whose beginnings repeat at
one distance best (autocorrelation); (3) a straight line through them, to the sample; (4) what is alike at all of them
(their median) has to be little but tones, since a stroke of a drum at strict distances is no click; (5) that, or the
click as it sounds alone somewhere, is taken out of the sound wherever the line says, so that no stroke is heard in it.

A click may pause: bars of click and bars of silence, or a count-in that stops. It then sounds in runs on one line, and
counts only where it sounds.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.filters import response
from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats, magnitudes_in_parts
from ghoststep.listen.signal.transforms import irfft, rfft

_N_FFT, _HOP, _LOOKED_AT_S = 1024, 512, 60.0
_LOW_HZ, _HIGH_HZ = 600.0, 5000.0
_NEAREST_S, _FURTHEST_S = 0.18, 1.25  # two clicks in a row: 333 to 48 a minute
_LEAST_REPEATING = 0.45  # of the energy of a bin's beginnings, one distance later
_LEAST_CLICKS, _LEAST_SHARE, _LEAST_SPAN = 8, 0.6, 0.5
_LEAST_RUN, _IN_RUNS, _LEAST_RUNS = 3, 0.9, 2  # clicks in a row, the share that is, and how many such runs
_LEAST_PAUSES = 0.25  # of the clicks that a line would have: less than that is hidden by strokes
_COUNTED_IN = 4  # clicks of a count-in that stops, all of which sound alone
_MOST_OFF_S = 0.0012  # median distance from the line: machines keep it, players do not
_LEAST_PURE = 0.8  # share of the energy of what is alike that lies in its strongest tone
_PURE_HZ = 260.0
_SHAPE_S, _BEFORE_S = 0.06, 0.004
# A click sounds alone where so long before it and at its end there is less than so much of its mean power; of these
# those count that have no more than so much of the power of the softest.
_EDGE_S, _HARDLY, _AS_LOUD = 0.012, 0.005, 1.15
_LEAST_INSIDE = 0.3  # of the energy of a click that a sound may cut off at its end
_AROUND = (-8, -7, -6, 6, 7, 8)  # bins away from a tone
_STANDS_OUT = 3.0  # a tone against what lies around it, in natural-log units of power
_ABOUT_AS_LOUD = 0.6  # of its usual loudness a click may be away from it
_LEAST_BETWEEN = 0.4
_SAME_LAG_S = 0.015
_TRANSFORM = 8192
_NEAR_S, _LESS_SURE = 0.025, -5.0  # how near to a click a snare is less sure, and by how much in log-odds
_REACH, _SMOOTH = int(0.02 * LISTEN_RATE), 2 * int(0.0008 * LISTEN_RATE) + 1


@dataclass(frozen=True)
class ClickSound:
    """A click that was heard: clicks a minute, and the moment of the first in s.

    runs_s: first and last moment of each run in which it sounds, where it pauses in between; () where it does not.
    """

    bpm: float
    at_s: float
    runs_s: tuple[tuple[float, float], ...] = ()

    def sounding(self, moments_s: NDArray[np.float64]) -> NDArray[np.bool_]:
        """At which moments the click sounds; shape (n,)."""
        if not self.runs_s:
            return np.ones(len(moments_s), bool)
        near_s = 0.25 * 60 / self.bpm
        return np.any([(moments_s > a - near_s) & (moments_s < b + near_s) for a, b in self.runs_s], axis=0)


def found_click(sound: Floats) -> ClickSound | None:
    """The click in a sound, where there is one.

    Parameters
    ----------
    sound
        One channel at LISTEN_RATE, shape (n,), as `hearing.prepared` gives it.
    """
    begins, hz = _beginnings(sound[: int(_LOOKED_AT_S * LISTEN_RATE)])
    if len(begins) * _HOP < _COUNTED_IN * _NEAREST_S * LISTEN_RATE:
        return None
    tried: list[tuple[int, float]] = []
    for bin_, lag in _repeating(begins):
        if any(abs(bin_ - b) <= 1 and abs(lag - other) < _SAME_LAG_S for b, other in tried):
            continue  # a tone lies in two bins at once
        tried.append((bin_, lag))
        line = _line(sound, begins[:, bin_], float(hz[bin_]), lag)
        if line is not None and _pure(_alike(sound, line.heard_s)):
            at, pace = _densest(sound, line)
            return ClickSound(60 / pace, at, line.runs_s)
    return None


def without_click(sound: Floats, click: ClickSound) -> Floats:
    """The sound with what is alike at all clicks taken out, each as loud and as exactly placed as it is there."""
    moments = _moments((click.at_s, 60 / click.bpm), len(sound))
    moments = moments[click.sounding(moments)]
    out = sound.copy()
    for mine in _kinds(sound, moments):
        bare = _bare(sound, mine)
        shape = _alike(sound, mine) if bare is None else bare
        for start in _starts(mine):
            _take_out(out, shape, start)
    return out


def given_at(click: ClickSound, moments_s: NDArray[np.float64]) -> Floats:
    """What a click that was taken out says of candidates near it, in log-odds of NET_GROUPS, shape (n, groups).

    Something of it stays behind where a stroke sounds at the same time, and is like a soft snare or a cross stick.
    """
    pace_s = 60 / click.bpm
    away_s = np.abs((moments_s - click.at_s + pace_s / 2) % pace_s - pace_s / 2)
    out = np.zeros((len(moments_s), len(NET_GROUPS)), np.float32)
    out[(away_s < _NEAR_S) & click.sounding(moments_s), NET_GROUPS.index("snare")] = _LESS_SURE
    return out


def _beginnings(sound: Floats) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Where a lone tone begins, by frame and bin, and the bins' frequencies; shapes (frames, bins), (bins,)."""
    hz = np.arange(_N_FFT // 2 + 1) * LISTEN_RATE / _N_FFT
    low, high = int(np.searchsorted(hz, _LOW_HZ)), int(np.searchsorted(hz, _HIGH_HZ))
    reach = max(_AROUND)
    parts = magnitudes_in_parts(sound, np.arange(0, len(sound), _HOP), _N_FFT)
    loud = np.concatenate([part[:, low - reach : high + reach] for part in parts])
    power = loud * loud + np.float32(1e-14)
    bins = high - low
    around = sum(power[:, reach + d : reach + d + bins] for d in _AROUND)
    own, power = loud[:, reach : reach + bins], power[:, reach : reach + bins]
    lone = power > np.float32(np.exp(_STANDS_OUT) / len(_AROUND)) * around
    rise = np.zeros(lone.shape, np.float32)
    rise[2:] = np.maximum(own[2:] - own[:-2], 0)
    return (rise * lone).astype(np.float64), hz[low:high]


def _repeating(begins: NDArray[np.float64]) -> list[tuple[int, float]]:
    """Bins and distances (s) at which they repeat, the best first."""
    low, high = (int(s * LISTEN_RATE / _HOP) for s in (_NEAREST_S, _FURTHEST_S))
    size = 1 << (len(begins) + high).bit_length()  # room for the lags that are looked at
    rows = np.zeros((begins.shape[1], size), np.float32)
    rows[:, : len(begins)] = np.sqrt(begins.T)
    spectrum = rfft(rows)
    alike = irfft((np.abs(spectrum) ** 2).astype(spectrum.dtype), size)[:, : high + 1].T
    # A beginning lies in one frame or the next, so that three lags hold one distance.
    near = alike[low - 1 : high - 1] + alike[low:high] + alike[low + 1 : high + 1]
    own = np.maximum(alike[0] + 2 * alike[1], 1e-12)
    share = near / own
    out = []
    most = share.max(axis=0)
    strong = np.where(most >= _LEAST_REPEATING, begins.sum(axis=0), 0.0)  # accents of another pitch cost repetition
    for b in dict.fromkeys([*np.argsort(-most)[:4].tolist(), *np.argsort(-strong)[:4].tolist()]):
        best = float(share[:, b].max())
        if best >= _LEAST_REPEATING and alike[0, b] > 1e-9:
            first = int(np.flatnonzero(share[:, b] >= 0.85 * best)[0])  # the shortest distance that does
            top = first + int(np.argmax(share[first : first + 3, b]))
            out.append((int(b), (low + top) * _HOP / LISTEN_RATE))
    return out


@dataclass(frozen=True, eq=False)
class _Line:
    """First click and distance in s, the moments at which it was heard, and its runs where it pauses."""

    at: float
    pace: float
    heard_s: NDArray[np.float64]
    runs_s: tuple[tuple[float, float], ...] = ()


def _line(sound: Floats, begins: NDArray[np.float64], hz: float, lag_s: float) -> _Line | None:
    """The straight line that the beginnings of a tone keep to; None where they keep to none."""
    times, weights = _exact_s(sound, begins, hz)
    if len(times) < _COUNTED_IN:
        return None
    best: NDArray[np.int64] | None = None
    for anchor in times[np.argsort(-weights)[:8]]:
        pace = _pace(times, anchor, lag_s)
        number = np.round((times - anchor) / pace)
        on = np.abs(times - anchor - number * pace) < 0.004
        if best is None or on.sum() > len(best):
            best, kept = np.flatnonzero(on), number
    assert best is not None
    number = kept[best]
    if len(np.unique(number)) < _COUNTED_IN:
        return None
    pace, at = np.polyfit(number, times[best], 1)
    off = float(np.median(np.abs(times[best] - at - number * pace)))
    share = weights[best].sum() / weights.sum()
    if off > _MOST_OFF_S or share < _LEAST_SHARE:
        return None
    first = at + pace * np.ceil(-at / pace - 1e-3)
    line = _Line(float(max(first, 0.0)), float(pace), at + pace * np.unique(number))
    covered = len(np.unique(number)) / (np.ptp(number) + 1)
    span = np.ptp(times[best]) / min(len(sound) / LISTEN_RATE, _LOOKED_AT_S)
    runs = _runs(np.unique(number).astype(np.int64))
    pauses = runs is not None and len(runs) >= _LEAST_RUNS and covered <= 1 - _LEAST_PAUSES
    if not pauses and len(np.unique(number)) >= _LEAST_CLICKS and covered >= _LEAST_SHARE and span >= _LEAST_SPAN:
        return replace(line, heard_s=_moments((line.at, line.pace), len(sound)))
    if runs is None or not (len(runs) >= _LEAST_RUNS or _alone(sound, line.heard_s)):
        return None
    return replace(line, runs_s=tuple((float(at + pace * a), float(at + pace * b)) for a, b in runs))


def _runs(numbers: NDArray[np.int64]) -> list[tuple[int, int]] | None:
    """First and last number of each run of clicks; None where they do not come in runs that are alike in length."""
    rows: list[list[int]] = []
    for n in numbers.tolist():
        if rows and n - rows[-1][-1] <= 2:  # one that a stroke hides is no end
            rows[-1].append(n)
        else:
            rows.append([n])
    kept = [r for r in rows if len(r) >= _LEAST_RUN]
    if sum(map(len, kept)) < max(_IN_RUNS * len(numbers), _COUNTED_IN):
        return None
    inner = [r[-1] - r[0] + 1 for r in kept[:-1]]  # the last may be cut by the end of the recording
    if inner and max(inner) - min(inner) > max(1, max(inner) // 4):
        return None
    return [(r[0], r[-1]) for r in kept]


def _alone(sound: Floats, heard_s: NDArray[np.float64]) -> bool:
    """Whether nothing else sounds before the last of some clicks: they count in."""
    end = int((heard_s[-1] - _BEFORE_S) * LISTEN_RATE)
    power = np.square(sound[:end])
    own = np.zeros(end, bool)
    for start in _starts(heard_s):
        own[max(start, 0) : max(start, 0) + int((_SHAPE_S + _BEFORE_S) * LISTEN_RATE)] = True
    return float(power[~own].sum()) < 0.05 * float(power[own].sum())


def _densest(sound: Floats, line: _Line) -> tuple[float, float]:
    """The line with the clicks between its own, where accents of another pitch hid that there are more."""
    at, pace = line.at, line.pace
    if line.runs_s:
        return at, pace
    shape = _alike(sound, line.heard_s)
    for parts in (2, 3):
        denser = (at % (pace / parts), pace / parts)
        every = _moments(denser, len(sound))
        between = every[np.abs((every - at) / pace - np.round((every - at) / pace)) > 0.1]
        if len(between) and denser[1] >= _NEAREST_S and _there(sound, shape, between).mean() > _LEAST_BETWEEN:
            return denser
    return at, pace


def _there(sound: Floats, shape: Floats, moments: NDArray[np.float64]) -> NDArray[np.bool_]:
    """At which moments a shape sounds about as loud as it usually does."""
    norm = max(float(shape @ shape), 1e-12)
    shares = []
    for start in _starts(moments):
        part = sound[max(start, 0) : max(start + len(shape), 0)]
        own = shape[max(-start, 0) :][: len(part)]
        shares.append(float(part[: len(own)] @ own) / norm)
    return np.abs(np.array(shares) - 1) < _ABOUT_AS_LOUD


def _pace(times: NDArray[np.float64], anchor: float, lag_s: float) -> float:
    """The distance between clicks, followed outwards from one of them, since the lag is only as fine as a frame."""
    pace, reach = lag_s, 3.0
    for _ in range(8):
        number = np.round((times - anchor) / pace)
        near = (np.abs(times - anchor - number * pace) < 0.006 + 0.003 * np.abs(number) / reach) & (number != 0)
        near &= np.abs(number) <= reach
        if near.any():
            pace = float(np.median((times[near] - anchor) / number[near]))
        reach *= 2
    return pace


def _exact_s(sound: Floats, begins: NDArray[np.float64], hz: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The moments at which a tone begins, and how strongly: where its envelope has risen by half."""
    inner = begins[1:-1]
    peaks = np.flatnonzero((inner >= begins[:-2]) & (inner > begins[2:]) & (inner > 0)) + 1
    if len(peaks) < _COUNTED_IN:
        return np.zeros(0), np.zeros(0)
    strong = np.sort(begins[peaks])[-max(len(peaks) // 3, _COUNTED_IN) :]
    peaks = peaks[begins[peaks] > 0.35 * np.median(strong)]
    return _rises_s(sound, peaks * _HOP, hz), begins[peaks]


def _rises_s(sound: Floats, near: NDArray[np.int64], hz: float) -> NDArray[np.float64]:
    """When a tone near each of some samples has risen by half, in s; shape (n,)."""
    reach = _REACH + _SMOOTH
    padded = np.pad(sound, reach)
    parts = padded[near[:, None] + np.arange(2 * reach)]
    turned = parts * np.exp(-2j * np.pi * hz * np.arange(2 * reach) / LISTEN_RATE).astype(np.complex64)
    envelope = np.abs(_smoothed(_smoothed(turned)))
    first = near - reach + _SMOOTH - 1  # the sample of the envelope's first value
    sample = first[:, None] + np.arange(envelope.shape[1])
    outside = (sample < 0) | (sample >= len(sound))
    top = np.where(outside, -1.0, envelope).argmax(axis=1)
    ahead = np.arange(envelope.shape[1]) <= top[:, None]
    floor = np.where(ahead & ~outside, envelope, np.inf).min(axis=1)
    half = floor + 0.5 * (envelope[np.arange(len(near)), top] - floor)
    below = ahead & ~outside & (envelope < half[:, None])
    last = below.shape[1] - 1 - below[:, ::-1].argmax(axis=1)
    return np.asarray((first + np.where(below.any(axis=1), last, top)) / LISTEN_RATE)


def _smoothed(rows: NDArray[np.complex64]) -> NDArray[np.complex64]:
    """The running mean of _SMOOTH values of each row, only where there are so many; twice it is a triangle."""
    total = np.cumsum(np.pad(rows, ((0, 0), (1, 0))), axis=1, dtype=np.complex128)
    return ((total[:, _SMOOTH:] - total[:, :-_SMOOTH]) / _SMOOTH).astype(np.complex64)


def _moments(line: tuple[float, float], samples: int) -> NDArray[np.float64]:
    at, pace = line
    out: NDArray[np.float64] = at + pace * np.arange(int((samples / LISTEN_RATE - at) / pace) + 1, dtype=np.float64)
    return out


def _starts(moments: NDArray[np.float64]) -> NDArray[np.int64]:
    return np.rint((moments - _BEFORE_S) * LISTEN_RATE).astype(np.int64)


def _cut_out(sound: Floats, moments: NDArray[np.float64], ahead: int = 0) -> Floats:
    """The sound at each click and so many samples ahead of it, shape (clicks, samples), but for those over an end."""
    size = int((_SHAPE_S + _BEFORE_S) * LISTEN_RATE)
    starts = _starts(moments)
    starts = starts[(starts >= ahead) & (starts + size <= len(sound))]
    return sound[starts[:, None] + np.arange(-ahead, size)] if len(starts) else np.zeros((0, ahead + size), np.float32)


def _alike(sound: Floats, moments: NDArray[np.float64]) -> Floats:
    """What is alike at all of some clicks: their median, above the drums' low end, faded out; shape (samples,)."""
    parts = _cut_out(sound, moments)
    if not len(parts):
        return np.zeros(int((_SHAPE_S + _BEFORE_S) * LISTEN_RATE), np.float32)
    # Forwards and backwards, so that nothing is shifted in time.
    high = np.abs(response((2, 0.7 * _LOW_HZ, 0.0), _TRANSFORM)) ** 2
    shape = np.median(np.fft.irfft(np.fft.rfft(parts, _TRANSFORM, axis=1) * high, axis=1), axis=0)[: parts.shape[1]]
    shape[: int(0.5 * _BEFORE_S * LISTEN_RATE)] = 0
    fade = int(0.01 * LISTEN_RATE)
    shape[-fade:] *= np.linspace(1, 0, fade)
    return shape.astype(np.float32)


def _bare(sound: Floats, moments: NDArray[np.float64]) -> Floats | None:
    """The click by itself, shape (samples,), where it sounds alone somewhere, as when it is counted in or runs on.

    It sounds alone where there is next to nothing before it and at its end. A dry stroke may hide in it: of those the
    least loud ones count.
    """
    edge = int(_EDGE_S * LISTEN_RATE)
    parts = _cut_out(sound, moments, edge)
    power = np.square(parts)
    around = np.maximum(power[:, :edge].mean(axis=1), power[:, -edge:].mean(axis=1))
    own = power[:, edge:].mean(axis=1)
    alone = around < _HARDLY * own
    if not alone.any():
        return None
    alone &= own < _AS_LOUD * own[alone].min()
    bare: Floats = np.median(parts[alone, edge:], axis=0).astype(np.float32)
    return bare if _pure(bare) else None


def _pure(shape: Floats) -> bool:
    """Whether a shape is little but one tone."""
    power = np.abs(np.fft.rfft(shape, _TRANSFORM)) ** 2
    hz = np.fft.rfftfreq(_TRANSFORM, 1 / LISTEN_RATE)
    power = power[(hz > _LOW_HZ) & (hz < 12000)]
    hz = hz[(hz > _LOW_HZ) & (hz < 12000)]
    total = float(power.sum())
    if total < 1e-9:
        return False
    near = np.abs(hz - hz[int(np.argmax(power))]) < _PURE_HZ
    return float(power[near].sum()) > _LEAST_PURE * total


def _kinds(sound: Floats, moments: NDArray[np.float64]) -> list[NDArray[np.float64]]:
    """Clicks that sound alike: usual ones, and accents at another pitch where the usual shape is hardly there."""
    usual = _there(sound, _alike(sound, moments), moments)
    rest = moments[~usual]
    return [moments[usual], rest] if len(rest) >= 3 and _pure(_alike(sound, rest)) else [moments[usual]]


def _take_out(sound: Floats, shape: Floats, start: int) -> None:
    """Subtract a shape where it lies within a millisecond of its place, as loud as it is there (in place).

    At an end of the sound so much of the shape counts as lies inside.
    """
    least = _LEAST_INSIDE * float(shape @ shape)
    best, part, own = 0.0, sound[:0], shape[:0]
    for low in range(start - 24, start + 25):
        inside = shape[max(-low, 0) : max(len(sound) - low, 0)]
        norm = float(inside @ inside)
        if norm <= least:
            continue
        there = sound[max(low, 0) : max(low, 0) + len(inside)]
        share = float(there @ inside) / norm
        if share > best:
            best, part, own = share, there, inside
    if best > 0.2:
        part -= min(best, 1.3) * own
