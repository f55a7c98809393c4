"""Tapping a groove: each key of the keyboard is a voice, each press a hit at its moment."""

import time
from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QEvent, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ghoststep.desk.look.look import Look
from ghoststep.desk.parts.widgets import label, number
from ghoststep.music.kit import VOICE_INDEX, voice
from ghoststep.music.performance import Performance

# Left hand and right hand rest on the home row; the feet are the thumbs' neighbours.
TAP_KEYS: tuple[tuple[str, str], ...] = (
    ("F", "kick"), ("J", "snare"), ("K", "hat_closed"), ("L", "hat_open"), ("D", "hat_pedal"), ("S", "ride"),
    ("A", "crash"), ("H", "cross_stick"), ("R", "tom_high"), ("T", "tom_mid"), ("G", "tom_low"),
)  # fmt: skip
_VOICE_OF_KEY = {getattr(Qt.Key, f"Key_{key}").value: name for key, name in TAP_KEYS}
_PLAIN, _HARD, _SOFT = 80, 110, 34
_FLASH_MS = 110


@dataclass(frozen=True)
class Tap:
    time_s: float
    voice: str
    velocity: int


def performance_of(taps: list[Tap]) -> Performance:
    """The taps from the first on; it begins at 0."""
    start = min(t.time_s for t in taps)
    ordered = sorted(taps, key=lambda t: t.time_s)
    last = ordered[-1].time_s - start
    return Performance.of(
        [t.time_s - start for t in ordered],
        [VOICE_INDEX[t.voice] for t in ordered],
        [t.velocity for t in ordered],
        length_s=last,
    )


class TapPage(QWidget):
    """`finished` brings the performance and the tempo of the click, 0 where there was none."""

    finished = Signal(object, float)
    cancelled = Signal()
    click_wanted = Signal(float)  # BPM, 0 to stop

    def __init__(self, clock: Callable[[], float] = time.perf_counter) -> None:
        super().__init__()
        self._clock = clock
        self.taps: list[Tap] = []
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(40, 26, 40, 20)
        layout.setSpacing(10)
        layout.addStretch(1)
        layout.addWidget(label("Tap the groove on the keyboard", "headline"), 0, Qt.AlignmentFlag.AlignHCenter)
        words = "Two bars or more. With Shift a tap is an accent, with Alt a ghost. Tempo and bars are found after."
        layout.addWidget(label(words, "dim"), 0, Qt.AlignmentFlag.AlignHCenter)
        layout.addSpacing(16)
        layout.addLayout(self._pads())
        layout.addSpacing(12)
        self.count = label("", "title")
        layout.addWidget(self.count, 0, Qt.AlignmentFlag.AlignHCenter)
        layout.addSpacing(8)
        layout.addLayout(self._controls())
        layout.addStretch(2)
        self._show_count()

    def _pads(self) -> QHBoxLayout:
        """What each key is, in the order of the hands; it lights up when it is pressed."""
        grid = QGridLayout()
        grid.setHorizontalSpacing(22)
        grid.setVerticalSpacing(8)
        self._names: dict[str, QWidget] = {}
        for i, (key, name) in enumerate(TAP_KEYS):
            limb = voice(name).limb
            chip = label(f"{key}   {voice(name).label}", "sentence")
            chip.setStyleSheet(self._style(limb, lit=False))
            chip.setMinimumWidth(150)
            self._names[name] = chip
            grid.addWidget(chip, i % 4, i // 4)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addLayout(grid)
        row.addStretch(1)
        return row

    @staticmethod
    def _style(limb: str, *, lit: bool) -> str:
        color = Look.limb(limb).name()
        ground, text = (color, Look.theme.on_limb) if lit else (Look.theme.panel, Look.theme.text)
        return f"background: {ground}; color: {text}; border-left: 5px solid {color}; padding: 6px 10px;"

    def _controls(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addStretch(1)
        self.click = QCheckBox("Click at")
        self.click.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.click.toggled.connect(lambda _on: self._tell_click())
        self.bpm = number(30, 300, lambda _v: self._tell_click(), name="Tempo of the click", unit="BPM")
        self.bpm.setValue(100)
        self.bpm.editingFinished.connect(self.setFocus)
        row.addWidget(self.click)
        row.addWidget(self.bpm)
        row.addSpacing(20)
        for text, slot, main in (
            ("Done  (Enter)", self.finish, True),
            ("Start over  (Backspace)", self.start_over, False),
            ("Leave  (Esc)", self.leave, False),
        ):
            button = QPushButton(text)
            button.setObjectName("main" if main else "")
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(slot)
            row.addWidget(button)
        row.addStretch(1)
        return row

    def _tell_click(self) -> None:
        self.click_wanted.emit(self.bpm.value() if self.click.isChecked() else 0.0)

    def _show_count(self) -> None:
        n = len(self.taps)
        seconds = self.taps[-1].time_s - self.taps[0].time_s if n > 1 else 0.0
        self.count.setText(f"{n} tap{'s' if n != 1 else ''}, {seconds:.1f} s" if n else "Begin whenever you like")

    def event(self, event: QEvent) -> bool:
        # Keys that are shortcuts elsewhere are taps here.
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        now = self._clock()
        key = event.key()
        if event.isAutoRepeat():
            return
        if key in _VOICE_OF_KEY:
            held = event.modifiers()
            hard, soft = held & Qt.KeyboardModifier.ShiftModifier, held & Qt.KeyboardModifier.AltModifier
            self.tap(_VOICE_OF_KEY[key], now, _HARD if hard else _SOFT if soft else _PLAIN)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.finish()
        elif key == Qt.Key.Key_Backspace:
            self.start_over()
        elif key == Qt.Key.Key_Escape:
            self.leave()

    def tap(self, name: str, time_s: float, velocity: int) -> None:
        self.taps.append(Tap(time_s, name, velocity))
        chip, limb = self._names[name], voice(name).limb
        chip.setStyleSheet(self._style(limb, lit=True))
        QTimer.singleShot(_FLASH_MS, chip, lambda: chip.setStyleSheet(self._style(limb, lit=False)))
        self._show_count()

    def start_over(self) -> None:
        self.taps = []
        self._show_count()

    def leave(self) -> None:
        self._stop()
        self.cancelled.emit()

    def finish(self) -> None:
        if not self.taps:
            self.count.setText("Nothing was tapped yet: press the keys shown above.")
            return
        played = performance_of(self.taps)
        bpm = self.bpm.value() if self.click.isChecked() else 0.0
        self._stop()
        self.finished.emit(played, bpm)

    def _stop(self) -> None:
        self.start_over()
        if self.click.isChecked():
            self.click_wanted.emit(0.0)
            self.click.setChecked(False)
