"""Locks of the operating system: who works on a project or on a copy kept for after a crash.

A lock is a file that is held open. It is let go of whenever its process ends, however that ends, so there are no stale
ones to be recognised; the file itself is taken away by whoever held it last.
"""

import fcntl
import os
from contextlib import suppress
from pathlib import Path
from typing import BinaryIO


class Held:
    """A lock that is held until `release`."""

    def __init__(self, path: Path, file: BinaryIO) -> None:
        self._path, self._file = path, file

    def release(self) -> None:
        with suppress(OSError):
            self._path.unlink()
        self._file.close()


class Busy(Exception):  # noqa: N818 - it is an answer, not an error
    """Somebody else holds the lock."""


def lock(path: Path) -> Held | None:
    """Take the lock of a path (a file beside it); None where locks do not work there.

    Raises
    ------
    Busy
        Where another program, or another window of this one, holds it.
    """
    place = path.with_name(f".{path.name[:200]}.lock")
    try:
        file = os.fdopen(os.open(place, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600), "r+b")
    except OSError:
        return None
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        # Between opening and locking the last holder may have taken the file away: then this lock locks nothing.
        same = os.fstat(file.fileno()).st_ino == place.stat().st_ino
    except BlockingIOError as error:
        file.close()
        raise Busy from error
    except OSError:
        file.close()
        return None
    if not same:
        file.close()
        return lock(path)
    return Held(place, file)
