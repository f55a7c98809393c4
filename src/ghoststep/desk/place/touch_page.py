"""Touch of the whole: levels of roles, which drum leads, accent shapes, ghosts."""

from functools import partial

from PySide6.QtWidgets import QButtonGroup, QDoubleSpinBox, QPushButton

from ghoststep.craft.accents import SHAPES
from ghoststep.desk.parts.page import Page
from ghoststep.desk.parts.widgets import choice, label, number, show_number
from ghoststep.music.kit import LANES, VOICES
from ghoststep.music.touch import Role
from ghoststep.session.language.kinds import Amount
from ghoststep.sound.balance import BALANCES, current

_BALANCE_WORDS = {
    "played": "As played", "level": "Level", "kick-led": "Kick leads", "snare-led": "Snare leads",
    "hat-middle": "Hat between", "hat-led": "Hat leads",
}  # fmt: skip


class TouchPage(Page):
    title = "Touch"

    def build(self) -> None:
        self.section("Level of each role")
        voices = [("all voices", ""), *((v.label, v.name) for v in VOICES)]
        self._whose = choice(voices, lambda _v: self.show_now(), name="Whose levels")
        self.line("Voice", self._whose)
        self._levels: dict[Role, QDoubleSpinBox] = {}
        for role in Role:
            name = f"Velocity that {role.value}s lie around, 1 to 127"
            box = number(1, 127, partial(self._set_level, role), name=name)
            self._levels[role] = box
            self.line(f"{role.value.capitalize()}s at", box)
        self.section("Which drum leads")
        self._balance = QButtonGroup(self)
        self._names = list(BALANCES)
        made = []
        for i, name in enumerate(self._names):
            button = QPushButton(_BALANCE_WORDS[name])
            button.setCheckable(True)
            self._balance.addButton(button, i)
            made.append(button)
        self._balance.idClicked.connect(lambda i: self.call("balance", which=self._names[i]))
        by_name = dict(zip(self._names, made, strict=True))
        led = [n for n in self._names if n.endswith("-led")]
        self.buttons(*(b for n, b in by_name.items() if n not in led))
        self.buttons(*(by_name[n] for n in led))
        self._moved = label("", "dim", wrap=True)
        self.column.addWidget(self._moved)
        self.section("Accents")
        self._lane = label("", "dim", wrap=True)
        self.column.addWidget(self._lane)
        self._shape = choice([(s, s) for s in SHAPES], lambda _s: None, name="Accent shape")
        self.line("Shape", self._shape)
        self.buttons(
            self.button("Set", lambda: self._accents("accents"), tip="Accents in this shape; the others become normal"),
            self.button("Lay over", lambda: self._accents("layer"), tip="Accents added; the others stay as they are"),
        )
        targets = [(v.label, v.name) for v in VOICES if v.limb in ("R", "L")]
        self._to = choice(targets, lambda _v: None, name="Where accents go")
        self.line("To voice", self._to)
        self.buttons(
            self.button(
                "Accents there, rest ghosts",
                lambda: self.say(f"accents-to {self._to.currentData()}{self._target()}"),
                tip="Accented strokes move to the other voice; the rest stays as ghosts",
            )
        )
        self.section("Ghosts of the snare")
        self.buttons(
            self.button("Fill", "fill snare under hat", tip="A ghost on every weak sixteenth a hand is free for"),
            self.button("Thin out", "thin 30 on snare", tip="Take away the ghosts that matter least (30 %)"),
        )

    def show_now(self) -> None:
        pattern, whose = self.studio.groove.pattern, self._whose.currentData()
        for role, box in self._levels.items():
            found = [h.velocity for h in self._shown(role, whose)]
            usual = pattern.rules.level_of(whose or "snare", role)
            show_number(box, sum(found) / len(found) if found else usual)
        name = current(self.studio.groove)
        self._balance.setExclusive(False)
        for i, button in enumerate(self._balance.buttons()):
            button.setChecked(self._names[i] == name)
        self._balance.setExclusive(True)
        moved = self.studio.groove.feel.balance_db
        self._moved.setText(", ".join(f"{group} {db:+.1f} dB" for group, db in moved.items()))
        self._moved.setVisible(bool(moved))
        chosen = self.grid.chosen_hits()
        lane = LANES[self.grid.geometry_now().lanes[self.grid.cursor_row]].label
        self._lane.setText(f"of the {len(chosen)} chosen hits" if len(chosen) > 1 else f"of the lane {lane}")

    def _shown(self, role: Role, whose: str) -> list:  # type: ignore[type-arg]
        hits = self.studio.groove.pattern.hits
        return [h for h in hits[:4096] if h.role is role and not h.grace and (not whose or h.voice == whose)]

    def _set_level(self, role: Role, value: float) -> None:
        whose = self._whose.currentData()
        self.call("level", role=role.value, value=Amount(round(value)), voices=(whose,) if whose else ())
        self.show_now()

    def _target(self) -> str:
        """The chosen hits where there are several, else the lane."""
        return "" if len(self.grid.chosen) > 1 else " on lane"

    def _accents(self, how: str) -> None:
        self.say(f"{how} {self._shape.currentData()}{self._target()}")
