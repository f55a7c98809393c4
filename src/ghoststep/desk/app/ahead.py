"""What takes long to load and is not needed for the first picture, loaded beside the running window."""

import logging
from importlib import import_module
from threading import Thread

from PySide6.QtCore import QObject, QTimer

log = logging.getLogger(__name__)
# The pictures of the feel draw with a library that takes half a second to load; it makes no widget as it is loaded.
MODULES = ("ghoststep.desk.place.time_views",)
AFTER_MS = 2500  # the window has been painted by then


class LoadedAhead(QObject):
    """Loads the modules once the window has stood for a while; who needs one before waits for it as ever."""

    def __init__(self) -> None:
        super().__init__()
        self._thread = Thread(target=_load, name="loads ahead", daemon=True)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._thread.start)
        self._timer.start(AFTER_MS)

    def close(self) -> None:
        """Let what is being loaded end."""
        self._timer.stop()
        if self._thread.is_alive():
            self._thread.join()


def _load() -> None:
    for name in MODULES:
        try:
            import_module(name)
        except ImportError:
            log.exception("%s could not be loaded ahead", name)  # whoever asks for it is told then
