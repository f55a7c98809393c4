"""Take the pictures in docs/screenshots again, from the demo: `make screenshots`."""

import os
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# The user's own settings must not colour the pictures.
_home = tempfile.mkdtemp(prefix="ghost-step-pictures-")
for _name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME"):
    os.environ[_name] = _home

from PySide6.QtCore import QEventLoop, QTimer  # noqa: E402 - the folders have to be named first
from PySide6.QtWidgets import QWidget  # noqa: E402

from ghoststep.desk.app import make_app, make_window  # noqa: E402
from ghoststep.desk.sheet import ShortcutSheet  # noqa: E402
from ghoststep.desk.studio import Studio  # noqa: E402
from ghoststep.desk.window import Window  # noqa: E402
from ghoststep.devices.output import SimulatedOutput  # noqa: E402
from ghoststep.files.demo import demo_recordings  # noqa: E402


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
    shot("place", lambda: (window.go("place"), window.grid.put_cursor(5 * 20160 // 4 * 4, 1), window.grid.next_hit(1)))
    window.studio.set_wish(region_ticks=(0, 4 * 20160), loop=True)
    shot("place-playing", lambda: (window.studio.play(), wait(900)))
    window.studio.stop()
    window.studio.set_wish(region_ticks=None)
    shot("place-day", window.switch_theme)
    window.switch_theme()
    shot("listen-ride", lambda: heard(window, 2))
    shot("place-ride", lambda: (window.go("place"), window.zoom(0.5)))
    sheet = ShortcutSheet(window)
    sheet.show()
    if not wanted or "shortcuts" in wanted:
        picture(folder, "shortcuts", sheet)
    sheet.close()
    window.studio.history.mark_saved()
    window.close()


if __name__ == "__main__":
    arguments = sys.argv[1:]
    target = Path(arguments[0]) if arguments else Path(__file__).resolve().parents[1] / "docs/screenshots"
    take(target, arguments[1:])
