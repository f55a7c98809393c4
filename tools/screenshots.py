"""Take the pictures in docs/screenshots again, from the demo: `make screenshots`."""

import os
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile
from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QWidget

from ghoststep.desk.app import make_app, make_window
from ghoststep.desk.sheet import ShortcutSheet
from ghoststep.desk.studio import Studio
from ghoststep.desk.window import Window
from ghoststep.devices.output import SimulatedOutput
from ghoststep.files.demo import demo_recordings
from ghoststep.music.time import TICKS_PER_QUARTER


def own_folders() -> None:
    """Off screen, and with settings of our own, so that the user's do not colour the pictures."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    home = tempfile.mkdtemp(prefix="ghost-step-pictures-")
    for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME"):
        os.environ[name] = home


def wait(ms: int) -> None:
    loop = QEventLoop()
    QTimer.singleShot(ms, loop.quit)
    loop.exec()


def heard(window: Window, number: int) -> None:
    """Open a demo recording and wait for the listening to end."""
    window.studio.history.mark_saved()
    window.open(demo_recordings()[number])
    while window.studio.busy:
        wait(50)
    wait(50)


def on_the_grid(window: Window, *, zoom: float = 1.0) -> None:
    window.go("place")
    window.grid.put_cursor(5 * TICKS_PER_QUARTER, 1)
    window.grid.next_hit(1)
    if zoom != 1:
        window.zoom(zoom)


def spectrum(window: Window) -> None:
    window.run("heard.spectrum")
    window.run("heard.doubt")
    window.studio.stop()
    window.zoom(2.5)


def passage(window: Window) -> None:
    """A file of some minutes, made of a demo recording that grows louder."""
    sound, rate = soundfile.read(demo_recordings()[1])
    path = Path(tempfile.mkdtemp()) / "night-ride.wav"
    grown = np.tile(sound, (22, 1)) * np.interp(np.linspace(0, 1, 22 * len(sound)), [0, 0.7, 1], [0.3, 1, 0.5])[:, None]
    soundfile.write(path, grown, rate)
    window.studio.history.mark_saved()
    window.open(path)
    while window.studio.busy:
        wait(50)


def taps(window: Window) -> None:
    window.run("file.tap")
    for i, name in enumerate(("kick", "hat_closed", "snare", "hat_closed")):
        window.listen_place.taps.tap(name, 0.3 * i, 80)


def playing(window: Window) -> None:
    window.studio.play()
    wait(900)


def picture(folder: Path, name: str, widget: QWidget) -> None:
    wait(120)
    widget.grab().save(str(folder / f"{name}.png"))
    print(name)


def take(folder: Path, wanted: list[str]) -> None:
    """Every picture, or the wanted ones."""
    folder.mkdir(parents=True, exist_ok=True)
    make_app()
    window = make_window(Studio(SimulatedOutput()))
    window.resize(1280, 800)
    window.show()

    def shot(name: str, prepare: Callable[[], object]) -> None:
        prepare()
        if not wanted or name in wanted:
            picture(folder, name, window)

    shot("listen-empty", lambda: window.go("listen"))
    shot("listen", lambda: heard(window, 0))
    shot("listen-spectrum", lambda: spectrum(window))
    window.run("heard.spectrum")
    window.zoom(0)
    shot("place", lambda: on_the_grid(window))
    window.studio.set_wish(region_ticks=(0, 4 * TICKS_PER_QUARTER), loop=True)
    shot("place-playing", lambda: playing(window))
    window.studio.stop()
    window.studio.set_wish(region_ticks=None)
    shot("place-day", window.switch_theme)
    window.switch_theme()
    shot("listen-ride", lambda: heard(window, 2))
    shot("place-ride", lambda: on_the_grid(window, zoom=0.5))
    shot("listen-passage", lambda: passage(window))
    shot("listen-taps", lambda: taps(window))
    sheet = ShortcutSheet("place", window)
    sheet.show()
    if not wanted or "shortcuts" in wanted:
        picture(folder, "shortcuts", sheet)
    sheet.close()
    window.studio.history.mark_saved()
    window.close()


if __name__ == "__main__":
    arguments = sys.argv[1:]
    target = Path(arguments[0]) if arguments else Path(__file__).resolve().parents[1] / "docs/screenshots"
    own_folders()
    take(target, arguments[1:])
