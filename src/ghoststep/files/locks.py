"""Locks of the operating system: who works on a project or on a copy kept for after a crash.

A lock is a file that is held open. It is let go of whenever its process ends, however that ends, so there are no stale
ones to be recognised; the file itself is taken away by whoever held it last.
"""

import fcntl
import hashlib
import os
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path
from typing import BinaryIO

from ghoststep.files.places import made, state_folder
from ghoststep.music.errors import InputError


class Held:
    """Locks that are held until `release`: one by the path, one by the file itself, whatever other names it has."""

    def __init__(self, taken: Sequence[tuple[Path, BinaryIO]]) -> None:
        self._taken = list(taken)

    def release(self) -> None:
        for taken in self._taken:
            _let_go(taken)
        self._taken = []

    def written(self, path: Path) -> None:
        """The file was replaced by another of the same path, which is locked from now on; its old self is free."""
        of_path, of_files = self._taken[:1], self._taken[1:]
        new = None
        with suppress(Busy):
            new = _of_file(path)
        self._taken = of_path + ([new] if new is not None else [])
        for taken in of_files:
            _let_go(taken)


def _let_go(taken: tuple[Path, BinaryIO]) -> None:
    path, file = taken
    with suppress(OSError):
        path.unlink()
    file.close()


class Busy(Exception):  # noqa: N818 - it is an answer, not an error
    """Somebody else holds the lock."""


def lock(path: Path) -> Held | None:
    """Take the lock of what a path leads to (a file beside it); None where locks do not work there.

    A link is followed, and a file with several names (hard links) is locked under all of them.

    Raises
    ------
    Busy
        Where another program, or another window of this one, holds it.
    """
    real = Path(os.path.realpath(path))
    digest = hashlib.sha256(os.fsencode(real.name)).hexdigest()[:12]
    first = _taken(real.with_name(f".{real.name[:60]}.{digest}.lock"))
    if first is None:
        return None
    try:
        second = _of_file(real)
    except Busy:
        _let_go(first)
        raise
    return Held([first, second] if second is not None else [first])


def _of_file(path: Path) -> tuple[Path, BinaryIO] | None:
    """The lock of a file by what it is on its disk; None where there is none, or locks do not work."""
    try:
        found = path.stat()
        folder = made(state_folder() / "locks", private=True)
    except (OSError, InputError):
        return None
    return _taken(folder / f"{found.st_dev:x}-{found.st_ino:x}.lock")


def _taken(place: Path) -> tuple[Path, BinaryIO] | None:
    """A lock file, made and held; None where that does not work."""
    for _ in range(100):  # whoever lets go of it takes the file away, maybe just now
        try:
            file = os.fdopen(os.open(place, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600), "r+b")
        except OSError:
            return None
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            # Between opening and locking the last holder may have taken the file away: this lock locks nothing then.
            if os.fstat(file.fileno()).st_ino == place.stat().st_ino:
                return place, file
        except BlockingIOError as error:
            file.close()
            raise Busy from error
        except FileNotFoundError:
            pass
        except OSError:
            file.close()
            return None
        file.close()
    return None
