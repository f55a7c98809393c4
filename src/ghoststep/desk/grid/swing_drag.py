"""Swing by dragging an off note itself: the note stays under the mouse, and all off notes move with it."""

from ghoststep.desk.grid.geometry import Geometry
from ghoststep.music.feel import SWING_LIMITS, Swing
from ghoststep.music.pattern import Hit
from ghoststep.music.time import step_ticks


class SwingDrag:
    """A drag of one off note; None comes of `begun` where the hit is none of the swing it has."""

    def __init__(self, hit: Hit, unit: int, pair_start: int, grip_px: float) -> None:
        self.voice = hit.voice
        self._unit, self._pair_start, self._grip_px = unit, pair_start, grip_px

    @classmethod
    def begun(cls, g: Geometry, hit: Hit, x: float) -> "SwingDrag | None":
        """A drag of a hit that is gripped at x, where it is an off note."""
        unit = g.groove.feel.swing_of(hit.voice).unit
        step = step_ticks(unit)
        start, end = g.groove.pattern.frame.group_at(hit.position_ticks)
        pair, inside = divmod(hit.position_ticks - start, 2 * step)
        pair_start = start + pair * 2 * step
        if inside != step or pair_start + 2 * step > end:
            return None
        return cls(hit, unit, pair_start, x - g.line_x(hit.position_ticks, hit.voice))

    def swing_at(self, g: Geometry, x: float) -> Swing:
        """The swing with which the note's line would lie under the mouse, within what swing can be."""
        low, high = SWING_LIMITS
        across = g.x_of(self._pair_start + 2 * step_ticks(self._unit)) - g.x_of(self._pair_start)
        share = (x - self._grip_px - g.x_of(self._pair_start)) / max(across, 1.0)
        return Swing(self._unit, round(min(max(share, low), high), 3))
