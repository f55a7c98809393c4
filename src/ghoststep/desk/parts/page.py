"""What all pages have in common: a scrolled column, rows with a name before them, and phrases they say."""

from collections.abc import Callable

from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from ghoststep.desk.grid.grid_view import GridView
from ghoststep.desk.model.studio import Studio
from ghoststep.desk.parts.widgets import label, row

_NAME_W = 84


class Page(QFrame):
    """A page; `call` does a verb of the language with values, `say` a phrase, each as a step of its own."""

    title = ""

    def __init__(self, studio: Studio, grid: GridView) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.studio, self.grid = studio, grid
        self.say, self.call = studio.say, studio.call
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(16, 10, 16, 12)
        self.column.setSpacing(7)
        self.build()
        self.column.addStretch(1)

    def build(self) -> None:
        """Fill the column."""
        raise AssertionError("a page builds itself")

    def show_now(self) -> None:
        """Show the document, the choice and the cursor as they are."""

    # -- parts --------------------------------------------------------------------------------------------------

    def section(self, text: str) -> None:
        if self.column.count():
            self.column.addSpacing(6)
        self.column.addWidget(label(text, "section"))

    def line(self, name: str, *widgets: QWidget) -> QHBoxLayout:
        """A row with its name before it."""
        out = row(named(name), *widgets)
        self.column.addLayout(out)
        return out

    def button(self, text: str, phrase: str | Callable[[], object], *, tip: str = "") -> QPushButton:
        """A button that says a fixed phrase or does something."""
        out = QPushButton(text)
        if isinstance(phrase, str):
            out.clicked.connect(lambda: self.say(phrase))
        else:
            out.clicked.connect(lambda: phrase())
        out.setToolTip(tip or (phrase if isinstance(phrase, str) else text))
        return out

    def buttons(self, *found: QPushButton) -> None:
        """Buttons side by side, sharing the width."""
        box = QHBoxLayout()
        box.setSpacing(6)
        for b in found:
            b.setStyleSheet("padding-left: 4px; padding-right: 4px;")
            box.addWidget(b, 1)
        self.column.addLayout(box)


def named(text: str) -> QLabel:
    out = label(text)
    out.setFixedWidth(_NAME_W)
    return out
