"""What can be said, by topics: a click puts an example into the line, where it shows what it would do."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ghoststep.desk.parts.widgets import label

_COLUMNS = 3


class SayableDialog(QDialog):
    """Topics with examples, each of which can be tried on the open groove."""

    def __init__(self, say: Callable[[str], None], parent: QWidget | None = None) -> None:
        from ghoststep.session.say.topics import TOPICS

        super().__init__(parent)
        self.setWindowTitle("What can be said")
        self._say = say
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 14, 24, 12)
        words = (
            "Ctrl+K opens the line in every place. Say it in your own words; a click tries an example on this groove."
        )
        layout.addWidget(label(words, "dim"))
        columns = QHBoxLayout()
        columns.setSpacing(28)
        rows = list(TOPICS.items())
        size = -(-len(rows) // _COLUMNS)
        for k in range(_COLUMNS):
            columns.addLayout(self._column(rows[k * size : (k + 1) * size]))
        layout.addLayout(columns)
        close = QPushButton("Close")
        close.clicked.connect(self.reject)
        layout.addWidget(close, 0, Qt.AlignmentFlag.AlignRight)

    def _column(self, topics: list[tuple[str, tuple[str, ...]]]) -> QVBoxLayout:
        out = QVBoxLayout()
        out.setSpacing(2)
        for topic, examples in topics:
            out.addWidget(label(topic, "section"))
            for example in examples:
                button = QPushButton(example)
                button.setObjectName("example")
                button.setCursor(Qt.CursorShape.PointingHandCursor)
                button.setAutoDefault(False)
                button.clicked.connect(lambda _=False, text=example: self._try(text))
                out.addWidget(button)
            out.addSpacing(8)
        out.addStretch(1)
        return out

    def _try(self, text: str) -> None:
        self.accept()
        self._say(text)
