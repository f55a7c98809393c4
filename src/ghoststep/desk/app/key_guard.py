"""Keys typed into a field belong to the field: single keys that are commands elsewhere do nothing there."""

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QAbstractSpinBox, QComboBox, QLineEdit, QListWidget, QWidget

_MOVES = {Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown, Qt.Key.Key_Home, Qt.Key.Key_End}
_ENDS = {Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape}


class KeyGuard(QObject):
    """An event filter of fields."""

    def watch(self, widget: QWidget) -> None:
        """Guard every field of a window or a place."""
        for kind in (QLineEdit, QAbstractSpinBox, QComboBox, QListWidget):
            for field in widget.findChildren(kind):
                field.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() != QEvent.Type.ShortcutOverride or not isinstance(event, QKeyEvent):
            return False
        typed = isinstance(watched, QLineEdit | QAbstractSpinBox)
        listed = isinstance(watched, QComboBox | QListWidget)
        if not typed and not listed:
            return False
        held = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        key = Qt.Key(event.key())
        mine = key in _ENDS | _MOVES or (typed and bool(event.text().strip()))
        if not held and mine:
            event.accept()
            return True
        return False
