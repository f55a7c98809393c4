"""Spots, time line, swing and lean of a performance, once a reading of its bars is given.

Snapping and robust least squares in turn until the spots stand still; then the line is bent where the tempo drifts, and
both again.
"""

from collections import Counter
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.fit.line import Line, smoothed
from ghoststep.listen.fit.snap import snapped
from ghoststep.music.feel import Swing
from ghoststep.music.frame import Bars
from ghoststep.music.kit import VOICES
from ghoststep.music.meter import Meter
from ghoststep.music.performance import Performance
from ghoststep.music.time import TICKS_PER_QUARTER

Floats = NDArray[np.float64]
_SWING_FLOOR = 0.512  # below this a ratio is not told from straight
_TOLD_SWING = 0.52  # what the user calls swung has at least this ratio
_HUBER_S = 0.012
_TURNS = 6
_NEVER = 1e9  # the weight of a prior that nothing moves
_LOOP_SHARE = 0.02  # by how much the hits of a loop may miss its tempo
_LOOP_OFF_S = 0.06  # by so much from start to end the hits of a loop may always miss it
_FARTHER, _FARTHER_S = 2.0, 0.003  # by which they may lie farther from the line that makes it whole, else
LEANING = ("kick", "snare", "hat", "ride", "toms")


@dataclass(frozen=True, eq=False)
class Frame:
    """A time line in quarters from a bar line, with swing, the usual kind of lattice and the leans of the voices.

    `kinds` names the lattice of each beat that has hits; `fixed_swing` keeps the user's word on straight or swung, and
    `fixed_line` the line of a click, against which all leans are told then.
    """

    line: Line
    meter: Meter
    swing: Swing
    kind: str
    lean_s: dict[str, float] = field(default_factory=dict)
    swing_error: float = 0.0
    kinds: dict[int, str] = field(default_factory=dict)
    fixed_swing: bool = False
    fixed_line: bool = False


def lean_groups(performance: Performance, indices: NDArray[np.int64]) -> list[str]:
    """The group a hit's lean belongs to; the ride is its own, crashes and splashes have none."""
    out = []
    for i in indices:
        voice = VOICES[performance.voice[i]]
        out.append("ride" if voice.name.startswith("ride") else voice.group)
    return out


def fitted(performance: Performance, main: NDArray[np.int64], frame: Frame, meant_s: Floats) -> Frame:
    """The frame that explains the main hits best.

    Parameters
    ----------
    main
        Indices of the hits that carry the fit (no grace notes).
    meant_s
        The moment of the spot the user says a hit belongs to, nan for the others; shape (all hits,).
    """
    if len(main) < 3 or np.ptp(performance.onset_s[main]) < 0.2:
        return frame  # too little to fit a line to
    for bending in (False, True):
        spots = None
        for _ in range(_TURNS):
            new, frame = spots_of(performance, main, frame, meant_s)
            if spots is not None and np.array_equal(new, spots):
                break
            spots = new
            frame = _least_squares(performance, main, spots, frame)
        assert spots is not None
        if bending or frame.fixed_line:
            break
        line = _bent(performance, main, spots, frame)
        if line is frame.line:
            break
        frame = replace(frame, line=line)
    return frame


def to_length(performance: Performance, main: NDArray[np.int64], frame: Frame, meant_s: Floats) -> Frame:
    """The frame of a loop at the tempo by which the loop lasts whole beats, where it is nearly that already.

    The hits of one bar leave a tempo open by a per cent or two; the length of a file cut to be looped does not. Where
    the hits would lie clearly farther from that line, it is they who know: the file was cut anywhere.
    """
    line, length_s = frame.line, performance.length_s
    length_q = float(line.quarters(length_s) - line.quarters(0.0))
    beat_q = frame.meter.unit_ticks / TICKS_PER_QUARTER
    beats = round(length_q / beat_q)
    if not beats or abs(length_q / (beats * beat_q) - 1) > _LOOP_SHARE:
        return frame
    off_s = abs(length_q - beats * beat_q) * line.usual_pace_s
    # What bends stays bent; only the whole is stretched, about its middle.
    stretch = length_q / (beats * beat_q)
    whole = replace(frame, line=Line(line.anchor_q, length_s / 2 + stretch * (line.anchor_s - length_s / 2)))
    spots, _ = spots_of(performance, main, frame, meant_s)
    own_s, whole_s = (_away_s(performance, main, spots, f) for f in (frame, whole))
    # A file that ends with the ring of its last stroke may be whole beats long by chance, and hardly ever whole bars.
    whole_bars = not beats * frame.meter.unit_ticks % frame.meter.bar_ticks
    sure = whole_bars and off_s <= _LOOP_OFF_S
    return whole if sure or whole_s <= _FARTHER * own_s + _FARTHER_S else frame


def _away_s(performance: Performance, main: NDArray[np.int64], spots: NDArray[np.int64], frame: Frame) -> float:
    """How far hits usually lie from their spots on a frame's line, leans and swing taken off."""
    rest = _rest_s(performance, main, spots, frame)
    return float(np.median(np.abs(rest - np.median(rest))))


def _rest_s(performance: Performance, main: NDArray[np.int64], spots: NDArray[np.int64], frame: Frame) -> Floats:
    """What line, leans and swing do not explain of each hit, in s."""
    q = spots / TICKS_PER_QUARTER
    lean = np.array([frame.lean_s.get(g, 0.0) for g in lean_groups(performance, main)])
    late = (2 * frame.swing.ratio - 1) * 4 / frame.swing.unit * frame.line.pace_s(q) * _swing_shift(frame, spots)
    return np.asarray(performance.onset_s[main] - lean - late - frame.line.seconds(q))


def spots_of(
    performance: Performance, indices: NDArray[np.int64], frame: Frame, meant_s: Floats
) -> tuple[NDArray[np.int64], Frame]:
    """Score ticks of some hits, and the frame with the lattice each beat was found to have."""
    lean = np.array([frame.lean_s.get(g, 0.0) for g in lean_groups(performance, indices)])
    heard_s = performance.onset_s[indices] - lean
    told = ~np.isnan(meant_s[indices])
    quarters = frame.line.quarters(np.where(told, meant_s[indices], heard_s))
    found = snapped(
        quarters * TICKS_PER_QUARTER,
        frame.swing,
        frame.kind,
        quarter_s=np.abs(frame.line.pace_s(quarters)),
        bars=Bars(frame.meter),
    )
    return found.ticks, replace(frame, kinds=found.kinds)


def _swing_shift(frame: Frame, spots: NDArray[np.int64]) -> Floats:
    """How much of a full swing's shift each spot takes: 1 on off notes, 0 on the beat and in beats of triplets."""
    unit_quarters = 4 / frame.swing.unit
    bent = (
        (Swing(frame.swing.unit, 0.75).bend(spots, Bars(frame.meter)) - spots)
        / TICKS_PER_QUARTER
        / (0.5 * unit_quarters)
    )
    swung = np.array([frame.kinds.get(int(b), frame.kind) == "swung" for b in spots // TICKS_PER_QUARTER])
    return np.where(swung, bent, 0.0)


def _least_squares(performance: Performance, main: NDArray[np.int64], spots: NDArray[np.int64], frame: Frame) -> Frame:
    """Time line, swing and leans from hits with known spots, as corrections of the frame's own line."""
    q = spots / TICKS_PER_QUARTER
    middle, span = float(q.mean()), max(float(np.ptp(q)), 1.0)
    pace = frame.line.usual_pace_s
    groups = lean_groups(performance, main)
    counts = Counter(groups)
    leaning = sorted(g for g in counts if counts[g] >= 3 and g in LEANING)
    away = q - middle
    columns = [np.ones(len(q)), away, away**2, _swing_shift(frame, spots)]
    columns += [np.array([g == name for g in groups], float) for name in leaning]
    design = np.stack(columns, axis=1)
    # Priors: leans near 0 (15 ms), a tempo that bends by some 3 % over a short passage at most.
    scale = 0.010
    bend = scale * (span / 2) / (0.010 * pace) if len(q) >= 12 and span <= 64 else 1e6
    weak = [0.0, 0.0, bend, 1e-3] + [scale / 0.015] * len(leaning)
    if frame.fixed_line:  # nothing but leans and swing is free, and the leans may be any
        weak = [_NEVER, _NEVER, _NEVER, 1e-3] + [1e-3] * len(leaning)
    target = performance.onset_s[main] - frame.line.seconds(q)
    solution, rest, system = _robust(design, target, weak)
    error = float(np.sqrt(max(np.linalg.pinv(system.T @ system)[2, 2], 0.0) * np.mean(rest**2)))
    if abs(solution[2]) < 4 * error:  # a bend of the tempo that the hits do not prove
        weak[2] = 1e6
        solution, rest, system = _robust(design, target, weak)
    spread = np.linalg.pinv(system.T @ system) * float(np.mean(rest**2))
    lean = {name: float(s) for name, s in zip(leaning, solution[4:], strict=True)}
    # The player's own pulse is the middle of the voices, weighted by how often they play.
    pulse = _middle({g: (lean[g], counts[g]) for g in lean}) if lean else 0.0
    if frame.fixed_line:
        frame = replace(frame, lean_s=lean)
        return _with_swing(frame, float(solution[3]), float(np.sqrt(max(spread[3, 3], 0.0))))
    a, b, c = (float(x) for x in solution[:3])
    low, high = q.min(), q.max()
    anchors = frame.line.anchor_q
    if abs(c) > 1e-12 and len(anchors) < high - low:
        anchors = np.arange(np.floor(low) - 1, np.ceil(high) + 2)
    line = frame.line.with_anchors(anchors)
    line = line.shifted(a + pulse + b * (anchors - middle) + c * (anchors - middle) ** 2)
    frame = replace(frame, line=line, lean_s={name: s - pulse for name, s in lean.items()})
    return _with_swing(frame, float(solution[3]), float(np.sqrt(max(spread[3, 3], 0.0))))


Solved = tuple[Floats, Floats, Floats]


def _robust(design: Floats, times: Floats, weak: list[float]) -> Solved:
    """Solution, remainders and last weighted system of least squares in which outliers count less and less."""
    weight = np.ones(len(times))
    for _ in range(6):
        system = np.concatenate([design * weight[:, None], np.diag(weak)])
        solution = np.linalg.lstsq(system, np.concatenate([times * weight, np.zeros(len(weak))]), rcond=None)[0]
        rest = times - design @ solution
        weight = np.sqrt(1 / (1 + (rest / _HUBER_S) ** 2))
    return solution, rest, system


def _with_swing(frame: Frame, shift_s: float, error_s: float) -> Frame:
    """The frame with the swing that a shift of the off notes means; too little of it is straight."""
    if frame.kind != "swung":
        return replace(frame, swing_error=0.0)
    unit_s = 4 / frame.swing.unit * frame.line.usual_pace_s
    ratio, error = float(np.clip(0.5 + shift_s / unit_s / 2, 0.5, 0.8)), error_s / unit_s / 2
    if ratio < max(_SWING_FLOOR, 0.5 + 2.5 * error) and not frame.fixed_swing:
        return replace(frame, swing=Swing(frame.swing.unit), kind="straight", swing_error=error)
    if frame.fixed_swing:
        ratio = max(ratio, _TOLD_SWING)
    return replace(frame, swing=Swing(frame.swing.unit, ratio), swing_error=error)


def _middle(leans: dict[str, tuple[float, int]]) -> float:
    """The lean of the voice in the middle; with two voices, of the one that plays more."""
    ordered = sorted(leans.values())
    if len(ordered) == 2:
        return max(ordered, key=lambda pair: pair[1])[0]
    half = len(ordered) // 2
    return ordered[half][0] if len(ordered) % 2 else (ordered[half - 1][0] + ordered[half][0]) / 2


def _bent(performance: Performance, main: NDArray[np.int64], spots: NDArray[np.int64], frame: Frame) -> Line:
    """The line, bent where the tempo moves in a way a parabola does not show."""
    rest = _rest_s(performance, main, spots, frame)
    q = spots / TICKS_PER_QUARTER
    return smoothed(frame.line, q, rest, bar_q=frame.meter.bar_ticks / TICKS_PER_QUARTER)
