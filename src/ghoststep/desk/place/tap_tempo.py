"""Tapping the tempo: from the fourth tap on it is told, and taken once the tapping stops."""

import time
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer, Signal

from ghoststep.listen.bars.reading import LEAST_TAPS, Click
from ghoststep.music.errors import InputError

_PAUSE_S = 2.0  # after so long the next tap begins anew


class TapTempo(QObject):
    """`told` brings words for each tap, `found` the tempo in BPM, once after the last one."""

    told = Signal(str, bool)
    found = Signal(float)

    def __init__(self, parent: QObject | None = None, clock: Callable[[], float] = time.perf_counter) -> None:
        super().__init__(parent)
        self._clock = clock
        self._taps_s: list[float] = []
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(round(1000 * _PAUSE_S))
        self._timer.timeout.connect(self.finish)

    def tap(self) -> None:
        now = self._clock()
        if self._taps_s and now - self._taps_s[-1] > _PAUSE_S:
            self._taps_s = []
        self._taps_s.append(now)
        self._timer.start()
        count = len(self._taps_s)
        if count < LEAST_TAPS:
            self.told.emit(f"Tap {count}: tap on in time, at least {LEAST_TAPS} times.", False)
            return
        try:
            bpm = Click.of_taps(self._taps_s).bpm
        except InputError as error:
            self.told.emit(str(error), True)
            return
        self.told.emit(f"Tap {count}: {bpm:.1f} BPM, taken when you stop.", False)

    def finish(self) -> None:
        """Take what was tapped; too few taps, or uneven ones, say so and change nothing."""
        taps, self._taps_s = self._taps_s, []
        self._timer.stop()
        try:
            bpm = Click.of_taps(taps).bpm
        except InputError as error:
            self.told.emit(str(error), True)
            return
        self.found.emit(round(bpm, 1))
