"""The hit card: exact figures of what is chosen, all of them editable."""

from fractions import Fraction
from functools import partial

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QButtonGroup, QLineEdit, QPushButton, QVBoxLayout, QWidget

from ghoststep.desk.parts.page import Page, named
from ghoststep.desk.parts.widgets import choice, label, number, row, show_choice, show_number
from ghoststep.feel.ornaments import landing_ticks
from ghoststep.music.kit import LANES, LIMBS, VOICES, strokes_of, voice
from ghoststep.music.ornaments import ORNAMENTED_GROUPS, ORNAMENTS, ornament
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.spots import all_names, name_at
from ghoststep.music.time import TICKS_PER_WHOLE
from ghoststep.music.touch import Role, level_db, velocity_of_level
from ghoststep.session.edits.hit_edits import hit_name
from ghoststep.session.edits.stroke_edits import closings
from ghoststep.session.edits.touch_edits import HARDEST
from ghoststep.session.language.kinds import Amount

_ROLES = ("ghost", "normal", "accent", "hardest")
_LENGTHS = ("1/32", "1/16", "1/8", "3/16", "1/4", "3/8", "1/2", "1/1")


class HitPage(Page):
    title = "Hit"

    def build(self) -> None:
        self._title = label("", "title", wrap=True)
        self._names = label("", "dim", wrap=True)
        self.column.addWidget(self._title)
        self.column.addWidget(self._names)
        self.column.addWidget(self._build_empty())
        self._card = QWidget()
        whole, self.column = self.column, QVBoxLayout(self._card)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(7)
        self._build_card()
        self.column = whole
        self.column.addWidget(self._card)

    def _build_empty(self) -> QWidget:
        """What stands there while no hit is chosen: what can be put at the cursor."""
        self._nothing = QWidget()
        layout = QVBoxLayout(self._nothing)
        layout.setContentsMargins(0, 4, 0, 0)
        layout.setSpacing(7)
        for text, role in (("Place a hit  (Enter)", "normal"), ("A ghost  (G)", "ghost"), ("An accent  (A)", "accent")):
            layout.addWidget(self.button(text, partial(self.call, "place", role=role), tip=f"{text} at the cursor"))
        words = (
            "A double-click places one too. Arrow keys move the cursor, full stop and comma go from hit to hit;"
            " dragging over the grid chooses several."
        )
        layout.addWidget(label(words, "dim", wrap=True))
        return self._nothing

    def _build_card(self) -> None:
        """Every figure of the chosen hits."""
        self._roles = QButtonGroup(self)
        buttons = []
        for i, name in enumerate(_ROLES):
            button = QPushButton(name.capitalize())
            button.setCheckable(True)
            self._roles.addButton(button, i)
            buttons.append(button)
        self._roles.idClicked.connect(lambda i: self.call("role", role=_ROLES[i]))
        self.buttons(*buttons)
        self._velocity = number(
            1, 127, lambda v: self.call("velocity", value=Amount(round(v))), name="Velocity, 1 to 127"
        )
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
        self._offset = number(
            -500, 500, lambda ms: self.call("offset", ms=Amount(round(ms, 1))), unit="ms", decimals=1, name=deviation
        )
        self.line("Deviation", self._offset)
        self._voice = choice([(v.label, v.name) for v in VOICES], lambda v: self.call("voice", name=v), name="Voice")
        self.line("Voice", self._voice)
        self._limb = choice([(f"{x.letter}  {x.name}", x.letter) for x in LIMBS], lambda x: self.call("limb", letter=x),
                            name="Limb")  # fmt: skip
        self.line("Limb", self._limb)
        self._stroke = choice([("plain", "plain")], lambda s: self.call("stroke", name=s), name="Stroke")
        self.line("Stroke", self._stroke)
        around = [("none", "none"), *((o.label, o.name) for o in ORNAMENTS)]
        self._ornament = choice(around, lambda o: self.call("ornament", name=o), name="Ornament")
        self.line("Ornament", self._ornament)
        self._length = choice([("rings", "ring"), *((n, n) for n in _LENGTHS)], self._set_length,
                              name="How long it lasts, as a share of a whole note")  # fmt: skip
        self.line("Lasts", self._length)
        self._end = label("", "dim", wrap=True)
        self.column.addWidget(self._end)
        self._from = label("", "dim", wrap=True)
        self._hear = QPushButton("Hear that moment")
        self._hear.clicked.connect(self._hear_moment)
        self.column.addWidget(self._from)
        self.column.addWidget(self._hear)

    # -- showing ------------------------------------------------------------------------------------------------

    def show_now(self) -> None:
        hits = self.grid.chosen_hits()
        self._card.setVisible(bool(hits))
        self._nothing.setVisible(not hits)
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
        names = all_names(at, pattern.frame, pattern.grid)
        self._title.setText(f"Empty: {names[0]} in bar {pattern.frame.spot_at(at).bar}")
        self._names.setText(f"{' = '.join(names[1:])}, lane {LANES[self.studio.choice.lane].label}")

    def _fill(self, hits: list[Hit]) -> None:
        h, pattern = hits[0], self.studio.groove.pattern
        if len(hits) == 1:
            at_ms = 1000 * float(self.studio.groove.tempo.seconds(h.position_ticks))
            names = all_names(h.position_ticks, pattern.frame, pattern.grid)
            self._title.setText(hit_name(h, pattern.frame))
            self._names.setText(f"{' = '.join(names[1:])}, {h.position_ticks} ticks, {at_ms:.0f} ms on the grid")
        else:
            self._title.setText(f"{len(hits)} hits")
            self._names.setText("Changes apply to all of them.")
        show_number(self._velocity, h.velocity)
        show_number(self._level, float(level_db(h.velocity)))
        show_number(self._offset, h.offset_ms)
        if not self._spot.hasFocus():
            self._spot.setText(all_names(h.position_ticks, pattern.frame, pattern.grid)[0])
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
        if h.ornament and ornament(h.ornament).rolls:
            at = landing_ticks(h, groove.pattern)
            return f"lands on {_spot(at, groove.pattern)}"
        index = min(self.studio.choice.indices(groove.pattern), default=-1)
        found = closings(groove.pattern, h.position_ticks, h.position_ticks).get(index)
        if found is None:
            return ""
        at, by = found
        how = {
            "foot": "closed by the foot on",
            "stroke": "closed by the next hat stroke on",
            "hand": "choked by hand on",
        }
        return f"{how.get(by, 'lands on')} {_spot(at, groove.pattern)}"

    # -- doing --------------------------------------------------------------------------------------------------

    def _set_length(self, length: object) -> None:
        self.call("length", of=(_ticks(str(length)), False))

    def _set_level(self, db: float) -> None:
        velocity = min(max(round(float(velocity_of_level(db))), 1), 127)
        self.call("velocity", value=Amount(velocity))

    def _set_spot(self) -> None:
        hits, text = self.grid.chosen_hits(), self._spot.text().strip()
        pattern = self.studio.groove.pattern
        if hits and text and text != all_names(hits[0].position_ticks, pattern.frame, pattern.grid)[0]:
            self.call("to", spot=text)

    def _hear_moment(self) -> None:
        hits = self.grid.chosen_hits()
        if hits and hits[0].origin:
            self.studio.playback.hear_moment(hits[0].origin.time_s)


def _ticks(length: str) -> int:
    """A length of the list in ticks; 0 rings."""
    return 0 if length == "ring" else int(Fraction(length) * TICKS_PER_WHOLE)


def _lasts(h: Hit) -> bool:
    rings = voice(h.voice).group in ("hat", "cymbals") and h.voice != "hat_closed"
    return rings or bool(h.ornament and ornament(h.ornament).rolls)


def _spot(ticks: int, pattern: Pattern) -> str:
    if ticks >= pattern.length_ticks:
        return "the end"
    return f"{name_at(ticks, pattern.frame)} of bar {pattern.frame.spot_at(ticks).bar}"
