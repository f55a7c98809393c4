"""Take the pictures in docs/screenshots again, from the demo: `make screenshots`."""

import os
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile
from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from ghoststep.desk.app.places import PLACES
from ghoststep.desk.app.sheet import ShortcutSheet
from ghoststep.desk.app.start import make_app, make_window
from ghoststep.desk.app.window import Window
from ghoststep.desk.dialogs.compare_dialog import CompareDialog
from ghoststep.desk.model.studio import Studio
from ghoststep.devices.output import SimulatedOutput
from ghoststep.files.demo import demo_recordings
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.session.document.document import Document


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
    window.studio.history.mark_saved(window.studio.document)
    window.open(demo_recordings()[number])
    while window.studio.busy:
        wait(50)
    wait(50)


def on_the_grid(window: Window, *, zoom: float = 1.0) -> None:
    window.go("place")
    window.at("place").grid.put_cursor(5 * TICKS_PER_QUARTER, 1)
    window.at("place").grid.next_hit(1)
    if zoom != 1:
        window.at(window.place).zoom(zoom)


STROKES = """tempo 96
meter 4/4
grid 16
crash      X--------------- | ----------------
hat_closed x-x-x-x-x-x-x-x- | x-----------x-x-
hat_open   ---------------- | ----x---x-------
snare      ----X--o-o--X--o | ----X--o-o--X---
tom_low    ---------------- | -------------x-x
kick       X------x--X----- | X------x--X---x-
"""
TOUCHES = (
    "ornament flam on snare accents bars 1", "ornament roll5 on snare at 2 bars 2", "stroke rim on snare at 4",
    "stroke shoulder on hat_closed beats 1", "length 1/16 on hat_open at 3", "length 1/4 on crash",
    "grid triplets bars 2", "accents beat on hat bars 1",
)  # fmt: skip


def strokes(window: Window) -> None:
    """A groove with ornaments, strokes and lengths."""
    window.studio.history.mark_saved(window.studio.document)
    window.studio.set_document(Document("Signal box", parse_grid(STROKES)), None)
    window.go("place")
    window.at("place").show_page(0)
    for phrase in TOUCHES:
        window.at("place").do(phrase)
    window.at("place").do("go hat_open bar 2 3")


FRAME = """tempo 96
bar 2 meter 7/8 2+2+3
bar 3 meter 4/4
bar 2 tempo 96 -> 120 over 2
crash      X--------------- | -------------- | ----------------
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
snare      ----X--o-o--X--o | ----X---X--o-- | ----X--o-o--X--o
kick       X------x--X----- | X-------x----- | X------x--X---x-
"""


def frame(window: Window) -> None:
    """Bars of another meter, and a tempo that moves."""
    window.studio.history.mark_saved(window.studio.document)
    window.studio.set_document(Document("Night line", parse_grid(FRAME)), None)
    window.go("place")
    window.at("place").show_page(3)
    window.at("place").do("go bar 2 3")


def proposed(window: Window) -> None:
    """Ghosts that are proposed, one of them playing."""
    window.run("groove.ghosts")
    while window.studio.tasks.running:
        wait(50)
    window.studio.stop()
    wait(100)


def sixteen(window: Window) -> None:
    for _ in range(14):
        window.at("place").do("double-bar 1")
    window.at("place").grid.fit_all()
    window.at("place").show_page(4)


def touch_page(window: Window) -> None:
    window.at("place").do("accents beat on hat")
    window.at("place").do("balance snare-led")
    window.at("place").show_page(1)


def hands_page(window: Window) -> None:
    window.at("place").do("balance played")
    window.at("place").do("accents off-beat on hat")
    window.at("place").do("hands RLRRLRLL on hat")
    window.at("place").show_page(2)
    window.ask_phrase("accents every 3 on hat")


def compared(folder: Path, window: Window) -> None:
    window.at("place").do("keep as heard")
    window.at("place").do("fill snare under hat")
    window.at("place").do("remove on kick at 2&")
    document = window.studio.document
    versions = [("now", document.groove), ("as heard", document.snapshots[0].groove)]
    dialog = CompareDialog(versions, lambda _groove: None, window)
    dialog.show()
    picture(folder, "compare", dialog)
    dialog.close()


def spectrum(window: Window) -> None:
    window.run("heard.spectrum")
    window.run("heard.doubt")
    window.studio.stop()
    window.at(window.place).zoom(2.5)


def passage(window: Window) -> None:
    """A file of some minutes, made of a demo recording that grows louder."""
    sound, rate = soundfile.read(demo_recordings()[1])
    path = Path(tempfile.mkdtemp()) / "night-ride.wav"
    grown = np.tile(sound, (22, 1)) * np.interp(np.linspace(0, 1, 22 * len(sound)), [0, 0.7, 1], [0.3, 1, 0.5])[:, None]
    soundfile.write(path, grown, rate)
    window.studio.history.mark_saved(window.studio.document)
    window.open(path)
    while window.studio.busy:
        wait(50)


def taps(window: Window) -> None:
    window.run("file.tap")
    for i, name in enumerate(("kick", "hat_closed", "snare", "hat_closed")):
        window.at("listen").taps.tap(name, 0.3 * i, 80)


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
    window.at(window.place).zoom(0)
    shot("place", lambda: on_the_grid(window))
    shot("place-touch", lambda: touch_page(window))
    shot("place-hands", lambda: hands_page(window))
    window._say_bar.close_bar()
    if not wanted or "compare" in wanted:
        compared(folder, window)
    shot("place-frame", lambda: frame(window))
    shot("place-strokes", lambda: strokes(window))
    shot("place-sixteen", lambda: sixteen(window))
    heard(window, 0)
    window.at("place").show_page(0)
    window.at(window.place).zoom(0)
    on_the_grid(window)
    window.studio.choice.set_range((0, 4 * TICKS_PER_QUARTER))
    shot("place-proposals", lambda: proposed(window))
    QTest.keyClick(window.focusWidget() or window, Qt.Key.Key_Escape)
    shot("place-playing", lambda: playing(window))
    window.studio.stop()
    window.studio.choice.set_range(None)
    shot("place-day", window.switch_theme)
    window.switch_theme()
    shot("listen-ride", lambda: heard(window, 2))
    shot("place-ride", lambda: on_the_grid(window, zoom=0.5))
    shot("listen-passage", lambda: passage(window))
    shot("listen-taps", lambda: taps(window))
    sheet = ShortcutSheet(PLACES["place"], window)
    sheet.show()
    if not wanted or "shortcuts" in wanted:
        picture(folder, "shortcuts", sheet)
    sheet.close()
    window.studio.history.mark_saved(window.studio.document)
    window.close()


if __name__ == "__main__":
    arguments = sys.argv[1:]
    target = Path(arguments[0]) if arguments else Path(__file__).resolve().parents[1] / "docs/screenshots"
    own_folders()
    take(target, arguments[1:])
