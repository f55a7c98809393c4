"""What is pointed at, shared by all places: the chosen hits, the cursor with its lane, the range and the zoom.

Hits are chosen by their keys, so a choice holds through edits and from place to place; what a key no longer names is
passed over.
"""

from collections.abc import Iterable

from PySide6.QtCore import QObject, Signal

from ghoststep.music.kit import LANE_OF_VOICE, LANES
from ghoststep.music.pattern import Hit, Pattern

Range = tuple[int, int]


class Choice(QObject):
    """One per window; a dialog that shows other grooves has one of its own."""

    changed = Signal()  # chosen hits, cursor or lane
    range_changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.keys: frozenset[int] = frozenset()
        self.cursor_ticks = 0
        self.lane = LANE_OF_VOICE["hat_closed"]
        self.moment_s: float | None = None  # of the recording, where the cursor was put there
        self.range_ticks: Range | None = None  # None is everything
        self.quarter_px = 0.0  # zoom of grids; 0 fits as many bars as are readable
        self.second_px = 0.0  # zoom of the recording; 0 fits all of it
        self._found: tuple[Pattern, frozenset[int], tuple[int, ...]] | None = None

    @property
    def voice(self) -> str:
        """The voice a new hit at the cursor gets."""
        return LANES[self.lane].voices[0]

    def put(
        self, *, keys: Iterable[int] | None = None, cursor_ticks: int | None = None, lane: int | None = None
    ) -> None:
        """Change some of it at once; who shows it is told where anything is otherwise."""
        before = (self.keys, self.cursor_ticks, self.lane, self.moment_s)
        if keys is not None:
            chosen = frozenset(keys)
            self.keys = self.keys if chosen == self.keys else chosen
        if cursor_ticks is not None:
            self.cursor_ticks, self.moment_s = cursor_ticks, None
        if lane is not None:
            self.lane = lane
        if before != (self.keys, self.cursor_ticks, self.lane, self.moment_s):
            self.changed.emit()

    def indices(self, pattern: Pattern) -> tuple[int, ...]:
        """Where the chosen hits stand in a pattern's row; looked up once for each version."""
        if self._found is None or self._found[0] is not pattern or self._found[1] is not self.keys:
            before = self._found[2] if self._found is not None and self._found[1] == self.keys else ()
            # An edit mostly leaves hits where they stood; keys are their own, so that none can stand elsewhere too.
            same = len(before) == len(self.keys) and all(_has(pattern, i, self.keys) for i in before)
            found = before if same else tuple(pattern.indices_of_keys(self.keys))
            self._found = (pattern, self.keys, found)
        return self._found[2]

    def hits(self, pattern: Pattern) -> list[Hit]:
        return [pattern.hits[i] for i in self.indices(pattern)]

    def set_range(self, range_ticks: Range | None) -> None:
        """What plays; an empty range is everything."""
        if range_ticks is not None and range_ticks[0] >= range_ticks[1]:
            range_ticks = None
        if range_ticks != self.range_ticks:
            self.range_ticks = range_ticks
            self.range_changed.emit()

    def start_over(self) -> None:
        """For another document."""
        self.keys, self.cursor_ticks, self.moment_s = frozenset(), 0, None
        self.quarter_px = self.second_px = 0.0
        self.set_range(None)
        self.changed.emit()


def _has(pattern: Pattern, index: int, keys: frozenset[int]) -> bool:
    return index < len(pattern.hits) and pattern.hits[index].key in keys
