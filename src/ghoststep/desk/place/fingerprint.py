"""A feel as a small picture: how early or late each voice lies and how widely, and how far the off notes are swung."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QIcon, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QWidget

from ghoststep.desk.look.look import Look
from ghoststep.music.feel import Feel

# The voices it shows, from the chart's top to its foot, each with the limb that gives it its colour.
_ROWS = (("ride", "R"), ("hat_closed", "R"), ("snare", "L"), ("kick", "K"))
_REACH_MS = 24.0
_SIZE = QSize(84, 34)


def paint_feel(painter: QPainter, feel: Feel, area: QRectF) -> None:
    """Rows of voices: a soft bar as wide as the looseness around a dot at the mean, fainter dots for single spots."""
    middle = area.left() + 0.42 * area.width()
    half = 0.40 * area.width()
    painter.setPen(QPen(Look.color("strong_line"), 1))
    painter.drawLine(QPointF(middle, area.top() + 1), QPointF(middle, area.bottom() - 1))
    row_h = area.height() / len(_ROWS)
    for i, (name, limb) in enumerate(_ROWS):
        y = area.top() + (i + 0.5) * row_h
        x = middle + _share(feel.lean_of(name)) * half
        soft = Look.limb(limb)
        soft.setAlpha(80)
        reach = _share(feel.loose_ms) * half
        painter.fillRect(QRectF(x - reach, y - 1.6, 2 * reach, 3.2), soft)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(soft)
        for spot in feel.spots:
            if spot.voice == name and spot.late_ms:
                at = middle + _share(feel.lean_of(name) + spot.late_ms) * half
                painter.drawEllipse(QPointF(at, y), 1.6, 1.6)
        painter.setBrush(Look.limb(limb))
        painter.drawEllipse(QPointF(x, y), 2.6, 2.6)
    _swing(painter, feel, QRectF(area.right() - 0.14 * area.width(), area.top(), 0.14 * area.width(), area.height()))


def _swing(painter: QPainter, feel: Feel, area: QRectF) -> None:
    """A pair of notes as a bar that is parted where the second begins."""
    painter.setPen(QPen(Look.color("dim"), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    frame = area.adjusted(2, 4, -2, -4)
    painter.drawRect(frame)
    y = frame.bottom() - feel.swing.ratio * frame.height()
    painter.fillRect(QRectF(frame.left(), y, frame.width(), frame.bottom() - y), Look.color("lamp", 150))


def _share(ms: float) -> float:
    return min(max(ms / _REACH_MS, -1.0), 1.0)


class FeelPrint(QWidget):
    """The picture of the groove's own feel."""

    def __init__(self) -> None:
        super().__init__()
        self._feel = Feel()
        self.setFixedHeight(44)
        self.setAccessibleName("The feel as a picture")
        self.setToolTip("Ride, hats, snare and kick: early to the left, late to the right; the bar is the swing")

    def show_feel(self, feel: Feel) -> None:
        self._feel = feel
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_feel(painter, self._feel, QRectF(self.rect()).adjusted(2, 2, -2, -2))
        painter.end()


def icon_of(feel: Feel) -> QIcon:
    """The picture as an icon of a list."""
    pixmap = QPixmap(_SIZE * 2)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint_feel(painter, feel, QRectF(0, 0, _SIZE.width(), _SIZE.height()))
    painter.end()
    return QIcon(pixmap)


ICON_SIZE = _SIZE
