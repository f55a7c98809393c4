"""The shortcut sheet, read off the command table."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ghoststep.desk.model.places import Place
from ghoststep.desk.parts.widgets import label
from ghoststep.session.commands import COMMANDS, MENUS, Command


def key_words(command: Command) -> str:
    """The keys of a command as people read them."""
    return " or ".join(QKeySequence(k).toString(QKeySequence.SequenceFormat.NativeText) for k in command.keys)


class ShortcutSheet(QDialog):
    """Every command of a place that has a key, by menu."""

    def __init__(self, place: Place, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._place = place.name
        self.setWindowTitle(f"Shortcuts in {place.title}")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 10, 24, 8)
        columns = QHBoxLayout()
        columns.setSpacing(22)
        for menus in place.sheet:
            columns.addLayout(self._column(menus))
        layout.addLayout(columns)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        layout.addWidget(close, 0, Qt.AlignmentFlag.AlignRight)

    def _column(self, menus: tuple[str, ...]) -> QVBoxLayout:
        out = QVBoxLayout()
        out.setSpacing(4)
        assert set(menus) <= set(MENUS)
        for menu in menus:
            commands = [c for c in COMMANDS.values() if c.menu == menu and c.keys and c.place in ("", self._place)]
            if not commands:
                continue
            out.addWidget(label(menu, "section"))
            grid = QGridLayout()
            grid.setHorizontalSpacing(12)
            grid.setVerticalSpacing(0)
            grid.setContentsMargins(0, 0, 0, 0)
            for i, c in enumerate(commands):
                grid.addWidget(label(c.text), i, 0)
                grid.addWidget(label(key_words(c), "dim"), i, 1)
            out.addLayout(grid)
            out.addSpacing(8)
        out.addStretch(1)
        return out
