"""Performance -> Pattern + Feel + what is left over: the inverse of `feel.perform`.

Steps: (1) pulses (`pulse`) and readings of bars on them (`bars`) are judged together and the best is taken; (2) each
hit is snapped to its spot (`snap`); (3) time line, swing and the lean of each voice are fitted together by robust least
squares, and (2) and (3) repeated; (4) what the fit does not explain stays with each hit as its own deviation, so that
`perform(explained.groove)` plus `start_s` gives back the performance.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.perform import feel_times_s
from ghoststep.listen.bars import METERS, Reading, class_of, readings
from ghoststep.listen.pulse import Pulse, find_pulses
from ghoststep.listen.snap import grace_notes, snapped
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.kit import STROKE_NAMES, VOICES
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit, Origin, Pattern
from ghoststep.music.performance import Performance
from ghoststep.music.time import TICKS_PER_QUARTER, TempoMap, step_ticks
from ghoststep.music.touch import Role, role_of

_SWING_FLOOR = 0.512  # below this a ratio is not told from straight
_HUBER_S = 0.012
_STEADY = 0.016  # a tempo that moves less than this over the passage is given as one figure


@dataclass(frozen=True)
class Hints:
    """What the user already knows; each narrows the search."""

    tempo_bpm: float | None = None
    meter: Meter | None = None
    bars: int | None = None


@dataclass(frozen=True)
class TempoReading:
    """A way to hear the tempo, with its share of belief (all shares sum to at most 1)."""

    tempo_bpm: float
    meter: Meter
    share: float


@dataclass(frozen=True)
class Explained:
    """A groove, where its bar 1 lies in the performance, and how sure we are.

    `source[i]` is the index in the performance of the pattern's hit i; `rest_ms[i]` the hit's own deviation.
    """

    groove: Groove
    start_s: float
    source: tuple[int, ...]
    swing_error: float
    loose_ms: dict[str, float]
    readings: tuple[TempoReading, ...]

    @property
    def swing(self) -> Swing:
        return self.groove.feel.swing

    def straight_offsets_ms(self) -> NDArray[np.float64]:
        """Deviation of each hit of the pattern from the straight grid, swing and lean included; shape (n,)."""
        groove = self.groove
        own = np.array([h.offset_ms for h in groove.pattern.hits])
        ticks = np.array([h.position_ticks for h in groove.pattern.hits])
        out: NDArray[np.float64] = (feel_times_s(groove) - groove.tempo.seconds(ticks)) * 1000 + own
        return out


def explain(
    performance: Performance, hints: Hints | None = None, *, confidence: NDArray[np.float64] | None = None
) -> Explained:
    """Find pattern and feel behind a performance.

    Raises
    ------
    InputError
        Where there is no hit at all, or a hint fits no reading.
    """
    hints = hints or Hints()
    if not len(performance):
        raise InputError("There is no hit to make a pattern of.")
    onset_s = performance.onset_s
    groups = [VOICES[v].group for v in performance.voice]
    graces = grace_notes(onset_s, groups, performance.velocity)
    main = np.array([i for i in np.argsort(onset_s, kind="stable") if i not in graces])
    ranked: tuple[TempoReading, ...] = ()
    if len(main) < 2 or np.ptp(onset_s[main]) < 0.2:
        frame = _lonely_frame(float(onset_s[main[0]]), hints)
    else:
        frame, ranked = _best_frame(performance, main, hints)
    fitted = _fitted(performance, main, frame)
    return _assembled(performance, graces, fitted, ranked, hints, confidence)


@dataclass(frozen=True)
class _Frame:
    """A time line in quarters from a bar line, with swing and the kind of lattice."""

    curve: tuple[float, float, float]  # seconds of quarter q: c0 + c1 q + c2 q²
    meter: Meter
    swing: Swing
    kind: str
    lean_s: dict[str, float]
    swing_error: float = 0.0

    def quarters(self, seconds: NDArray[np.float64]) -> NDArray[np.float64]:
        c0, c1, c2 = self.curve
        q = (seconds - c0) / c1
        for _ in range(4):
            q = q - (c0 + c1 * q + c2 * q * q - seconds) / (c1 + 2 * c2 * q)
        return np.asarray(q)


def _lonely_frame(first_s: float, hints: Hints) -> _Frame:
    """A frame for next to nothing: the hit is beat 1."""
    quarter_s = 60 / (hints.tempo_bpm or 120.0)
    return _Frame((first_s, quarter_s, 0.0), hints.meter or Meter(), Swing(), "straight", {})


def _best_frame(
    performance: Performance, main: NDArray[np.int64], hints: Hints
) -> tuple[_Frame, tuple[TempoReading, ...]]:
    times = performance.onset_s[main]
    velocity = performance.velocity[main]
    weights = 0.4 + 0.6 * np.minimum(velocity / 80, 1.0)
    classes = np.array([class_of(VOICES[performance.voice[i]].name, int(performance.velocity[i])) for i in main])
    steps: tuple[float, ...] = ()
    if hints.tempo_bpm:
        steps = tuple(60 / hints.tempo_bpm / per for per in (1, 2, 3, 4, 6, 8))
    meters = METERS if hints.meter is None else ((hints.meter, 0.0),)
    ranked: list[tuple[float, Pulse, Reading]] = []
    for pulse in find_pulses(times, weights, near_step_s=steps):
        swung = pulse.odd_s > 0.06 * pulse.step_s
        found = readings(
            pulse.numbers, classes, step_s=_mean_step_s(pulse), swung=swung, meters=meters, tempo_bpm=hints.tempo_bpm
        )
        ranked += [(r.score + pulse.time_nats, pulse, r) for r in found[:12]]
    if not ranked:
        raise InputError(
            "No tempo between 38 and 330 BPM explains these hits"
            + (f" with the given tempo of {hints.tempo_bpm:g} BPM." if hints.tempo_bpm else ".")
        )
    ranked.sort(key=lambda x: -x[0])
    _, pulse, reading = ranked[0]
    return _framed(pulse, reading), _shares(ranked)


def _mean_step_s(pulse: Pulse) -> float:
    middle = float(pulse.numbers.mean())
    return pulse.curve[1] + 2 * pulse.curve[2] * middle


def _shares(ranked: list[tuple[float, Pulse, Reading]]) -> tuple[TempoReading, ...]:
    """The distinct tempo and meter readings with their share of belief (softened: the code is too sure)."""
    best: dict[tuple[int, Meter], tuple[float, float]] = {}
    for score, pulse, reading in ranked:
        bpm = 60 / (_mean_step_s(pulse) * reading.steps_per_quarter)
        best.setdefault((round(np.log2(bpm) * 12), reading.meter), (score, bpm))
    top = sorted(best.items(), key=lambda item: -item[1][0])[:6]
    belief = np.exp(0.15 * (np.array([score for _, (score, _) in top]) - top[0][1][0]))
    belief /= belief.sum()
    return tuple(TempoReading(bpm, meter, float(b)) for ((_, meter), (_, bpm)), b in zip(top, belief, strict=True))


def _framed(pulse: Pulse, reading: Reading) -> _Frame:
    """The time line of a reading in quarters, with the swing the pulse suggests."""
    per, first = reading.steps_per_quarter, reading.first
    c0, c1, c2 = pulse.curve
    curve = (c0 + c1 * first + c2 * first**2, (c1 + 2 * c2 * first) * per, c2 * per**2)
    swing, kind = Swing(), "straight"
    if per % 3 == 0:
        kind = "triplet"
        places = (pulse.numbers - first) % per
        used = np.bincount(places, minlength=per)
        if per == 3 and used[1] <= 0.12 * used[2]:
            swing, kind = Swing(8, 2 / 3), "swung"
        if per == 6 and used[1] + used[4] <= 0.12 * (used[2] + used[5]):
            swing, kind = Swing(16, 2 / 3), "swung"
    elif pulse.odd_s > 0.02 * pulse.step_s and per in (2, 4) and first % 2 == 0:
        ratio = min(0.5 + pulse.odd_s / (2 * pulse.step_s), 0.78)
        swing, kind = Swing(8 if per == 2 else 16, ratio), "swung"
    return _Frame(curve, reading.meter, swing, kind, {})


def _fitted(performance: Performance, main: NDArray[np.int64], frame: _Frame) -> _Frame:
    """Alternate snapping and least squares until the spots stand still."""
    if len(main) < 3 or np.ptp(performance.onset_s[main]) < 0.2:
        return frame  # too little to fit a line to
    spots = None
    for _ in range(6):
        new = _spots(performance, main, frame)
        if spots is not None and np.array_equal(new, spots):
            break
        spots = new
        frame = _least_squares(performance, main, spots, frame)
    return frame


def _lean_groups(performance: Performance, indices: NDArray[np.int64]) -> list[str]:
    """The group a hit's lean belongs to; the ride is its own, crashes and splashes have none."""
    out = []
    for i in indices:
        voice = VOICES[performance.voice[i]]
        out.append("ride" if voice.name.startswith("ride") else voice.group)
    return out


def _spots(performance: Performance, main: NDArray[np.int64], frame: _Frame) -> NDArray[np.int64]:
    lean = np.array([frame.lean_s.get(g, 0.0) for g in _lean_groups(performance, main)])
    ticks = frame.quarters(performance.onset_s[main] - lean) * TICKS_PER_QUARTER
    return snapped(ticks, frame.swing, frame.kind, quarter_s=frame.curve[1])


def _least_squares(
    performance: Performance, main: NDArray[np.int64], spots: NDArray[np.int64], frame: _Frame
) -> _Frame:
    """Time line, swing and leans from hits with known spots."""
    times = performance.onset_s[main]
    q = spots / TICKS_PER_QUARTER
    middle = float(q.mean())
    span = max(float(np.ptp(q)), 1.0)
    groups = _lean_groups(performance, main)
    leaning = sorted({g for g in groups if groups.count(g) >= 3 and g in ("kick", "snare", "hat", "ride", "toms")})
    unit_quarters = 4 / frame.swing.unit
    bent = (Swing(frame.swing.unit, 0.75).bend(spots) - spots) / TICKS_PER_QUARTER / (0.5 * unit_quarters)
    off = bent if frame.kind == "swung" else np.zeros(len(q))
    columns = [np.ones(len(q)), q - middle, (q - middle) ** 2, off]
    columns += [np.array([g == name for g in groups], float) for name in leaning]
    design = np.stack(columns, axis=1)
    # Priors: leans near 0 (15 ms), a tempo that bends by some 3 % over the passage at most.
    scale = 0.010
    weak = [0.0, 0.0, scale * (span / 2) / (0.010 * frame.curve[1]), 1e-3] + [scale / 0.015] * len(leaning)
    if len(q) < 12:
        weak[2] = 1e3
    solution, rest, system = _robust(design, times, weak)
    error = float(np.sqrt(np.linalg.pinv(system.T @ system)[2, 2] * np.mean(rest**2)))
    if abs(solution[2]) < 4 * error:  # a bend of the tempo that the hits do not prove
        weak[2] = 1e6
        solution, rest, system = _robust(design, times, weak)
    return _solved(frame, solution, system, rest, middle, leaning, unit_quarters, groups)


Solved = tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]


def _robust(design: NDArray[np.float64], times: NDArray[np.float64], weak: list[float]) -> Solved:
    """Solution, remainders and last weighted system of least squares in which outliers count less and less."""
    weight = np.ones(len(times))
    for _ in range(6):
        system = np.concatenate([design * weight[:, None], np.diag(weak)])
        solution = np.linalg.lstsq(system, np.concatenate([times * weight, np.zeros(len(weak))]), rcond=None)[0]
        rest = times - design @ solution
        weight = np.sqrt(1 / (1 + (rest / _HUBER_S) ** 2))
    return solution, rest, system


def _solved(
    frame: _Frame, solution: NDArray[np.float64], system: NDArray[np.float64], rest: NDArray[np.float64],
    middle: float, leaning: list[str], unit_quarters: float, groups: list[str],
) -> _Frame:  # fmt: skip
    a, b, c, shift_s = (float(x) for x in solution[:4])
    covariance = np.linalg.pinv(system.T @ system) * float(np.mean(rest**2))
    swing, error, kind = frame.swing, 0.0, frame.kind
    if kind == "swung":
        ratio = 0.5 + shift_s / (unit_quarters * b) / 2
        error = float(np.sqrt(covariance[3, 3])) / (unit_quarters * b) / 2
        ratio = float(np.clip(ratio, 0.5, 0.8))
        swing = Swing(frame.swing.unit, ratio)
        if ratio < max(_SWING_FLOOR, 0.5 + 2.5 * error):
            swing, kind = Swing(frame.swing.unit, 0.5), "straight"
    lean = {name: float(s) for name, s in zip(leaning, solution[4:], strict=True)}
    # The player's own pulse is the middle of the voices, weighted by how often they play.
    counted = [lean[g] for g in groups if g in lean]
    pulse = _weighted_middle({g: (lean[g], groups.count(g)) for g in lean}) if counted else 0.0
    lean = {name: s - pulse for name, s in lean.items()}
    curve = (a - b * middle + c * middle**2 + pulse, b - 2 * c * middle, c)
    return replace(frame, curve=curve, swing=swing, kind=kind, lean_s=lean, swing_error=error)


def _weighted_middle(leans: dict[str, tuple[float, int]]) -> float:
    """The lean of the voice in the middle; with two voices, of the one that plays more."""
    ordered = sorted(leans.values())
    if len(ordered) == 2:
        return max(ordered, key=lambda pair: pair[1])[0]
    return (
        ordered[len(ordered) // 2][0]
        if len(ordered) % 2
        else (ordered[len(ordered) // 2 - 1][0] + ordered[len(ordered) // 2][0]) / 2
    )


def _assembled(
    performance: Performance, graces: dict[int, int], frame: _Frame, ranked: tuple[TempoReading, ...],
    hints: Hints, confidence: NDArray[np.float64] | None,
) -> Explained:  # fmt: skip
    """Build the groove; every hit's remainder is measured against what `perform` will do with the rest."""
    everyone = np.arange(len(performance))
    spots = _spots(performance, everyone, frame)
    for grace, main in graces.items():
        spots[grace] = spots[main]
    bar = frame.meter.bar_ticks
    first_bar = int(np.floor(spots.min() / bar))
    spots = spots - first_bar * bar
    bars = max(int(spots.max() // bar) + 1, hints.bars or 1)
    start_s, tempo = _time_line(frame, first_bar * bar / TICKS_PER_QUARTER, bars)
    lean_ms = _lean_by_voice(frame, performance)
    feel = Feel(frame.swing, lean_ms)
    bare = [_hit(performance, i, int(spots[i]), i in graces, confidence) for i in range(len(performance))]
    grid = _grid_of(bare)
    order = sorted(range(len(bare)), key=lambda i: (bare[i].sort_key[:2], performance.onset_s[i]))
    pattern = Pattern(tuple(bare[i] for i in order), frame.meter, bars, grid)
    groove = Groove(pattern, feel, tempo)
    rest_ms = (performance.onset_s[order] - start_s - feel_times_s(groove)) * 1000
    hits = tuple(replace(h, offset_ms=float(ms)) for h, ms in zip(pattern.hits, rest_ms, strict=True))
    loose = _looseness(hits)
    return Explained(groove.changed(hits=hits), start_s, tuple(order), frame.swing_error, loose, ranked)


def _grid_of(hits: list[Hit]) -> int:
    """The coarsest grid that nearly all hits stand on; ornaments between its steps do not make it finer."""
    spots = [h.position_ticks for h in hits if not h.grace]
    for grid in (8, 16, 12, 24):
        if sum(s % step_ticks(grid) == 0 for s in spots) >= 0.97 * len(spots):
            return grid
    return 32


def _time_line(frame: _Frame, first_q: float, bars: int) -> tuple[float, TempoMap]:
    """Start of bar 1 in seconds and the tempo: one figure where it holds, one for each bar where it moves."""
    c0, c1, c2 = frame.curve
    bar_q = frame.meter.bar_ticks / TICKS_PER_QUARTER
    lines = first_q + bar_q * np.arange(bars + 1)
    seconds = c0 + c1 * lines + c2 * lines**2
    by_bar = 60 * bar_q / np.diff(seconds)
    if np.ptp(by_bar) < _STEADY * by_bar.mean():
        return float(seconds[0]), TempoMap.constant(60 * bar_q * bars / float(seconds[-1] - seconds[0]))
    ticks = tuple(int(i * frame.meter.bar_ticks) for i in range(bars))
    return float(seconds[0]), TempoMap(ticks, tuple(float(b) for b in by_bar))


def _lean_by_voice(frame: _Frame, performance: Performance) -> dict[str, float]:
    lean: dict[str, float] = {}
    for voice in {VOICES[v] for v in performance.voice}:
        group = "ride" if voice.name.startswith("ride") else voice.group
        if group in frame.lean_s:
            lean[voice.name] = round(1000 * frame.lean_s[group], 3)
    return lean


def _hit(performance: Performance, i: int, spot: int, grace: bool, confidence: NDArray[np.float64] | None) -> Hit:
    velocity = int(performance.velocity[i])
    origin = None if confidence is None else Origin(float(performance.onset_s[i]), float(confidence[i]))
    role = Role.GHOST if grace else role_of(velocity)
    return Hit(
        spot, VOICES[performance.voice[i]].name, velocity, role,
        stroke=STROKE_NAMES[performance.stroke[i]], grace=grace, origin=origin,
    )  # fmt: skip


def _looseness(hits: tuple[Hit, ...]) -> dict[str, float]:
    """Spread of each voice around its own lean in ms (standard deviation by the median, so outliers count little)."""
    out = {}
    for name in {h.voice for h in hits}:
        own = np.array([h.offset_ms for h in hits if h.voice == name and not h.grace])
        if len(own) >= 3:
            out[name] = float(1.4826 * np.median(np.abs(own - np.median(own))))
    return out
