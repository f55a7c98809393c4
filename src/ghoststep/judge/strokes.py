"""A groove cut into windows of bars, as the strokes that limbs have to play.

A window is a plain value, so that what was worked out for it holds as long as its bars, their tempo and what comes
before them are the same: loops are judged once, and after an edit only the bars around it.
"""

from collections import OrderedDict
from collections.abc import Hashable, Iterator
from dataclasses import dataclass
from threading import Lock
from typing import NamedTuple

from ghoststep.feel.ornaments import landing_ticks, spelled_out
from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice
from ghoststep.music.meter import Meter
from ghoststep.music.ornaments import ornament
from ghoststep.music.pattern import Hit

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
    start, end = rows[0][1], rows[-1][1] + rows[-1][2].bar_ticks
    inside = pattern.between(start, end)
    hits = pattern.hits[inside.start : inside.stop]
    own_end = rows[own - 1][1] + rows[own - 1][2].bar_ticks
    mine = tuple(i for i, h in zip(inside, hits, strict=True) if not h.grace and h.position_ticks < own_end)
    return Cut(_KEPT.window(groove, rows, own, hits), rows[0][0], start, mine)


class _Kept:
    """Windows that were made before, by the very hits in them: an edit leaves most hits the same objects."""

    def __init__(self) -> None:
        self._made: OrderedDict[Hashable, tuple[object, Window]] = OrderedDict()
        self._lock = Lock()

    def window(self, groove: Groove, rows: list[tuple[int, int, Meter]], own: int, hits: tuple[Hit, ...]) -> Window:
        """The window of these bars, made or found; rolls hang on the grid too and are always made."""
        if any(h.ornament for h in hits):
            return _window(groove, rows, own, hits)
        meters = tuple(meter for _, _, meter in rows)
        key = (id(groove.tempo), rows[0][1], own, meters, tuple(map(id, hits)))
        with self._lock:
            found = self._made.get(key)
            if found is not None:
                self._made.move_to_end(key)
                return found[1]
        made = _window(groove, rows, own, hits)
        with self._lock:
            self._made[key] = ((groove.tempo, hits), made)  # what the key names has to live as long as the key
            while len(self._made) > _MOST_KEPT:
                self._made.popitem(last=False)
        return made


_MOST_KEPT = 3000
_KEPT = _Kept()


def _window(groove: Groove, rows: list[tuple[int, int, Meter]], own: int, hits: tuple[Hit, ...]) -> Window:
    start = rows[0][1]
    leads = _leads(hits)
    main = [h for h in hits if not h.grace]
    ticks = [h.position_ticks for h in main]
    begin_s = float(groove.tempo.seconds(start))
    seconds = [round((s - begin_s) / _TENTH_MS) * _TENTH_MS for s in groove.tempo.seconds(ticks).tolist()]
    strokes = tuple(_stroke(h, t - start, s, leads, groove) for h, t, s in zip(main, ticks, seconds, strict=True))
    lines = tuple(_line(groove, at, meter, start, begin_s) for _, at, meter in rows)
    return Window(strokes, lines, own)


def _line(groove: Groove, at: int, meter: Meter, start: int, begin_s: float) -> BarLine:
    beats = tuple(range(at - start, at - start + meter.bar_ticks, meter.unit_ticks))
    second = round(float(groove.tempo.seconds(at)) - begin_s, 4)
    return BarLine(at - start, second, beats, at - start + meter.bar_ticks, round(groove.tempo.bpm_at(at), 3))


def _leads(hits: tuple[Hit, ...]) -> dict[tuple[int, str], list[float]]:
    """How far grace notes that are hits of their own lie ahead (seconds), by the spot and voice they lead to."""
    found: dict[tuple[int, str], list[float]] = {}
    for h in hits:
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
