"""Writing that never leaves half a file, and file errors in words."""

import errno
import os
import tempfile
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import BinaryIO

from ghoststep.music.errors import InputError

_WORDS = {
    errno.ENOENT: "it does not exist",
    errno.EACCES: "we are not allowed to use it",
    errno.EPERM: "we are not allowed to use it",
    errno.EROFS: "the disk is read-only",
    errno.ENOSPC: "the disk is full",
    errno.EDQUOT: "your disk quota is used up",
    errno.EISDIR: "it is a folder",
    errno.ENOTDIR: "a part of its path is a file and no folder",
    errno.ENAMETOOLONG: "its name is too long",
    errno.EFBIG: "it became too large for the disk",
}


def file_trouble(error: OSError, path: Path, doing: str) -> InputError:
    """The error as one sentence: what could not be done with which file, and why."""
    why = _WORDS.get(error.errno or 0, (error.strerror or str(error)).lower())
    return InputError(f"{path.name or path} could not be {doing}: {why}.")


def read_bytes(path: Path, *, limit_bytes: int) -> bytes:
    """The whole file, if it is not larger than the limit."""
    try:
        size = path.stat().st_size
        if size > limit_bytes:
            raise InputError(
                f"{path.name} is {size / 1e6:.0f} MB large; at most {limit_bytes / 1e6:.0f} MB can be read."
            )
        data = path.read_bytes()
    except OSError as error:
        raise file_trouble(error, path, "read") from error
    if not data:
        raise InputError(f"{path.name} is empty.")
    return data


def write_whole(path: Path, write: Callable[[BinaryIO], object]) -> None:
    """Write a file so that at any moment the old or the new content stands there, whole.

    The new content goes to a file beside it, is forced to the disk, and takes the old one's place in one step.

    Raises
    ------
    InputError
        Where it cannot be written; the old file is untouched then.
    """
    temporary: Path | None = None
    try:
        handle, name = tempfile.mkstemp(prefix=f".{path.name[:40]}.", suffix=".part", dir=path.parent)
        temporary = Path(name)
        with os.fdopen(handle, "wb") as file:
            write(file)
            file.flush()
            os.fsync(file.fileno())
        temporary.chmod(_usual_mode(path))
        temporary.replace(path)
        temporary = None
    except OSError as error:
        raise file_trouble(error, path, "written") from error
    finally:
        if temporary is not None:
            with suppress(OSError):
                temporary.unlink()


def _usual_mode(path: Path) -> int:
    """The mode of the file that is replaced, else what a new file would get."""
    with suppress(OSError):
        return path.stat().st_mode & 0o777
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask


def write_text(path: Path, text: str) -> None:
    """`write_whole` for UTF-8 text."""
    write_whole(path, lambda file: file.write(text.encode("utf-8")))
