"""A new groove: empty bars in a meter, or what is typed as a text grid."""

from PySide6.QtWidgets import (
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ghoststep.craft.styles import STYLES, style
from ghoststep.desk.look.look import font
from ghoststep.desk.parts.widgets import choice, label, number, row
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Pattern
from ghoststep.music.time import TempoMap
from ghoststep.session.document.document import Document

_GRIDS = (("eighths", 8), ("sixteenths", 16), ("32nds", 32), ("triplets", 12), ("sextuplets", 24))
_UNTITLED = "Untitled"
_EXAMPLE = """hat_closed  x-x-x-x-x-x-x-x-
snare       ----X-------X---
kick        X-----x-X-------"""


class NewDialog(QDialog):
    """`document` holds what is wanted once it was accepted."""

    def __init__(self, parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle("New groove")
        self.setMinimumWidth(520)
        self.document: Document | None = None
        self.name = QLineEdit(_UNTITLED)
        self._own_names = {_UNTITLED, "", *(s.name.replace("-", " ").capitalize() for s in STYLES)}
        self.meter = QLineEdit("4/4")
        self.meter.setToolTip("4/4, 7/8 2+2+3, 11/4 4+4+3 ...")
        self.tempo = number(10, 960, lambda _v: None, name="Tempo", unit="BPM", decimals=1)
        self.tempo.setValue(100)
        self.bars = number(1, 64, lambda _v: None, name="Bars")
        self.bars.setValue(1)
        self.grid = choice(list(_GRIDS), lambda _v: None, name="Grid")
        self.grid.setCurrentIndex(1)
        self.style_name = choice(
            [("empty bars, or what is typed below", ""), *((f"{s.name}: {s.about}", s.name) for s in STYLES)],
            self._style_chosen, name="A style to start from",
        )  # fmt: skip
        self.layers = choice([("all layers", 0), *((f"{k} of its layers", k) for k in (1, 2, 3))], self._ignored,
                             name="How many layers")  # fmt: skip
        self.first = choice([("feet first", False), ("hands first", True)], self._ignored, name="What comes first")
        form = QFormLayout()
        form.addRow("Start from", self.style_name)
        form.addRow("", row(self.layers, self.first))
        for text, widget in (
            ("Name", self.name), ("Meter", self.meter), ("Tempo", self.tempo), ("Bars", self.bars), ("Grid", self.grid),
        ):  # fmt: skip
            form.addRow(text, widget)
        self.text = QPlainTextEdit()
        self.text.setPlaceholderText(_EXAMPLE)
        self.text.setFont(font(13, mono=True))
        self.text.setMinimumHeight(120)
        self.text.setTabChangesFocus(True)
        self.text.setAccessibleName("Lanes as a text grid")
        self._lanes_label = label("Begin with some lanes, if you like: X accent, x normal, o ghost, - rest", "dim")
        self._trouble = label("", "warn", wrap=True)
        self._style_chosen("")
        make, leave = QPushButton("Make it"), QPushButton("Cancel")
        make.setObjectName("main")
        make.setDefault(True)
        make.clicked.connect(self.make)
        leave.clicked.connect(self.reject)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(leave)
        buttons.addWidget(make)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(22, 18, 22, 16)
        layout.setSpacing(10)
        layout.addLayout(form)
        layout.addWidget(self._lanes_label)
        layout.addWidget(self.text)
        layout.addWidget(self._trouble)
        layout.addLayout(buttons)

    def _ignored(self, _value: object) -> None:
        """Read when it is made."""

    def _style_chosen(self, name: object) -> None:
        """Show the tempo that is usual for a style, and what a style settles by itself."""
        found = style(str(name)) if name else None
        self._lanes_label.setVisible(found is None)
        self.text.setVisible(found is None)
        if self.name.text().strip() in self._own_names:  # nobody named it yet: a style gives it its name
            self.name.setText(found.name.replace("-", " ").capitalize() if found is not None else _UNTITLED)
        if found is not None:
            self.tempo.setValue(found.bpm)
            self.meter.setText(found.groove().pattern.meter.full_name)
            self.bars.setValue(found.groove().pattern.bars)
            self.tempo.setToolTip(f"{found.low_bpm} to {found.high_bpm} BPM is usual for it")
        for widget in (self.meter, self.bars, self.grid):
            widget.setEnabled(found is None)
        for widget in (self.layers, self.first):
            widget.setEnabled(found is not None)

    def make(self) -> None:
        """Accept, if all of it makes sense; else say what does not."""
        try:
            groove = self._groove()
        except InputError as error:
            self._trouble.setText(str(error))
            return
        name = " ".join(self.name.text().split())[:60] or _UNTITLED
        self.document = Document(name, groove.changed(name=name))
        self.accept()

    def _groove(self) -> Groove:
        if self.style_name.currentData():
            found = style(str(self.style_name.currentData()))
            groove = found.groove(self.layers.currentData() or None, hands_first=bool(self.first.currentData()))
            return groove.changed(tempo=TempoMap.constant(self.tempo.value()))
        meter, grid = Meter.parse(self.meter.text()), int(self.grid.currentData())
        lanes = self.text.toPlainText().strip()
        if lanes:
            head = f"tempo {self.tempo.value():g}\nmeter {meter.full_name}\ngrid {grid}\n"
            # What the text says of these itself holds; the fields are for what it leaves out.
            kept = [line for line in head.splitlines() if not _says(lanes, line.split()[0])]
            return parse_grid("\n".join([*kept, lanes]), "the text")
        return Groove(Pattern((), meter, int(self.bars.value()), grid), tempo=TempoMap.constant(self.tempo.value()))


def _says(text: str, word: str) -> bool:
    return any(line.split()[:1] == [word] for line in text.splitlines())
