"""Picking a passage from a file of several minutes, before anything is listened to."""

from pathlib import Path

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ghoststep.desk.parts.overview import OverviewStrip, clock
from ghoststep.desk.parts.widgets import label, number, show_number
from ghoststep.files.sound import MAX_LENGTH_S, Overview

_FIRST_S = 24.0


class PassagePage(QWidget):
    """Shows a whole file; the passage is dragged or typed."""

    passage_wanted = Signal(object, float, float)  # path, start and end in s
    hear_wanted = Signal(object, float, float)
    whole_wanted = Signal(object)
    cancelled = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._path = Path()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(40, 26, 40, 20)
        layout.setSpacing(12)
        layout.addStretch(1)
        self._title = label("", "headline")
        layout.addWidget(self._title)
        words = "Drag over the stretch whose groove you want; drag its edges to trim it. A few bars are enough."
        layout.addWidget(label(words, "dim"))
        self.strip = OverviewStrip(height=180)
        self.strip.stretch_changed.connect(self._show_numbers)
        layout.addWidget(self.strip)
        row = QHBoxLayout()
        self._start = number(0, 1e6, self._typed, name="Start of the passage", unit="s", decimals=1)
        self._end = number(0, 1e6, self._typed, name="End of the passage", unit="s", decimals=1)
        self._words = label("", "title")
        for widget in (label("From", "dim"), self._start, label("to", "dim"), self._end, self._words):
            row.addWidget(widget)
        row.addStretch(1)
        layout.addLayout(row)
        layout.addLayout(self._buttons())
        layout.addStretch(2)

    def _buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self._whole = QPushButton("Listen to all of it")
        for button, slot, main in (
            (QPushButton("Listen to this passage"), self._listen, True),
            (QPushButton("Hear it"), self._hear, False),
            (self._whole, lambda: self.whole_wanted.emit(self._path), False),
            (QPushButton("Cancel"), self.cancelled.emit, False),
        ):
            button.setObjectName("main" if main else "")
            button.clicked.connect(slot)
            row.addWidget(button)
        row.addStretch(1)
        return row

    def show_file(self, path: Path, overview: Overview) -> None:
        """Show a file with its densest half minute picked to begin with."""
        self._path = path
        self._title.setText(f"{path.name}, {clock(overview.length_s)}: which passage?")
        self.strip.show_peaks(overview.low, overview.high, overview.length_s)
        for box in (self._start, self._end):
            box.setMaximum(overview.length_s)
        loud = np.abs(overview.high - overview.low)
        width = max(1, round(len(loud) * _FIRST_S / overview.length_s))
        total = np.convolve(loud, np.ones(width), "valid") if width < len(loud) else np.zeros(1)
        start = float(np.argmax(total)) / len(loud) * overview.length_s
        self.strip.show_stretch(start, min(start + _FIRST_S, overview.length_s))
        self._whole.setEnabled(overview.length_s <= MAX_LENGTH_S)
        self._show_numbers(*self.strip.stretch)

    def _show_numbers(self, start_s: float, end_s: float) -> None:
        show_number(self._start, start_s)
        show_number(self._end, end_s)
        self._words.setText(f"{end_s - start_s:.1f} s, from {clock(start_s)} to {clock(end_s)}")

    def _typed(self, _value: float) -> None:
        a, b = self._start.value(), self._end.value()
        if a < b:
            self.strip.show_stretch(a, b)
            self._words.setText(f"{b - a:.1f} s, from {clock(a)} to {clock(b)}")
        else:
            self._words.setText("The passage has to end after it begins.")

    def _valid(self) -> bool:
        return self._start.value() < self._end.value()

    def _listen(self) -> None:
        if self._valid():
            self.passage_wanted.emit(self._path, *self.strip.stretch)

    def _hear(self) -> None:
        if self._valid():
            self.hear_wanted.emit(self._path, *self.strip.stretch)
