"""Versions heard without their names, one of them chosen."""

import random
from collections.abc import Callable

from PySide6.QtWidgets import QButtonGroup, QDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from ghoststep.desk.parts.widgets import label
from ghoststep.music.groove import Groove

Versions = list[tuple[str, Groove]]
Hear = Callable[[Groove | None], None]


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
