"""Running the application: with a display the window, without one the same start-up off screen."""

import logging
import os
from importlib import import_module
from pathlib import Path

from PySide6.QtCore import QTimer, QtMsgType, qInstallMessageHandler

from ghoststep.desk.app.ending import Ending
from ghoststep.desk.app.faults import Faults
from ghoststep.desk.app.headless import run_without_display
from ghoststep.desk.app.start import make_app, make_window
from ghoststep.desk.app.tidying import Tidying
from ghoststep.desk.model.tasks import Progress

qt_log = logging.getLogger("ghoststep.qt")
_WARM_AFTER_MS = 400  # the window is painted by then
_WARM = ("ghoststep.session.language.doing", "ghoststep.work.grooves")


def _warm(progress: Progress) -> None:
    """Load what the first phrase and the first file need, while nobody waits for it."""
    for n, name in enumerate(_WARM):
        progress(n / len(_WARM))  # the window may be closing already
        import_module(name)


def has_display() -> bool:
    """Whether a window can be seen: a display is named, or Qt was told where to draw."""
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM"))


def _log_qt(kind: QtMsgType, _context: object, text: str) -> None:
    qt_log.log(logging.INFO if kind == QtMsgType.QtInfoMsg else logging.WARNING, "%s", text)


def run(file: Path | None, *, demo: bool, out: Path | None = None) -> int:
    """Open the window and stay until it is closed; returns the exit code."""
    if not has_display():
        return run_without_display(file, demo=demo, out=out)
    qInstallMessageHandler(_log_qt)
    app = make_app()
    faults = Faults()
    faults.install()
    window = make_window()
    faults.met.connect(lambda words: window.say(words, True))
    window.show()
    QTimer.singleShot(_WARM_AFTER_MS, lambda: window.isVisible() and window.studio.tasks.start("warm", _warm))
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
