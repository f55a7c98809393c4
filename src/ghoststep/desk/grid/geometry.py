"""Where things stand in the grid: positions to pixels and back. No Qt, so it is tested by itself."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANE_OF_VOICE, LANES
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.time import TICKS_PER_QUARTER, step_ticks

RULER_H = 62
STICK_H = 47  # the sticking line below the lanes, with the names in it
GUTTER_W = 152
LEFT_PAD = 26  # pixels before the first bar line, so that early hits are seen
RIGHT_PAD = 40  # and behind the last
STEM_TOP, STEM_FOOT = 24, 9  # room above the tallest stem and below its foot
FINE_PX = 96  # room of a step from which its quarters are drawn
MIN_LANE_H, MAX_LANE_H = 50, 230


def shown_lanes(pattern: Pattern, *, everything: bool) -> tuple[int, ...]:
    """Indices into LANES of the lanes to show: the usual three and those in use, or all."""
    used = {LANE_OF_VOICE[name] for name in pattern.voices}
    return tuple(i for i, lane in enumerate(LANES) if everything or lane.always or i in used)


@dataclass(frozen=True)
class Geometry:
    """The layout of one groove in a viewport. x and y are pixels of the viewport; scroll is in pixels."""

    groove: Groove
    lanes: tuple[int, ...]
    quarter_px: float
    scroll_px: float
    width: int
    height: int
    magnify: float  # how many times larger than true the deviations are drawn
    played: Sequence[int] | None = None  # velocities as the feel's touch plays them, where it does
    letters: tuple[str, ...] = ()  # the part that each bar plays, where there is a form

    @cached_property
    def lane_h(self) -> float:
        free = (self.height - RULER_H - STICK_H) / max(len(self.lanes), 1)
        return min(max(free, MIN_LANE_H), MAX_LANE_H)

    @property
    def content_w(self) -> float:
        return LEFT_PAD + self.groove.pattern.length_ticks / TICKS_PER_QUARTER * self.quarter_px + RIGHT_PAD

    @property
    def content_h(self) -> float:
        return RULER_H + self.lane_h * len(self.lanes)

    def x_of(self, ticks: float) -> float:
        return GUTTER_W + LEFT_PAD + ticks / TICKS_PER_QUARTER * self.quarter_px - self.scroll_px

    def line_x(self, ticks: float, voice: str = "") -> float:
        """Where a step's line stands: swing moves the line itself, true to scale; a voice may have one of its own."""
        swing = self.groove.feel.swing_of(voice)
        return self.x_of(ticks if swing.straight else swing.bend_one(ticks, self.groove.pattern.frame))

    def ticks_at(self, x: float) -> float:
        return (x - GUTTER_W - LEFT_PAD + self.scroll_px) / self.quarter_px * TICKS_PER_QUARTER

    def lane_top(self, row: int) -> float:
        return RULER_H + row * self.lane_h

    def row_at(self, y: float) -> int | None:
        row = int((y - RULER_H) // self.lane_h) if y >= RULER_H else -1
        return row if 0 <= row < len(self.lanes) else None

    def row_of(self, voice: str) -> int | None:
        lane = LANE_OF_VOICE[voice]
        return self.lanes.index(lane) if lane in self.lanes else None

    def foot_y(self, row: int) -> float:
        return self.lane_top(row) + self.lane_h - STEM_FOOT

    @cached_property
    def full_stem(self) -> float:
        """Height of a stem of velocity 127."""
        return self.lane_h - STEM_TOP - STEM_FOOT

    def head_y(self, row: int, velocity: float) -> float:
        return self.foot_y(row) - self.full_stem * velocity / 127

    def velocity_at(self, row: int, y: float) -> int:
        """The velocity whose head stands at a height of a lane, 1 to 127."""
        return round(min(max((self.foot_y(row) - y) / self.full_stem * 127, 1), 127))

    @property
    def sixteenth_px(self) -> float:
        """Room between sixteenths, which says how much of a hit can be drawn."""
        return self.quarter_px / 4

    def ms_px(self, at_ticks: float) -> float:
        """Pixels of one millisecond of deviation, magnified."""
        return self.magnify * self.quarter_px / (self.groove.tempo.tick_seconds(at_ticks) * TICKS_PER_QUARTER * 1000)

    def stem_x(self, h: Hit) -> float:
        """Where the stem of a hit stands: beside its line by lean and own deviation."""
        late_ms = self.late_ms(h)
        line_x = self.line_x(h.position_ticks, h.voice)
        if not late_ms:
            return line_x
        reach = 0.46 * step_ticks(16) / TICKS_PER_QUARTER * self.quarter_px
        if h.grace:
            reach *= 2
        away = late_ms * self.ms_px(h.position_ticks)
        return line_x + min(max(away, -reach), reach)

    def late_ms(self, h: Hit) -> float:
        """How late a hit is against its line: lean, what its spot adds, and what it has of its own."""
        feel = self.groove.feel
        own = h.offset_ms * (1.0 if h.grace else feel.own_share)
        return feel.late_of(h.voice, h.position_ticks, self.groove.pattern.frame) + own

    def voice_of(self, row: int) -> str:
        """The voice a new hit gets in a row."""
        return LANES[self.lanes[row]].voices[0]

    def steps(self, row: int, low: float, high: float) -> list[int]:
        """Positions of the steps of a row between two, in ticks; each stretch of the lane has its own grid."""
        out: list[int] = []
        for start, end, step in self.groove.pattern.stretches(self.voice_of(row)):
            first = max(start, -(-(max(int(low), start) - start) // step) * step + start)
            out += range(first, min(end, int(high) + 1), step)
        return out

    def step_of(self, row: int, ticks: float = 0) -> int:
        """Ticks of a step of the lane in a row, at a position."""
        return step_ticks(self.groove.pattern.grid_at(self.voice_of(row), int(ticks)))

    def parts_of(self, step: int) -> int:
        """Into how many parts a step is divided on the screen: four where there is room, so that hits go between."""
        return 4 if step * self.quarter_px / TICKS_PER_QUARTER >= FINE_PX and step % 4 == 0 else 1

    def spot_at(self, row: int, x: float) -> int:
        """The step nearest to x in a row, within the pattern; a quarter of a step where they are drawn."""
        last = self.groove.pattern.length_ticks - 1
        guess = min(max(int(self.ticks_at(x)), 0), last)
        reach = TICKS_PER_QUARTER
        near = self.steps(row, guess - reach, min(guess + reach, last)) or [0]
        parts = self.parts_of(self.step_of(row, guess))
        if parts > 1:
            near = [t + k * self.step_of(row, t) // parts for t in near for k in range(parts)]
            near = [t for t in near if t <= last]
        name = self.voice_of(row)
        return min(near, key=lambda t: abs(self.line_x(t, name) - x))

    def nearest_step(self, row: int, ticks: int) -> int:
        """The step of a row that is nearest to a position."""
        reach = self.groove.pattern.frame.meter_at(ticks).bar_ticks
        last = self.groove.pattern.length_ticks - 1
        found = self.steps(row, max(ticks - reach, 0), min(ticks + reach, last)) or [0]
        return min(found, key=lambda t: abs(t - ticks))

    def next_step(self, row: int, ticks: int, by: int) -> int:
        """The position so many steps of a row away, within the pattern."""
        pattern = self.groove.pattern
        reach = (abs(by) + 1) * pattern.frame.meter_at(ticks).bar_ticks
        found = self.steps(row, max(ticks - reach, 0), min(ticks + reach, pattern.length_ticks - 1))
        away = [t for t in found if (t - ticks) * by > 0]
        if not away:
            return ticks
        return away[min(by, len(away)) - 1] if by > 0 else away[max(by, -len(away))]

    def hit_at(self, x: float, y: float, *, reach_px: float = 11) -> Hit | None:
        """The hit whose stem or head is under a point, the nearest one."""
        row = self.row_at(y)
        if row is None:
            return None
        low, high = self.visible(x, x)
        hits = self.groove.pattern.hits
        close = [
            (abs(self.stem_x(h) - x), h)
            for h in (hits[i] for i in self.groove.pattern.between(low, high + 1))
            if self.row_of(h.voice) == row and abs(self.stem_x(h) - x) <= reach_px
            and self.head_y(row, h.velocity) - reach_px <= y
        ]  # fmt: skip
        return min(close, key=lambda c: c[0])[1] if close else None

    def visible(self, x0: float, x1: float) -> tuple[int, int]:
        """Tick range that can show between two x, with room for stems that stand beside their lines."""
        # A stem stands at most a sixteenth beside its line, swing moves a line by less than 0.6 of an eighth, and a
        # head is some 20 pixels wide, less where it has little room.
        head_px = 24 if self.sixteenth_px >= 8 else 8
        margin = 0.25 * TICKS_PER_QUARTER + head_px / self.quarter_px * TICKS_PER_QUARTER
        feel = self.groove.feel
        if feel.swings or not feel.swing.straight:
            margin += 0.3 * TICKS_PER_QUARTER
        low = int(max(self.ticks_at(x0) - margin, 0))
        return low, int(min(self.ticks_at(x1) + margin, self.groove.pattern.length_ticks))
