"""A whole recording in one narrow strip: where the hits are dense, and which stretch is being looked at or picked."""

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from ghoststep.desk.look.look import Look, font

_EDGE_PX = 10.0


def clock(seconds: float) -> str:
    """ "1:07.4" """
    minutes, rest = divmod(max(seconds, 0.0), 60)
    return f"{int(minutes)}:{rest:04.1f}"


class OverviewStrip(QWidget):
    """Peaks of the whole with a stretch marked; dragging marks another, dragging inside it moves it."""

    stretch_changed = Signal(float, float)  # start and end in s

    def __init__(self, *, height: int = 46) -> None:
        super().__init__()
        self._low = self._high = np.zeros(0)
        self._length_s = 1.0
        self._stretch = (0.0, 1.0)
        self._drag: tuple[str, float, float] | None = None
        self._clocked = height > 80
        self.setMinimumHeight(height)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.IBeamCursor)
        self.setAccessibleName("Overview of the recording")

    def show_peaks(self, low: NDArray[np.floating], high: NDArray[np.floating], length_s: float) -> None:
        """Lowest and highest sample of even stretches, shape (k,) each."""
        self._low, self._high, self._length_s = np.asarray(low, float), np.asarray(high, float), max(length_s, 1e-3)
        self.update()

    def show_stretch(self, start_s: float, end_s: float) -> None:
        self._stretch = (max(0.0, start_s), min(self._length_s, end_s))
        self.update()

    @property
    def stretch(self) -> tuple[float, float]:
        return self._stretch

    def _x(self, seconds: float) -> float:
        return seconds / self._length_s * self.width()

    def _seconds(self, x: float) -> float:
        return float(np.clip(x / max(self.width(), 1), 0, 1)) * self._length_s

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), Look.color("ground"))
        room = self.height() - (20 if self._clocked else 4)
        if len(self._low):
            columns = np.linspace(0, len(self._low), self.width() + 1).astype(int)[:-1]
            low = np.minimum.reduceat(self._low, np.minimum(columns, len(self._low) - 1))
            high = np.maximum.reduceat(self._high, np.minimum(columns, len(self._high) - 1))
            loudest = max(float(np.abs(self._high).max()), float(np.abs(self._low).max()), 1e-6)
            middle, half = room / 2 + 2, room / 2 - 2
            painter.setPen(QPen(Look.color("wave"), 1))
            painter.drawLines([
                QLineF(x, middle - h / loudest * half, x, middle - lo / loudest * half + 1)
                for x, (lo, h) in enumerate(zip(low, high, strict=True))
            ])  # fmt: skip
        a, b = self._x(self._stretch[0]), self._x(self._stretch[1])
        painter.fillRect(QRectF(0, 0, a, room + 4), Look.color("ground", 150))
        painter.fillRect(QRectF(b, 0, self.width() - b, room + 4), Look.color("ground", 150))
        painter.setPen(QPen(Look.color("lamp"), 2))
        painter.drawRect(QRectF(a + 1, 1, max(b - a - 2, 2), room + 2))
        if self._clocked:
            self._paint_clock(painter)
        painter.end()

    def _paint_clock(self, painter: QPainter) -> None:
        painter.setFont(font(12))
        painter.setPen(Look.color("dim"))
        every = next((s for s in (5, 10, 30, 60, 120, 300, 600) if self._x(s) > 64), 1200)
        for seconds in np.arange(0, self._length_s, every):
            painter.drawText(QRectF(self._x(float(seconds)) + 2, self.height() - 17, 70, 16), clock(float(seconds)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        x, at = event.position().x(), self._seconds(event.position().x())
        a, b = self._stretch
        if abs(x - self._x(a)) < _EDGE_PX and self._x(b) - self._x(a) > 3 * _EDGE_PX:
            self._drag = ("edge", b, at)
        elif abs(x - self._x(b)) < _EDGE_PX and self._x(b) - self._x(a) > 3 * _EDGE_PX:
            self._drag = ("edge", a, at)
        elif a < at < b and b - a < 0.98 * self._length_s:
            self._drag = ("move", at - a, b - a)
        else:
            self._drag = ("edge", at, at)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            return
        at = self._seconds(event.position().x())
        kind, one, two = self._drag
        if kind == "move":
            start = float(np.clip(at - one, 0, self._length_s - two))
            stretch = (start, start + two)
        else:
            stretch = (min(one, at), max(one, at))
        if stretch[1] - stretch[0] > 0.01 * self._length_s or kind == "move":
            self._stretch = stretch
            self.update()
            self.stretch_changed.emit(*stretch)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._drag = None
