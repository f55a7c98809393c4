"""The hit card: exact figures of what is chosen, all of them editable."""

from fractions import Fraction

from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import QButtonGroup, QLineEdit, QPushButton

from ghoststep.desk.parts.page import Page, named
from ghoststep.desk.parts.widgets import choice, label, number, row, show_choice, show_number
from ghoststep.feel.ornaments import landing_ticks
from ghoststep.music.kit import LIMBS, VOICES, strokes_of, voice
from ghoststep.music.ornaments import ORNAMENTED_GROUPS, ORNAMENTS, ornament
from ghoststep.music.pattern import Hit
from ghoststep.music.spots import all_names
from ghoststep.music.time import TICKS_PER_WHOLE
from ghoststep.music.touch import Role, level_db, velocity_of_level
from ghoststep.session.edits.hit_edits import hit_name
from ghoststep.session.edits.stroke_edits import closings
from ghoststep.session.edits.touch_edits import HARDEST

_ROLES = ("ghost", "normal", "accent", "hardest")
_LENGTHS = ("1/32", "1/16", "1/8", "3/16", "1/4", "3/8", "1/2", "1/1")


class HitPage(Page):
    title = "Hit"
    moment_wanted = Signal(float)

    def build(self) -> None:
        self._title = label("", "title", wrap=True)
        self._names = label("", "dim", wrap=True)
        self.column.addWidget(self._title)
        self.column.addWidget(self._names)
        self._roles = QButtonGroup(self)
        buttons = []
        for i, name in enumerate(_ROLES):
            button = QPushButton(name.capitalize())
            button.setCheckable(True)
            self._roles.addButton(button, i)
            buttons.append(button)
        self._roles.idClicked.connect(lambda i: self.say(f"role {_ROLES[i]}"))
        self.buttons(*buttons)
        self._velocity = number(1, 127, lambda v: self.say(f"velocity {round(v)}"), name="Velocity, 1 to 127")
        self._velocity.setFixedWidth(64)
        self._level = number(-84, 0, self._set_level, unit="dB", decimals=1, name="Level against velocity 127, in dB")
        self._level.setFixedWidth(84)
        self.column.addLayout(row(named("Velocity"), self._velocity, self._level))
        self._spot = QLineEdit()
        self._spot.setFixedWidth(112)
        self._spot.setToolTip("Any name of a spot: 2a, the & of 3, 2.75, step 8, bar 3 2e")
        self._spot.setAccessibleName("Spot")
        self._spot.editingFinished.connect(self._set_spot)
        self.line("Spot", self._spot)
        deviation = "Own deviation in ms, late positive"
        self._offset = number(-500, 500, lambda ms: self.say(f"offset {ms:.1f}"), unit="ms", decimals=1, name=deviation)
        self.line("Deviation", self._offset)
        self._voice = choice([(v.label, v.name) for v in VOICES], lambda v: self.say(f"voice {v}"), name="Voice")
        self.line("Voice", self._voice)
        self._limb = choice([(f"{x.letter}  {x.name}", x.letter) for x in LIMBS], lambda x: self.say(f"limb {x}"),
                            name="Limb")  # fmt: skip
        self.line("Limb", self._limb)
        self._stroke = choice([("plain", "plain")], lambda s: self.say(f"stroke {s}"), name="Stroke")
        self.line("Stroke", self._stroke)
        around = [("none", "none"), *((o.label, o.name) for o in ORNAMENTS)]
        self._ornament = choice(around, lambda o: self.say(f"ornament {o}"), name="Ornament")
        self.line("Ornament", self._ornament)
        self._length = choice([("rings", "ring"), *((n, n) for n in _LENGTHS)], lambda n: self.say(f"length {n}"),
                              name="How long it lasts, as a share of a whole note")  # fmt: skip
        self.line("Lasts", self._length)
        self._end = label("", "dim", wrap=True)
        self.column.addWidget(self._end)
        self._from = label("", "dim", wrap=True)
        self._hear = QPushButton("Hear that moment")
        self._hear.clicked.connect(self._hear_moment)
        self.column.addWidget(self._from)
        self.column.addWidget(self._hear)
        self._editors = (*buttons, self._velocity, self._level, self._spot, self._offset, self._limb, self._voice)

    # -- showing ------------------------------------------------------------------------------------------------

    def show_now(self) -> None:
        hits = self.grid.chosen_hits()
        for widget in self._editors:
            widget.setEnabled(bool(hits))
        self._stroke.setEnabled(bool(hits) and len(strokes_of(hits[0].voice)) > 1)
        self._ornament.setEnabled(bool(hits) and voice(hits[0].voice).group in ORNAMENTED_GROUPS)
        self._length.setEnabled(bool(hits) and _lasts(hits[0]))
        if hits:
            self._fill(hits)
        else:
            self._empty()
        origin = hits[0].origin if len(hits) == 1 else None
        self._from.setVisible(origin is not None)
        self._hear.setVisible(origin is not None and self.studio.document.recording is not None)
        if origin is not None:
            self._from.setText(f"Heard at {origin.time_s:.3f} s, sure to {100 * origin.confidence:.0f} %")

    def _empty(self) -> None:
        pattern, at = self.studio.groove.pattern, self.grid.cursor_ticks
        names = all_names(at, pattern.meter, pattern.grid)
        self._title.setText(f"Empty: {names[0]} in bar {at // pattern.meter.bar_ticks + 1}")
        self._names.setText("Enter places a hit, G a ghost, A an accent; double-click does too.")
        self._end.setVisible(False)
        self._roles.setExclusive(False)
        for button in self._roles.buttons():
            button.setChecked(False)
        self._roles.setExclusive(True)

    def _fill(self, hits: list[Hit]) -> None:
        h, pattern = hits[0], self.studio.groove.pattern
        if len(hits) == 1:
            at_ms = 1000 * float(self.studio.groove.tempo.seconds(h.position_ticks))
            names = all_names(h.position_ticks, pattern.meter, pattern.grid)
            self._title.setText(hit_name(h, pattern.meter))
            self._names.setText(f"{' = '.join(names[1:])}, {h.position_ticks} ticks, {at_ms:.0f} ms on the grid")
        else:
            self._title.setText(f"{len(hits)} hits")
            self._names.setText("Changes apply to all of them.")
        show_number(self._velocity, h.velocity)
        show_number(self._level, float(level_db(h.velocity)))
        show_number(self._offset, h.offset_ms)
        if not self._spot.hasFocus():
            self._spot.setText(all_names(h.position_ticks, pattern.meter, pattern.grid)[0])
        show_choice(self._limb, h.limb_letter)
        show_choice(self._voice, h.voice)
        with QSignalBlocker(self._stroke):
            self._stroke.clear()
            for s in strokes_of(h.voice):
                self._stroke.addItem(s.label, s.name)
        show_choice(self._stroke, h.stroke)
        show_choice(self._ornament, h.ornament or "none")
        self._show_length(h)
        with QSignalBlocker(self._roles):
            at = 3 if h.velocity >= HARDEST else list(Role).index(h.role)
            self._roles.button(at).setChecked(True)

    def _show_length(self, h: Hit) -> None:
        share = str(Fraction(h.length_ticks, TICKS_PER_WHOLE))
        share = "ring" if not h.length_ticks else "1/1" if share == "1" else share
        self._length.setItemText(0, "its own" if h.ornament else "rings")
        if self._length.findData(share) < 0:
            self._length.addItem(share, share)
        show_choice(self._length, share)
        words = self._ends(h)
        self._end.setVisible(bool(words))
        self._end.setText(words)

    def _ends(self, h: Hit) -> str:
        """Where a hit that lasts ends, and by what."""
        groove = self.studio.groove
        meter = groove.pattern.meter
        if h.ornament and ornament(h.ornament).rolls:
            at = landing_ticks(h, groove.pattern)
            return f"lands on {_spot(at, groove.pattern.length_ticks, meter)}"
        index = min(self.grid.chosen, default=-1)
        found = closings(groove.pattern, h.position_ticks, h.position_ticks).get(index)
        if found is None:
            return ""
        at, by = found
        how = {
            "foot": "closed by the foot on",
            "stroke": "closed by the next hat stroke on",
            "hand": "choked by hand on",
        }
        return f"{how.get(by, 'lands on')} {_spot(at, groove.pattern.length_ticks, meter)}"

    # -- doing --------------------------------------------------------------------------------------------------

    def _set_level(self, db: float) -> None:
        velocity = min(max(round(float(velocity_of_level(db))), 1), 127)
        self.say(f"velocity {velocity}")

    def _set_spot(self) -> None:
        hits, text = self.grid.chosen_hits(), self._spot.text().strip()
        pattern = self.studio.groove.pattern
        if hits and text and text != all_names(hits[0].position_ticks, pattern.meter, pattern.grid)[0]:
            self.say(f"to {text}")

    def _hear_moment(self) -> None:
        hits = self.grid.chosen_hits()
        if hits and hits[0].origin:
            self.moment_wanted.emit(hits[0].origin.time_s)


def _lasts(h: Hit) -> bool:
    rings = h.voice in ("hat_open", "hat_half", "hat_pedal", "ride", "ride_bell", "crash", "splash")
    return rings or bool(h.ornament and ornament(h.ornament).rolls)


def _spot(ticks: int, length: int, meter: object) -> str:
    from ghoststep.music.meter import Meter
    from ghoststep.music.spots import count_name, spot_at

    assert isinstance(meter, Meter)
    if ticks >= length:
        return "the end"
    spot = spot_at(ticks, meter)
    return f"{count_name(spot.tick, meter)} of bar {spot.bar}"
