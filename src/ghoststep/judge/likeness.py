"""How like a player a part sounds: each measure beside the range players show, and what it would be taken for.

The ranges are published or working assumptions: spread of time against a click 3 to 15 ms; fluctuations are correlated
over many strokes, with a spectrum 1/f^b, b between 0.2 and 1.3 (Hennig et al. 2011; Räsänen et al. 2015); limbs that
strike together share one clock; the second stroke of a double is softer, the beat of an even hat is stronger. A measure
counts by how many strokes it rests on.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.judge.played import Played, Sounded
from ghoststep.music.kit import VOICE_NAMES

Floats = NDArray[np.float64]
_LEAST = 8  # strokes of one kind, from which anything is said of them
_STRAIGHT_MS, _STILL = 0.3, 0.3  # spreads (ms, velocity) below which a machine plays


@dataclass(frozen=True)
class Reason:
    """One measure: what it is, its value in its unit, the range of players, and how well it lies in it (0 to 1)."""

    measure: str
    value: float
    unit: str
    low: float
    high: float
    score: float
    weight: float

    @property
    def words(self) -> str:
        value = f"{self.value:.0f} %" if self.unit == "%" else f"{self.value:.2g} {self.unit}".strip()
        return f"{self.measure} {value} (players {self.low:g} to {self.high:g})"


@dataclass(frozen=True)
class Likeness:
    """score: 0 (a machine) to 1 (a player); taken_for: "straight", "copied", "dice" or "player"; reasons."""

    score: float
    taken_for: str
    reasons: tuple[Reason, ...]


@dataclass(frozen=True, eq=False)
class Deviations:
    """What strokes do beyond what their spot, voice and role do on average; arrays of shape (n,).

    group: voice, role and place in the bar of each, as numbers; bar: from 0.
    """

    sounded: Sounded
    time_ms: Floats
    velocity: Floats
    voice_ms: Floats  # beyond the mean of the voice alone: copied bars keep this
    voice_velocity: Floats  # beyond the mean of voice and role
    bars: NDArray[np.int64]
    places: NDArray[np.int64]


def deviations(played: Played) -> Deviations:
    """Times and velocities of a groove, less the mean of their kind."""
    sounded = played.sounded
    frame = played.groove.pattern.frame
    ticks = sounded.ticks
    bars = frame.bars_of(ticks) if len(ticks) else ticks
    places = ticks - frame.start_of(bars) if len(ticks) else ticks
    voices = np.array([VOICE_NAMES.index(v) for v in sounded.voices], np.int64)
    roles = np.unique(sounded.roles, return_inverse=True)[1] if len(ticks) else ticks
    kinds = np.unique(np.stack([voices, roles, places], 1), axis=0, return_inverse=True)[1] if len(ticks) else ticks
    time = _less_mean(sounded.late_ms, kinds)
    velocity = _less_mean(sounded.velocity, kinds)
    by_voice = _less_mean(sounded.late_ms, voices)
    by_role = _less_mean(sounded.velocity, voices * 4 + roles)
    return Deviations(sounded, time, velocity, by_voice, by_role, np.asarray(bars), np.asarray(places))


def _less_mean(values: Floats, kinds: NDArray[np.int64]) -> Floats:
    """Values less the mean of their kind, made larger again by what the mean took of the spread."""
    if not len(values):
        return values
    kinds = kinds.ravel()
    count = np.bincount(kinds).astype(float)
    mean = np.bincount(kinds, values) / np.maximum(count, 1)
    with np.errstate(divide="ignore"):
        scale = np.where(count > 1, np.sqrt(count / np.maximum(count - 1, 1)), 0.0)
    return (values - mean[kinds]) * scale[kinds]


def likeness(played: Played) -> Likeness:
    """How like a player a groove sounds as it is performed now."""
    found = deviations(played)
    reasons = [r for r in _reasons(found) if r is not None]
    total = sum(r.weight for r in reasons)
    score = sum(r.score * r.weight for r in reasons) / total if total else 0.0
    return Likeness(round(score, 3), taken_for(found), tuple(reasons))


def _reasons(d: Deviations) -> list[Reason | None]:
    number = len(d.sounded.hits)
    if number < _LEAST:
        return []
    weight = min(number / 64, 1.0)
    memory, pairs = memory_of(d)
    shared, together = shared_of(d)
    return [
        _reason("spread of time", spread(d.time_ms), "ms", 2, 15, weight),
        _reason("spread of velocity", spread(d.velocity), "", 2, 12, weight),
        _reason("equal neighbours", 100 * equal_neighbours(d.sounded), "%", 0, 30, weight),
        _reason("bars copied", 100 * copied_bars(d), "%", 0, 10, weight),
        _reason("memory from stroke to stroke", memory, "", 0.1, 0.9, min(pairs / 64, 1.0)) if pairs >= 16 else None,
        _reason("limbs together", shared, "", 0.15, 1, min(together / 32, 1.0)) if together >= 12 else None,
        _softer_seconds(d),
    ]


def _reason(measure: str, value: float, unit: str, low: float, high: float, weight: float) -> Reason:
    """How far a value lies outside its range, in shares of the range."""
    away = max(low - value, value - high, 0.0)
    below = value < low
    score = max(0.0, 1 - away / (max(low, 0.05 * high) if below else high - low))
    return Reason(measure, float(value), unit, low, high, round(float(score), 3), weight)


def spread(values: Floats) -> float:
    """Standard deviation, as if half a dozen strays did not count (median of absolute deviations would see steps)."""
    values = values[values != 0] if (values != 0).any() else values
    return float(np.sqrt((np.clip(values, *np.quantile(values, [0.02, 0.98])) ** 2).mean())) if len(values) else 0.0


def equal_neighbours(sounded: Sounded) -> float:
    """The share of strokes whose velocity is exactly that of the voice's stroke before."""
    equal = pairs = 0
    for name in dict.fromkeys(sounded.voices.tolist()):
        velocity = sounded.velocity[sounded.of(name)]
        equal += int((np.diff(velocity) == 0).sum())
        pairs += max(len(velocity) - 1, 0)
    return equal / pairs if pairs else 0.0


def copied_bars(d: Deviations) -> float:
    """The share of bars that are an earlier bar again, to a tenth of a millisecond and the very velocity."""
    seen: set[tuple[tuple[float, ...], ...]] = set()
    bars = copied = 0
    rows: dict[int, list[tuple[float, ...]]] = {}
    s = d.sounded
    for bar, place, name, late, velocity in zip(
        d.bars.tolist(), d.places.tolist(), s.voices.tolist(), s.late_ms.tolist(), s.velocity.tolist(), strict=True
    ):
        rows.setdefault(bar, []).append((place, VOICE_NAMES.index(name), round(late, 1), velocity))
    for row in rows.values():
        key = tuple(sorted(row))
        if len(key) > 1:
            bars += 1
            copied += key in seen
            seen.add(key)
    return copied / bars if bars else 0.0


def memory_of(d: Deviations) -> tuple[float, int]:
    """How a stroke's deviation follows that of the moment before: lag-1 correlation of the means of moments, and how
    many pairs it rests on. White dice give 0, a player's 1/f gives about 0.2 to 0.8."""
    means = _moment_means(d.sounded.ticks, d.time_ms)
    return _lag(means), max(len(means) - 1, 0)


def velocity_memory(d: Deviations) -> float:
    """The same of velocity, over the strokes of the voice that has most."""
    names, counts = np.unique(d.sounded.voices, return_counts=True)
    mine = d.sounded.of(str(names[counts.argmax()]))
    return _lag(d.velocity[mine])


def _moment_means(ticks: NDArray[np.int64], values: Floats) -> Floats:
    at, which = np.unique(ticks, return_inverse=True)
    return np.asarray(np.bincount(which, values) / np.bincount(which)) if len(at) else np.zeros(0)


def _lag(values: Floats) -> float:
    if len(values) < 4 or not values.std():
        return 0.0
    a, b = values[:-1] - values.mean(), values[1:] - values.mean()
    return float((a * b).mean() / values.var())


def shared_of(d: Deviations) -> tuple[float, int]:
    """How strokes that are meant together stray together: their correlation, and how many pairs there are."""
    order = np.lexsort((d.sounded.voices, d.sounded.ticks))
    ticks, time = d.sounded.ticks[order], d.time_ms[order]
    pair = np.flatnonzero(np.diff(ticks) == 0)
    a, b = time[pair], time[pair + 1]
    if len(pair) < 4 or not a.std() or not b.std():
        return 0.0, len(pair)
    return float((a * b).mean() / np.sqrt((a * a).mean() * (b * b).mean())), len(pair)


def doubles(played_sounded: Sounded) -> Sequence[tuple[int, int]]:
    """Places of two strokes of one voice that are the closest it has, without a third near: (first, second)."""
    out: list[tuple[int, int]] = []
    for name in dict.fromkeys(played_sounded.voices.tolist()):
        mine = played_sounded.of(name)
        ticks = played_sounded.ticks[mine]
        gaps = np.diff(ticks)
        if len(gaps) < 3:
            continue
        least = gaps[gaps > 0].min() if (gaps > 0).any() else 0
        for k in np.flatnonzero(gaps == least):
            before = gaps[k - 1] if k else least * 9
            after = gaps[k + 1] if k + 1 < len(gaps) else least * 9
            first, second = played_sounded.hits[mine[k]], played_sounded.hits[mine[k + 1]]
            if before > 1.9 * least and after > 1.9 * least and first.role is second.role:
                out.append((int(mine[k]), int(mine[k + 1])))
    return out


def _softer_seconds(d: Deviations) -> Reason | None:
    pairs = doubles(d.sounded)
    if len(pairs) < 4:
        return None
    softer = float(np.mean([d.sounded.velocity[b] < d.sounded.velocity[a] for a, b in pairs]))
    return _reason("second strokes softer", 100 * softer, "%", 55, 100, min(len(pairs) / 16, 1.0) * 0.5)


def taken_for(d: Deviations) -> str:
    """What a listener who measures would call it: "straight", "copied", "dice" or "player".

    Straight has no spread of time or velocity within a kind; copied repeats bars to the last bit; dice stray, each
    stroke on its own; a player's strays go together over limbs and over time.
    """
    if len(d.sounded.hits) < _LEAST:
        return "straight"
    if spread(d.voice_ms) < _STRAIGHT_MS and spread(d.voice_velocity) < _STILL:
        return "straight"
    if copied_bars(d) > 0.5:
        return "copied"
    if spread(d.time_ms) < _STRAIGHT_MS and spread(d.velocity) < _STILL:
        return "straight"
    memory, pairs = memory_of(d)
    shared, together = shared_of(d)
    rows = [(memory, pairs), (shared, together), (velocity_memory(d), pairs / 2)]
    # Each correlation over its standard error under dice (1 / sqrt(n)); added up as independent evidence.
    z = sum(r * np.sqrt(max(n, 0)) for r, n in rows) / np.sqrt(len(rows))
    return "player" if z > 2.0 else "dice"
