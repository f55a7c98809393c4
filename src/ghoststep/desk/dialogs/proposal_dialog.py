"""Alternatives to choose from, each heard before it is taken."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QPushButton, QVBoxLayout, QWidget

from ghoststep.desk.parts.widgets import label


class ProposalDialog(QDialog):
    """A list of alternatives; `hear` gets the number of the one that is looked at."""

    def __init__(self, title: str, names: Sequence[str], hear: Callable[[int], object], parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setMinimumWidth(360)
        layout = QVBoxLayout(self)
        layout.addWidget(label(title, "title"))
        layout.addWidget(label("Up and Down choose and play one, Enter takes it, Esc leaves it.", "dim"))
        self.choices = QListWidget()
        self.choices.addItems(list(names))
        self.choices.currentRowChanged.connect(lambda row: hear(row) if row >= 0 else None)
        self.choices.itemActivated.connect(lambda _item: self.accept())
        layout.addWidget(self.choices)
        row = QHBoxLayout()
        row.addStretch(1)
        take = QPushButton("Take it")
        take.setObjectName("main")
        take.clicked.connect(self.accept)
        leave = QPushButton("Leave it")
        leave.clicked.connect(self.reject)
        row.addWidget(leave)
        row.addWidget(take)
        layout.addLayout(row)
        self.choices.setFocus(Qt.FocusReason.PopupFocusReason)

    @property
    def chosen(self) -> int:
        return self.choices.currentRow()
