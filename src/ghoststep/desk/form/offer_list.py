"""The list of what is offered, with what it is asked by: how long, how strict, how dense."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QListWidget, QVBoxLayout, QWidget

from ghoststep.desk.form.offers import ANY, Offer
from ghoststep.desk.parts.widgets import choice, fill_wrapped, label, row
from ghoststep.session.language.forms.answering import STRICTNESS

_LENGTHS = (("an answer", 1), ("2 bars", 2), ("4 bars", 4), ("8 bars", 8))
_STRICT = (("near to far", ANY), *((name, name) for name in STRICTNESS))
_BEATS = (("1 beat", 1), ("2 beats", 2), ("3 beats", 3), ("1 bar", 4), ("2 bars", 8))
_DENSE = (("eighths", 8), ("triplets", 12), ("sixteenths", 16), ("sextuplets", 24))
_WHERE = (("in this bar", False), ("as the cue of what comes next", True))


class OfferList(QWidget):
    """Alternatives one below the other; the one that is chosen is heard."""

    looked_at = Signal(int)
    asked_anew = Signal()  # another length, strictness or density
    taken = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.kind = ""
        self._head = label("", "section")
        again = lambda _value: self.asked_anew.emit()  # noqa: E731
        self.length = choice(_LENGTHS, again, name="An answer, or a phrase of question and answer")
        self.strictness = choice(_STRICT, again, name="How near the answers are")
        self.beats = choice(_BEATS, again, name="How long the fill is")
        self.grid = choice(_DENSE, again, name="How dense the fill is")
        self.where = choice(_WHERE, again, name="Where the fill is kept")
        self.beats.setCurrentIndex(1)
        self.grid.setCurrentIndex(2)
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)  # else words are cut when it comes
        self.list.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.list.currentRowChanged.connect(self.looked_at)
        self.list.itemActivated.connect(lambda _item: self.taken.emit())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(7)
        column.addWidget(self._head)
        column.addLayout(row(self.length, self.strictness))
        column.addLayout(row(self.beats, self.grid))
        column.addWidget(self.where)
        column.addWidget(self.list, 1)
        column.addWidget(label("Up and Down play one, Enter takes it, Esc leaves.", "dim", wrap=True))

    def show_offers(self, kind: str, offers: Sequence[Offer], *, focus: bool) -> None:
        """List what there is; `kind` is answers or fills."""
        self.kind = kind
        self._head.setText("Fills made to measure" if kind == "fills" else "Answers, from near to far")
        self.list.setAccessibleName(self._head.text())
        for widget in (self.length, self.strictness):
            widget.setVisible(kind == "answers")
        for widget in (self.beats, self.grid, self.where):
            widget.setVisible(kind == "fills")
        self.list.blockSignals(True)
        fill_wrapped(self.list, [offer.words for offer in offers])
        self.list.blockSignals(False)
        if focus:
            self.list.setFocus()
        if offers:
            self.list.setCurrentRow(0)
