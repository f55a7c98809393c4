"""The road map drawn: a small picture of its hits for each bar, its letter, and how far it is from its base."""

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractScrollArea

from ghoststep.desk.form.road import CELL_H, HEAD_H, LEFT, Cell, Road, road
from ghoststep.desk.look.look import Look, font
from ghoststep.music.form import Form
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANE_OF_VOICE, LANES
from ghoststep.music.touch import Role

_KEYS = {
    Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1),
}  # fmt: skip


class RoadMap(QAbstractScrollArea):
    """Cells that can be walked with the arrow keys; one is chosen."""

    chosen_changed = Signal()
    opened = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.form: Form | None = None
        self.groove = Groove()
        self.road = Road((), (), 0.0)
        self.chosen = 0
        self._playing: int | None = None
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
        top = cell.y - (HEAD_H if cell.index == 0 else 4)
        bar.setValue(min(max(bar.value(), round(cell.y + CELL_H + 8) - self.viewport().height()), round(top)))
        self.viewport().update()
        self.chosen_changed.emit()

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
        for i, cell in enumerate(self.road.cells):
            if low <= cell.y <= high:
                self._paint_cell(painter, i, cell)
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

    def _paint_cell(self, painter: QPainter, index: int, cell: Cell) -> None:
        area = QRectF(cell.x, cell.y, cell.w, CELL_H)
        painter.fillRect(area, Look.color("raised" if index == self._playing else "panel"))
        # The further a bar is from its base, the stronger the line at its left side.
        if cell.base:
            painter.fillRect(QRectF(cell.x, cell.y, 2 + 22 * min(cell.apart, 0.5), CELL_H), Look.color("lamp", 190))
        self._paint_hits(painter, area.adjusted(16, 20, -6, -5), cell)
        painter.setFont(font(13, bold=True))
        painter.setPen(Look.color("text"))
        told = f"{cell.part} = {cell.base}" if cell.base else cell.part
        painter.drawText(area.adjusted(16, 2, -6, 0), Qt.AlignmentFlag.AlignTop, told)
        painter.setFont(font(11))
        painter.setPen(Look.color("dim"))
        flags = Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight
        painter.drawText(area.adjusted(0, 3, -6, 0), flags, f"{cell.first_bar}")
        if cell.other:  # a bar of it is otherwise here
            painter.setPen(QPen(Look.color("warn"), 2))
            painter.drawLine(
                QPointF(area.right() - 14, area.bottom() - 3), QPointF(area.right() - 3, area.bottom() - 3)
            )
        if index == self.chosen:
            painter.setPen(QPen(Look.color("lamp"), 2 if self.hasFocus() else 1.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 4, 4)

    def _paint_hits(self, painter: QPainter, area: QRectF, cell: Cell) -> None:
        """The hits as marks: lanes from the top of the kit to its foot, accents longer, ghosts hollow."""
        pattern = self.groove.pattern
        start = pattern.frame.start_of(cell.first_bar)
        end = pattern.frame.start_of(cell.first_bar + cell.bars)
        scale = area.width() / max(end - start, 1)
        painter.setPen(QPen(Look.color("line"), 1))
        for bar in range(1, cell.bars):
            x = area.left() + (pattern.frame.start_of(cell.first_bar + bar) - start) * scale
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
        for i in pattern.between(start, end):
            h = pattern.hits[i]
            if h.grace:
                continue
            x = area.left() + (h.position_ticks - start) * scale
            y = area.top() + (LANE_OF_VOICE[h.voice] + 0.5) / len(LANES) * area.height()
            color = Look.limb(h.limb_letter)
            half = {Role.GHOST: 1.4, Role.NORMAL: 2.2, Role.ACCENT: 3.2}[h.role]
            if h.role is Role.GHOST:
                painter.setPen(QPen(color, 1))
                painter.drawLine(QPointF(x, y - half), QPointF(x, y + half))
            else:
                painter.fillRect(QRectF(x - 1.1, y - half, 2.2, 2 * half), color)

    # -- the mouse and the keys ---------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._laid_out()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        found = self.road.at(at.x(), at.y() + self.verticalScrollBar().value())
        if found is not None:
            self.choose(found)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.mousePressEvent(event)
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
