"""The groove in a drummer's sentences, and the names in its sticking."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QListWidget, QVBoxLayout

from ghoststep.desk.parts.widgets import label
from ghoststep.judge.check import Report
from ghoststep.judge.layers import Layer, row_words

MOST_BARS = 32  # of a longer groove the beginning is told
_MOST = 60  # names and sentences people would still read


class WordsPage(QFrame):
    """Sentences above, names below; choosing a name shows where it is."""

    name_chosen = Signal(object)  # a judge.layers.Layer

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 10, 16, 12)
        column.setSpacing(7)
        column.addWidget(label("What is played", "section"))
        self._said = label("", "", wrap=True)
        column.addWidget(self._said)
        column.addWidget(label("Names in the sticking", "section"))
        self._none = label("No rudiment and no repeating cell.", "dim", wrap=True)
        column.addWidget(self._none)
        self._names = QListWidget()
        self._names.setMinimumHeight(160)
        self._names.setWordWrap(True)
        self._names.currentRowChanged.connect(self._choose)
        column.addWidget(self._names, 1)
        column.addStretch(1)
        self._found: list[Layer] = []
        self._remarks: list[str] = []

    def show_report(self, report: Report) -> None:
        """Show what was found."""
        self._remarks = report.remarks[:_MOST]
        self._found = report.layers[:_MOST]
        pattern = report.played.groove.pattern
        self._names.blockSignals(True)
        self._names.clear()
        self._names.addItems([row_words(x, pattern) for x in self._found])
        self._names.blockSignals(False)
        self._names.setVisible(bool(self._found))
        self._none.setVisible(not self._found)

    def show_told(self, sentences: list[str]) -> None:
        """Show the groove in sentences, and what strikes one about it."""
        self._said.setText("\n".join([*sentences[:_MOST], *self._remarks]))

    def _choose(self, number: int) -> None:
        if 0 <= number < len(self._found):
            self.name_chosen.emit(self._found[number])
