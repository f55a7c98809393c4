"""Versions: every step since the project was opened, and snapshots kept under names."""

from collections.abc import Callable

from PySide6.QtWidgets import QListWidget

from ghoststep.desk.parts.page import Page
from ghoststep.desk.parts.widgets import label

_SHOWN_STEPS = 400


class VersionsPage(Page):
    title = "Versions"
    asked: Callable[[str], object] = staticmethod(lambda name: None)  # runs a command of the table

    def build(self) -> None:
        self.section("Kept versions")
        self._none = label("Keep a version under a name before you change much.", "dim", wrap=True)
        self.column.addWidget(self._none)
        self._kept = QListWidget()
        self._kept.setMaximumHeight(130)
        self._kept.itemActivated.connect(lambda _item: self._on_kept("back-to"))
        self.column.addWidget(self._kept)
        self.buttons(
            self.button("Keep …", lambda: self.asked("versions.keep"), tip="Keep the groove as it is under a name"),
            self.button("Go back", lambda: self._on_kept("back-to"), tip="The groove as it was kept"),
            self.button("Drop", lambda: self._on_kept("drop"), tip="Forget this version"),
        )
        self.buttons(
            self.button("Compare …", lambda: self.asked("versions.compare"), tip="Side by side, with what differs"),
            self.button("Compare blind …", lambda: self.asked("versions.blind"), tip="Hear them without their names"),
        )
        self._verdict = label("", "dim", wrap=True)
        self.column.addWidget(self._verdict)
        self.section("Steps; click one to go there")
        self._steps = QListWidget()
        self._steps.setMinimumHeight(220)
        self._steps.currentRowChanged.connect(self._go)
        self.column.addWidget(self._steps)

    def show_now(self) -> None:
        document = self.studio.document
        names = [s.name for s in document.snapshots]
        if [self._kept.item(i).text() for i in range(self._kept.count())] != names:
            self._kept.clear()
            self._kept.addItems(names)
        self._kept.setVisible(bool(names))
        self._none.setVisible(not names)
        last = document.verdicts[-1] if document.verdicts else None
        self._verdict.setText(f"Last blind choice: {last.chosen} of {', '.join(last.among)}" if last else "")
        self._verdict.setVisible(last is not None)
        history = self.studio.history
        self._steps.blockSignals(True)
        self._steps.clear()
        words, at = history.words, history.at
        self._first = max(0, len(words) - _SHOWN_STEPS)
        self._steps.addItems(words[self._first :])
        self._steps.setCurrentRow(at - self._first)
        for i in range(max(at - self._first, -1) + 1, self._steps.count()):
            font = self._steps.item(i).font()
            font.setItalic(True)  # steps that were taken back
            self._steps.item(i).setFont(font)
        self._steps.blockSignals(False)
        self._steps.scrollToItem(self._steps.currentItem())

    def _on_kept(self, verb: str) -> None:
        item = self._kept.currentItem() or (self._kept.item(0) if self._kept.count() else None)
        if item is None:
            self.studio.said.emit("No version is kept yet.", True)
        else:
            self.call(verb, name=item.text())

    def _go(self, number: int) -> None:
        if number >= 0:
            self.studio.session.go_to_step(self._first + number)
