"""The groove as a whole: meter, bars, grids, lanes that repeat, tempo, swing and leans."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QDoubleSpinBox, QLineEdit, QWidget

from ghoststep.desk.parts.page import Page, named
from ghoststep.desk.parts.widgets import choice, label, number, row, show_choice, show_number
from ghoststep.feel.swing_advice import usual_swing_ratio
from ghoststep.music.feel import Swing
from ghoststep.music.kit import GROUP_MEMBERS, LANES
from ghoststep.session.language.kinds import Amount

LEAN_ROWS = (("Kick", "kick"), ("Snare", "snare"), ("Hats", "hat"), ("Toms", "toms"), ("Cymbals", "cymbals"))
_GRIDS = (("eighths", 8), ("sixteenths", 16), ("32nds", 32), ("triplets", 12), ("sextuplets", 24),
          ("quintuplets", 20), ("septuplets", 28))  # fmt: skip


class GroovePage(Page):
    title = "Groove"
    all_lanes = Signal(bool)

    def build(self) -> None:
        self.section("Feel")
        self._tempo = number(10, 960, self._set_tempo, unit="BPM", decimals=1, name="Tempo")
        self.line("Tempo", self._tempo)
        self._unit = choice([("8ths", 8), ("16ths", 16)], self._set_swing, name="Notes that swing")
        self._unit.setMinimumWidth(70)
        share = "Share of the first note of a pair; 50 % is straight"
        self._ratio = number(50, 80, self._set_swing, unit="%", decimals=1, name=share)
        self._ratio.setFixedWidth(84)
        self.column.addLayout(row(named("Swing"), self._ratio, self._unit))
        self._usual = label("", "dim")
        self.column.addWidget(self._usual)
        self._leans: dict[str, tuple[QDoubleSpinBox, QWidget]] = {}
        for text, group in LEAN_ROWS:
            self._build_lean(text, group)
        loose = "Looseness: spread of the timing in ms"
        self._loose = number(0, 50, lambda ms: self.call("loose", ms=Amount(ms)), unit="ms", decimals=1, name=loose)
        self.line("Looseness", self._loose)
        self.section("Meter and grid")
        self._meter = QLineEdit()
        self._meter.setFixedWidth(112)
        self._meter.setAccessibleName("Meter")
        self._meter.setToolTip("4/4, 7/8 2+2+3 ...; of some bars only: 7/8 bars 3-4")
        self._meter.editingFinished.connect(self._set_meter)
        self.line("Meter", self._meter)
        self._bars = number(1, 4096, lambda n: self.call("bars", count=Amount(round(n))), name="Bars")
        self.line("Bars", self._bars)
        self._grid = choice(list(_GRIDS), lambda g: self.call("grid", grid=g), name="Grid of everything")
        self.line("Grid", self._grid)
        self._bar_grid = choice(list(_GRIDS), self._set_bar_grid, name="Grid of the cursor's bar")
        self.line("This bar", self._bar_grid)
        self._lane_grid = choice(list(_GRIDS), self._set_lane_grid, name="Grid of the cursor's lane")
        self.line("This lane", self._lane_grid)
        repeats = "After how many steps the cursor's lane repeats, against the bar; 0 runs through"
        self._cycle = number(0, 256, self._set_cycle, name=repeats)
        self._cycle.setSpecialValueText("never")
        self.line("Repeats after", self._cycle)
        self._all = QCheckBox("Show every lane")
        self._all.toggled.connect(self.all_lanes)
        self.column.addWidget(self._all)

    def _build_lean(self, text: str, group: str) -> None:
        name = f"Lean of the {text.lower()} in ms, late positive"
        box = number(
            -200,
            200,
            lambda ms: self.call("lean", voices=GROUP_MEMBERS[group], ms=Amount(ms)),
            unit="ms",
            decimals=1,
            name=name,
        )
        line = QWidget()
        inner = row(named(f"{text} lean"), box)
        inner.setContentsMargins(0, 0, 0, 0)
        line.setLayout(inner)
        self._leans[group] = (box, line)
        self.column.addWidget(line)

    def show_now(self) -> None:
        groove = self.studio.groove
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
            members = [v for v in GROUP_MEMBERS[group] if v in used] or list(GROUP_MEMBERS[group])
            show_number(box, groove.feel.lean_of(members[0]))
            line.setVisible(group in ("kick", "snare", "hat") or any(v in used for v in GROUP_MEMBERS[group]))
        self._show_grid()

    def _show_grid(self) -> None:
        pattern, g = self.studio.groove.pattern, self.grid.geometry_now()
        if not self._meter.hasFocus():
            self._meter.setText(pattern.frame.meter_at(self.grid.cursor_ticks).full_name)
        show_number(self._bars, pattern.bars)
        show_choice(self._grid, pattern.grid)
        at = self.grid.cursor_ticks
        passage = next((p.grid for p in pattern.passages if p.start_ticks <= at < p.end_ticks), pattern.grid)
        show_choice(self._bar_grid, passage)
        lane = g.lanes[self.grid.cursor_row]
        show_choice(self._lane_grid, pattern.grid_at(LANES[lane].voices[0], at))
        show_number(self._cycle, pattern.rules.cycle_of(lane) / g.step_of(self.grid.cursor_row))

    def _set_tempo(self, bpm: float) -> None:
        """One tempo, or where it changes, all of it by as much as its start."""
        tempo = self.studio.groove.tempo
        steady = tempo.steady
        self.call("tempo", bpm=Amount(bpm) if steady else Amount(100 * bpm / tempo.main_bpm, unit="%"))

    def _set_swing(self, _value: object = None) -> None:
        self.call("swing", swing=Swing(int(self._unit.currentData()), round(self._ratio.value() / 100, 4)))

    def _set_meter(self) -> None:
        text = self._meter.text().strip()
        pattern = self.studio.groove.pattern
        if text and text != pattern.frame.meter_at(self.grid.cursor_ticks).full_name:
            # Where meters change already, one that is typed is for the cursor's bar.
            here = f" bars {pattern.frame.spot_at(self.grid.cursor_ticks).bar}"
            self.say(f"meter {text}{here if pattern.meter_changes and 'bars' not in text else ''}")

    def _set_bar_grid(self, grid: object) -> None:
        self.call("grid", grid=grid, bars={self.studio.stand().bar})

    def _set_lane_grid(self, grid: object) -> None:
        self.call("grid", grid=grid, voices=LANES[self.studio.choice.lane].voices)

    def _set_cycle(self, steps: float) -> None:
        self.call("cycle", steps=Amount(round(steps)))
