"""Starting the application: with a display the window, without one the same start-up off screen."""

import logging
import os
import sys
from pathlib import Path

from PySide6.QtCore import QTimer, QtMsgType, qInstallMessageHandler
from PySide6.QtWidgets import QApplication

from ghoststep.desk.app.ending import Ending
from ghoststep.desk.app.faults import Faults
from ghoststep.desk.app.settings import geometry_of, window_settings
from ghoststep.desk.app.tidying import Tidying
from ghoststep.desk.app.window import Window, window_icon
from ghoststep.desk.look.look import NIGHT, THEMES, load_fonts, undressed, use
from ghoststep.desk.model.studio import Studio

log = logging.getLogger(__name__)
qt_log = logging.getLogger("ghoststep.qt")


def has_display() -> bool:
    """Whether a window can be seen: a display is named, or Qt was told where to draw."""
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM"))


def make_app() -> QApplication:
    """The application object, dressed."""
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("ghost-step")
    app.setApplicationDisplayName("Ghost Step")
    app.setDesktopFileName("ghost-step")
    load_fonts()
    use(app, THEMES.get(str(window_settings()[0].value("theme")), NIGHT))
    app.setWindowIcon(window_icon())
    return app


_FRAME_PX = 32  # of a window manager, above and below


def make_window(studio: Studio | None = None) -> Window:
    """The window as it opens, not shown yet."""
    settings, ignored = window_settings()
    with undressed():
        window = Window(studio or Studio(), settings)
    geometry = geometry_of(settings)
    if geometry is None or not window.restoreGeometry(geometry):
        room = window.screen().availableSize()
        # Its frame has to fit on the screen as well.
        window.resize(min(1280, room.width()), min(800, room.height() - _FRAME_PX))
    if ignored:
        window.say(f"{ignored} {window.message}".strip(), True)
    return window


def _log_qt(kind: QtMsgType, _context: object, text: str) -> None:
    qt_log.log(logging.INFO if kind == QtMsgType.QtInfoMsg else logging.WARNING, "%s", text)


def run(file: Path | None, *, demo: bool, out: Path | None = None) -> int:
    """Open the window and stay until it is closed; returns the exit code."""
    if not has_display():
        from ghoststep.desk.app.headless import run_without_display

        return run_without_display(file, demo=demo, out=out)
    qInstallMessageHandler(_log_qt)
    app = make_app()
    faults = Faults()
    faults.install()
    window = make_window()
    faults.met.connect(lambda words: window.say(words, True))
    window.show()
    ending, tidying = Ending(app, window.end), Tidying()
    window.offer_recovery()
    if demo:
        QTimer.singleShot(0, lambda: window.run("file.demo"))
    elif file is not None:
        QTimer.singleShot(0, lambda: window.open(file))
    code = app.exec()
    ending.close()
    tidying.close()
    return code
