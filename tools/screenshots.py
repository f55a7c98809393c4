"""Take the pictures in docs/screenshots again, from the demo: `make screenshots`."""

import os
import sys
import tempfile
from pathlib import Path

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QDialog, QWidget

from ghoststep.desk.app.places import PLACES
from ghoststep.desk.app.sheet import ShortcutSheet
from ghoststep.desk.app.start import make_app, make_window
from ghoststep.desk.app.window import Window
from ghoststep.desk.model.studio import Studio
from ghoststep.devices.output import SimulatedOutput


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


def until_idle(window: Window) -> None:
    """Wait until listening and proposals have ended and are drawn."""
    wait(50)
    while window.studio.busy or window.studio.tasks.running:
        wait(50)
    wait(900 if window.studio.playback.player.playing else 50)


def picture(folder: Path, name: str, widget: QWidget) -> None:
    wait(120)
    widget.grab().save(str(folder / f"{name}.png"))
    print(name)


def take(folder: Path, wanted: list[str]) -> None:
    """Every picture that a place declares and the shortcut sheet, or the wanted ones."""
    folder.mkdir(parents=True, exist_ok=True)
    make_app()
    window = make_window(Studio(SimulatedOutput()))
    window.resize(1280, 800)
    window.show()
    for place in PLACES.values():
        for declared in place.pictures():
            for step in declared.steps:
                step(window)
                until_idle(window)
            if not wanted or declared.name in wanted:
                seen(folder, declared.name, declared.dialog(window) if declared.dialog else window)
    if not wanted or "shortcuts" in wanted:
        seen(folder, "shortcuts", ShortcutSheet(PLACES["place"], window))
    window.studio.history.mark_saved(window.studio.document)
    window.close()


def seen(folder: Path, name: str, widget: QWidget) -> None:
    """A picture of the window or of a dialog, which is closed again."""
    widget.show()
    picture(folder, name, widget)
    if isinstance(widget, QDialog):
        widget.close()


if __name__ == "__main__":
    arguments = sys.argv[1:]
    target = Path(arguments[0]) if arguments else Path(__file__).resolve().parents[1] / "docs/screenshots"
    own_folders()
    take(target, arguments[1:])
