"""The pointer as events handed to a widget directly.

A real pointer on the test's screen answers when the screen server likes, so an event of an earlier move may arrive at
any time after it. These are delivered before the call returns, and nothing else is let in.
"""

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication, QWidget

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton
PLAIN = Qt.KeyboardModifier.NoModifier


def _send(
    widget: QWidget,
    kind: QEvent.Type,
    at: QPoint,
    button: Qt.MouseButton,
    held: Qt.MouseButton,
    keys: Qt.KeyboardModifier,
) -> None:
    point = QPointF(at)
    QApplication.sendEvent(widget, QMouseEvent(kind, point, widget.mapToGlobal(point), button, held, keys))


def hover(widget: QWidget, at: QPoint) -> None:
    """Move without a button held."""
    _send(widget, QEvent.Type.MouseMove, at, NONE, NONE, PLAIN)


def press(widget: QWidget, at: QPoint, keys: Qt.KeyboardModifier = PLAIN) -> None:
    _send(widget, QEvent.Type.MouseButtonPress, at, LEFT, LEFT, keys)


def drag(widget: QWidget, at: QPoint, keys: Qt.KeyboardModifier = PLAIN) -> None:
    """Move with the left button held."""
    _send(widget, QEvent.Type.MouseMove, at, NONE, LEFT, keys)


def release(widget: QWidget, at: QPoint, keys: Qt.KeyboardModifier = PLAIN) -> None:
    _send(widget, QEvent.Type.MouseButtonRelease, at, LEFT, NONE, keys)
