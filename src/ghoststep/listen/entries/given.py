"""A performance whose tempo and bars are stated, as in a MIDI file: do the hits keep to them, and what is left over.

Steps: (1) hits are snapped to the stated grid straight and with several amounts of swing, and the one under which they
cost least is taken; (2) they keep to the grid where nearly all lie near; (3) then tempo and bars are taken exactly
as stated, leans are the middle of each group's remainder, and what is left stays with each hit.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.perform import feel_times_s
from ghoststep.listen.bars.explain import (
    Explained,
    finer,
    grid_of,
    hit_of,
    looseness,
    passages_of,
    plain_ms,
    plain_swing,
    sources_of,
)
from ghoststep.listen.bars.offset import whole_offset_s
from ghoststep.listen.fit.fit import LEANING, lean_groups
from ghoststep.listen.fit.snap import grace_notes, snapped
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.frame import Bars
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICES
from ghoststep.music.pattern import Pattern
from ghoststep.music.performance import Performance
from ghoststep.music.rules import GridPassage
from ghoststep.music.time import TICKS_PER_QUARTER, TempoMap

Floats = NDArray[np.float64]
# A hit is near a spot within this, or this share of a sixteenth where that is less: by chance a third would be.
_NEAR_S, _NEAR_SHARE = 0.018, 0.11
_LEAST_NEAR = 0.8
_MOST_LEAN_S = 0.04
_TOLD_BY = 2000  # hits
_UNEVEN_NATS = 4.0  # what it costs to believe in swing or triplets throughout (working assumption)
_RATIOS = (0.53, 0.55, 0.57, 0.6, 0.63, 2 / 3, 0.7, 0.75)


@dataclass(frozen=True, eq=False)
class Stated:
    """Tempo and bars as a file states them, and where each hit of a performance lies in them, in ticks.

    `start_s` is the second of the performance on which bar 1 begins.
    """

    tempo: TempoMap
    bars: Bars
    ticks: Floats
    start_s: float = 0.0


@dataclass(frozen=True)
class Fit:
    """How well hits keep to a stated grid: the share near a spot, the swing under which it is, and the usual miss."""

    near: float
    swing: Swing
    kind: str
    miss_ms: float
    offset_s: float = 0.0  # how much the whole performance is behind the grid

    @property
    def good(self) -> bool:
        return self.near >= _LEAST_NEAR


def fit_of(performance: Performance, stated: Stated) -> Fit:
    """Try the stated grid straight, in triplets and swung; which it is, a long performance tells by its beginning.

    A delay of the whole is found first and taken out; grace notes say nothing of grid and swing.
    """
    main = _main(performance)
    offset_s = whole_offset_s(performance, stated.ticks, stated.tempo, stated.bars, main)
    stated = _earlier(stated, offset_s)
    groups = _groups(performance)[main]
    stated = replace(stated, ticks=stated.ticks[main])
    beginning = replace(stated, ticks=stated.ticks[:_TOLD_BY])
    options = [(Swing(), "straight"), (Swing(), "triplet")]
    options += [(Swing(unit, ratio), "swung") for unit in (8, 16) for ratio in _RATIOS]
    quarter_s = _quarters_s(beginning)

    def cost(option: tuple[Swing, str]) -> float:
        dearer = _UNEVEN_NATS if option[1] != "straight" else 0.0
        return _placed(groups[:_TOLD_BY], beginning, *option, quarter_s).cost + dearer

    swing, kind = min(options, key=cost)
    quarter_s = _quarters_s(stated)
    near_s = np.minimum(_NEAR_S, _NEAR_SHARE * quarter_s / 4)
    away_s = np.abs(_placed(groups, stated, swing, kind, quarter_s).away_s)
    return Fit(float((away_s <= near_s).mean()), swing, kind, 1000 * float(np.median(away_s)), offset_s)


def _main(performance: Performance) -> NDArray[np.int64]:
    """The strokes that are no grace notes."""
    groups = [VOICES[v].group for v in performance.voice]
    graces = grace_notes(performance.onset_s, groups, performance.velocity)
    return np.array([i for i in range(len(performance)) if i not in graces], np.int64)


def _earlier(stated: Stated, offset_s: float) -> Stated:
    """Stated bars that begin later by a delay of the performance: the strokes lie earlier in them by it."""
    if not offset_s:
        return stated
    ticks = stated.tempo.to_ticks(stated.tempo.seconds(stated.ticks) - offset_s)
    return replace(stated, ticks=ticks, start_s=stated.start_s + offset_s)


def _quarters_s(stated: Stated) -> Floats:
    """How long a quarter lasts at each hit."""
    step = TICKS_PER_QUARTER / 8
    seconds = stated.tempo.seconds(stated.ticks + step) - stated.tempo.seconds(stated.ticks - step)
    return np.asarray(seconds * 4)


@dataclass(frozen=True, eq=False)
class _Placed:
    """The spot of each hit, how far it is from there once its group's lean is taken out, and the cost in nats."""

    ticks: NDArray[np.int64]
    away_s: Floats
    cost: float


def _groups(performance: Performance) -> NDArray[np.str_]:
    return np.array(lean_groups(performance, np.arange(len(performance))))


def _placed(groups: NDArray[np.str_], stated: Stated, swing: Swing, kind: str, quarter_s: Floats) -> _Placed:
    """Snap the hits, see how each group of drums leans, and snap again with the leans taken out."""
    lean_s = np.zeros(len(groups))
    for _ in range(2):
        late = lean_s * TICKS_PER_QUARTER / quarter_s
        found = snapped(stated.ticks - late, swing, kind, quarter_s=quarter_s, bars=stated.bars)
        played = swing.bend(found.ticks, stated.bars) if kind == "swung" else found.ticks
        away_s = np.asarray((stated.ticks - played) * quarter_s / TICKS_PER_QUARTER)
        shared_s = float(np.median(away_s))
        for group in np.unique(groups):
            mine = groups == group
            middle_s = float(np.median(away_s[mine])) if mine.sum() >= 3 else shared_s
            lean_s[mine] = np.clip(middle_s, shared_s - _MOST_LEAN_S, shared_s + _MOST_LEAN_S)
    return _Placed(found.ticks, away_s - lean_s, found.cost)


def explain_stated(performance: Performance, stated: Stated, fit: Fit, confidence: Floats | None = None) -> Explained:
    """The groove in the tempo and bars that are stated; hits well ahead of bar 1 put bars before it."""
    stated, start_s = _from_bar_one(_earlier(stated, fit.offset_s))
    groups = [VOICES[v].group for v in performance.voice]
    graces = grace_notes(performance.onset_s, groups, performance.velocity)
    quarter_s = _quarters_s(stated)
    swing = fit.swing if fit.kind == "swung" else Swing()
    main = np.array([i for i in range(len(performance)) if i not in graces], np.int64)
    spots = np.zeros(len(performance), np.int64)
    placed = _placed(
        _groups(performance)[main], replace(stated, ticks=stated.ticks[main]), swing, fit.kind, quarter_s[main]
    )
    spots[main] = np.maximum(placed.ticks, 0)
    for grace, leading in graces.items():
        spots[grace] = spots[leading]
    swing = _measured(swing, stated, spots, quarter_s, main.tolist())
    bars = stated.bars.spot_at(int(spots.max())).bar
    bare = tuple(hit_of(performance, i, int(spot), i in graces, confidence) for i, spot in enumerate(spots))
    pattern = Pattern(bare, stated.bars.first, bars, grid_of(bare), meter_changes=stated.bars.changes)
    played_s = stated.tempo.seconds(swing.bend(spots, stated.bars))
    heard_s = stated.tempo.seconds(stated.ticks)
    groove = Groove(pattern, Feel(swing, _leans(performance, heard_s - played_s, graces)), stated.tempo)
    rest_ms = 1000 * (heard_s[sources_of(groove)] - feel_times_s(groove))
    hits = tuple(replace(h, offset_ms=plain_ms(ms)) for h, ms in zip(groove.pattern.hits, rest_ms, strict=True))
    passages = passages_of(pattern)
    own = tuple(GridPassage(p.start_ticks, p.end_ticks, p.grid) for p in passages if finer(p.grid, pattern.grid))
    groove = groove.changed(hits=hits, passages=own)
    return Explained(groove, start_s, tuple(sources_of(groove)), 0.0, looseness(hits), (), passages)


def _from_bar_one(stated: Stated) -> tuple[Stated, float]:
    """The same counted from a bar line no hit lies well ahead of, and the second on which that bar begins."""
    bar = stated.bars.length_of(1)
    lead = int(np.ceil(max(-0.5 * bar - float(stated.ticks.min()), 0) / bar))
    lead_s = float(-stated.tempo.seconds(-lead * bar)) if lead else 0.0
    if lead:
        frame = stated.bars.inserted(1, [stated.bars.first] * lead)
        tempo = stated.tempo.spliced(0, 0, lead * bar)
        stated = Stated(tempo, frame, stated.ticks + lead * bar, stated.start_s - lead_s)
    return stated, stated.start_s


def _measured(swing: Swing, stated: Stated, spots: NDArray[np.int64], quarter_s: Floats, main: list[int]) -> Swing:
    """The ratio by which the off notes are late, of the tried one's neighbourhood; straight stays straight."""
    if swing.straight:
        return swing
    full = Swing(swing.unit, 0.75).bend(spots, stated.bars) - spots
    off = np.array([i for i in main if full[i] == full.max() and full[i] > 0], int)
    on = np.array([i for i in main if full[i] == 0], int)
    if len(off) < 2 or not len(on):
        return swing
    late = (stated.ticks - spots) / (full.max() / 0.5)
    ratio = 0.5 + float(np.median(late[off]) - np.median(late[on])) / 2 * 1.0
    return plain_swing(Swing(swing.unit, float(np.clip(ratio, 0.5, 0.8))))


def _leans(performance: Performance, late_s: Floats, graces: dict[int, int]) -> dict[str, float]:
    """How early or late each group is on the whole, the group in the middle at 0, in ms by voice."""
    main = np.array([i for i in range(len(performance)) if i not in graces], np.int64)
    groups = lean_groups(performance, main)
    middles = {
        g: float(np.median([late_s[i] for i, group in zip(main, groups, strict=True) if group == g]))
        for g in sorted(set(groups))
        if g in LEANING and groups.count(g) >= 3
    }
    if len(middles) < 2:
        return {}
    pulse = sorted(middles.values())[len(middles) // 2]
    out: dict[str, float] = {}
    for index in {int(v) for v in performance.voice}:
        voice = VOICES[index]
        group = "ride" if voice.name.startswith("ride") else voice.group
        lean = plain_ms(1000 * (middles.get(group, pulse) - pulse))
        if lean:
            out[voice.name] = lean
    return out
