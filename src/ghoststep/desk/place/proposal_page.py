"""Alternatives beside the grid: each is drawn on it and heard before it is taken."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QListWidget, QVBoxLayout

from ghoststep.desk.parts.widgets import fill_wrapped, label, row
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Hit


@dataclass(frozen=True)
class Proposed:
    """One alternative: its words, the groove as it would be, the hits that would come, and what takes it."""

    words: str
    groove: Groove
    hits: tuple[Hit, ...]
    take: Callable[[], object]


class ProposalPage(QFrame):
    """Lies over the pages of the panel as long as something is proposed."""

    looked_at = Signal(object)  # a Proposed
    ended = Signal(object)  # the Proposed that was taken, or None

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._proposed: Sequence[Proposed] = ()
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(16, 12, 16, 12)
        self.column.setSpacing(8)
        self._title = label("", "title", wrap=True)
        self.column.addWidget(self._title)
        self.column.addWidget(label("Up and Down show and play one, Enter takes it, Esc leaves it.", "dim", wrap=True))
        self.choices = QListWidget()
        self.choices.setWordWrap(True)
        self.choices.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.choices.setVerticalScrollBarPolicy(
            Qt.ScrollBarPolicy.ScrollBarAlwaysOn
        )  # else words are cut when it comes
        self.choices.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.choices.currentRowChanged.connect(self._look)
        self.choices.itemActivated.connect(lambda _item: self.take())
        self.column.addWidget(self.choices, 1)
        from PySide6.QtWidgets import QPushButton

        take, leave = QPushButton("Take it  (Enter)"), QPushButton("Leave it  (Esc)")
        take.setObjectName("main")
        take.clicked.connect(self.take)
        leave.clicked.connect(self.leave)
        self.column.addLayout(row(take, leave))

    def propose(self, title: str, proposed: Sequence[Proposed]) -> None:
        """Show alternatives, the first of them at once."""
        self._proposed = proposed
        self._title.setText(title)
        self.choices.blockSignals(True)
        fill_wrapped(self.choices, [p.words for p in proposed])
        self.choices.blockSignals(False)
        self.choices.setFocus(Qt.FocusReason.OtherFocusReason)
        self.choices.setCurrentRow(0)

    @property
    def waiting(self) -> bool:
        return bool(self._proposed)

    def _look(self, number: int) -> None:
        if 0 <= number < len(self._proposed):
            self.looked_at.emit(self._proposed[number])

    def take(self) -> None:
        number = self.choices.currentRow()
        taken = self._proposed[number] if 0 <= number < len(self._proposed) else None
        self._proposed = ()
        self.ended.emit(taken)

    def leave(self) -> None:
        self._proposed = ()
        self.ended.emit(None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
        else:
            super().keyPressEvent(event)
