"""What the window tells by itself: a line of words, a bar for long work, a banner after a crash."""

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QProgressBar, QPushButton

from ghoststep.desk.look.look import Look
from ghoststep.desk.model.memory import Leftover
from ghoststep.desk.parts.widgets import label

_MESSAGE_MS = 9000


class MessageLine(QLabel):
    """The last thing that was done or went wrong; trouble stays until the next line, other words fade."""

    def __init__(self) -> None:
        super().__init__()
        self.setContentsMargins(16, 4, 16, 4)
        self._fade = QTimer(self)
        self._fade.setSingleShot(True)
        self._fade.timeout.connect(self.clear)

    def say(self, words: str, trouble: bool) -> None:
        self.setStyleSheet(f"color: {Look.theme.warn if trouble else Look.theme.dim};")
        self.setText(words)
        self._fade.stop()
        if not trouble:
            self._fade.start(_MESSAGE_MS)


class BusyBar(QFrame):
    """What is going on, how far it is, and a button to stop it; hidden when nothing is."""

    def __init__(self, cancel: Callable[[], None]) -> None:
        super().__init__()
        self.setObjectName("panel")
        layout = QHBoxLayout(self)
        self._words, self._progress = label(), QProgressBar()
        button = QPushButton("Cancel  (Esc)")
        button.clicked.connect(cancel)
        layout.addWidget(self._words)
        layout.addWidget(self._progress, 1)
        layout.addWidget(button)
        self.hide()

    def show_busy(self, words: str, share: float) -> None:
        self.setVisible(bool(words))
        self._words.setText(words)
        self._progress.setValue(round(100 * share))


class RecoveryBanner(QFrame):
    """Offers the work that an earlier run could not save."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._layout = QHBoxLayout(self)
        self._layout.setContentsMargins(16, 6, 16, 6)
        self.hide()

    def offer(self, leftover: Leftover, *, recover: Callable[[], None], dismiss: Callable[[], None]) -> None:
        words = f"Ghost Step ended unexpectedly. A copy of the work was kept {leftover.age_words}."
        self._layout.addWidget(label(words, "sentence"))
        self._layout.addStretch(1)
        for text, what in (("Bring it back", recover), ("Throw it away", dismiss)):
            button = QPushButton(text)
            button.clicked.connect(what)
            self._layout.addWidget(button)
        self.show()
