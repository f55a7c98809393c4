"""What the pointer may do on the grid once it is pressed: each gesture is an object that knows nothing of Qt.

A gesture is told where the pointer is, in pixels of the view, and tells what it means to whoever it was made for. What
is to be painted meanwhile stands in `range_ticks`, `band_px` and `line_px`.
"""

import math
from collections.abc import Callable, Sequence

from ghoststep.desk.grid.geometry import Geometry
from ghoststep.music.feel import SWING_LIMITS, Swing
from ghoststep.music.pattern import MAX_OFFSET_MS, Hit
from ghoststep.music.time import step_ticks

DRAG_START_PX = 4
Range = tuple[int, int]
Box = tuple[float, float, float, float]  # left, top, right, bottom
Line = tuple[tuple[float, float], ...]  # points as (position in ticks, velocity)


class Gesture:
    """A press that may become a drag. `moved` is called from the first few pixels on, `ended` when it is let go."""

    range_ticks: Range | None = None
    band_px: Box | None = None
    line_px: Box | None = None  # from the first point to the second

    def __init__(self, x: float, y: float) -> None:
        self.x, self.y = x, y

    def moved(self, g: Geometry, x: float, y: float) -> None:
        """The pointer is at x, y."""

    def ended(self, g: Geometry, x: float, y: float, *, dragged: bool) -> None:
        """It was let go at x, y; `dragged` says whether it moved at all."""


class RangeDrag(Gesture):
    """A range drawn on the ruler, by whole beats; a click alone takes the range away."""

    def __init__(self, g: Geometry, x: float, y: float, wanted: Callable[[Range | None], None]) -> None:
        super().__init__(x, y)
        self._from, self._wanted = _beat_at(g, x, up=False), wanted

    def moved(self, g: Geometry, x: float, y: float) -> None:
        end = _beat_at(g, x, up=True)
        self.range_ticks = (min(self._from, end), max(self._from, end))

    def ended(self, g: Geometry, x: float, y: float, *, dragged: bool) -> None:
        drawn = self.range_ticks if dragged else None
        # Past the end of the groove there is nothing to play.
        self._wanted(drawn if drawn and drawn[0] < drawn[1] else None)


class LineDrag(Gesture):
    """Velocities drawn as a straight line over a lane."""

    def __init__(self, x: float, y: float, row: int, drawn: Callable[[int, Sequence[tuple[float, int]]], None]) -> None:
        super().__init__(x, y)
        self._row, self._drawn = row, drawn

    def moved(self, g: Geometry, x: float, y: float) -> None:
        self.line_px = (self.x, self.y, x, y)

    def ended(self, g: Geometry, x: float, y: float, *, dragged: bool) -> None:
        if self.line_px is not None:
            x0, y0, x1, y1 = self.line_px
            ends = ((x0, y0), (x1, y1))
            self._drawn(self._row, [(g.ticks_at(px), g.velocity_at(self._row, py)) for px, py in ends])


class HitDrag(Gesture):
    """A hit dragged: by height its velocity, by side its deviation in ms, each only once the drag goes that way."""

    def __init__(
        self,
        x: float,
        y: float,
        hit: Hit,
        changed: Callable[[int, float], None],
        ended: Callable[[int, float], None],
    ) -> None:
        super().__init__(x, y)
        self._hit, self._changed, self._ended = hit, changed, ended

    def moved(self, g: Geometry, x: float, y: float) -> None:
        self._changed(*self._values(g, x, y))

    def ended(self, g: Geometry, x: float, y: float, *, dragged: bool) -> None:
        if dragged:
            self._ended(*self._values(g, x, y))

    def _values(self, g: Geometry, x: float, y: float) -> tuple[int, float]:
        """Changes of velocity and of ms."""
        hit, across, down = self._hit, x - self.x, y - self.y
        velocity, offset = hit.velocity, hit.offset_ms
        if abs(down) >= DRAG_START_PX:
            velocity = round(min(max(hit.velocity - down / g.full_stem * 127, 1), 127))
        if abs(across) > DRAG_START_PX:
            offset = round(hit.offset_ms + across / g.ms_px(hit.position_ticks), 1)
            offset = min(max(offset, -MAX_OFFSET_MS), MAX_OFFSET_MS)
        return velocity - hit.velocity, offset - hit.offset_ms


class BandDrag(Gesture):
    """A box drawn over hits, which are chosen while it is drawn."""

    def __init__(self, x: float, y: float, choose: Callable[[set[int]], None]) -> None:
        super().__init__(x, y)
        self._choose = choose

    def moved(self, g: Geometry, x: float, y: float) -> None:
        left, right = min(self.x, x), max(self.x, x)
        top, bottom = min(self.y, y), max(self.y, y)
        self.band_px = (left, top, right, bottom)
        pattern, chosen = g.groove.pattern, set()
        low, high = g.visible(left, right)
        for i in pattern.between(low, high + 1):
            h = pattern.hits[i]
            row = g.row_of(h.voice)
            if row is not None and left <= g.stem_x(h) <= right and top <= g.head_y(row, h.velocity) <= bottom:
                chosen.add(i)
        self._choose(chosen)


class SwingDrag(Gesture):
    """Swing by dragging an off note itself: it stays under the pointer, and all off notes move with it."""

    def __init__(
        self,
        x: float,
        y: float,
        hit: Hit,
        pair: tuple[int, int, float],
        changed: Callable[[Swing, str], None],
        ended: Callable[[Swing, str], None],
    ) -> None:
        """pair: note value of the swing, where the hit's pair begins in ticks, and px from its line to the grip."""
        super().__init__(x, y)
        self.voice = hit.voice
        self._unit, self._pair_start, self._grip_px = pair
        self._changed, self._ended = changed, ended

    @classmethod
    def begun(
        cls,
        g: Geometry,
        x: float,
        y: float,
        hit: Hit,
        changed: Callable[[Swing, str], None],
        ended: Callable[[Swing, str], None],
    ) -> "SwingDrag | None":
        """The drag of a hit that is gripped at x, y; None where it is no off note of the swing it has."""
        unit = g.groove.feel.swing_of(hit.voice).unit
        step = step_ticks(unit)
        start, end = g.groove.pattern.frame.group_at(hit.position_ticks)
        pair, inside = divmod(hit.position_ticks - start, 2 * step)
        pair_start = start + pair * 2 * step
        if inside != step or pair_start + 2 * step > end:
            return None
        grip_px = x - g.line_x(hit.position_ticks, hit.voice)
        return cls(x, y, hit, (unit, pair_start, grip_px), changed, ended)

    def swing_at(self, g: Geometry, x: float) -> Swing:
        """The swing with which the note's line would lie under the pointer, within what swing can be."""
        low, high = SWING_LIMITS
        across = g.x_of(self._pair_start + 2 * step_ticks(self._unit)) - g.x_of(self._pair_start)
        share = (x - self._grip_px - g.x_of(self._pair_start)) / max(across, 1.0)
        return Swing(self._unit, round(min(max(share, low), high), 3))

    def moved(self, g: Geometry, x: float, y: float) -> None:
        self._changed(self.swing_at(g, x), self.voice)

    def ended(self, g: Geometry, x: float, y: float, *, dragged: bool) -> None:
        if dragged:
            self._ended(self.swing_at(g, x), self.voice)


def _beat_at(g: Geometry, x: float, *, up: bool) -> int:
    """The start of the beat at x, or with `up` its end, in ticks, within the groove."""
    frame, ticks = g.groove.pattern.frame, math.floor(g.ticks_at(x))
    beat = frame.beat_start_at(ticks)
    if up and beat < ticks:
        beat += frame.meter_at(ticks).unit_ticks
    return int(min(max(beat, 0), g.groove.pattern.length_ticks))
