"""The grid on screen: stems on lanes, a keyboard cursor, mouse editing, the playhead.

What stands still is kept in strips (see `grid_tiles`), so that an edit paints a few hundred pixels and not all.
"""

import math
from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QLineF, QPoint, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QToolTip

from ghoststep.desk.grid.geometry import GUTTER_W, LEFT_PAD, RIGHT_PAD, RULER_H, Geometry, shown_lanes
from ghoststep.desk.grid.gestures import DRAG_START_PX, BandDrag, Gesture, HitDrag, LineDrag, RangeDrag, SwingDrag
from ghoststep.desk.grid.grid_paint import Lean, paint_gutter, paint_leaving, paint_proposed
from ghoststep.desk.grid.grid_tiles import Tiles
from ghoststep.desk.grid.stick_paint import paint_names, paint_stick_head
from ghoststep.desk.look.layered import LayeredView
from ghoststep.desk.look.look import Look
from ghoststep.desk.model.choice import Choice, Range
from ghoststep.feel.perform import steady_velocities
from ghoststep.music.frame import Spot
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANE_OF_VOICE, LANES, voice
from ghoststep.music.pattern import Hit
from ghoststep.music.spots import all_names
from ghoststep.music.time import TICKS_PER_QUARTER, step_ticks

if TYPE_CHECKING:
    from ghoststep.judge.names import Named

ZOOM_LIMITS_PX = (4.0, 1600.0)  # of a quarter: from 64 bars on a screen to single milliseconds
MAGNIFICATIONS = (1, 2, 4, 8)
_MOST_PLAYED = 8000  # hits up to which what touch makes of each is worked out for every picture
_FRAME_SHARE_S = 0.006  # of a frame while scrolling; strips that take longer come with the next
MOST_BARS_ON_SCREEN = 16


class GridView(LayeredView):
    """Shows a groove and reports what the user points at (see `gestures`); it changes nothing itself."""

    selection_changed = Signal()
    cursor_moved = Signal()
    hit_wanted = Signal(int, str)  # place a hit: position in ticks, voice
    drag_changed = Signal(int, float)  # while dragging: velocity and ms, as changes of the hit under the mouse
    drag_ended = Signal(int, float)
    swing_changed = Signal(object, str)  # while an off note is dragged with Alt: the swing, and the voice it is of
    swing_ended = Signal(object, str)
    region_wanted = Signal(object)  # (start, end) in ticks, or None
    line_drawn = Signal(int, object)  # row, and points of (position in ticks, velocity)
    gutter_px = GUTTER_W

    def __init__(self, choice: Choice | None = None) -> None:
        super().__init__()
        self.groove = Groove()
        self.lean: Lean = {}
        self.choice = choice or Choice()
        self.choice.changed.connect(self._choice_changed)
        self.choice.range_changed.connect(self._range_changed)
        self.proposed: tuple[Hit, ...] = ()  # drawn dotted, as long as they are only proposed
        self.leaving: tuple[Hit, ...] = ()  # drawn struck through, as long as that is only proposed
        self.all_lanes = False
        self._extra_lanes: frozenset[int] = frozenset()  # those of what is proposed
        self.magnify = 4
        self.tiles = Tiles()
        self._gutter: tuple[tuple[object, ...], QPixmap] | None = None
        self._playhead: float | None = None  # in ticks
        self._scrolling = False
        self._gesture: Gesture | None = None
        self._played: tuple[Groove | None, Sequence[int] | None] = (None, None)
        self.names: tuple[Named, ...] = ()
        self.letters: tuple[str, ...] = ()  # the part of each bar
        self._dragging = False
        self.viewport().setMouseTracking(True)
        self.setAccessibleName("Grid")

    # -- state --------------------------------------------------------------------------------------------------

    def show_groove(self, groove: Groove, lean: Lean) -> None:
        """Show a groove; what was chosen stays chosen where the same hits are still there."""
        if groove.pattern is not self.groove.pattern:
            self.names = ()
        self.groove, self.lean = groove, lean
        self.refresh()
        self.selection_changed.emit()

    @property
    def chosen(self) -> set[int]:
        """Indices of the chosen hits in the pattern that is shown."""
        return set(self.choice.indices(self.groove.pattern))

    @property
    def cursor_ticks(self) -> int:
        return min(self.choice.cursor_ticks, max(self.groove.pattern.length_ticks - 1, 0))

    @property
    def cursor_row(self) -> int:
        """The row of the cursor's lane; the nearest one where that lane is not shown."""
        lanes = self.geometry_now().lanes
        if self.choice.lane in lanes:
            return lanes.index(self.choice.lane)
        return min(range(len(lanes)), key=lambda row: abs(lanes[row] - self.choice.lane))

    @property
    def region(self) -> Range | None:
        drawn = self._gesture.range_ticks if self._gesture is not None else None
        return drawn or self.choice.range_ticks

    def _choice_changed(self) -> None:
        if self.isVisible():
            self.viewport().update()
        self.selection_changed.emit()

    def _range_changed(self) -> None:
        if self.isVisible():
            self.refresh()

    def chosen_hits(self) -> list[Hit]:
        return self.choice.hits(self.groove.pattern)

    def choose(self, indices: Iterable[int]) -> None:
        """Choose hits by their place in the pattern that is shown."""
        hits = self.groove.pattern.hits
        self.choice.put(keys=(hits[i].key for i in indices))

    def show_names(self, names: "Sequence[Named]") -> None:
        """Show what strokes are called, until the pattern is another."""
        self.names = tuple(names)
        self.viewport().update()

    def propose(self, hits: tuple[Hit, ...], gone: tuple[Hit, ...] = ()) -> None:
        """Show hits that may come, dotted, and mark those that may go; none takes them away."""
        lanes = {LANE_OF_VOICE[h.voice] for h in hits}
        more = not lanes <= set(self.geometry_now().lanes) or self._extra_lanes != lanes & self._extra_lanes
        self.proposed, self.leaving = hits, gone
        if more or self._extra_lanes:
            self._extra_lanes = frozenset(lanes)
            self.refresh()
        self.viewport().update()

    def geometry_now(self) -> Geometry:
        view = self.viewport()
        return Geometry(
            self.groove, self._lanes(), self._zoom(),
            self.horizontalScrollBar().value(), view.width(), view.height(), self.magnify, self._played_now(),
            self.letters,
        )  # fmt: skip

    def _lanes(self) -> tuple[int, ...]:
        """The lanes in use, and those in which something is proposed."""
        shown = shown_lanes(self.groove.pattern, everything=self.all_lanes)
        return tuple(sorted({*shown, *self._extra_lanes})) if self._extra_lanes else shown

    def _played_now(self) -> Sequence[int] | None:
        if self._played[0] is not self.groove:
            few = len(self.groove.pattern.hits) <= _MOST_PLAYED
            self._played = (self.groove, steady_velocities(self.groove) if few else None)
        return self._played[1]

    def _zoom(self) -> float:
        if self.choice.quarter_px:
            return self.choice.quarter_px
        return max(self._zoom_for(2), 30.0)

    def _zoom_for(self, bars: int) -> float:
        """Pixels of a quarter with this many bars, or all there are, on the screen."""
        pattern = self.groove.pattern
        quarters = pattern.frame.start_of(min(pattern.bars, bars) + 1) / TICKS_PER_QUARTER
        return (self.viewport().width() - GUTTER_W - LEFT_PAD - RIGHT_PAD) / quarters

    def fit_all(self) -> None:
        """All bars on the screen; of more than 16 the 16 from the page of the cursor on."""
        low, high = ZOOM_LIMITS_PX
        self.choice.quarter_px = min(max(self._zoom_for(MOST_BARS_ON_SCREEN), low), high)
        self.set_scroll_range()
        g, frame = self.geometry_now(), self.groove.pattern.frame
        first = (frame.spot_at(self.cursor_ticks).bar - 1) // MOST_BARS_ON_SCREEN * MOST_BARS_ON_SCREEN + 1
        shift = g.x_of(frame.start_of(first)) - g.x_of(0)
        self.horizontalScrollBar().setValue(round(shift))
        self.refresh()

    def zoom(self, factor: float, around_x: float | None = None) -> None:
        """Zoom in time around a point of the viewport; 0 fits two bars again."""
        g = self.geometry_now()
        x = around_x if around_x is not None else g.x_of(self.cursor_ticks)
        ticks = g.ticks_at(x)
        low, high = ZOOM_LIMITS_PX
        self.choice.quarter_px = min(max(g.quarter_px * factor, low), high) if factor else 0.0
        self.set_scroll_range()
        moved = self.geometry_now().x_of(ticks) - x
        self.horizontalScrollBar().setValue(round(self.horizontalScrollBar().value() + moved))
        self.refresh()

    def set_magnify(self, times: int) -> None:
        self.magnify = times
        self.refresh()

    def set_scroll_range(self) -> None:
        g = self.geometry_now()
        bar = self.horizontalScrollBar()
        bar.setPageStep(max(1, g.width - GUTTER_W))
        bar.setRange(0, max(0, round(g.content_w) - (g.width - GUTTER_W)))
        bar.setSingleStep(max(1, round(g.quarter_px / 4)))

    def set_playhead(self, ticks: float | None, *, follow: bool = True) -> None:
        """Move the playhead, painting only the two strips it leaves and enters."""
        self._playhead = ticks
        g = self.geometry_now()
        if ticks is not None and follow and not GUTTER_W <= g.x_of(ticks) <= g.width - 30:
            bar = self.horizontalScrollBar()
            bar.setValue(round(bar.value() + g.x_of(ticks) - GUTTER_W - 60))
            g = self.geometry_now()
        self.move_playhead(None if ticks is None else g.x_of(ticks))

    # -- painting -----------------------------------------------------------------------------------------------

    def paint_content(self, painter: QPainter, rect: QRectF) -> None:
        """Strips that are kept, the gutter, and over them the cursor, which moves often."""
        g, ratio = self.geometry_now(), self.devicePixelRatioF()
        within_s = _FRAME_SHARE_S if self._scrolling else math.inf
        complete = self.tiles.draw(painter, g, rect, self.chosen, self.region, ratio, within_s=within_s)
        if complete:
            self._scrolling = False
        else:
            QTimer.singleShot(0, self.viewport().update)
        if self.names:
            paint_names(painter, g, self.names, rect.left(), rect.right())
        paint_leaving(painter, g, self.leaving, rect.left(), rect.right())
        paint_proposed(painter, g, self.proposed, rect.left(), rect.right())
        self._paint_cursor(painter, g)
        if rect.left() < GUTTER_W:
            painter.drawPixmap(0, 0, self._gutter_pixmap(g, ratio))

    def scrollContentsBy(self, dx: int, dy: int) -> None:
        self._scrolling = True
        super().scrollContentsBy(dx, dy)

    def _gutter_pixmap(self, g: Geometry, ratio: float) -> QPixmap:
        p = g.groove.pattern
        meant = (p.rules, p.lane_grids, p.grid, p.passages, tuple(self.lean.items()))
        key = (g.lanes, g.height, g.magnify, ratio, Look.theme.name, *meant)
        if self._gutter is None or self._gutter[0] != key:
            pixmap = QPixmap(round((GUTTER_W + 1) * ratio), round(g.height * ratio))
            pixmap.setDevicePixelRatio(ratio)
            pixmap.fill(Look.color("ground"))
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint_gutter(painter, g, self.lean)
            paint_stick_head(painter, g)
            painter.end()
            self._gutter = (key, pixmap)
        return self._gutter[1]

    def paint_over(self, painter: QPainter) -> None:
        if self._gesture is None:
            return
        if self._gesture.band_px is not None:
            left, top, right, bottom = self._gesture.band_px
            painter.setPen(QPen(Look.color("lamp"), 1, Qt.PenStyle.DashLine))
            painter.setBrush(Look.color("lamp", 30))
            painter.drawRect(QRectF(left, top, right - left, bottom - top))
        if self._gesture.line_px is not None:
            painter.setPen(QPen(Look.color("lamp"), 2))
            painter.drawLine(QLineF(*self._gesture.line_px))

    def _paint_cursor(self, painter: QPainter, g: Geometry) -> None:
        if not self.hasFocus() or not g.lanes:
            return
        step = g.step_of(self.cursor_row, self.cursor_ticks)
        x, next_x = g.line_x(self.cursor_ticks), g.line_x(self.cursor_ticks + step)
        half = max((next_x - x) / 2, 6)
        top = g.lane_top(self.cursor_row)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(Look.color("lamp"), 1.5))
        painter.setBrush(Look.color("lamp", 26))
        painter.drawRoundedRect(QRectF(x - half, top + 3, 2 * half, g.lane_h - 6), 4, 4)

    def focusInEvent(self, event: object) -> None:
        super().focusInEvent(event)  # type: ignore[arg-type]
        self.viewport().update()

    def focusOutEvent(self, event: object) -> None:
        super().focusOutEvent(event)  # type: ignore[arg-type]
        self.viewport().update()

    # -- keyboard -----------------------------------------------------------------------------------------------

    def move_cursor(self, steps: int, rows: int) -> None:
        """Move by steps and lanes; what stands there is chosen."""
        g = self.geometry_now()
        row = min(max(self.cursor_row + rows, 0), len(g.lanes) - 1)
        ticks = g.next_step(row, self.cursor_ticks, steps) if steps else g.nearest_step(row, self.cursor_ticks)
        self.put_cursor(ticks, row)

    def move_fine(self, by: int) -> None:
        """Move by 64ths, between the steps."""
        to = self.cursor_ticks + by * step_ticks(64)
        self.put_cursor(min(max(to, 0), self.groove.pattern.length_ticks - 1), self.cursor_row)

    def move_bars(self, bars: int) -> None:
        """Move by whole bars, as far as there are any."""
        pattern = self.groove.pattern
        spot = pattern.frame.spot_at(self.cursor_ticks)
        length = pattern.frame.length_of(spot.bar + bars)
        to = pattern.frame.ticks_of(Spot(spot.bar + bars, min(spot.tick, length - 1)))
        self.put_cursor(to if 0 <= to < pattern.length_ticks else self.cursor_ticks, self.cursor_row)

    def stand(self, chosen: frozenset[int], ticks: int, lane: int) -> None:
        """Put cursor and choice where a command left them."""
        ticks = min(max(ticks, 0), max(self.groove.pattern.length_ticks - 1, 0))
        self.choice.put(keys=chosen, cursor_ticks=ticks, lane=lane)
        self.reveal(ticks)

    def put_cursor(self, ticks: int, row: int) -> None:
        lane = self.geometry_now().lanes[row]
        here = [self.groove.pattern.hits[i] for i in self.groove.pattern.between(ticks, ticks + 1)]
        keys = (h.key for h in here if h.voice in LANES[lane].voices)
        self.choice.put(keys=keys, cursor_ticks=ticks, lane=lane)
        self.reveal(ticks)
        self.cursor_moved.emit()

    def next_hit(self, direction: int) -> None:
        """To the next or previous hit of the lane under the cursor."""
        lane, pattern = LANES[self.geometry_now().lanes[self.cursor_row]], self.groove.pattern
        here, end = self.cursor_ticks, pattern.length_ticks
        found = pattern.between(here + 1, end) if direction > 0 else reversed(pattern.between(0, here))
        at = next((pattern.hits[i].position_ticks for i in found if pattern.hits[i].voice in lane.voices), None)
        if at is not None:
            self.put_cursor(at, self.cursor_row)

    def reveal(self, ticks: int) -> None:
        g = self.geometry_now()
        x, bar = g.x_of(ticks), self.horizontalScrollBar()
        if x < GUTTER_W + 20:
            bar.setValue(round(bar.value() + x - GUTTER_W - 60))
        elif x > g.width - 40:
            bar.setValue(round(bar.value() + x - g.width + 120))

    @property
    def cursor_voice(self) -> str:
        """The voice a new hit at the cursor gets: the first of its lane."""
        lane = LANES[self.geometry_now().lanes[self.cursor_row]]
        return lane.voices[0]

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()  # keys are commands of the window, all in one table

    # -- mouse --------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        at = event.position()
        self._gesture, self._dragging = self._begun(self.geometry_now(), at.x(), at.y(), event.modifiers()), False

    def _begun(self, g: Geometry, x: float, y: float, held: Qt.KeyboardModifier) -> Gesture:
        """What a press begins; a click alone chooses and puts the cursor there."""
        shift = bool(held & Qt.KeyboardModifier.ShiftModifier)
        if y < RULER_H:
            return RangeDrag(g, x, y, self.region_wanted.emit)
        found = g.hit_at(x, y)
        if found is not None:
            self._choose_pressed(found, adding=shift or bool(held & Qt.KeyboardModifier.ControlModifier))
            if held & Qt.KeyboardModifier.AltModifier:
                swing = SwingDrag.begun(g, x, y, found, self.swing_changed.emit, self.swing_ended.emit)
                if swing is not None:
                    return swing
            return HitDrag(x, y, found, self.drag_changed.emit, self.drag_ended.emit)
        if (row := g.row_at(y)) is not None and x > GUTTER_W:
            if shift:
                return LineDrag(x, y, row, self.line_drawn.emit)
            self.put_cursor(g.spot_at(row, x), row)
        return BandDrag(x, y, self.choose)

    def _choose_pressed(self, found: Hit, *, adding: bool) -> None:
        near = self.groove.pattern.between(found.position_ticks, found.position_ticks + 1)
        index = next(i for i in near if self.groove.pattern.hits[i] is found)
        if adding:
            self.choose(self.chosen ^ {index})
        elif index not in self.chosen:
            self.choose({index})
        self.choice.put(cursor_ticks=found.position_ticks, lane=LANE_OF_VOICE[found.voice])

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at, g, gesture = event.position(), self.geometry_now(), self._gesture
        if gesture is None:
            self._tell(g, at, event.globalPosition().toPoint())
            return
        if abs(at.x() - gesture.x) + abs(at.y() - gesture.y) < DRAG_START_PX and not self._dragging:
            return
        self._dragging = True
        gesture.moved(g, at.x(), at.y())
        if gesture.range_ticks or gesture.line_px or gesture.band_px:
            self.viewport().update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        gesture, self._gesture = self._gesture, None
        if gesture is not None:
            at = event.position()
            gesture.ended(self.geometry_now(), at.x(), at.y(), dragged=self._dragging)
        self._dragging = False
        self.viewport().update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        g, at = self.geometry_now(), event.position()
        row = g.row_at(at.y())
        if row is not None and at.x() > GUTTER_W and g.hit_at(at.x(), at.y()) is None:
            self.hit_wanted.emit(g.spot_at(row, at.x()), LANES[g.lanes[row]].voices[0])

    def _tell(self, g: Geometry, at: QPointF, where: QPoint) -> None:
        """Hovering gives every name of the spot, and the figures of a hit."""
        row = g.row_at(at.y())
        if at.x() <= GUTTER_W or (row is None and at.y() >= RULER_H):
            QToolTip.hideText()
            return
        pattern = self.groove.pattern
        if row is None:
            row = 0
        names = " = ".join(all_names(g.spot_at(row, at.x()), pattern.frame, pattern.grid))
        hit = g.hit_at(at.x(), at.y())
        if hit is not None:
            late = g.late_ms(hit)
            side = "late" if late > 0 else "early"
            names = " = ".join(all_names(hit.position_ticks, pattern.frame, pattern.grid))
            names += f"\n{voice(hit.voice).label}, velocity {hit.velocity}, {abs(late):.1f} ms {side}"
        QToolTip.showText(where, names, self.viewport())
