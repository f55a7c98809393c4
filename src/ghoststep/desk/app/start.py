"""The application and its window, made and not shown yet."""

import sys

from PySide6.QtWidgets import QApplication

from ghoststep.desk.app.settings import geometry_of, window_settings
from ghoststep.desk.app.window import Window, window_icon
from ghoststep.desk.look.look import NIGHT, THEMES, load_fonts, undressed, use
from ghoststep.desk.model.studio import Studio


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
