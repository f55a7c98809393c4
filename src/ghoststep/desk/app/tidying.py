"""Garbage is collected on the GUI thread alone.

Python collects what refers to itself on whichever thread makes the next object. Where that is a thread of background
work and the garbage holds widgets or timers, Qt destroys them on the wrong thread, and the program dies.
"""

import ctypes
import gc
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

_EVERY_MS, _RETURNED_MS = 1000, 60_000
# Blocks from this size on come from the system and go back to it one by one, and threads share two heaps: else sounds
# and pictures of changing sizes leave holes, and a window in use grows by the minute (mallopt(3), glibc).
_MMAP_THRESHOLD, _ARENA_MAX = -3, -8
_OWN_BLOCK_BYTES, _HEAPS = 128 * 1024, 2


class Tidying(QObject):
    """From now on the timer collects, as much as Python itself would have."""

    def __init__(self) -> None:
        super().__init__()
        gc.disable()
        gc.collect()
        gc.freeze()  # what was loaded with the program stays, and is never looked through again
        self._timer = QTimer(self)
        self._timer.timeout.connect(tidy)
        self._timer.start(_EVERY_MS)
        self._returned = QTimer(self)
        without_holes()
        trim = _trim()
        if trim is not None:
            self._returned.timeout.connect(lambda: trim(0))
            self._returned.start(_RETURNED_MS)

    def close(self) -> None:
        """Leave it to Python again."""
        self._timer.stop()
        self._returned.stop()
        gc.unfreeze()
        gc.enable()


def tidy() -> None:
    """Collect the oldest generation that is due."""
    due = [g for g, (count, most) in enumerate(zip(gc.get_count(), gc.get_threshold(), strict=True)) if count > most]
    if due:
        gc.collect(due[-1])


def without_holes() -> bool:
    """Tell the C library how to keep memory in one piece; whether it could be told."""
    try:
        mallopt = ctypes.CDLL(None).mallopt
    except (OSError, AttributeError):
        return False
    return bool(mallopt(_MMAP_THRESHOLD, _OWN_BLOCK_BYTES) and mallopt(_ARENA_MAX, _HEAPS))


def _trim() -> Callable[[int], int] | None:
    """The C library's way to give back what was freed; None where it has none."""
    try:
        return ctypes.CDLL(None).malloc_trim
    except (OSError, AttributeError):
        return None
