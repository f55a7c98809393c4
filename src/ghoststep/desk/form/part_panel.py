"""What is known of the part that is chosen, and its answers, each heard before it is taken."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QListWidget, QPushButton, QVBoxLayout

from ghoststep.desk.parts.widgets import PANEL_W, label, row
from ghoststep.music.form import Form
from ghoststep.session.language.answering import Answer

_MOST_CHANGES = 9  # that are listed


class PartPanel(QFrame):
    """Words of the part, buttons for what can be done, and the list of answers."""

    wanted = Signal(str)  # the name of a command of the table
    looked_at = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setFixedWidth(PANEL_W)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 12)
        column.setSpacing(7)
        self._title = label("", "title", wrap=True)
        self._told = label("", "", wrap=True)
        column.addWidget(self._title)
        column.addWidget(self._told)
        for pair in (
            (("Open in Place  (Enter)", "form.open"), ("Play it round  (P)", "form.loop")),
            (("Once more  (D)", "form.again"), ("Leave it out  (Del)", "form.out")),
            (("Set it free  (U)", "form.free"), ("Answers  (A)", "form.answers")),
        ):
            column.addLayout(row(*(self._button(text, name) for text, name in pair)))
        self._answers_head = label("Answers, from near to far", "section")
        column.addWidget(self._answers_head)
        self.answers = QListWidget()
        self.answers.setWordWrap(True)
        self.answers.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.answers.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.answers.setAccessibleName("Answers, from near to far")
        self.answers.currentRowChanged.connect(self.looked_at)
        self.answers.itemActivated.connect(lambda _item: self.wanted.emit("form.take"))
        column.addWidget(self.answers, 1)
        self._hint = label("Up and Down play one, Enter takes it as a new part here, Esc leaves.", "dim", wrap=True)
        column.addWidget(self._hint)
        column.addStretch(0)
        self.show_answers(())

    def _button(self, text: str, name: str) -> QPushButton:
        out = QPushButton(text)
        out.setStyleSheet("padding-left: 4px; padding-right: 4px;")
        out.clicked.connect(lambda: self.wanted.emit(name))
        return out

    def show_part(self, form: Form | None, name: str) -> None:
        """Words of a part: what it varies and by which changes, where it is played."""
        if form is None or not name:
            self._title.setText("No parts yet")
            self._told.setText("Shift+L finds the form of this groove: alike bars get a letter, near ones vary it.")
            return
        part = form.part(name)
        places = [s for s in form.stretches() if s.part == name]
        self._title.setText(f"Part {name}" + (f", a variation of {part.base}" if part.base else ""))
        lines = [f"It is {part.base}, but:" if part.base and part.changes else ""]
        lines += [f"  {phrase}" for phrase in part.changes[:_MOST_CHANGES]]
        if len(part.changes) > _MOST_CHANGES:
            lines.append(f"  and {len(part.changes) - _MOST_CHANGES} changes more")
        if part.aside:
            lines += ["Kept aside, since it no longer fits:", *(f"  {phrase}" for phrase in part.aside)]
        bars = ", ".join(str(s.first_bar) for s in places[:12]) + (" …" if len(places) > 12 else "")
        often = f"Played {len(places)} times, in bars" if len(places) > 1 else "Played once, in bar"
        lines.append(f"{often} {bars}.")
        if part.pattern.bars > 1:
            lines.append(f"It has {part.pattern.bars} bars.")
        self._told.setText("\n".join(line for line in lines if line))

    def show_answers(self, found: Sequence[Answer]) -> None:
        """List answers; none takes the list away."""
        self.answers.blockSignals(True)
        self.answers.clear()
        self.answers.addItems([f"{a.about} ({100 * a.apart:.0f} % away)" for a in found])
        self.answers.blockSignals(False)
        for widget in (self._answers_head, self.answers, self._hint):
            widget.setVisible(bool(found))
        if found:
            self.answers.setFocus()
            self.answers.setCurrentRow(0)
