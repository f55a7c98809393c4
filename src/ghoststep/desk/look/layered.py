"""A scrolled picture that stands still but for its playhead.

Everything that stands still is kept in one pixmap and blitted; the playhead is a line drawn over it, and moving it
repaints two strips of a few pixels.
"""

from PySide6.QtCore import QLineF, QRect, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPixmap, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QAbstractScrollArea

from ghoststep.desk.look.look import Look

_STRIP_PX = 7


class LayeredView(QAbstractScrollArea):
    """Base of the grid and the recording: subclasses paint the layer and say where their gutter ends."""

    gutter_px = 0.0
    wheel_zoom = 1.2

    def __init__(self) -> None:
        super().__init__()
        self._layer: QPixmap | None = None
        self._playhead_x: float | None = None
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def painted_layer(self, ratio: float) -> QPixmap:
        """The picture without the playhead, as large as the viewport."""
        raise AssertionError("a subclass paints this")

    def set_scroll_range(self) -> None:
        """Fit the scroll bar to the content."""
        raise AssertionError("a subclass knows its content")

    def zoom(self, factor: float, around_x: float | None = None) -> None:
        """Zoom in time around a point of the viewport; 0 fits again."""
        raise AssertionError("a subclass knows its scale")

    def refresh(self) -> None:
        """Paint anew."""
        self._layer = None
        self.set_scroll_range()
        self.viewport().update()

    def empty_layer(self, ratio: float) -> QPixmap:
        view = self.viewport()
        layer = QPixmap(round(view.width() * ratio), round(view.height() * ratio))
        layer.setDevicePixelRatio(ratio)
        return layer

    def move_playhead(self, x: float | None) -> None:
        """Put the playhead at x of the viewport, or take it away."""
        old, self._playhead_x = self._playhead_x, x
        for at in (old, x):
            if at is not None:
                self.viewport().update(QRect(round(at) - _STRIP_PX // 2, 0, _STRIP_PX, self.viewport().height()))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        self.paint_content(painter, QRectF(event.rect()))
        if self._playhead_x is not None and self._playhead_x >= self.gutter_px:
            painter.setPen(QPen(Look.color("lamp"), 2))
            painter.drawLine(QLineF(self._playhead_x, 6, self._playhead_x, self.viewport().height()))
        self.paint_over(painter)
        painter.end()

    def paint_content(self, painter: QPainter, rect: QRectF) -> None:
        """What stands still, in a rectangle of the viewport."""
        ratio = self.devicePixelRatioF()
        if self._layer is None:
            self._layer = self.painted_layer(ratio)
        source = QRectF(rect.x() * ratio, rect.y() * ratio, rect.width() * ratio, rect.height() * ratio)
        painter.drawPixmap(rect, self._layer, source)

    def paint_over(self, painter: QPainter) -> None:
        """What else is drawn over the layer; nothing unless a subclass says so."""

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    def scrollContentsBy(self, _dx: int, _dy: int) -> None:
        self._layer = None
        self.viewport().update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        delta = event.angleDelta()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(self.wheel_zoom if delta.y() > 0 else 1 / self.wheel_zoom, event.position().x())
        else:
            bar = self.horizontalScrollBar()
            bar.setValue(bar.value() - (delta.x() or delta.y()))
