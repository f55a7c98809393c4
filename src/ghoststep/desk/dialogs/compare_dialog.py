"""Two versions of a groove side by side, or heard without their names."""

import random
from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from ghoststep.desk.grid.grid_view import GridView
from ghoststep.desk.parts.widgets import choice, label, row
from ghoststep.music.groove import Groove
from ghoststep.session.document.differences import difference, words

Versions = list[tuple[str, Groove]]
Hear = Callable[[Groove | None], None]


class CompareDialog(QDialog):
    """The grids of two versions under each other, with what differs marked in both and told in words."""

    def __init__(self, versions: Versions, hear: Hear, parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Compare versions")
        self.resize(1180, 700)
        self._versions, self._hear = versions, hear
        names = [(name, i) for i, (name, _) in enumerate(versions)]
        self._first = choice(names, lambda _i: self._show(), name="The version above")
        self._second = choice(names, lambda _i: self._show(), name="The version below")
        self._first.setCurrentIndex(1)
        self._grids = (GridView(), GridView())
        self._grids[0].horizontalScrollBar().valueChanged.connect(self._grids[1].horizontalScrollBar().setValue)
        self._grids[1].horizontalScrollBar().valueChanged.connect(self._grids[0].horizontalScrollBar().setValue)
        stack = QSplitter(Qt.Orientation.Vertical)
        for grid, box in zip(self._grids, (self._first, self._second), strict=True):
            half = QWidget()
            column = QVBoxLayout(half)
            column.setContentsMargins(0, 0, 0, 0)
            play = QPushButton("Hear")
            play.clicked.connect(lambda _=False, b=box: hear(versions[b.currentIndex()][1]))
            column.addLayout(row(box, play))
            column.addWidget(grid, 1)
            stack.addWidget(half)
        self.told = QListWidget()
        self.told.setWordWrap(True)
        self.told.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.told.setFixedWidth(300)
        side = QVBoxLayout()
        side.addWidget(label("From the upper to the lower", "section"))
        side.addWidget(self.told, 1)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        side.addWidget(close)
        layout = QHBoxLayout(self)
        layout.addWidget(stack, 1)
        layout.addLayout(side)
        self._show()

    def _show(self) -> None:
        first, second = (self._versions[b.currentIndex()][1] for b in (self._first, self._second))
        found = difference(first, second)
        for grid, groove, sides in zip(self._grids, (first, second), ("before", "after"), strict=True):
            grid.show_groove(groove, {})
            marked = {id(h) for c in found.changes if (h := getattr(c, sides)) is not None}
            grid.choose({i for i, h in enumerate(groove.pattern.hits) if id(h) in marked})
        self.told.clear()
        self.told.addItems(words(first, second))


class BlindDialog(QDialog):
    """Versions shuffled and told apart by letters only; the choice uncovers them."""

    def __init__(
        self, versions: Versions, hear: Hear, parent: QWidget | None, dice: random.Random | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Compare blind")
        self.setMinimumWidth(460)
        self.verdict: tuple[str, tuple[str, ...]] | None = None
        self._hear = hear
        self._versions = list(versions)
        (dice or random.SystemRandom()).shuffle(self._versions)
        self._letters = QButtonGroup(self)
        layout = QVBoxLayout(self)
        layout.setSpacing(10)
        layout.addWidget(label("Which one is better?", "title"))
        layout.addWidget(label("Press a letter to hear it, as often as you like. Then choose.", "dim", wrap=True))
        letters = QHBoxLayout()
        for i in range(len(self._versions)):
            button = QPushButton(f"{_letter(i)}")
            button.setCheckable(True)
            button.setMinimumHeight(44)
            button.setShortcut(_letter(i))
            self._letters.addButton(button, i)
            letters.addWidget(button)
        self._letters.idClicked.connect(lambda i: hear(self._versions[i][1]))
        layout.addLayout(letters)
        self._told: QLabel = label("", "sentence", wrap=True)
        layout.addWidget(self._told)
        self._choose = QPushButton("This one is better")
        self._choose.setObjectName("main")
        self._choose.clicked.connect(self._decide)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(close)
        buttons.addWidget(self._choose)
        layout.addLayout(buttons)

    def _decide(self) -> None:
        at = self._letters.checkedId()
        if at < 0:
            self._told.setText("Hear one first: press its letter.")
            return
        names = tuple(name for name, _ in self._versions)
        self.verdict = (names[at], names)
        order = ", ".join(f"{_letter(i)} was '{name}'" for i, name in enumerate(names))
        self._told.setText(f"You chose '{names[at]}'. {order}. The choice is written down with the project.")
        self._choose.setEnabled(False)


def _letter(number: int) -> str:
    return chr(ord("A") + number) if number < 26 else str(number + 1)
