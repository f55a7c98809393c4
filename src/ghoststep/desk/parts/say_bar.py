"""The line in which commands are typed: the same phrases as everywhere, completed while typing."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QStringListModel, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCompleter, QFrame, QHBoxLayout, QLineEdit, QVBoxLayout

from ghoststep.desk.parts.widgets import label

if TYPE_CHECKING:
    from ghoststep.session.language.verb import Verb

_REMEMBERED = 100


class SayBar(QFrame):
    """Hidden until asked; Enter does what is typed, Up brings back what was said before, Esc leaves."""

    def __init__(self, say: Callable[[str], bool], leave: Callable[[], None]) -> None:
        super().__init__()
        self.setObjectName("bar")
        self._say, self._leave = say, leave
        self._said: list[str] = []
        self._back = 0
        self.edit = QLineEdit()
        self.edit.setAccessibleName("Command")
        self.edit.setPlaceholderText("velocity +4 on snare ghosts")
        self._verbs: dict[str, Verb] = {}
        self.edit.returnPressed.connect(self._do)
        self.edit.textChanged.connect(self._explain)
        self.edit.installEventFilter(self)
        self._help = label("", "dim")
        row = QHBoxLayout()
        row.addWidget(label("Say", "section"))
        row.addWidget(self.edit, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 6, 16, 4)
        layout.setSpacing(3)
        layout.addLayout(row)
        layout.addWidget(self._help)
        self.hide()

    def ask(self, start: str = "") -> None:
        """Open, with a beginning."""
        if not self._verbs:
            self._learn()
        self.show()
        self.edit.setText(start)
        self._back = len(self._said)
        self._explain(start)
        self.edit.setFocus(Qt.FocusReason.OtherFocusReason)
        self.edit.end(False)

    def _learn(self) -> None:
        """The verbs, which are loaded when they are first asked for."""
        from ghoststep.session.language.verb import all_verbs

        self._verbs = all_verbs()
        completer = QCompleter(QStringListModel(sorted(self._verbs)), self)
        completer.setCompletionMode(QCompleter.CompletionMode.InlineCompletion)
        self.edit.setCompleter(completer)

    def _explain(self, text: str) -> None:
        word = text.split(" ", 1)[0].lower()
        found = self._verbs.get(word)
        if found is not None:
            self._help.setText(f"{found.line}:  {found.about}")
        else:
            fitting = [name for name in self._verbs if name.startswith(word)]
            self._help.setText("  ".join(fitting) if fitting else f"No command begins with '{word}'.")

    def _do(self) -> None:
        text = self.edit.text().strip()
        if text and self._say(text):
            if text not in self._said[-1:]:
                self._said = [*self._said, text][-_REMEMBERED:]
            self.close_bar()

    def close_bar(self) -> None:
        self.hide()
        self._leave()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() == Qt.Key.Key_Escape:
                self.close_bar()
                return True
            if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self._said:
                self._back = min(max(self._back + (-1 if event.key() == Qt.Key.Key_Up else 1), 0), len(self._said) - 1)
                self.edit.setText(self._said[self._back])
                return True
        return super().eventFilter(watched, event)
