"""A groove cut into windows of bars, as the strokes that limbs have to play.

A window is a plain value, so that what was worked out for it holds as long as its bars, their tempo and what comes
before them are the same: loops are judged once, and after an edit only the bars around it.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

from ghoststep.feel.ornaments import landing_ticks, spelled_out
from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice
from ghoststep.music.meter import Meter
from ghoststep.music.ornaments import ornament
from ghoststep.music.pattern import Hit, Pattern

WINDOW_BARS = 4
_TENTH_MS = 1e-4


class Stroke(NamedTuple):
    """One hit as a limb sees it.

    tick, second: from the start of the window; given: the limb the user has set, else ""; graces: how many notes lead
    to it, and `lead_s` how far ahead the first of them lies; roll: seconds from the stroke to each further one of a
    roll or double, with whether it is the same hand's; lands_s: how long a roll keeps the hands.
    """

    tick: int
    second: float
    voice: str
    role: str
    velocity: int
    stroke: str = "plain"
    given: str = ""
    graces: int = 0
    lead_s: float = 0.0
    ornament: str = ""
    roll: tuple[tuple[float, bool], ...] = ()

    @property
    def foot(self) -> bool:
        return voice(self.voice).limb in ("K", "H")


class BarLine(NamedTuple):
    """A bar of a window: its first tick and second from the window's start, its beats, and its length."""

    tick: int
    second: float
    beats: tuple[int, ...]
    end_tick: int
    bpm: float


@dataclass(frozen=True)
class Window:
    """Some bars. The first `own` strokes and bars are the window's; what follows is looked at ahead."""

    strokes: tuple[Stroke, ...]
    bars: tuple[BarLine, ...]
    own_bars: int

    @property
    def end_tick(self) -> int:
        return self.bars[self.own_bars - 1].end_tick


@dataclass(frozen=True)
class Cut:
    """A window with where it lies: its first bar and tick, and the index of the hit behind each of its own strokes."""

    window: Window
    bar: int
    start_tick: int
    indices: tuple[int, ...]


def windows(groove: Groove, bars: int = WINDOW_BARS) -> Iterator[Cut]:
    """The groove in windows of so many bars, each with one bar more to look ahead."""
    pattern = groove.pattern
    rows = list(pattern.frame.between(0, pattern.length_ticks))
    for first in range(0, len(rows), bars):
        yield _cut(groove, rows[first : first + bars + 1], min(bars, len(rows) - first))


def _cut(groove: Groove, rows: list[tuple[int, int, Meter]], own: int) -> Cut:
    pattern = groove.pattern
    start, end = rows[0][1], rows[-1][1] + pattern.frame.length_of(rows[-1][0])
    indices = [i for i in pattern.between(start, end) if not pattern.hits[i].grace]
    leads = _leads(pattern, start, end)
    own_end = rows[own - 1][1] + pattern.frame.length_of(rows[own - 1][0])
    hits = [pattern.hits[i] for i in indices]
    ticks = [h.position_ticks for h in hits]
    begin_s = float(groove.tempo.seconds(start))
    seconds = [round((s - begin_s) / _TENTH_MS) * _TENTH_MS for s in groove.tempo.seconds(ticks).tolist()]
    strokes = tuple(_stroke(h, t - start, s, leads, groove) for h, t, s in zip(hits, ticks, seconds, strict=True))
    lines = tuple(_line(groove, bar, at, start, begin_s) for bar, at, _ in rows)
    mine = tuple(i for i, t in zip(indices, ticks, strict=True) if t < own_end)
    return Cut(Window(strokes, lines, own), rows[0][0], start, mine)


def _line(groove: Groove, bar: int, at: int, start: int, begin_s: float) -> BarLine:
    frame = groove.pattern.frame
    end = at + frame.length_of(bar)
    beats = tuple(t - start for t, _ in frame.beats(at, end))
    second = round(float(groove.tempo.seconds(at)) - begin_s, 4)
    return BarLine(at - start, second, beats, end - start, round(groove.tempo.bpm_at(at), 3))


def _leads(pattern: Pattern, start: int, end: int) -> dict[tuple[int, str], list[float]]:
    """How far grace notes that are hits of their own lie ahead (seconds), by the spot and voice they lead to."""
    found: dict[tuple[int, str], list[float]] = {}
    for i in pattern.between(start, end):
        h = pattern.hits[i]
        if h.grace:
            found.setdefault((h.position_ticks, h.voice), []).append(-h.offset_ms / 1000)
    return found


def _stroke(h: Hit, tick: int, second: float, leads: dict[tuple[int, str], list[float]], groove: Groove) -> Stroke:
    graces, lead_s = 0, 0.0
    roll: tuple[tuple[float, bool], ...] = ()
    if h.ornament:
        found = ornament(h.ornament)
        if found.rolls:
            roll = _roll(h, groove)
        else:
            graces, lead_s = len(found.leads_ms), found.leads_ms[-1] / 1000
    elif leads and (own := leads.get((h.position_ticks, h.voice))):
        graces, lead_s = len(own), round(max(own) - max(-h.offset_ms / 1000, 0), 4)
    return Stroke(
        tick, second, h.voice, h.role.value, h.velocity, h.stroke, h.limb, graces, lead_s, h.ornament, roll
    )  # fmt: skip


def _roll(h: Hit, groove: Groove) -> tuple[tuple[float, bool], ...]:
    """The strokes of a roll behind its first: how many seconds later, and whether by the hand of the first."""
    alone = groove.pattern.without_hits().with_hits(frozenset(), [h])
    spelled = [s for s in spelled_out(groove.changed(pattern=alone)).pattern.hits if s.within]
    landing = landing_ticks(h, groove.pattern)
    seconds = groove.tempo.seconds([s.position_ticks for s in spelled] or [landing]).tolist()
    return tuple(
        (round(s - seconds[0], 4), x.limb == spelled[0].limb)
        for s, x in zip(seconds[1:], spelled[1:], strict=True)
    )  # fmt: skip
