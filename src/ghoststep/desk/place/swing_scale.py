"""The swing as a place on a scale: straight, the middle, triplet, dotted, and what is usual at this tempo."""

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from ghoststep.desk.look.look import Look, font
from ghoststep.music.feel import SWING_LIMITS

_MARKS = ((0.5, "straight"), (2 / 3, "triplet"), (0.75, "dotted"))
_MIDDLE = (0.53, 0.62)  # what players mean by "between straight and shuffled"
_HEIGHT, _SIDE, _LINE_Y = 62, 14, 26
_STEP, _FINE = 0.005, 0.001


class SwingScale(QWidget):
    """`moved` while it is dragged, `chosen` when it is let go: the share of the first note of a pair."""

    moved = Signal(float)
    chosen = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        self._ratio = 0.5
        self._usual: float | None = None
        self._held = False
        self.setFixedHeight(_HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Swing: the share of the first note of a pair")
        self.setToolTip("Drag, or Left and Right by half a percent (with Shift by a tenth)")

    def show_ratio(self, ratio: float, usual: float | None) -> None:
        """What is set, and what is usual at this tempo, where anything is."""
        if not self._held:
            self._ratio = ratio
        self._usual = usual
        self.update()

    @property
    def ratio(self) -> float:
        return self._ratio

    def x_of(self, ratio: float) -> float:
        low, high = SWING_LIMITS
        return _SIDE + (ratio - low) / (high - low) * (self.width() - 2 * _SIDE)

    def ratio_at(self, x: float) -> float:
        low, high = SWING_LIMITS
        share = (x - _SIDE) / max(self.width() - 2 * _SIDE, 1)
        return round(min(max(low + share * (high - low), low), high), 3)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            self._held = True
            self._move(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self._move(event.position().x())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held and event.button() is Qt.MouseButton.LeftButton:
            self._held = False
            self.chosen.emit(self._ratio)

    def _move(self, x: float) -> None:
        self._ratio = self.ratio_at(x)
        self.moved.emit(self._ratio)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        sign = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if sign is None:
            super().keyPressEvent(event)
            return
        step = _FINE if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else _STEP
        low, high = SWING_LIMITS
        self._ratio = round(min(max(self._ratio + sign * step, low), high), 3)
        self.update()
        self.chosen.emit(self._ratio)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        a, b = (self.x_of(r) for r in _MIDDLE)
        painter.fillRect(QRectF(a, _LINE_Y - 6, b - a, 12), Look.color("raised"))
        painter.setPen(QPen(Look.color("strong_line"), 2))
        painter.drawLine(QPointF(self.x_of(0.5), _LINE_Y), QPointF(self.x_of(0.8), _LINE_Y))
        painter.setFont(font(11))
        for ratio, word in _MARKS:
            self._mark(painter, ratio, word)
        if self._usual is not None:
            x = self.x_of(self._usual)
            painter.setPen(QPen(Look.color("text"), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, _LINE_Y - 12), QPointF(x, _LINE_Y + 12))
            painter.setPen(Look.color("dim"))
            painter.drawText(QRectF(x - 40, 0, 80, 14), Qt.AlignmentFlag.AlignCenter, "usual here")
        painter.setPen(QPen(Look.color("ground"), 1.5))
        painter.setBrush(Look.color("lamp"))
        radius = 8 if self.hasFocus() or self._held else 7
        painter.drawEllipse(QPointF(self.x_of(self._ratio), _LINE_Y), radius, radius)
        painter.end()

    def _mark(self, painter: QPainter, ratio: float, word: str) -> None:
        x = self.x_of(ratio)
        painter.setPen(QPen(Look.color("strong_line"), 2))
        painter.drawLine(QPointF(x, _LINE_Y - 5), QPointF(x, _LINE_Y + 5))
        painter.setPen(Look.color("dim"))
        left = max(x - 34, 0.0)
        align = Qt.AlignmentFlag.AlignLeft if x < 40 else Qt.AlignmentFlag.AlignHCenter
        painter.drawText(QRectF(left, _LINE_Y + 14, 68, 16), align | Qt.AlignmentFlag.AlignVCenter, word)
