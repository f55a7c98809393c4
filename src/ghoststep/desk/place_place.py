"""Place: the grid with the hit card and the feel beside it."""

from collections.abc import Callable

from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import QButtonGroup, QCheckBox, QDoubleSpinBox, QHBoxLayout, QPushButton, QWidget

from ghoststep.desk.grid_view import GridView
from ghoststep.desk.parts import choice, label, number, panel, row, show_choice, show_number
from ghoststep.desk.studio import Studio
from ghoststep.feel.swing_advice import usual_swing_ratio
from ghoststep.listen.explain import Explained
from ghoststep.music.feel import Swing
from ghoststep.music.kit import LIMBS, VOICES, voices_of
from ghoststep.music.pattern import Hit
from ghoststep.music.spots import all_names
from ghoststep.music.touch import ROLES, level_db
from ghoststep.session import edits
from ghoststep.session.document import Document

LEAN_ROWS = (("Kick", "kick"), ("Snare", "snare"), ("Hats", "hat"), ("Toms", "toms"), ("Cymbals", "cymbals"))


class PlacePlace(QWidget):
    """The second place."""

    moment_wanted = Signal(float)

    def __init__(self, studio: Studio) -> None:
        super().__init__()
        self._studio = studio
        self.grid = GridView()
        side, self._side = panel()
        self._build_card()
        self._build_feel()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.grid, 1)
        layout.addWidget(side)
        self._before: Document | None = None  # the document a drag began with
        studio.document_changed.connect(self.show_document)
        studio.document_opened.connect(lambda: self.grid.put_cursor(0, 0))
        studio.wish_changed.connect(self._show_region)
        self.grid.selection_changed.connect(self._show_card)
        self.grid.hit_wanted.connect(self._place)
        self.grid.drag_changed.connect(self._drag)
        self.grid.drag_ended.connect(self._drop)
        self.grid.region_wanted.connect(lambda region: studio.set_wish(region_ticks=region))
        self.moment_wanted.connect(studio.hear_moment)

    # -- building -----------------------------------------------------------------------------------------------

    def _build_card(self) -> None:
        self._side.addWidget(label("Hit", "section"))
        self._title = label("", "title", wrap=True)
        self._names = label("", "dim", wrap=True)
        self._side.addWidget(self._title)
        self._side.addWidget(self._names)
        self._roles = QButtonGroup(self)
        buttons = []
        for i, spec in enumerate(ROLES):
            button = QPushButton(spec.role.value.capitalize())
            button.setCheckable(True)
            self._roles.addButton(button, i)
            buttons.append(button)
        self._roles.idClicked.connect(lambda i: self._edit(lambda d, hits: edits.set_role(d, hits, ROLES[i].role)))
        self._side.addLayout(row(*buttons))
        self._velocity = number(1, 127, self._set_velocity, name="Velocity, 1 to 127")
        self._level = label("", "dim")
        deviation = "Own deviation in ms, late positive"
        self._offset = number(-500, 500, self._set_offset, unit="ms", decimals=1, name=deviation)
        self._limb = choice([(f"{x.letter}  {x.name}", x.letter) for x in LIMBS], self._set_limb, name="Limb")
        self._voice = choice([(v.label, v.name) for v in VOICES], self._set_voice, name="Voice")
        self._side.addLayout(row(_fixed("Velocity"), self._velocity, self._level))
        self._side.addLayout(row(_fixed("Deviation"), self._offset))
        self._side.addLayout(row(_fixed("Voice"), self._voice))
        self._side.addLayout(row(_fixed("Limb"), self._limb))
        self._from = label("", "dim", wrap=True)
        self._hear = QPushButton("Hear that moment")
        self._hear.clicked.connect(self._hear_moment)
        self._side.addWidget(self._from)
        self._side.addWidget(self._hear)
        self._editors = (*buttons, self._velocity, self._offset, self._limb, self._voice)

    def _build_feel(self) -> None:
        self._side.addSpacing(10)
        self._side.addWidget(label("Feel of the whole groove", "section"))
        self._tempo = number(10, 960, self._set_tempo, unit="BPM", decimals=1, name="Tempo")
        self._side.addLayout(row(_fixed("Tempo"), self._tempo))
        self._unit = choice([("eighths", 8), ("sixteenths", 16)], self._set_swing, name="Notes that swing")
        share = "Share of the first note of a pair; 50 % is straight"
        self._ratio = number(50, 80, self._set_swing, unit="%", decimals=1, name=share)
        self._side.addLayout(row(_fixed("Swing"), self._ratio))
        self._side.addLayout(row(_fixed("of"), self._unit))
        self._usual = label("", "dim")
        self._side.addWidget(self._usual)
        self._leans: dict[str, tuple[QDoubleSpinBox, QWidget]] = {}
        for text, group in LEAN_ROWS:
            self._build_lean(text, group)
        self._loose = number(
            0, 50, self._set_loose, unit="ms", decimals=1, name="Looseness: spread of the timing in ms"
        )
        self._side.addLayout(row(_fixed("Looseness"), self._loose))
        self._side.addStretch(1)
        self._lanes = QCheckBox("Show every lane")
        self._lanes.toggled.connect(self._show_all)
        self._side.addWidget(self._lanes)

    def _build_lean(self, text: str, group: str) -> None:
        def changed(ms: float) -> None:
            self._feel(lambda d: edits.set_lean(d, voices_of(group), ms))

        name = f"Lean of the {text.lower()} in ms, late positive"
        box = number(-200, 200, changed, unit="ms", decimals=1, name=name)
        line = QWidget()
        inner = row(_fixed(f"{text} lean"), box)
        inner.setContentsMargins(0, 0, 0, 0)
        line.setLayout(inner)
        self._leans[group] = (box, line)
        self._side.addWidget(line)

    # -- showing ------------------------------------------------------------------------------------------------

    def show_document(self) -> None:
        document = self._studio.document
        self.grid.show_groove(document.groove, _spreads(document))
        groove = document.groove
        show_number(self._tempo, groove.tempo.main_bpm)
        show_number(self._ratio, 100 * groove.feel.swing.ratio)
        show_choice(self._unit, groove.feel.swing.unit)
        usual = 100 * usual_swing_ratio(groove.tempo.main_bpm)
        self._usual.setText(f"rides at this tempo usually: {usual:.0f} %")
        self._usual.setVisible(groove.feel.swing.unit == 8)
        show_number(self._loose, groove.feel.loose_ms)
        used = set(groove.pattern.voices)
        for _, group in LEAN_ROWS:
            box, line = self._leans[group]
            members = [v for v in voices_of(group) if v in used] or list(voices_of(group))
            show_number(box, groove.feel.lean_of(members[0]))
            line.setVisible(group in ("kick", "snare", "hat") or any(v in used for v in voices_of(group)))

    def _show_card(self) -> None:
        hits = self.grid.chosen_hits()
        for widget in self._editors:
            widget.setEnabled(bool(hits))
        pattern = self._studio.groove.pattern
        if not hits:
            names = all_names(self.grid.cursor_ticks, pattern.meter, pattern.grid)
            self._title.setText(f"Empty: {names[0]} in bar {self.grid.cursor_ticks // pattern.meter.bar_ticks + 1}")
            self._names.setText("Enter places a hit here; double-click anywhere does too.")
            self._level.setText("")
            self._roles.setExclusive(False)
            for button in self._roles.buttons():
                button.setChecked(False)
            self._roles.setExclusive(True)
        else:
            self._fill_card(hits)
        origin = hits[0].origin if len(hits) == 1 else None
        here = origin is not None and self._studio.document.recording is not None
        self._from.setVisible(origin is not None)
        self._hear.setVisible(here)
        if origin is not None:
            self._from.setText(f"Heard at {origin.time_s:.3f} s, sure to {100 * origin.confidence:.0f} %")

    def _fill_card(self, hits: list[Hit]) -> None:
        h, pattern = hits[0], self._studio.groove.pattern
        if len(hits) == 1:
            names = all_names(h.position_ticks, pattern.meter, pattern.grid)
            self._title.setText(edits.hit_name(h, pattern.meter))
            self._names.setText(" = ".join(names[1:]) + f", {h.position_ticks} ticks")
            self._level.setText(f"{float(level_db(h.velocity)):.1f} dB")
        else:
            self._title.setText(f"{len(hits)} hits")
            self._names.setText("Changes apply to all of them.")
            self._level.setText("")
        show_number(self._velocity, h.velocity)
        show_number(self._offset, h.offset_ms)
        show_choice(self._limb, h.limb_letter)
        show_choice(self._voice, h.voice)
        with QSignalBlocker(self._roles):
            for i, spec in enumerate(ROLES):
                self._roles.button(i).setChecked(h.role is spec.role)

    def _show_region(self) -> None:
        if self.grid.region != self._studio.wish.region_ticks:
            self.grid.region = self._studio.wish.region_ticks
            self.grid.refresh()

    def _show_all(self, on: bool) -> None:
        self.grid.all_lanes = on
        self.grid.refresh()

    # -- doing --------------------------------------------------------------------------------------------------

    def _edit(self, change: "Callable[[Document, list[Hit]], edits.Edit]") -> None:
        hits = self.grid.chosen_hits()
        self._studio.edit(lambda document: change(document, hits))

    def _feel(self, change: "Callable[[Document], edits.Edit]") -> None:
        self._studio.edit(change)

    def _set_velocity(self, value: float) -> None:
        self._edit(lambda d, hits: edits.set_velocity(d, hits, round(value)))

    def _set_offset(self, ms: float) -> None:
        self._edit(lambda d, hits: edits.set_offset(d, hits, ms))

    def _set_tempo(self, bpm: float) -> None:
        self._feel(lambda d: edits.set_tempo(d, bpm))

    def _set_loose(self, ms: float) -> None:
        self._feel(lambda d: edits.set_looseness(d, ms, d.groove.feel.take))

    def _set_limb(self, letter: object) -> None:
        self._edit(lambda d, hits: edits.set_limb(d, hits, str(letter)))

    def _set_voice(self, name: object) -> None:
        self._edit(lambda d, hits: edits.set_voice(d, hits, str(name)))

    def _set_swing(self, _value: object = None) -> None:
        swing = Swing(int(self._unit.currentData()), round(self._ratio.value() / 100, 4))
        self._feel(lambda d: edits.set_swing(d, swing))

    def _place(self, ticks: int, voice_name: str) -> None:
        if self._studio.edit(lambda d: edits.place_hit(d, ticks, voice_name)):
            row_now = self.grid.geometry_now().row_of(voice_name)
            self.grid.put_cursor(ticks, row_now if row_now is not None else 0)

    def _drag(self, velocity: int, offset_ms: float) -> None:
        """While dragging, the change is shown but is no step yet."""
        hits = self.grid.chosen_hits()
        if self._before is None:
            self._before = self._studio.document
            self._drag_hits = hits
        self._level.setText(f"{float(level_db(velocity)):.1f} dB")
        show_number(self._velocity, velocity)
        show_number(self._offset, offset_ms)
        preview = _dragged(self._before, self._drag_hits, velocity, offset_ms)
        self.grid.groove = preview.groove
        self.grid.refresh()

    def _drop(self, velocity: int, offset_ms: float) -> None:
        before, self._before = self._before, None
        if before is None:
            return
        hits = self._drag_hits
        self.grid.groove = before.groove
        words = _drag_words(before, hits, velocity, offset_ms)
        self._studio.edit(lambda d: (words, _dragged(d, hits, velocity, offset_ms)))

    def _hear_moment(self) -> None:
        hits = self.grid.chosen_hits()
        if hits and hits[0].origin:
            self.moment_wanted.emit(hits[0].origin.time_s)


def _fixed(text: str) -> QWidget:
    out = label(text)
    out.setFixedWidth(92)
    return out


def _dragged(document: Document, hits: list[Hit], velocity: int, offset_ms: float) -> Document:
    """All chosen hits changed by as much as the one under the mouse (the first that differs decides)."""
    if not hits:
        return document
    by_velocity, by_ms = velocity - hits[0].velocity, offset_ms - hits[0].offset_ms
    if by_velocity:
        document, hits = _following(edits.change_velocity(document, hits, by_velocity)[1], hits, document)
    if abs(by_ms) > 1e-9:
        document = edits.nudge(document, hits, by_ms)[1]
    return document


def _following(new: Document, hits: list[Hit], old: Document) -> tuple[Document, list[Hit]]:
    """The same hits in a newer document (the order of hits does not depend on velocity)."""
    wanted = {id(h) for h in hits}
    places = [i for i, h in enumerate(old.groove.pattern.hits) if id(h) in wanted]
    return new, [new.groove.pattern.hits[i] for i in places]


def _drag_words(document: Document, hits: list[Hit], velocity: int, offset_ms: float) -> str:
    name = edits.hit_name(hits[0], document.groove.pattern.meter) if len(hits) == 1 else f"{len(hits)} hits"
    parts = []
    if velocity != hits[0].velocity:
        parts.append(f"{hits[0].velocity} → {velocity}")
    if abs(offset_ms - hits[0].offset_ms) > 1e-9:
        parts.append(f"{offset_ms:+.1f} ms")
    return f"{name}: {', '.join(parts)}"


def _spreads(document: Document) -> dict[str, tuple[float, float]]:
    """Lean and looseness of every voice in use: looseness as heard, or as set."""
    groove = document.groove
    heard: Explained | None = document.listening.explained if document.listening else None
    out = {}
    for name in groove.pattern.voices:
        loose = (heard.loose_ms.get(name, 0.0) if heard else 0.0) or groove.feel.loose_ms
        out[name] = (groove.feel.lean_of(name), loose)
    return out
