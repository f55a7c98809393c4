"""Exceptions nobody caught: written to the log, and said in a sentence, so that none is invisible.

The GUI toolkit hands what a slot or an event of ours raises to `sys.excepthook` and goes on.
"""

import logging
import sys
import threading
from types import TracebackType

from PySide6.QtCore import QObject, Signal

from ghoststep.files.places import log_file

log = logging.getLogger(__name__)
_SAME_LOGGED = 3  # what fails in painting fails again at every repaint


class Faults(QObject):
    """The hook for what nobody caught; `met` carries the words for the user, on the GUI thread."""

    met = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._times: dict[tuple[str, str, int], int] = {}

    def install(self) -> None:
        sys.excepthook = self.caught
        threading.excepthook = lambda found: (
            self.caught(found.exc_type, found.exc_value, found.exc_traceback) if found.exc_value is not None else None
        )

    def caught(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """Log it, the first few times that it happens in the same line, and tell the user each first time."""
        if not issubclass(kind, Exception):  # Ctrl+C and the end of the program are no faults
            sys.__excepthook__(kind, error, trace)
            return
        last = trace
        while last is not None and last.tb_next is not None:
            last = last.tb_next
        place = (kind.__name__, last.tb_frame.f_code.co_filename, last.tb_lineno) if last is not None else ("", "", 0)
        times = self._times[place] = self._times.get(place, 0) + 1
        if times <= _SAME_LOGGED:
            log.error("a fault of ours", exc_info=(kind, error, trace))
        if times == 1:
            self.met.emit(f"That was our fault, nothing was lost. What happened is written down in {log_file()}.")
