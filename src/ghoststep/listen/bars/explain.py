"""Performance -> Pattern + Feel + what is left over: the inverse of `feel.perform`.

Steps: (1) pulses (`pulse`) and readings of bars on them (`bars`) are judged together and the best is taken
(`reading`); (2) each hit is snapped to its spot (`snap`) and time line, swing and leans are fitted, in turn (`fit`);
(3) what the fit does not explain stays with each hit as its own deviation, so that `perform(explained.groove)` plus
`start_s` gives back the performance.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.perform import feel_times_s
from ghoststep.listen.bars.reading import Click, Hints, TempoReading, best_frame, lonely_frame
from ghoststep.listen.fit.fit import Frame, fitted, spots_of, to_length
from ghoststep.listen.fit.snap import grace_notes, snapped
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.kit import STROKE_NAMES, VOICES
from ghoststep.music.pattern import Hit, Origin, Pattern
from ghoststep.music.performance import Performance
from ghoststep.music.rules import GridPassage
from ghoststep.music.time import TICKS_PER_QUARTER, TempoMap, step_ticks
from ghoststep.music.touch import Role, role_of

__all__ = ["Explained", "Hints", "Passage", "TempoReading", "explain"]

# A line that keeps this near to one tempo, in seconds and in pace, is given as one figure.
_FEW, _FEW_MS = 7, 1.0  # strokes of a voice whose lean is that of the middle one, where it is further off
_END_S = 0.0001  # how exactly a rounded tempo keeps the end of a performance
_STEADY_S, _STEADY_SHARE = 0.012, 0.016


_NEAR_MS, _NEAR_SHARE = 30.0, 0.18
# By so much, in s and as a share of the whole, may hits run away from a click; in long takes their pace is less sure.
_RUN_AWAY_S, _RUN_AWAY_SHARE = 0.1, 0.005
LONGEST_BAR_QUARTERS = 32


def _is_usual(ticks: int) -> bool:
    return ticks % (TICKS_PER_QUARTER // 4) == 0 or ticks % (TICKS_PER_QUARTER // 3) == 0


@dataclass(frozen=True)
class Passage:
    """A run of beats on one grid (notes to a whole), from a tick to a tick."""

    start_ticks: int
    end_ticks: int
    grid: int


@dataclass(frozen=True)
class Explained:
    """A groove, where its bar 1 lies in the performance, and how sure we are.

    `source[i]` is the index in the performance of the pattern's hit i. `passages` tell the grid of each stretch;
    `lost_s` is the moment from which no steady tempo could be followed, None where there is none.
    """

    groove: Groove
    start_s: float
    source: tuple[int, ...]
    swing_error: float
    loose_ms: dict[str, float]
    readings: tuple[TempoReading, ...]
    passages: tuple[Passage, ...] = ()
    lost_s: float | None = None
    click: Click | None = None  # what leans are told against; without one it is the player's own pulse
    frame: Frame | None = field(default=None, compare=False, repr=False)  # what a second hearing may go on from

    @property
    def by_click(self) -> bool:
        """Whether leans are told against a click, and not against the player's own pulse."""
        return self.click is not None

    @property
    def swing(self) -> Swing:
        return self.groove.feel.swing

    def steadiness(self) -> float:
        """Share of hits that stand near a spot of eighths, sixteenths or triplets; low where no tempo fits."""
        hits = [h for h in self.groove.pattern.hits if not h.grace]
        sixteenth_ms = 15_000 / self.groove.tempo.main_bpm
        near_ms = min(_NEAR_MS, _NEAR_SHARE * sixteenth_ms)  # on a very fine grid everything is near some spot
        usual = [_is_usual(h.position_ticks) and abs(h.offset_ms) <= near_ms for h in hits]
        return sum(usual) / max(len(usual), 1)

    def rough_velocities(self) -> frozenset[int]:
        """Indices of soft snare strokes under other drums: under these, loudness can only be ordered coarsely."""
        hits = self.groove.pattern.hits
        found = set()
        for i, h in enumerate(hits):
            if h.voice == "snare" and h.role is Role.GHOST and not h.grace:
                here = self.groove.pattern.between(h.position_ticks, h.position_ticks + 1)
                if any(not hits[j].grace and hits[j].voice != "snare" for j in here):
                    found.add(i)
        return frozenset(found)

    def straight_offsets_ms(self) -> NDArray[np.float64]:
        """Deviation of each hit of the pattern from the straight grid, swing and lean included; shape (n,)."""
        groove = self.groove
        own = np.array([h.offset_ms for h in groove.pattern.hits])
        ticks = np.array([h.position_ticks for h in groove.pattern.hits])
        out: NDArray[np.float64] = (feel_times_s(groove) - groove.tempo.seconds(ticks)) * 1000 + own
        return out


def explain(
    performance: Performance,
    hints: Hints | None = None,
    *,
    confidence: NDArray[np.float64] | None = None,
    meant_s: NDArray[np.float64] | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> Explained:
    """Find pattern and feel behind a performance.

    Parameters
    ----------
    confidence
        How sure each hit is, 0 to 1, shape (n,).
    meant_s
        For hits whose spot the user has set, a moment at that spot; nan for the others; shape (n,).
    progress
        Called with 0 to 1; may raise to stop.

    Raises
    ------
    InputError
        Where there is no hit at all, or a hint fits no reading.
    """
    hints = hints or Hints()
    if not len(performance):
        raise InputError("There is no hit to make a pattern of.")
    if hints.meter is not None and hints.meter.bar_ticks > LONGEST_BAR_QUARTERS * TICKS_PER_QUARTER:
        raise InputError(
            f"A bar of {hints.meter} lasts more than {LONGEST_BAR_QUARTERS} quarters: too long to be heard as one."
        )
    main = _mains(performance)[1]
    ranked: tuple[TempoReading, ...] = ()
    lost_s = None
    if len(main) < 2 or np.ptp(performance.onset_s[main]) < 0.2:
        frame = lonely_frame(float(performance.onset_s[main[0]]), hints)
    else:
        frame, ranked, lost_s = best_frame(performance, main, hints, progress)
    progress(0.9)
    if hints.click is not None:
        _check_click(hints.click, frame, float(np.ptp(performance.onset_s)))
        frame = replace(frame, line=hints.click.line(frame.line), fixed_line=True)
    explained = explain_again(performance, frame, hints, confidence=confidence, meant_s=meant_s)
    return replace(explained, readings=ranked, lost_s=lost_s, click=hints.click)


def _mains(performance: Performance) -> tuple[dict[int, int], NDArray[np.int64]]:
    """Grace notes with their main notes, and the hits that are none, in the order of time."""
    groups = [VOICES[v].group for v in performance.voice]
    graces = grace_notes(performance.onset_s, groups, performance.velocity)
    return graces, np.array([i for i in np.argsort(performance.onset_s, kind="stable") if i not in graces])


def explain_again(
    performance: Performance,
    frame: Frame,
    hints: Hints,
    *,
    confidence: NDArray[np.float64] | None = None,
    meant_s: NDArray[np.float64] | None = None,
) -> Explained:
    """Explain a performance whose bars are known already: only line, spots and feel are fitted.

    Parameters
    ----------
    frame
        The frame of an earlier explanation of nearly the same hits.
    """
    meant = np.full(len(performance), np.nan) if meant_s is None else meant_s
    graces, main = _mains(performance)
    frame = fitted(performance, main, frame, meant)
    if performance.cut and not frame.fixed_line:
        frame = to_length(performance, main, frame, meant)
    return replace(_assembled(performance, graces, frame, hints, confidence, meant), frame=frame)


def _check_click(click: Click, free: Frame, span_s: float) -> None:
    """Refuse a click whose tempo is not that of the hits: nobody who hears a click runs so far away from it.

    How far the hits lie off its grid tells nothing, since on a wrong grid every hit is near some other spot.
    """
    pace_s = free.line.usual_pace_s
    away_s = abs(60 / click.bpm / pace_s - 1) * span_s
    if away_s > max(_RUN_AWAY_S, _RUN_AWAY_SHARE * span_s):
        raise InputError(
            f"A click of {click.bpm:g} BPM does not fit: these hits are played at {60 / pace_s:.2f} BPM and would run"
            f" away from it by {1000 * away_s:.0f} ms. Check its tempo."
        )


def _assembled(
    performance: Performance,
    graces: dict[int, int],
    frame: Frame,
    hints: Hints,
    confidence: NDArray[np.float64] | None,
    meant_s: NDArray[np.float64],
) -> Explained:
    """Build the groove; every hit's remainder is measured against what `perform` will do with the rest."""
    spots, frame = spots_of(performance, np.arange(len(performance)), frame, meant_s)
    for grace, main in graces.items():
        spots[grace] = spots[main]
    bar = frame.meter.bar_ticks
    first_bar = int(np.floor(spots.min() / bar))
    spots = spots - first_bar * bar
    bars = max(int(spots.max() // bar) + 1, hints.bars or 1)
    start_s, tempo = _time_line(frame, first_bar * bar / TICKS_PER_QUARTER, bars)
    feel = Feel(plain_swing(frame.swing), _lean_by_voice(frame, performance))
    bare = tuple(hit_of(performance, i, int(spots[i]), i in graces, confidence) for i in range(len(performance)))
    pattern = Pattern(bare, frame.meter, bars, grid_of(bare))
    groove = Groove(pattern, feel, tempo)
    rest_ms = (performance.onset_s[sources_of(groove)] - start_s - feel_times_s(groove)) * 1000
    groove, rest_ms = _few_by_their_middle(groove, rest_ms)
    hits = tuple(replace(h, offset_ms=plain_ms(ms)) for h, ms in zip(pattern.hits, rest_ms, strict=True))
    passages = passages_of(pattern)
    own = tuple(GridPassage(p.start_ticks, p.end_ticks, p.grid) for p in passages if finer(p.grid, pattern.grid))
    groove = groove.changed(hits=hits, passages=own)
    return Explained(groove, start_s, tuple(sources_of(groove)), frame.swing_error, looseness(hits), (), passages)


def meant_spots(moments_s: NDArray[np.float64], explained: Explained) -> NDArray[np.int64]:
    """The spots meant by moments of a recording, in score ticks; shape (n,)."""
    groove = explained.groove
    pattern = groove.pattern
    kind = "triplet" if pattern.grid in (12, 24) else "straight" if groove.feel.swing.straight else "swung"
    quarter_s = groove.tempo.tick_seconds(0) * TICKS_PER_QUARTER
    ticks = groove.tempo.to_ticks(moments_s - explained.start_s)
    return snapped(ticks, groove.feel.swing, kind, quarter_s=quarter_s, bars=pattern.frame).ticks


def sources_of(groove: Groove) -> list[int]:
    """The number in the performance, from 0, of each hit of a pattern whose keys are these numbers from 1."""
    return [h.key - 1 for h in groove.pattern.hits]


def finer(grid: int, usual: int) -> bool:
    """Whether a grid has steps that the usual one has not."""
    return usual % grid != 0


def passages_of(pattern: Pattern) -> tuple[Passage, ...]:
    """Runs of beats that share a grid; a beat that does not tell its grid has the usual one."""
    beats = -(-pattern.length_ticks // TICKS_PER_QUARTER)
    inside: list[set[int]] = [set() for _ in range(beats)]
    for h in pattern.hits:
        if not h.grace:
            inside[h.position_ticks // TICKS_PER_QUARTER].add(h.position_ticks % TICKS_PER_QUARTER)
    # Eighths and sixteenths are one passage: what matters is straight, triplet, and finer.
    grids = [next((g for g in (16, 12, 32, 24, 48) if all(t % step_ticks(g) == 0 for t in at)), 0) for at in inside]
    told = [g if any(t % (TICKS_PER_QUARTER // 2) for t in at) else 0 for g, at in zip(grids, inside, strict=True)]
    usual = 12 if pattern.grid in (12, 24) else 16
    out: list[Passage] = []
    for beat, grid in enumerate(told):
        current = grid or usual
        end = min((beat + 1) * TICKS_PER_QUARTER, pattern.length_ticks)
        if out and out[-1].grid == current:
            out[-1] = replace(out[-1], end_ticks=end)
        else:
            out.append(Passage(beat * TICKS_PER_QUARTER, end, current))
    return tuple(out)


def grid_of(hits: Sequence[Hit]) -> int:
    """The coarsest grid that nearly all hits stand on; ornaments and a beat of triplets do not make it finer."""
    spots = [h.position_ticks for h in hits if not h.grace]
    for grid in (8, 16, 12, 24):
        if sum(s % step_ticks(grid) == 0 for s in spots) >= 0.92 * len(spots):
            return grid
    return 32


def _time_line(frame: Frame, first_q: float, bars: int) -> tuple[float, TempoMap]:
    """Start of bar 1 in seconds and the tempo: one figure where it holds, one for each bar where it moves."""
    bar_q = frame.meter.bar_ticks / TICKS_PER_QUARTER
    lines = first_q + bar_q * np.arange(bars + 1)
    seconds = frame.line.seconds(lines)
    even = np.polyval(np.polyfit(lines, seconds, 1), lines)
    by_bar = 60 * bar_q / np.diff(seconds)
    if np.abs(seconds - even).max() < _STEADY_S and np.ptp(by_bar) < _STEADY_SHARE * by_bar.mean():
        return float(even[0]), TempoMap.constant(_plain_bpm(bar_q * bars, float(even[-1] - even[0])))
    ticks = tuple(int(i * frame.meter.bar_ticks) for i in range(bars))
    return float(seconds[0]), TempoMap(ticks, _plain_tempi(bar_q, seconds))


def _plain_bpm(quarters: float, length_s: float) -> float:
    """A tempo in as few digits as say where its end lies: hundredths of a BPM, and more for long performances."""
    bpm = 60 * quarters / length_s
    rounded = (round(bpm, digits) for digits in range(2, 7))
    return next((b for b in rounded if abs(60 * quarters / b - length_s) < _END_S), bpm)


def _plain_tempi(bar_q: float, seconds: NDArray[np.float64]) -> tuple[float, ...]:
    """A tempo for each bar in hundredths of a BPM; what is rounded in one is made up for in the next."""
    out: list[float] = []
    now = float(seconds[0])
    for end in seconds[1:]:
        out.append(round(60 * bar_q / (float(end) - now), 2))
        now += 60 * bar_q / out[-1]
    return tuple(out)


def _few_by_their_middle(groove: Groove, rest_ms: NDArray[np.float64]) -> tuple[Groove, NDArray[np.float64]]:
    """Leans of voices with few strokes by the one in the middle: one of three that is pushed is no lean of all.

    What the lean no longer says is left with the strokes, so that nothing is heard otherwise.
    """
    lean, rest_ms = dict(groove.feel.lean_ms), rest_ms.copy()
    for name in groove.feel.lean_ms:
        mine = [i for i, h in enumerate(groove.pattern.hits) if h.voice == name and not h.grace]
        middle = float(np.median(rest_ms[mine])) if 3 <= len(mine) <= _FEW else 0.0
        if abs(middle) >= _FEW_MS:
            by = plain_ms(lean[name] + middle) - lean[name]
            lean[name] += by
            rest_ms[[i for i, h in enumerate(groove.pattern.hits) if h.voice == name]] -= by
    return groove.changed(feel=replace(groove.feel, lean_ms=lean)), rest_ms


def plain_ms(ms: float) -> float:
    """A time in as many digits as mean something: tenths of a millisecond."""
    return round(float(ms), 1) + 0.0


def plain_swing(swing: Swing) -> Swing:
    """Swing to a hundredth of a percent."""
    return replace(swing, ratio=round(swing.ratio, 4))


def _lean_by_voice(frame: Frame, performance: Performance) -> dict[str, float]:
    lean: dict[str, float] = {}
    for voice in {VOICES[v] for v in performance.voice}:
        group = "ride" if voice.name.startswith("ride") else voice.group
        if group in frame.lean_s:
            lean[voice.name] = plain_ms(1000 * frame.lean_s[group])
    return lean


def hit_of(performance: Performance, i: int, spot: int, grace: bool, confidence: NDArray[np.float64] | None) -> Hit:
    velocity = int(performance.velocity[i])
    name = VOICES[performance.voice[i]].name
    origin = None if confidence is None else Origin(float(performance.onset_s[i]), float(confidence[i]), name)
    role = Role.GHOST if grace else role_of(velocity)
    return Hit(
        spot, name, velocity, role,
        stroke=STROKE_NAMES[performance.stroke[i]], grace=grace, origin=origin, key=i + 1,
    )  # fmt: skip


def looseness(hits: tuple[Hit, ...]) -> dict[str, float]:
    """Spread of each voice around its own lean in ms (standard deviation by the median, so outliers count little)."""
    out = {}
    for name in sorted({h.voice for h in hits}):  # so that the same recording is saved as the same bytes
        own = np.array([h.offset_ms for h in hits if h.voice == name and not h.grace])
        if len(own) >= 3:
            out[name] = float(1.4826 * np.median(np.abs(own - np.median(own))))
    return out
