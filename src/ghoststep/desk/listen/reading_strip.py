"""Other ways to count what was heard, drawn small above the ruler: where their bars would begin, and why not."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from ghoststep.desk.listen.wave_paint import GUTTER_W
from ghoststep.desk.look.look import Look, font
from ghoststep.listen.bars.reading import TempoReading

ROW_H = 20
MOST = 3  # rows, and keys Alt+1 to Alt+3
_LEAST_BAR_PX = 3.0
_LABEL_W = 110.0


class ReadingStrip(QWidget):
    """A row for each other reading; clicking one takes it."""

    def __init__(self, take: Callable[[int], object]) -> None:
        super().__init__()
        self._take = take
        self._readings: tuple[TempoReading, ...] = ()
        self._window_s = (0.0, 1.0)
        self.setAccessibleName("Other ways to count it")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.show_readings(())

    def show_readings(self, readings: tuple[TempoReading, ...]) -> None:
        self._readings = readings[:MOST]
        self.setFixedHeight(ROW_H * len(self._readings))
        self.setVisible(bool(self._readings))
        self.update()

    def show_window(self, start_s: float, end_s: float) -> None:
        """The seconds at the gutter's edge and at the right edge, as the view below shows them."""
        if (start_s, end_s) != self._window_s:
            self._window_s = (start_s, end_s)
            self.update()

    @property
    def readings(self) -> tuple[TempoReading, ...]:
        return self._readings

    def _x(self, seconds: float) -> float:
        start, end = self._window_s
        return GUTTER_W + (seconds - start) / max(end - start, 1e-6) * (self.width() - GUTTER_W)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), Look.color("panel"))
        for row, reading in enumerate(self._readings):
            self._paint_bars(painter, reading, row * ROW_H)
            label = QRectF(0, row * ROW_H, _LABEL_W, ROW_H)
            painter.fillRect(label, Look.color("panel"))
            painter.setFont(font(11))
            painter.setPen(Look.color("dim"))
            painter.drawText(QPointF(12, row * ROW_H + 14), f"Alt {row + 1}")
            painter.setPen(Look.color("text"))
            painter.drawText(QPointF(44, row * ROW_H + 14), f"{reading.meter} at {reading.tempo_bpm:.0f}")
        painter.end()

    def _paint_bars(self, painter: QPainter, reading: TempoReading, top: float) -> None:
        bar_s = reading.meter.bar_ticks / reading.meter.unit_ticks * self._unit_s(reading)
        beat_s = self._unit_s(reading)
        start, end = self._window_s
        if reading.downbeat_s is None or self._x(bar_s) - self._x(0) < _LEAST_BAR_PX:
            return
        per_bar = round(bar_s / beat_s)
        first = int((start - reading.downbeat_s) // beat_s)
        for beat in range(first, int((end - reading.downbeat_s) // beat_s) + 1):
            x = self._x(reading.downbeat_s + beat * beat_s)
            on_bar = beat % per_bar == 0
            if x < _LABEL_W:
                continue
            painter.setPen(QPen(Look.color("text" if on_bar else "strong_line", 190), 1.6 if on_bar else 1))
            painter.drawLine(QLineF(x, top + (4 if on_bar else 11), x, top + ROW_H - 2))

    @staticmethod
    def _unit_s(reading: TempoReading) -> float:
        """Seconds of the unit that the meter counts."""
        return 60 / reading.tempo_bpm * 4 / reading.meter.denominator

    def _row_at(self, y: float) -> int | None:
        row = int(y // ROW_H)
        return row if 0 <= row < len(self._readings) else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = self._row_at(event.position().y())
        if row is not None and event.button() is Qt.MouseButton.LeftButton:
            self._take(row)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() is QEvent.Type.ToolTip:
            row = self._row_at(event.pos().y())
            if row is not None:
                QToolTip.showText(event.globalPos(), told(self._readings[row]), self)
            return True
        return super().event(event)


def told(reading: TempoReading) -> str:
    """A reading, and what speaks against it, in words."""
    why = f": {reading.why}" if reading.why else ""
    return f"{reading.tempo_bpm:.1f} BPM in {reading.meter.full_name}, believed to {100 * reading.share:.0f} %{why}"
