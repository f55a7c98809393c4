"""The grid on screen: stems on lanes, a keyboard cursor, mouse editing, the playhead.

The layer (see `layered`) is made of two: the ground, which edits of hits leave alone, and on it cursor and stems.
"""

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QToolTip

from ghoststep.desk.geometry import GUTTER_W, RULER_H, Geometry, shown_lanes
from ghoststep.desk.grid_paint import Lean, paint_ground, paint_gutter, paint_ruler, paint_stems
from ghoststep.desk.layered import LayeredView
from ghoststep.desk.look import Look, font
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANES, voice
from ghoststep.music.pattern import Hit
from ghoststep.music.spots import all_names
from ghoststep.music.time import TICKS_PER_QUARTER

ZOOM_LIMITS_PX = (12.0, 1600.0)
MAGNIFICATIONS = (1, 2, 4, 8)
_DRAG_START_PX = 4


class GridView(LayeredView):
    """Shows a groove and reports what the user points at; it changes nothing itself."""

    selection_changed = Signal()
    cursor_moved = Signal()
    hit_wanted = Signal(int, str)  # place a hit: position in ticks, voice
    drag_changed = Signal(int, float)  # while dragging one hit: velocity, offset in ms
    drag_ended = Signal(int, float)
    region_wanted = Signal(object)  # (start, end) in ticks, or None
    gutter_px = GUTTER_W

    def __init__(self) -> None:
        super().__init__()
        self.groove = Groove()
        self.lean: Lean = {}
        self.chosen: set[int] = set()
        self.cursor_ticks, self.cursor_row = 0, 0
        self.region: tuple[int, int] | None = None
        self.all_lanes = False
        self.magnify = 4
        self._quarter_px = 0.0  # 0: fit as many bars as are readable
        self._ground: tuple[tuple[object, ...], QPixmap] | None = None
        self._playhead: float | None = None  # in ticks
        self._press: QPointF | None = None
        self._dragged: Hit | None = None
        self._dragging = False
        self._band: QRectF | None = None
        self._region_from: int | None = None
        self.viewport().setMouseTracking(True)
        self.setAccessibleName("Grid")

    # -- state --------------------------------------------------------------------------------------------------

    def show_groove(self, groove: Groove, lean: Lean) -> None:
        """Show a groove; what was chosen stays chosen where the same hits are still there."""
        kept = {id(h) for h in self.chosen_hits()}
        spots = {(h.position_ticks, h.voice, h.grace) for h in self.chosen_hits()}
        self.groove, self.lean = groove, lean
        hits = groove.pattern.hits
        self.chosen = {i for i, h in enumerate(hits) if id(h) in kept or (h.position_ticks, h.voice, h.grace) in spots}
        self.cursor_ticks = min(self.cursor_ticks, max(groove.pattern.length_ticks - 1, 0))
        self.cursor_row = min(self.cursor_row, len(self.geometry_now().lanes) - 1)
        self.refresh()
        self.selection_changed.emit()

    def chosen_hits(self) -> list[Hit]:
        hits = self.groove.pattern.hits
        return [hits[i] for i in sorted(self.chosen) if i < len(hits)]

    def choose(self, indices: set[int]) -> None:
        self.chosen = indices
        self.refresh()
        self.selection_changed.emit()

    def geometry_now(self) -> Geometry:
        view = self.viewport()
        return Geometry(
            self.groove, shown_lanes(self.groove, everything=self.all_lanes), self._zoom(),
            self.horizontalScrollBar().value(), view.width(), view.height(), self.magnify,
        )  # fmt: skip

    def _zoom(self) -> float:
        if self._quarter_px:
            return self._quarter_px
        bar_q = self.groove.pattern.meter.bar_ticks / TICKS_PER_QUARTER
        bars = min(self.groove.pattern.bars, 2)
        return max((self.viewport().width() - GUTTER_W - 60) / (bar_q * bars), 30.0)

    def zoom(self, factor: float, around_x: float | None = None) -> None:
        """Zoom in time around a point of the viewport; 0 fits two bars again."""
        g = self.geometry_now()
        x = around_x if around_x is not None else g.x_of(self.cursor_ticks)
        ticks = g.ticks_at(x)
        low, high = ZOOM_LIMITS_PX
        self._quarter_px = min(max(g.quarter_px * factor, low), high) if factor else 0.0
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

    def paint_over(self, painter: QPainter) -> None:
        if self._band is not None:
            painter.setPen(QPen(Look.color("lamp"), 1, Qt.PenStyle.DashLine))
            painter.setBrush(Look.color("lamp", 30))
            painter.drawRect(self._band)

    def painted_layer(self, ratio: float) -> QPixmap:
        """The picture without the playhead: the ground, which edits of hits leave alone, and on it cursor and stems."""
        g = self.geometry_now()
        key = self._ground_key(g, ratio)
        if self._ground is None or self._ground[0] != key:
            self._ground = (key, self._painted_ground(g, ratio))
        layer = QPixmap(self._ground[1])
        painter = QPainter(layer)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(QRectF(GUTTER_W, RULER_H, g.width, g.height))
        self._paint_cursor(painter, g)
        paint_stems(painter, g, self.chosen, GUTTER_W, g.width, ratio)
        painter.end()
        return layer

    def _ground_key(self, g: Geometry, ratio: float) -> tuple[object, ...]:
        """Everything the ground shows; the same key is the same picture."""
        p = g.groove.pattern
        shown = (g.lanes, g.quarter_px, g.scroll_px, g.width, g.height, g.magnify, ratio, Look.theme.name)
        meant = (p.meter, p.bars, p.grid, p.lane_grids, g.groove.feel.swing)
        return (*shown, *meant, self.region, tuple(self.lean.items()))

    def _painted_ground(self, g: Geometry, ratio: float) -> QPixmap:
        ground = self.empty_layer(ratio)
        painter = QPainter(ground)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_ground(painter, g)
        paint_ruler(painter, g, self.region)
        paint_gutter(painter, g, self.lean)
        painter.setFont(font(11))
        painter.setPen(Look.color("dim"))
        painter.drawText(QPointF(12, 18), f"deviation ×{self.magnify}")
        painter.end()
        return ground

    def _paint_cursor(self, painter: QPainter, g: Geometry) -> None:
        if not self.hasFocus() or not g.lanes:
            return
        step = g.step_of(self.cursor_row)
        x, next_x = g.line_x(self.cursor_ticks), g.line_x(self.cursor_ticks + step)
        half = max((next_x - x) / 2, 6)
        top = g.lane_top(self.cursor_row)
        painter.setPen(QPen(Look.color("lamp"), 1.5))
        painter.setBrush(Look.color("lamp", 26))
        painter.drawRoundedRect(QRectF(x - half, top + 3, 2 * half, g.lane_h - 6), 4, 4)

    def focusInEvent(self, event: object) -> None:
        super().focusInEvent(event)  # type: ignore[arg-type]
        self.refresh()

    def focusOutEvent(self, event: object) -> None:
        super().focusOutEvent(event)  # type: ignore[arg-type]
        self.refresh()

    # -- keyboard -----------------------------------------------------------------------------------------------

    def move_cursor(self, steps: int, rows: int) -> None:
        """Move by steps and lanes; what stands there is chosen."""
        g = self.geometry_now()
        self.cursor_row = min(max(self.cursor_row + rows, 0), len(g.lanes) - 1)
        step = g.step_of(self.cursor_row)
        last = self.groove.pattern.length_ticks - step
        here = round(self.cursor_ticks / step) * step
        self.put_cursor(min(max(here + steps * step, 0), last), self.cursor_row)

    def put_cursor(self, ticks: int, row: int) -> None:
        self.cursor_ticks, self.cursor_row = ticks, row
        lane = LANES[self.geometry_now().lanes[row]]
        hits = self.groove.pattern.hits
        self.chosen = {i for i, h in enumerate(hits) if h.position_ticks == ticks and h.voice in lane.voices}
        self.reveal(ticks)
        self.refresh()
        self.selection_changed.emit()
        self.cursor_moved.emit()

    def next_hit(self, direction: int) -> None:
        """To the next or previous hit of the lane under the cursor."""
        lane = LANES[self.geometry_now().lanes[self.cursor_row]]
        ticks = [h.position_ticks for h in self.groove.pattern.hits if h.voice in lane.voices]
        ahead = [t for t in ticks if (t - self.cursor_ticks) * direction > 0]
        if ahead:
            self.put_cursor(min(ahead) if direction > 0 else max(ahead), self.cursor_row)

    def reveal(self, ticks: int) -> None:
        g = self.geometry_now()
        x, bar = g.x_of(ticks), self.horizontalScrollBar()
        if x < GUTTER_W + 20:
            bar.setValue(round(bar.value() + x - GUTTER_W - 60))
        elif x > g.width - 40:
            bar.setValue(round(bar.value() + x - g.width + 120))

    @property
    def cursor_voice(self) -> str:
        """The voice a new hit at the cursor gets: what was struck last in the lane before it, else its first."""
        lane = LANES[self.geometry_now().lanes[self.cursor_row]]
        return lane.voices[0]

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()  # keys are commands of the window, all in one table

    # -- mouse --------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        g, at = self.geometry_now(), event.position()
        self._press, self._dragging = at, False
        if at.y() < RULER_H:
            self._region_from = self._beat_at(g, at.x(), up=False)
            return
        found = g.hit_at(at.x(), at.y())
        adding = bool(event.modifiers() & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier))
        if found is not None:
            index = next(i for i, h in enumerate(self.groove.pattern.hits) if h is found)
            if adding:
                self.choose(self.chosen ^ {index})
            elif index not in self.chosen:
                self.choose({index})
            self._dragged = found
            row = g.row_of(found.voice)
            self.cursor_ticks, self.cursor_row = found.position_ticks, row if row is not None else self.cursor_row
            self.refresh()
        elif (row := g.row_at(at.y())) is not None and at.x() > GUTTER_W:
            self.put_cursor(g.spot_at(row, at.x()), row)

    def _beat_at(self, g: Geometry, x: float, *, up: bool) -> int:
        unit = self.groove.pattern.meter.unit_ticks
        ticks = g.ticks_at(x)
        beat = -int(-ticks // unit) if up else int(ticks // unit)
        return min(max(beat * unit, 0), self.groove.pattern.length_ticks)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at, g = event.position(), self.geometry_now()
        if self._press is None:
            self._tell(g, at, event.globalPosition().toPoint())
            return
        if (at - self._press).manhattanLength() < _DRAG_START_PX and not self._dragging:
            return
        self._dragging = True
        if self._region_from is not None:
            end = self._beat_at(g, at.x(), up=True)
            self.region = (min(self._region_from, end), max(self._region_from, end))
            self.refresh()
        elif self._dragged is not None:
            self.drag_changed.emit(*self._drag_values(g, at))
        else:
            self._band = QRectF(self._press, at).normalized()
            self._choose_band(g)

    def _drag_values(self, g: Geometry, at: QPointF) -> tuple[int, float]:
        """Velocity by height and deviation by side, each only once the drag goes that way."""
        hit, press = self._dragged, self._press
        assert hit is not None and press is not None
        by = at - press
        velocity, offset = hit.velocity, hit.offset_ms
        if abs(by.y()) >= _DRAG_START_PX:
            velocity = round(min(max(hit.velocity - by.y() / g.full_stem * 127, 1), 127))
        if abs(by.x()) > _DRAG_START_PX:
            offset = round(hit.offset_ms + by.x() / g.ms_px(hit.position_ticks), 1)
        return velocity, offset

    def _choose_band(self, g: Geometry) -> None:
        band = self._band
        chosen = set()
        for i, h in enumerate(self.groove.pattern.hits):
            row = g.row_of(h.voice)
            if row is not None and band is not None and band.contains(QPointF(g.stem_x(h), g.head_y(row, h.velocity))):
                chosen.add(i)
        self.choose(chosen)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        g = self.geometry_now()
        if self._region_from is not None:
            self.region_wanted.emit(self.region if self._dragging else None)
        elif self._dragged is not None and self._dragging:
            self.drag_ended.emit(*self._drag_values(g, event.position()))
        self._press = self._dragged = self._band = self._region_from = None
        self._dragging = False
        self.refresh()

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
        names = " = ".join(all_names(g.spot_at(row, at.x()), pattern.meter, pattern.grid))
        hit = g.hit_at(at.x(), at.y())
        if hit is not None:
            late = self.groove.feel.lean_of(hit.voice) + hit.offset_ms
            side = "late" if late > 0 else "early"
            names = " = ".join(all_names(hit.position_ticks, pattern.meter, pattern.grid))
            names += f"\n{voice(hit.voice).label}, velocity {hit.velocity}, {abs(late):.1f} ms {side}"
        QToolTip.showText(where, names, self.viewport())
