"""What the window tells by itself: a line of words, a bar for long work, a banner after a crash."""

import html
from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QProgressBar, QPushButton, QSizePolicy

from ghoststep.desk.look.look import Look
from ghoststep.desk.parts.widgets import clear, label

_MESSAGE_MS = 9000


class MessageLine(QLabel):
    """The last thing that was done or went wrong; trouble stays until the next line, other words fade.

    Where there is little room the end is cut, and the whole is told on hovering.
    """

    def __init__(self) -> None:
        super().__init__()
        self.words = ""
        self.setContentsMargins(8, 4, 8, 4)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setMinimumWidth(120)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._fade = QTimer(self)
        self._fade.setSingleShot(True)
        self._fade.timeout.connect(lambda: self.say("", False))

    def say(self, words: str, trouble: bool) -> None:
        first = words.split(" ", 1)[0]
        self.words = words[:1].upper() + words[1:] if first.isalpha() else words  # a file's name stays as it is
        self.setStyleSheet(f"color: {Look.theme.warn if trouble else Look.theme.dim};")
        self._show()
        self._fade.stop()
        if words and not trouble:
            self._fade.start(_MESSAGE_MS)

    def _show(self) -> None:
        room = self.width() - 20
        text = self.fontMetrics().elidedText(self.words, Qt.TextElideMode.ElideRight, max(room, 40))
        self.setText(text)
        self.setToolTip(html.escape(self.words) if text != self.words else "")

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._show()


class BusyBar(QFrame):
    """What is going on, how far it is, and a button to stop it; hidden when nothing is."""

    def __init__(self, cancel: Callable[[], None]) -> None:
        super().__init__()
        self.setObjectName("panel")
        layout = QHBoxLayout(self)
        self._words, self._progress = label(), QProgressBar()
        self._progress.setTextVisible(False)  # on the full half of the bar it could not be read
        button = QPushButton("Cancel  (Esc)")
        button.clicked.connect(cancel)
        layout.addWidget(self._words)
        layout.addWidget(self._progress, 1)
        layout.addWidget(button)
        self.hide()

    def show_busy(self, words: str, share: float) -> None:
        self.setVisible(bool(words))
        self._words.setText(f"{words}: {100 * share:.0f} %" if words else "")
        self._progress.setValue(round(100 * share))


Answer = tuple[str, Callable[[], bool]]  # what the button says, and what it does; True where that is settled


class OfferBanner(QFrame):
    """Offers something once; what is offered stays until one of two answers settles it."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._layout = QHBoxLayout(self)
        self._layout.setContentsMargins(16, 6, 16, 6)
        self.hide()

    def offer(self, words: str, *answers: Answer) -> None:
        clear(self._layout)
        self._layout.addWidget(label(words, "sentence"))
        self._layout.addStretch(1)
        for text, what in answers:
            button = QPushButton(text)
            button.clicked.connect(lambda _=False, w=what: self._answered(w))
            self._layout.addWidget(button)
        self.show()

    def _answered(self, what: Callable[[], bool]) -> None:
        if what():
            self.hide()
