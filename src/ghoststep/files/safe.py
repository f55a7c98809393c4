"""Reading that cannot hang or eat the memory, writing that never leaves half a file, and file errors in words."""

import errno
import fcntl
import logging
import os
import re
import shutil
import stat
import tempfile
import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager, suppress
from contextvars import ContextVar
from dataclasses import dataclass
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
# What a killed run leaves behind is known by the whole of its name, so that nobody else's file is ever cleared away.
_PART = ".ghost-step-part"
_OUR_PART = re.compile(r"\..{0,40}\.[a-z0-9_]{8}\.ghost-step-part")
_STALE_PART_S = 3600.0
Write = Callable[[BinaryIO], object]
Check = Callable[[Path], object]
log = logging.getLogger(__name__)


def shown(path: Path) -> str:
    """A file's name as it can be shown and kept as text: what cannot be printed becomes a sign of its own."""
    name = (path.name or str(path)).encode("utf-8", "surrogateescape").decode("utf-8", "replace")
    return "".join(c if c.isprintable() else "\ufffd" for c in name)


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
    except InputError:
        raise
    except ValueError as error:  # a zero in the path
        raise InputError(f"{shown(path)} could not be read: its name holds what no name can.") from error
    if len(data) > limit_bytes:
        size = max(found.st_size, len(data))
        raise InputError(f"{shown(path)} is {size / 1e6:.3g} MB large; at most {limit_bytes / 1e6:.3g} MB can be read.")
    if not data:
        raise InputError(f"{shown(path)} is empty.")
    return data


def write_whole(path: Path, write: Write, *, private: bool = False, check: Check | None = None) -> None:
    """Write a file so that at any moment the old or the new content stands there, whole.

    The new content goes to a file beside it, is forced to the disk, and takes the old one's place in one step. A link
    is followed, so that it stays one; owner, mode and extended attributes are kept.

    Parameters
    ----------
    private
        Readable by the user alone.
    check
        Reads what was written before it takes the old one's place; where it raises, the old file stays.

    Raises
    ------
    InputError
        Where it cannot be written; the old file is untouched then.
    """
    write_together([(path, write)], private=private, check=check)


@dataclass
class _Prepared:
    """A file that is ready to take its place.

    named: as the user did; place: where it lies; part: what is to take its place; lock: held as long as it is ours;
    kept: the old file under a name of ours, while others are still on their way.
    """

    named: Path
    place: Path
    part: Path
    lock: BinaryIO
    kept: Path | None = None


def write_together(writes: Sequence[tuple[Path, Write]], *, private: bool = False, check: Check | None = None) -> None:
    """Write several files, all or none: each is prepared beside its place before the first takes it.

    Where one cannot take its place the others get their old content back.

    Raises
    ------
    InputError
        Where one cannot be written; all old files are as they were then.
    """
    prepared: list[_Prepared] = []
    path = Path()
    try:
        for path, write in writes:
            prepared.append(_prepared(path, write, private=private))
            if check is not None:
                check(prepared[-1].part)
        done: list[_Prepared] = []
        try:
            for one in prepared:
                path = one.named
                one.kept = _kept_aside(one.place) if len(prepared) > 1 else None
                done.append(one)
                one.part.replace(one.place)
        except OSError:
            _put_back(done)
            raise
    except OSError as error:
        raise file_trouble(error, path, "written") from error
    except InputError:
        raise
    except ValueError as error:
        raise InputError(f"{shown(path)} could not be written: its name holds what no name can.") from error
    finally:
        for one in prepared:
            for leftover in (one.part, one.kept):
                with suppress(OSError):
                    if leftover is not None:
                        leftover.unlink(missing_ok=True)
            one.lock.close()


def _kept_aside(place: Path) -> Path | None:
    """The old file under a name of ours as well; None where there is none."""
    if not place.exists():
        return None
    handle, name = tempfile.mkstemp(prefix=f".{place.name[:40]}.", suffix=_PART, dir=place.parent)
    os.close(handle)
    kept = Path(name)
    kept.unlink()
    try:
        os.link(place, kept)
    except OSError:  # no hard links here
        shutil.copy2(place, kept)
    return kept


def _put_back(done: Sequence[_Prepared]) -> None:
    """The old files in their places again."""
    for one in reversed(done):
        if one.part.exists():  # it did not take its place
            continue
        if one.kept is not None:
            one.kept.replace(one.place)
        else:
            one.place.unlink(missing_ok=True)


def _place_of(path: Path) -> Path:
    """Where a file really lies; an error where something stands there that is no file, or may not be written."""
    try:
        place = path.resolve() if path.is_symlink() else path
    except RuntimeError as error:  # how Python up to 3.12 says that links lead round in a circle
        raise OSError(errno.ELOOP, "links lead round in a circle") from error
    if place.exists() and not place.is_file():
        if place.is_dir():
            raise IsADirectoryError(errno.EISDIR, "is a folder")
        raise InputError(f"{shown(path)} is a pipe or device: choose a file to write to.")
    if place.exists() and (not place.stat().st_mode & 0o222 or not os.access(place, os.W_OK)):
        raise InputError(f"{shown(path)} is protected against writing: take that off it, or choose another file.")
    return place


def _prepared(path: Path, write: Write, *, private: bool) -> _Prepared:
    place = _place_of(path)
    clear_parts(place.parent)
    handle, name = tempfile.mkstemp(prefix=f".{place.name[:40]}.", suffix=_PART, dir=place.parent)
    part = Path(name)
    lock = os.fdopen(os.dup(handle), "rb")
    try:
        with suppress(OSError):  # locks may not work there
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        with os.fdopen(handle, "wb") as file:
            write(file)
            file.flush()
            os.fsync(file.fileno())
        _take_after(part, place)
        part.chmod(0o600 if private else _usual_mode(place))
    except BaseException:
        lock.close()
        with suppress(OSError):
            part.unlink()
        raise
    return _Prepared(path, place, part, lock)


_heard: ContextVar[list[str] | None] = ContextVar("remarks on files that are written", default=None)


@contextmanager
def remarks() -> Iterator[list[str]]:
    """What could not be kept of files that are replaced within, beside the log."""
    said: list[str] = []
    before = _heard.set(said)
    try:
        yield said
    finally:
        _heard.reset(before)


def _remark(words: str) -> None:
    log.warning("%s", words)
    said = _heard.get()
    if said is not None:
        said.append(words)


def _take_after(part: Path, place: Path) -> None:
    """Owner and extended attributes of the file that is replaced; what cannot be kept is told."""
    try:
        old = place.stat()
    except OSError:
        return
    mine = part.stat()
    if (old.st_uid, old.st_gid) != (mine.st_uid, mine.st_gid):
        try:
            os.chown(part, old.st_uid, old.st_gid)
        except OSError:
            _remark(f"{shown(place)} belongs to you now: its owner could not be kept.")
    for name in _attributes(place):
        try:
            os.setxattr(part, name, os.getxattr(place, name))
        except OSError:
            _remark(f"{shown(place)} lost its attribute {name}.")
    if old.st_nlink > 1:
        _remark(f"{shown(place)} had other names (hard links): those keep the old content.")


def _attributes(place: Path) -> list[str]:
    with suppress(OSError):
        return [n for n in os.listxattr(place) if n.startswith("user.")]
    return []


def clear_parts(folder: Path) -> None:
    """Take away what killed runs of ours left half written: our own files, by their whole name, that nobody holds."""
    with suppress(OSError):
        for part in folder.glob(f".*{_PART}"):
            if _OUR_PART.fullmatch(part.name) and part.lstat().st_uid == os.geteuid():
                _clear_if_free(part)


def _clear_if_free(part: Path) -> None:
    """Take a half written file away, unless some run is writing it."""
    with suppress(OSError):
        handle = os.open(part, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC)
        with os.fdopen(handle, "rb") as file:
            if not stat.S_ISREG(os.fstat(file.fileno()).st_mode):
                return
            try:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                return
            except OSError:  # no locks here: by age
                if time.time() - part.lstat().st_mtime < _STALE_PART_S:
                    return
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
    except (OSError, ValueError):
        try:
            return os.path.realpath(path)
        except (OSError, ValueError):  # the working folder is gone, or the name holds a zero
            return str(path)
    return found.st_dev, found.st_ino


def state_of(path: Path) -> tuple[int, int, int] | None:
    """What changes when somebody else writes a file; None where there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_ino, found.st_size, found.st_mtime_ns
