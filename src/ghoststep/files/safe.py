"""Reading that cannot hang or eat the memory, writing that never leaves half a file, and file errors in words."""

import errno
import os
import stat
import tempfile
import time
from collections.abc import Callable, Iterable, Sequence
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
    errno.ELOOP: "its links lead round in a circle",
}
_PART = ".part"
_STALE_PART_S = 3600.0
Write = Callable[[BinaryIO], object]


def shown(path: Path) -> str:
    """A file's name as it can be shown and kept as text: bytes that are no UTF-8 become a sign of their own."""
    return (path.name or str(path)).encode("utf-8", "surrogateescape").decode("utf-8", "replace")


def file_trouble(error: OSError, path: Path, doing: str) -> InputError:
    """The error as one sentence: what could not be done with which file, and why."""
    why = _WORDS.get(error.errno or 0, (error.strerror or str(error)).lower())
    if doing == "written" and error.errno == errno.ENOENT:
        why = "the folder it should be in does not exist"
    return InputError(f"{shown(path)} could not be {doing}: {why}.")


def read_bytes(path: Path, *, limit_bytes: int) -> bytes:
    """The whole file, if it is a regular one and not larger than the limit.

    Raises
    ------
    InputError
        Where it cannot be read, is a pipe or device, is empty or too large.
    """
    try:
        # Opened without waiting, since a pipe nobody writes to would wait for ever.
        with os.fdopen(os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC), "rb") as file:
            found = os.fstat(file.fileno())
            if stat.S_ISDIR(found.st_mode):
                raise IsADirectoryError(errno.EISDIR, "is a folder")
            if not stat.S_ISREG(found.st_mode):
                raise InputError(f"{shown(path)} is a pipe or device and no file that can be read.")
            data = file.read(limit_bytes + 1)
    except OSError as error:
        raise file_trouble(error, path, "read") from error
    if len(data) > limit_bytes:
        size = max(found.st_size, len(data))
        raise InputError(f"{shown(path)} is {size / 1e6:.0f} MB large; at most {limit_bytes / 1e6:.0f} MB can be read.")
    if not data:
        raise InputError(f"{shown(path)} is empty.")
    return data


def write_whole(path: Path, write: Write, *, private: bool = False) -> None:
    """Write a file so that at any moment the old or the new content stands there, whole.

    The new content goes to a file beside it, is forced to the disk, and takes the old one's place in one step. A link
    is followed, so that it stays one.

    Parameters
    ----------
    private
        Readable by the user alone.

    Raises
    ------
    InputError
        Where it cannot be written; the old file is untouched then.
    """
    write_together([(path, write)], private=private)


def write_together(writes: Sequence[tuple[Path, Write]], *, private: bool = False) -> None:
    """Write several files, all or none: each is prepared beside its place before the first takes it.

    Raises
    ------
    InputError
        Where one cannot be written; all old files are untouched then.
    """
    prepared: list[tuple[Path, Path, Path]] = []  # what the user named, where it lies, what is to take its place
    path = Path()
    try:
        for path, write in writes:
            place = _place_of(path)
            prepared.append((path, place, _prepared(place, write, private=private)))
        for named, place, part in prepared:
            path = named
            part.replace(place)
    except OSError as error:
        raise file_trouble(error, path, "written") from error
    finally:
        for _, _, part in prepared:
            with suppress(OSError):
                part.unlink(missing_ok=True)


def _place_of(path: Path) -> Path:
    """Where a file really lies; an InputError where something stands there that is no file."""
    place = path.resolve() if path.is_symlink() else path
    if place.exists() and not place.is_file():
        if place.is_dir():
            raise IsADirectoryError(errno.EISDIR, "is a folder")
        raise InputError(f"{shown(path)} is a pipe or device: choose a file to write to.")
    return place


def _prepared(place: Path, write: Write, *, private: bool) -> Path:
    clear_parts(place.parent)
    handle, name = tempfile.mkstemp(prefix=f".{place.name[:40]}.", suffix=_PART, dir=place.parent)
    part = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            write(file)
            file.flush()
            os.fsync(file.fileno())
        part.chmod(0o600 if private else _usual_mode(place))
    except BaseException:
        with suppress(OSError):
            part.unlink()
        raise
    return part


def clear_parts(folder: Path) -> None:
    """Take away what killed runs left half written, once nobody can be writing it any more."""
    with suppress(OSError):
        for part in folder.glob(f".*{_PART}"):
            if time.time() - part.lstat().st_mtime > _STALE_PART_S:
                part.unlink()


def _usual_mode(path: Path) -> int:
    """The mode of the file that is replaced, else what a new file would get."""
    with suppress(OSError):
        return path.stat().st_mode & 0o777
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask


def write_text(path: Path, text: str) -> None:
    """`write_whole` for UTF-8 text."""
    write_whole(path, lambda file: file.write(text.encode("utf-8", "surrogateescape")))


def check_outputs(outputs: Iterable[Path | None], inputs: Iterable[Path | None]) -> None:
    """Refuse an output that is an input or another output, by whatever name.

    Raises
    ------
    InputError
        Naming the file.
    """
    read = {_identity(p) for p in inputs if p is not None}
    written: set[object] = set()
    for path in outputs:
        if path is None:
            continue
        mine = _identity(path)
        if mine in read:
            raise InputError(f"{shown(path)} is what is read here: choose another file to write to.")
        if mine in written:
            raise InputError(f"{shown(path)} is named for two outputs: give each a file of its own.")
        written.add(mine)


def _identity(path: Path) -> object:
    """What tells a file from all others, also one that does not exist yet."""
    try:
        found = path.stat()
    except OSError:
        return os.path.realpath(path)
    return found.st_dev, found.st_ino


def state_of(path: Path) -> tuple[int, int, int] | None:
    """What changes when somebody else writes a file; None where there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_ino, found.st_size, found.st_mtime_ns
