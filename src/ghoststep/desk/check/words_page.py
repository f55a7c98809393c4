"""The groove in a drummer's sentences, and the names in its sticking."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QListWidget, QVBoxLayout

from ghoststep.desk.parts.widgets import label
from ghoststep.judge.check import Report

_MOST = 400  # names and sentences people would still read


class WordsPage(QFrame):
    """Sentences above, names below; choosing a name shows where it is."""

    name_chosen = Signal(int, int)  # start and end in ticks

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
        self._names.currentRowChanged.connect(self._choose)
        column.addWidget(self._names, 1)
        column.addStretch(1)
        self._found: list[tuple[int, int]] = []

    def show_report(self, report: Report) -> None:
        """Show what was found."""
        self._said.setText("\n".join(report.sentences[:_MOST]))
        names = report.names[:_MOST]
        self._found = [(n.start_ticks, n.end_ticks) for n in names]
        frame = report.played.groove.pattern.frame
        self._names.blockSignals(True)
        self._names.clear()
        self._names.addItems(
            [f"bar {frame.spot_at(n.start_ticks).bar} {report.played.spot(n.start_ticks)}: {n.words}" for n in names]
        )
        self._names.blockSignals(False)
        self._names.setVisible(bool(names))
        self._none.setVisible(not names)

    def _choose(self, number: int) -> None:
        if 0 <= number < len(self._found):
            self.name_chosen.emit(*self._found[number])
