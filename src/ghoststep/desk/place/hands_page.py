"""Hands and feet: the sticking line worked out or typed, its names, linear parts."""

from collections.abc import Callable

from PySide6.QtWidgets import QCheckBox, QLineEdit, QListWidget

from ghoststep.desk.parts.page import Page
from ghoststep.desk.parts.widgets import label
from ghoststep.judge.kit_setup import WAYS
from ghoststep.judge.layers import Layer, hits_of, layers, row_words
from ghoststep.judge.line import names
from ghoststep.music.pattern import Pattern
from ghoststep.session.edits.rules import clashes

_NAMED_HITS = 6000  # names are told for patterns up to this size: people read them


class HandsPage(Page):
    title = "Hands"
    asked: Callable[[str], object] = staticmethod(lambda _name: None)  # runs a command of the table

    def build(self) -> None:
        self._pattern: Pattern | None = None
        self._found: list[Layer] = []
        self.section("Work out who plays what, handed ...")
        for_way = {way: way.removesuffix("-handed").capitalize() for way in WAYS}
        self.buttons(
            *(self.button(text, f"sticking {way}", tip=f"The easiest sticking, {way}") for way, text in for_way.items())
        )
        told = "Each drawn and heard before it is taken (Alt+S)"
        self.buttons(self.button("Three ways to choose from", lambda: self.asked("hands.ways"), tip=told))
        self.section("Type it for the chosen hits")
        self._typed = QLineEdit()
        self._typed.setPlaceholderText("RLRR LRLL, then Enter")
        self._typed.setAccessibleName("Sticking of the chosen hits")
        self._typed.returnPressed.connect(self._type)
        self.column.addWidget(self._typed)
        self.buttons(
            self.button("Swap hands", self._swap, tip="Right for left and left for right"),
        )
        self._linear = QCheckBox("Keep it linear: one limb at a time")
        self._linear.clicked.connect(lambda on: self.call("linear", wanted="on" if on else "off"))
        self.column.addWidget(self._linear)
        self._clashes = label("", "warn", wrap=True)
        self.column.addWidget(self._clashes)
        self.section("Names in the sticking")
        self._none = label("No rudiment and no repeating cell.", "dim", wrap=True)
        self.column.addWidget(self._none)
        self._list = QListWidget()
        self._list.setMinimumHeight(150)
        self._list.setWordWrap(True)
        self._list.currentRowChanged.connect(self._go)
        self.column.addWidget(self._list)
        self.section("At the loop point")
        self._ring = QCheckBox("Cymbals ring over it")
        self._ring.clicked.connect(lambda on: self.call("ring", wanted="over" if on else "choke"))
        self.column.addWidget(self._ring)

    def show_now(self) -> None:
        pattern = self.studio.groove.pattern
        self._linear.setChecked(pattern.rules.linear)
        self._ring.setChecked(pattern.rules.ring_over)
        if pattern is self._pattern:
            return
        self._pattern = pattern
        small = len(pattern.hits) <= _NAMED_HITS
        count = len(clashes(pattern)) if pattern.rules.linear and small else 0
        self._clashes.setText(f"{count} spot{'s' if count != 1 else ''} where limbs strike together")
        self._clashes.setVisible(bool(count))
        self._found = layers(self.studio.groove) if small else []
        self._list.blockSignals(True)
        self._list.clear()
        self._list.addItems([row_words(x, pattern) for x in self._found])
        self._list.blockSignals(False)
        self._list.setVisible(bool(self._found))
        self._none.setVisible(not self._found)
        self.grid.show_names(names(self.studio.groove) if small else [])

    def _type(self) -> None:
        if self.say(f"hands {self._typed.text()}"):
            self._typed.clear()
            self.grid.setFocus()

    def _swap(self) -> None:
        self.say("swap" if self.grid.chosen else "swap on everything")

    def _go(self, number: int) -> None:
        """Choose the hits of a name, wherever it stands."""
        if 0 <= number < len(self._found):
            self.grid.reveal(self._found[number].places[0].start_ticks)
            self.grid.choose(hits_of(self._found[number], self.studio.groove.pattern))
