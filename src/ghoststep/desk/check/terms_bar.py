"""Who is to play it, how and on what, and what the part may be: a line above the grid."""

from dataclasses import replace
from pathlib import Path

from PySide6.QtWidgets import QCheckBox, QFileDialog, QFrame, QHBoxLayout, QMenu, QPushButton

from ghoststep.desk.model.studio import Studio
from ghoststep.desk.parts.widgets import choice, label, show_choice
from ghoststep.files.kit_setups import read_setup
from ghoststep.judge.finding import STYLES
from ghoststep.judge.kit_setup import WAYS
from ghoststep.judge.players import PLAYERS
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.language.kinds import Amount

_MAY_BE = {"loop": "one loop", "machine": "a machine", "two-drummers": "two drummers"}


class TermsBar(QFrame):
    """Each control says a verb of the language."""

    def __init__(self, studio: Studio) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._studio = studio
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 6, 12, 6)
        line.setSpacing(8)
        who = [(f"a {name} player" if name == "working" else f"a {name}", name) for name in PLAYERS]
        self._who = choice(who, lambda v: studio.call("player", who=v), name="Who is to play it")
        self._way = choice([(w, w) for w in WAYS], lambda v: studio.call("handed", way=v), name="How it is played")
        pedals = [("one kick pedal", 1), ("two kick pedals", 2), ("no kick pedal", 0)]
        self._pedals = choice(pedals, self._set_pedals, name="Kick pedals")
        self._stands = QPushButton("Usual set-up")
        self._stands.setToolTip("Where the drums stand: read it from a kit file, or put all back where they usually do")
        self._stands.clicked.connect(self._ask_kit)
        for widget in (label("Played by", "dim"), self._who, self._way, self._pedals, self._stands):
            line.addWidget(widget)
        line.addSpacing(10)
        line.addWidget(label("It may be", "dim"))
        self._styles = {}
        for name in STYLES:
            box = QCheckBox(_MAY_BE[name])
            box.setToolTip(f"What gives {_MAY_BE[name]} away is then not told")
            box.clicked.connect(lambda on, name=name: studio.call("may-be", style=name, switch="on" if on else "off"))
            self._styles[name] = box
            line.addWidget(box)
        line.addStretch(1)

    def _set_pedals(self, number: object) -> None:
        self._studio.call("pedals", number=Amount(float(number)))  # type: ignore[arg-type]

    def _ask_kit(self) -> None:
        menu = QMenu(self)
        menu.addAction("From a kit file …", self._open_kit)
        usual = menu.addAction("All where they usually stand", lambda: self._studio.say("stands usual"))
        usual.setEnabled(bool(self._studio.document.judged.stands))
        menu.exec(self._stands.mapToGlobal(self._stands.rect().bottomLeft()))
        menu.deleteLater()

    def _open_kit(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.window(), "Where the drums stand", "", "Kits (*.json)")
        if name:
            self.use_kit(Path(name))

    def use_kit(self, path: Path) -> None:
        """Check on the kit of a file."""

        def change(document: Document) -> Edit:
            kit = read_setup(path)
            return f"Checked on the kit of {path.name}", replace(document, judged=document.judged.with_kit(kit))

        self._studio.edit(change)

    def show_now(self) -> None:
        """Show what the document says."""
        judged = self._studio.document.judged
        show_choice(self._who, judged.player)
        show_choice(self._way, judged.way)
        show_choice(self._pedals, judged.kit.kick_pedals)
        self._stands.setText("Own set-up" if judged.stands else "Usual set-up")
        for name, box in self._styles.items():
            box.setChecked(name in judged.styles)
