"""The groove as a whole: tempo, meter, bars, grids, lanes that repeat, the kit that plays it."""

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QFileDialog, QLineEdit

from ghoststep.desk.parts.page import Page
from ghoststep.desk.parts.widgets import choice, number, show_choice, show_number
from ghoststep.music.kit import LANES
from ghoststep.session.language.kinds import Amount
from ghoststep.work.kits import kit_names

_FILE, _FOLDER = "a file", "a folder"

_GRIDS = (("eighths", 8), ("sixteenths", 16), ("32nds", 32), ("triplets", 12), ("sextuplets", 24),
          ("quintuplets", 20), ("septuplets", 28))  # fmt: skip


class GroovePage(Page):
    title = "Groove"
    all_lanes = Signal(bool)

    def build(self) -> None:
        self.section("Tempo")
        self._tempo = number(10, 960, self._set_tempo, unit="BPM", decimals=1, name="Tempo")
        self.line("Tempo", self._tempo)
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
        anew = [("never", 0), ("each bar", 1), ("2 bars", 2), ("4 bars", 4), ("8 bars", 8)]
        self._anew = choice(anew, lambda _n: self._set_cycle(self._cycle.value()), name="When it begins anew")
        self.line("Begins anew", self._anew)
        self.section("Sound")
        self._kit = choice([(name, name) for name in kit_names()], self._set_kit, name="Kit that plays the groove")
        self._kit.addItem("An SFZ file …", _FILE)
        self._kit.addItem("A folder of sounds …", _FOLDER)
        self.line("Kit", self._kit)
        self._all = QCheckBox("Show every lane")
        self._all.toggled.connect(self.all_lanes)
        self.column.addWidget(self._all)

    def show_now(self) -> None:
        groove = self.studio.groove
        show_number(self._tempo, groove.tempo.main_bpm)
        self._show_grid()
        self._show_kit()

    def _show_kit(self) -> None:
        """The kit of the groove; one from a file stands in the list while it is chosen."""
        now, shipped = self.studio.document.kit or kit_names()[0], len(kit_names())
        while self._kit.count() > shipped + 2:
            self._kit.removeItem(shipped)
        if now not in kit_names():
            self._kit.insertItem(shipped, Path(now).stem, now)
        show_choice(self._kit, now)

    def _set_kit(self, value: object) -> None:
        title, name = "A kit for the groove", str(value)
        if value == _FILE:
            name, _ = QFileDialog.getOpenFileName(self.window(), title, "", "Kits (*.sfz)")
        elif value == _FOLDER:
            name = QFileDialog.getExistingDirectory(self.window(), title)
        if name:
            self.call("kit", name=name)
        self._show_kit()

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
        show_choice(self._anew, pattern.rules.restart_of(lane))

    def _set_tempo(self, bpm: float) -> None:
        """One tempo, or where it changes, all of it by as much as its start."""
        tempo = self.studio.groove.tempo
        steady = tempo.steady
        self.call("tempo", bpm=Amount(bpm) if steady else Amount(100 * bpm / tempo.main_bpm, unit="%"))

    def _set_meter(self) -> None:
        text = self._meter.text().strip()
        pattern = self.studio.groove.pattern
        if text and text != pattern.frame.meter_at(self.grid.cursor_ticks).full_name:
            # Where meters change already, one that is typed is for the cursor's bar.
            here = f" bars {pattern.frame.spot_at(self.grid.cursor_ticks).bar}"
            self.say(f"meter {text}{here if pattern.meter_changes and 'bars' not in text else ''}")

    def _set_bar_grid(self, grid: object) -> None:
        self.call("grid", grid=grid, bars={self.studio.session.context().bar})

    def _set_lane_grid(self, grid: object) -> None:
        self.call("grid", grid=grid, voices=LANES[self.studio.choice.lane].voices)

    def _set_cycle(self, steps: float) -> None:
        every = self._anew.currentData()
        self.call("cycle", steps=Amount(round(steps)), every=Amount(every) if every else None)
