"""The end of the session or an end signal: the window closes by itself, and what is not saved is kept."""

import signal
import socket
from collections.abc import Callable

from PySide6.QtCore import QObject, QSocketNotifier
from PySide6.QtGui import QGuiApplication

_SIGNALS = (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)


class Ending(QObject):
    """Calls `end` on the GUI thread when the process is told to end.

    A handler in Python would wait until the event loop runs Python again, so the signal's number is written to a socket
    that the loop listens to.
    """

    def __init__(self, app: QGuiApplication, end: Callable[[], None]) -> None:
        super().__init__(app)
        self._end = end
        self._told, self._tell = socket.socketpair()
        for one in (self._told, self._tell):
            one.setblocking(False)
        signal.set_wakeup_fd(self._tell.fileno(), warn_on_full_buffer=False)
        for number in _SIGNALS:
            signal.signal(number, lambda _number, _frame: None)
        self._notifier = QSocketNotifier(self._told.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._ended)
        app.commitDataRequest.connect(lambda _manager: self._end())

    def _ended(self) -> None:
        self._notifier.setEnabled(False)
        self._end()

    def close(self) -> None:
        """Give the signals back."""
        signal.set_wakeup_fd(-1)
        for number in _SIGNALS:
            signal.signal(number, signal.default_int_handler if number == signal.SIGINT else signal.SIG_DFL)
        self._notifier.setEnabled(False)
        self._told.close()
        self._tell.close()
