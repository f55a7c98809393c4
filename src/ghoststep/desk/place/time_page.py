"""Time: where the part sits against the pulse, how it swings and strays, and the feels of players."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QDoubleSpinBox,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QWidget,
)

from ghoststep.desk.look.look import Look
from ghoststep.desk.parts.page import Page, named
from ghoststep.desk.parts.widgets import choice, label, number, row, show_choice, show_number
from ghoststep.desk.place.fingerprint import ICON_SIZE, FeelPrint, icon_of
from ghoststep.desk.place.swing_scale import SwingScale
from ghoststep.feel.swing_advice import usual_swing_ratio
from ghoststep.files.feels import shelf
from ghoststep.music.feel import Swing
from ghoststep.music.kit import GROUP_MEMBERS, voices_of
from ghoststep.session.edits.feel_edits import PLACEMENTS
from ghoststep.session.language.kinds import Amount

LEAN_ROWS = (("Kick", "kick"), ("Snare", "snare"), ("Hats", "hat"), ("Toms", "toms"), ("Cymbals", "cymbals"))
_WHOSE = (("everything", ""), ("kick", "kick"), ("snare", "snare"), ("hats", "hat"))


class TimePage(Page):
    title = "Time"
    asked: Callable[[str], object] = staticmethod(lambda name: None)  # runs a command of the table

    def build(self) -> None:
        self._build_placement()
        self._build_swing()
        self._build_looseness()
        self._build_players()

    def _build_placement(self) -> None:
        self.section("Placement")
        self._whose = choice(list(_WHOSE), lambda _v: self.show_now(), name="Whose placement")
        self.line("Of", self._whose)
        self._placement = QButtonGroup(self)
        made = []
        for i, where in enumerate(PLACEMENTS):
            button = QPushButton(where.capitalize())
            button.setCheckable(True)
            button.setToolTip({"ahead": "Ahead of the pulse", "on": "On it", "behind": "Behind it"}[where])
            self._placement.addButton(button, i)
            made.append(button)
        self._placement.idClicked.connect(lambda i: self._place(list(PLACEMENTS)[i]))
        self.buttons(*made)
        self.buttons(self.button("Hear all three in turn", lambda: self.asked("time.placements")))
        self._leans: dict[str, tuple[QDoubleSpinBox, QWidget]] = {}
        for text, group in LEAN_ROWS:
            self._build_lean(text, group)

    def _build_lean(self, text: str, group: str) -> None:
        box = number(
            -200,
            200,
            lambda ms: self.call("lean", voices=GROUP_MEMBERS[group], ms=Amount(ms)),
            unit="ms",
            decimals=1,
            name=f"Lean of the {text.lower()} in ms, late positive",
        )
        line = QWidget()
        inner = row(named(f"{text} lean"), box)
        inner.setContentsMargins(0, 0, 0, 0)
        line.setLayout(inner)
        self._leans[group] = (box, line)
        self.column.addWidget(line)

    def _build_swing(self) -> None:
        self.section("Swing")
        self._scale = SwingScale()
        share = "Share of the first note of a pair; 50 % is straight"
        self._ratio = number(50, 80, lambda v: self._set_swing(v / 100), unit="%", decimals=1, name=share)
        self._ratio.setFixedWidth(84)
        self._scale.moved.connect(lambda ratio: show_number(self._ratio, 100 * ratio))
        self._scale.chosen.connect(lambda ratio: self._set_swing(ratio))
        self.column.addWidget(self._scale)
        self._unit = choice([("8ths", 8), ("16ths", 16)], lambda _v: self._set_swing(), name="Notes that swing")
        self._unit.setMinimumWidth(70)
        whose = [("all", ""), ("hats", "hat"), ("ride", "ride"), ("snare", "snare"), ("kick", "kick")]
        self._swings = choice(whose, lambda _v: self.show_now(), name="Whose swing")
        self._swings.setMinimumWidth(70)
        self.column.addLayout(row(self._ratio, self._unit, self._swings))

    def _build_looseness(self) -> None:
        self.section("Looseness")
        loose = "Looseness: spread of the timing in ms"
        self._loose = number(0, 50, lambda ms: self.call("loose", ms=Amount(ms)), unit="ms", decimals=1, name=loose)
        self.line("Spread", self._loose)
        take = "Which take: another performance by the same player"
        self._take = number(0, 2**31 - 1, lambda n: self.call("take", number=Amount(round(n))), name=take)
        self.line("Take", self._take)
        self._frozen = QCheckBox("Every pass the same")
        self._frozen.setToolTip("A frozen take; else no two passes of a loop are alike")
        self._frozen.clicked.connect(lambda on: self.call("freeze", switch="on" if on else "off"))
        self.column.addWidget(self._frozen)
        self.buttons(self.button("Hear eight takes", lambda: self.asked("time.takes"), tip="One after the other"))
        self._pull = number(0, 100, lambda _v: None, unit="%", name="How far to pull towards the grid")
        self._pull.setValue(50)
        self._pull.setFixedWidth(78)
        self._lean_too, self._swing_too = QCheckBox("lean"), QCheckBox("swing")
        for box, what in ((self._lean_too, "lean"), (self._swing_too, "swing")):
            box.setToolTip(f"Pull the {what} too")
        self.column.addLayout(row(label("Pull"), self._pull, self._lean_too, self._swing_too))
        self._pull_button = self.button("Pull towards the grid", self._pull_now)
        self.buttons(self._pull_button)

    def _build_players(self) -> None:
        self.section("A player's feel")
        self._print = FeelPrint()
        self.column.addWidget(self._print)
        self.shelf = QListWidget()
        self.shelf.setIconSize(ICON_SIZE)
        self.shelf.setMinimumHeight(176)
        self.shelf.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.shelf.itemActivated.connect(lambda _item: self._lay())
        self.shelf.setAccessibleName("The shelf of feels")
        self.column.addWidget(self.shelf)
        self._touch = number(0, 150, lambda _v: None, unit="%", name="How far the player's touch goes")
        self._time = number(0, 150, lambda _v: None, unit="%", name="How far the player's time goes")
        for box in (self._touch, self._time):
            box.setValue(100)
            box.setFixedWidth(78)
        self.column.addLayout(row(label("Touch"), self._touch, label("Time"), self._time))
        self._between = choice([("no other", "")], lambda _v: None, name="Another feel that it goes towards")
        self._between.setMinimumWidth(96)
        self._share = number(0, 100, lambda _v: None, unit="%", name="How far towards the other feel")
        self._share.setValue(50)
        self._share.setFixedWidth(70)
        self.column.addLayout(row(label("Towards"), self._between, self._share))
        self._print_button = self.button(
            "Print", lambda: self._say_of_chosen("print-feel"), tip="Write the feel into the chosen hits, or all"
        )
        self._off_button = self.button(
            "Take off", lambda: self._say_of_chosen("take-off-feel"), tip="Measure what hits do, and keep it as feel"
        )
        self._whose_feel = choice(list(_WHOSE), lambda _v: None, name="Which voices take the feel")
        self.column.addLayout(row(label("Laid on"), self._whose_feel))
        self.buttons(
            self.button(
                "Try …", lambda: self.asked("time.try"), tip="Hear it against what is there, then take or leave it"
            ),
            self.button("Lay on", self._lay, tip="Lay the chosen feel on the groove"),
        )
        self.buttons(
            self._print_button,
            self._off_button,
            self.button("Keep …", lambda: self.asked("time.keep"), tip="Put this groove's feel on the shelf"),
        )
        self.fill_shelf()

    # -- showing ------------------------------------------------------------------------------------------------

    def fill_shelf(self) -> None:
        """Show the shelf as it is now; what is broken on it is said."""
        found, troubles = shelf()
        # The pictures keep their colours where a feel is chosen.
        chosen = f"background: {Look.theme.raised}; color: {Look.theme.text};"
        self.shelf.setStyleSheet(f"QListWidget::item:selected {{ {chosen} }}")
        row = max(self.shelf.currentRow(), 0)
        self.shelf.clear()
        for one in found:
            item = QListWidgetItem(icon_of(one.feel), one.name)
            item.setToolTip(one.about)
            self.shelf.addItem(item)
        self.shelf.setCurrentRow(row)
        other = self._between.currentData()
        self._between.clear()
        for text, value in (("no other", ""), *((one.name, one.name) for one in found)):
            self._between.addItem(text, value)
        show_choice(self._between, other)
        for trouble in troubles:
            self.studio.said.emit(trouble, True)

    @property
    def chosen_feel(self) -> str:
        """The name of the feel that is chosen on the shelf."""
        item = self.shelf.currentItem()
        return item.text() if item is not None else ""

    @property
    def shares(self) -> tuple[float, float]:
        """How far touch and time go, in percent."""
        return self._touch.value(), self._time.value()

    def show_now(self) -> None:
        groove = self.studio.groove
        feel, used = groove.feel, set(groove.pattern.voices)
        for _, group in LEAN_ROWS:
            box, line = self._leans[group]
            members = [v for v in GROUP_MEMBERS[group] if v in used] or list(GROUP_MEMBERS[group])
            show_number(box, feel.lean_of(members[0]))
            line.setVisible(group in ("kick", "snare", "hat") or any(v in used for v in GROUP_MEMBERS[group]))
        self._show_placement()
        whose = self._swing_voices()
        swing = feel.swing_of(whose[0]) if whose else feel.swing
        usual = usual_swing_ratio(groove.tempo.main_bpm) if swing.unit == 8 else None
        self._scale.show_ratio(swing.ratio, usual)
        show_number(self._ratio, 100 * swing.ratio)
        show_choice(self._unit, swing.unit)
        show_number(self._loose, feel.loose_ms)
        show_number(self._take, feel.take)
        self._frozen.setChecked(feel.frozen)
        chosen = len(self.grid.chosen)
        self._pull_button.setText(f"Pull {chosen} hits to the grid" if chosen > 1 else "Pull towards the grid")
        some = f" {chosen} hits" if chosen > 1 else ""
        self._print_button.setText(f"Print{some}")
        self._off_button.setText(f"Take off{some}")
        self._print.show_feel(feel)

    def _show_placement(self) -> None:
        groove = self.studio.groove
        group = str(self._whose.currentData())
        voices = [v for v in groove.pattern.voices if not group or v in GROUP_MEMBERS[group]]
        mean = sum(groove.feel.lean_of(v) for v in voices) / len(voices) if voices else 0.0
        now = min(range(len(PLACEMENTS)), key=lambda i: abs(mean - list(PLACEMENTS.values())[i]))
        self._placement.setExclusive(False)
        for i, button in enumerate(self._placement.buttons()):
            button.setChecked(i == now)
        self._placement.setExclusive(True)

    # -- doing --------------------------------------------------------------------------------------------------

    def placed_voices(self) -> tuple[str, ...]:
        """Whose placement is set; none is all."""
        group = str(self._whose.currentData())
        return GROUP_MEMBERS[group] if group else ()

    def _place(self, where: str) -> None:
        self.call("placement", where=where, voices=self.placed_voices())
        self.show_now()

    def _swing_voices(self) -> tuple[str, ...]:
        group = str(self._swings.currentData())
        if group == "ride":
            return ("ride", "ride_bell")
        return GROUP_MEMBERS[group] if group else ()

    def _set_swing(self, ratio: float | None = None) -> None:
        share = self._scale.ratio if ratio is None else round(ratio, 4)
        self.call("swing", swing=Swing(int(self._unit.currentData()), share), voices=self._swing_voices())

    def _pull_now(self) -> None:
        too = {(False, False): "", (True, False): "lean", (False, True): "swing", (True, True): "both"}
        which = too[self._lean_too.isChecked(), self._swing_too.isChecked()]
        self._say_of_chosen(f"pull {self._pull.value():g}%{f' with {which}' if which else ''}")

    def _say_of_chosen(self, phrase: str) -> None:
        """A phrase for the chosen hits, or for all; the hit that the cursor stands on alone is no choice."""
        whole = "" if len(self.grid.chosen) > 1 else " on everything"
        self.say(phrase + whole)

    def _lay(self) -> None:
        touch, time = self.shares
        self.call("feel", name=self.chosen_feel, touch=Amount(touch), time=Amount(time), **self.ways)

    @property
    def ways(self) -> dict[str, object]:
        """The other feel that the chosen one goes towards, and the voices it is laid on, where they are named."""
        out: dict[str, object] = {}
        if other := self._between.currentData():
            out |= {"other": other, "share": Amount(self._share.value())}
        if whose := self._whose_feel.currentData():
            out["voices"] = voices_of(str(whose))
        return out

    def keyPressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.shelf.hasFocus():
            self._lay()
        else:
            super().keyPressEvent(event)
