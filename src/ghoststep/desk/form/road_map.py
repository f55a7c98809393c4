"""The road map drawn: a small picture of its hits for each bar, its letter, and how far it is from its base."""

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractScrollArea

from ghoststep.desk.form.cell_paint import CellPictures
from ghoststep.desk.form.road import CELL_H, HEAD_H, LEFT, Cell, Road, road
from ghoststep.desk.look.look import Look, font
from ghoststep.music.form import Form
from ghoststep.music.groove import Groove

_DRAG_FROM = 8  # pixels
_KEYS = {
    Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1),
}  # fmt: skip


class RoadMap(QAbstractScrollArea):
    """Cells that can be walked with the arrow keys; one is chosen."""

    chosen_changed = Signal()
    opened = Signal()
    dropped = Signal(int, int, bool, bool)  # the cell that was dragged, beside which one, behind it, as a copy

    def __init__(self) -> None:
        super().__init__()
        self.form: Form | None = None
        self.groove = Groove()
        self.road = Road((), (), 0.0)
        self.chosen = 0
        self._playing: int | None = None
        self._pictures = CellPictures()
        self._pressed: QPointF | None = None
        self._gap: tuple[int, bool] | None = None  # where what is dragged would go
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Road map")
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)

    def show_form(self, form: Form | None, groove: Groove) -> None:
        """Show a form and the groove it is unrolled to; the place of what was chosen stays chosen."""
        self.form, self.groove = form, groove
        self._laid_out()
        self.chosen_changed.emit()

    def _laid_out(self) -> None:
        width = float(self.viewport().width())
        self.road = road(self.form, width) if self.form is not None else Road((), (), 0.0)
        self.chosen = min(self.chosen, max(len(self.road.cells) - 1, 0))
        self.verticalScrollBar().setRange(0, max(0, round(self.road.height) - self.viewport().height()))
        self.verticalScrollBar().setPageStep(self.viewport().height())
        self.verticalScrollBar().setSingleStep(round(CELL_H))
        self.viewport().update()

    @property
    def cell(self) -> Cell | None:
        """The cell that is chosen."""
        return self.road.cells[self.chosen] if self.road.cells else None

    def choose(self, index: int) -> None:
        """Choose a cell and bring it into sight."""
        if not self.road.cells:
            return
        self.chosen = min(max(index, 0), len(self.road.cells) - 1)
        cell, bar = self.road.cells[self.chosen], self.verticalScrollBar()
        top = cell.y - (HEAD_H if cell.nth <= 0 else 4)
        bar.setValue(min(max(bar.value(), round(cell.y + CELL_H + 8) - self.viewport().height()), round(top)))
        self.viewport().update()
        self.chosen_changed.emit()

    def choose_section(self, number: int) -> None:
        """Choose the first playing of a section, by its number in the form."""
        self.choose_playing(number, 0)

    def choose_playing(self, section: int, nth: int) -> None:
        """Choose a playing by its section and its place in it."""
        found = [i for i, c in enumerate(self.road.cells) if (c.section, c.nth) == (section, nth)]
        if found:
            self.choose(found[0])

    def set_playhead(self, bar: int | None) -> None:
        """Mark the cell that sounds."""
        playing = None if bar is None else self.road.of_bar(bar)
        if playing != self._playing:
            self._playing = playing
            self.viewport().update()

    # -- drawing ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.viewport().rect(), Look.color("ground"))
        top = self.verticalScrollBar().value()
        painter.translate(0, -top)
        low, high = top - CELL_H, top + self.viewport().height()
        for head in self.road.heads:
            if low - HEAD_H <= head.y <= high:
                self._paint_head(painter, head.y, head.name, head.first_bar, head.bars)
        seen = [(i, cell) for i, cell in enumerate(self.road.cells) if low <= cell.y <= high]
        self._paint_cells(painter, seen)
        painter.end()

    def _paint_head(self, painter: QPainter, y: float, name: str, first: int, bars: int) -> None:
        painter.setFont(font(14, bold=True))
        painter.setPen(Look.color("text"))
        area = QRectF(LEFT, y, 400, HEAD_H - 2)
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, name)
        x = LEFT + painter.fontMetrics().horizontalAdvance(name) + 10
        painter.setFont(font(12))
        painter.setPen(Look.color("dim"))
        told = f"bars {first} to {first + bars - 1}" if bars > 1 else f"bar {first}"
        painter.drawText(QRectF(x, y, 300, HEAD_H - 2), Qt.AlignmentFlag.AlignVCenter, told)

    def _paint_cells(self, painter: QPainter, seen: list[tuple[int, Cell]]) -> None:
        ratio, pattern = self.devicePixelRatioF(), self.groove.pattern
        for i, cell in seen:
            base = self.form.part(cell.base).pattern if self.form is not None and cell.base else None
            picture = self._pictures.of(cell, pattern, base, playing=i == self._playing, ratio=ratio)
            painter.drawPixmap(QPointF(cell.x, cell.y), picture)
        painter.setFont(font(11))
        painter.setPen(Look.color("dim"))
        flags = Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight
        for _, cell in seen:
            painter.drawText(QRectF(cell.x, cell.y + 3, cell.w - 6, 20), flags, str(cell.first_bar))
        if self._gap is not None:
            painter.fillRect(self._gap_line(self._gap), Look.color("lamp"))
        if self.cell is not None:
            painter.setPen(QPen(Look.color("lamp"), 2 if self.hasFocus() else 1.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            area = QRectF(self.cell.x, self.cell.y, self.cell.w, CELL_H)
            painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 4, 4)

    def _gap_line(self, gap: tuple[int, bool]) -> QRectF:
        """The line beside a cell where something would be put in."""
        cell = self.road.cells[gap[0]]
        return QRectF(cell.x + cell.w + 1.5 if gap[1] else cell.x - 4.5, cell.y, 3, CELL_H)

    def look_changed(self) -> None:
        """Other colours."""
        self._pictures.forget()
        self.viewport().update()

    # -- the mouse and the keys ---------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._laid_out()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        found = self.road.at(at.x(), at.y() + self.verticalScrollBar().value())
        if found is not None:
            self.choose(found)
            self._pressed = at if event.button() == Qt.MouseButton.LeftButton else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._pressed is None or (at - self._pressed).manhattanLength() < _DRAG_FROM:
            return
        gap = self.road.gap_at(at.x(), at.y() + self.verticalScrollBar().value())
        if gap != self._gap:
            self._gap = gap
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.viewport().update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        gap, self._gap, self._pressed = self._gap, None, None
        self.unsetCursor()
        if gap is not None:
            self.viewport().update()
            self.dropped.emit(self.chosen, *gap, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.mousePressEvent(event)
        self._pressed = None
        self.opened.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = _KEYS.get(Qt.Key(event.key()))
        if step is None or not self.road.cells or event.modifiers() not in (
            Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.KeypadModifier,
        ):  # fmt: skip
            super().keyPressEvent(event)
        elif step[0]:
            self.choose(self.chosen + step[0])
        else:
            self.choose(self.road.beside(self.chosen, step[1]))

    def focusInEvent(self, event: object) -> None:
        super().focusInEvent(event)  # type: ignore[arg-type]
        self.viewport().update()

    def focusOutEvent(self, event: object) -> None:
        super().focusOutEvent(event)  # type: ignore[arg-type]
        self.viewport().update()
