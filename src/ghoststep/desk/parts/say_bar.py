"""The line in which one says what to do: what was understood stands under it before it is done."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout

from ghoststep.desk.model.saying import Saying
from ghoststep.desk.parts.widgets import label

if TYPE_CHECKING:
    from ghoststep.session.say.understanding import Tried, Understood

_SHOWN = 3  # readings or suggestions at once
_AFTER_MS = 25  # a pause in typing: only then is it worth to understand
_KEYS = "Enter does it · Ctrl+Enter lets it be heard first · Up and Down choose · Tab completes · Esc leaves"


class SayBar(QFrame):
    """Hidden until asked. Enter takes the marked reading, Ctrl+Enter plays it, Up and Down go through readings,
    suggestions and what was said before."""

    looked_at = Signal(object)  # the `Tried` that is marked, or None
    wants_heard = Signal(object)

    def __init__(self, saying: Saying, leave: Callable[[], None]) -> None:
        super().__init__()
        self.setObjectName("bar")
        self._saying, self._leave = saying, leave
        self._found: Understood | None = None
        self._chosen = 0  # the reading that is marked; -1 where one has to be chosen first
        self._wanted = False  # Enter was pressed before it was understood
        self._offered: list[str] = []
        self._back = 0
        self.edit = QLineEdit()
        self.edit.setAccessibleName("Say what to do")
        self.edit.setPlaceholderText(
            "Say it as to a drummer: ghost before the backbeat, snare a bit louder, fill at the end"
        )
        self.edit.textChanged.connect(self._typed)
        self.edit.installEventFilter(self)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.timeout.connect(self._think)
        self._rows = [QLabel() for _ in range(_SHOWN)]
        self._help = label("", "dim")
        self._lay_out()
        saying.understood.connect(self._show)
        saying.suggested.connect(self._offer)
        self.hide()

    def _lay_out(self) -> None:
        row = QHBoxLayout()
        row.addWidget(label("Say", "section"))
        row.addWidget(self.edit, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 6, 16, 6)
        layout.setSpacing(3)
        layout.addLayout(row)
        for line in self._rows:
            line.setTextFormat(Qt.TextFormat.PlainText)
            line.setIndent(34)
            layout.addWidget(line)
        layout.addWidget(self._help)

    # -- opening and leaving ------------------------------------------------------------------------------------

    def ask(self, start: str = "") -> None:
        """Open, with a beginning."""
        self.show()
        self._back = len(self._saying.lines)
        self._offered = []
        self.edit.setText(start)
        self.edit.setFocus(Qt.FocusReason.OtherFocusReason)
        self.edit.end(False)
        self._help.setText(_KEYS)
        self._typed(start)

    def close_bar(self) -> None:
        self._pause.stop()
        self._found = None
        self.looked_at.emit(None)
        self.hide()
        self._leave()

    def hide_quietly(self) -> None:
        """Gone, as the place is another one."""
        if self.isVisible():
            self._pause.stop()
            self.looked_at.emit(None)
            self.hide()

    # -- understanding ------------------------------------------------------------------------------------------

    def _typed(self, text: str) -> None:
        self._found, self._chosen, self._wanted = None, 0, False
        if not text.strip():
            self._pause.stop()
            self.looked_at.emit(None)
            self._fill([])
            self._saying.suggest()
            return
        self._offered = []
        self._pause.start(_AFTER_MS)

    def _think(self) -> None:
        self._pause.stop()
        self._saying.think(self.edit.text())

    def _show(self, found: "Understood") -> None:
        """What the text means; with Enter pressed already it is done."""
        if not self.isVisible() or found.text != self.edit.text():
            return
        self._found = found
        self._chosen = 0 if found.sure else -1
        self._paint()
        self.looked_at.emit(self.marked)
        if self._wanted:
            self._wanted = False
            self._enter()

    def _offer(self, sentences: list[str]) -> None:
        """Sentences that would do something: of an empty line, or under why nothing can be done."""
        if not self.isVisible():
            return
        trouble = [_with_span(self._found)] if self._found is not None and not self._found.tried else []
        if trouble or not self.edit.text().strip():
            self._offered = sentences
            self._chosen = -1
            self._fill([*trouble, *(f"   {s}" for s in sentences)][:_SHOWN])

    @property
    def marked(self) -> "Tried | None":
        """The reading that Enter would take."""
        tried = self._found.tried if self._found is not None else ()
        return tried[self._chosen] if 0 <= self._chosen < len(tried) else None

    def _paint(self) -> None:
        found = self._found
        if found is None:
            return
        if not found.tried:
            self._fill([_with_span(found)])
            return
        first = max(min(self._chosen - _SHOWN + 1, len(found.tried) - _SHOWN), 0)
        lines = []
        for k, tried in enumerate(found.tried[first : first + _SHOWN], first):
            mark = "▸" if k == self._chosen else "?" if self._chosen < 0 and k == 0 else " "
            lines.append(f"{mark} {tried.reading.about}")
        self._fill(lines, self._chosen - first)

    def _fill(self, lines: Sequence[str], bold: int = -1) -> None:
        for row, text in zip(self._rows, [*lines, *[""] * _SHOWN][:_SHOWN], strict=True):
            row.setText(text or " ")  # the line keeps its height, and the grid above it its place
        for k, row in enumerate(self._rows):
            font = row.font()
            font.setBold(k == bold)
            row.setFont(font)

    # -- keys -----------------------------------------------------------------------------------------------------

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            act = {
                Qt.Key.Key_Escape: self.close_bar,
                Qt.Key.Key_Up: lambda: self._go(-1), Qt.Key.Key_Down: lambda: self._go(1),
                Qt.Key.Key_Tab: self._complete, Qt.Key.Key_Return: self._enter, Qt.Key.Key_Enter: self._enter,
            }.get(Qt.Key(event.key()))  # fmt: skip
            if act is not None:
                hear = event.modifiers() & Qt.KeyboardModifier.ControlModifier
                if hear and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                    self.wants_heard.emit(self.marked)
                else:
                    act()
                return True
        return super().eventFilter(watched, event)

    def _enter(self) -> None:
        if not self.edit.text().strip():
            return
        if self._found is None:  # typed faster than it is understood
            self._wanted = True
            self._think()
            return
        chosen = self.marked
        if chosen is None:
            if self._found.tried:
                self._help.setText("That may mean several things: choose one with Down, then Enter.")
            return
        found = self._found
        self.close_bar()
        self._saying.take(found, chosen)

    def _go(self, by: int) -> None:
        """Through readings where there are several, suggestions of an empty line, else what was said before."""
        count = len(self._found.tried) if self._found is not None else 0
        if count > 1 or (count == 1 and self._chosen < 0):
            self._chosen = min(max(self._chosen + by, 0), count - 1)
            self._paint()
            self.looked_at.emit(self.marked)
            return
        if by > 0 and self._offered:
            self.edit.setText(self._offered[0])
            return
        lines = self._saying.lines
        if lines:
            self._back = min(max(self._back + by, 0), len(lines) - 1)
            self.edit.setText(lines[self._back])

    def _complete(self) -> None:
        """The word before the cursor to its end, where only one goes on like that; else as far as all agree."""
        from ghoststep.session.say.completing import completed

        text, at = self.edit.text(), self.edit.cursorPosition()
        head = completed(text[:at])
        if head != text[:at]:
            self.edit.setText(head + text[at:])
            self.edit.setCursorPosition(len(head))


def _with_span(found: "Understood") -> str:
    """Why nothing can be done, with the words that were not understood marked where they stand."""
    if found.span is None:
        return found.trouble
    start, end = found.span
    return f"{found.text[:start]}›{found.text[start:end]}‹{found.text[end:]}  —  {found.trouble}"
