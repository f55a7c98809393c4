"""A window used for a long time: random commands, pointing and playing; its memory and how long it stood still.

python -m bench.using --minutes 60 --seed 1
"""

import argparse
import os
import random
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QObject, QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog, QFileDialog, QInputDialog, QMessageBox

from ghoststep.desk.app.start import make_app, make_window
from ghoststep.desk.app.tidying import Tidying
from ghoststep.desk.app.window import Window
from ghoststep.files.demo import demo_recordings
from ghoststep.session.commands import COMMANDS

# Questions, and what would end the use: files, quitting, other windows.
LEFT_OUT = ("file.quit", "file.open", "file.save", "file.new", "help.keys")
PLACES = ("listen", "place", "form", "check")
STALL_S, BEAT_MS = 0.1, 10
SAID = "bar 2 2a"


def resident_mb() -> float:
    """The memory the process holds now."""
    return float(Path("/proc/self/status").read_text().split("VmRSS:")[1].split()[0]) / 1024


def without_questions() -> None:
    """Every dialog is answered at once."""
    QMessageBox.exec = lambda _box: QMessageBox.StandardButton.Cancel  # type: ignore[method-assign]
    QMessageBox.question = staticmethod(lambda *_a, **_k: QMessageBox.StandardButton.Discard)  # type: ignore[method-assign]
    QMessageBox.about = staticmethod(lambda *_a: None)  # type: ignore[method-assign]
    QDialog.exec = lambda _dialog: 0  # type: ignore[method-assign]
    QInputDialog.getText = staticmethod(lambda *_a, **_k: (SAID, True))  # type: ignore[method-assign]
    for name in ("getSaveFileName", "getOpenFileName", "getExistingDirectory"):
        setattr(QFileDialog, name, staticmethod(lambda *_a, **_k: ("", "")))


class Use(QObject):
    """One random thing after another in a running event loop, each with the time the window stood still for it."""

    def __init__(self, window: Window, seed: int, pause_s: float) -> None:
        super().__init__()
        self.window, self.dice = window, random.Random(seed)
        self.names = [n for n in COMMANDS if n not in LEFT_OUT]
        self.done, self.stalls = 0, Counter[str]()
        self.longest: dict[str, float] = {}
        self._last, self._beat_s = "", time.perf_counter()
        self._beat, self._next = QTimer(self), QTimer(self)
        self._beat.timeout.connect(self._heard)
        self._next.timeout.connect(self._one)
        self._beat.start(BEAT_MS)
        self._next.start(round(pause_s * 1000))

    def _one(self) -> None:
        """Do something; the window draws it by itself."""
        what = self.dice.random()
        if what < 0.02:
            self._timed("open", lambda: self.window.open(self.dice.choice(demo_recordings())))
        elif what < 0.08:
            place = self.dice.choice(PLACES)
            self._timed(f"go {place}", lambda: self.window.go(place))
        elif what < 0.25:
            self._timed("point", self._point)
        elif what < 0.3:
            self._timed("play", self.window.studio.playback.play)
        else:
            name = self.dice.choice(self.names)
            self._timed(name, lambda: self.window.run(name))
        self.done += 1

    def _timed(self, name: str, work: Callable[[], object]) -> None:
        self._heard()
        work()
        self._last = name
        self._note(name)

    def _heard(self) -> None:
        self._note(f"after {self._last}")

    def _note(self, name: str) -> None:
        """What has gone by since the loop last came round, beyond a beat, is a time the window stood still."""
        now = time.perf_counter()
        took, self._beat_s = now - self._beat_s - BEAT_MS / 1000, now
        if took > STALL_S:
            self.stalls[name] += 1
            self.longest[name] = max(self.longest.get(name, 0.0), took)

    def _point(self) -> None:
        place = self.window.at(self.window.place)
        view = getattr(place, {"listen": "view", "form": "map"}.get(self.window.place, "grid")).viewport()
        a, b = (QPoint(self.dice.randrange(view.width()), self.dice.randrange(view.height())) for _ in range(2))
        held = self.dice.choice((Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier))
        QTest.mousePress(view, Qt.MouseButton.LeftButton, held, a)
        QTest.mouseMove(view, b)
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, held, b)


def main() -> None:
    """Use a window for so long, and say each minute how much it holds."""
    parser = argparse.ArgumentParser(description=main.__doc__)
    parser.add_argument("--minutes", type=float, default=5.0)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--pause", type=float, default=0.1, help="seconds between two actions")
    options = parser.parse_args()
    without_questions()
    app = make_app()
    window = make_window()
    window.show()
    tidying = Tidying()
    window.open(demo_recordings()[0])
    use = Use(window, options.seed, options.pause)
    began, minute = time.perf_counter(), QTimer()

    def told() -> None:
        minutes, stalls = (time.perf_counter() - began) / 60, sum(use.stalls.values())
        print(f"{minutes:.0f} min: {resident_mb():.0f} MB, {use.done} actions, {stalls} stalls", flush=True)
        if minutes >= options.minutes:
            app.quit()

    minute.timeout.connect(told)
    minute.start(60_000)
    app.exec()
    for name, number in use.stalls.most_common(30):
        print(f"  {name}: {number} times over {STALL_S * 1000:.0f} ms, at most {use.longest[name] * 1000:.0f} ms")
    window.studio.history.mark_saved(window.studio.document)
    window.close()
    tidying.close()


if __name__ == "__main__":
    main()
