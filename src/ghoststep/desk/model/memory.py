"""What outlives a run: recent files, and copies of the work to recover after a crash."""

import json
import logging
import secrets
import time
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from ghoststep.files.locks import Busy, Held, lock
from ghoststep.files.places import PROJECT_SUFFIX, autosave_folder, made, state_folder
from ghoststep.files.safe import clear_parts, read_bytes, write_text
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document

log = logging.getLogger(__name__)
MAX_RECENT = 10
_MAX_BYTES = 200_000
_ENDED = "ended-"


def recent_files() -> list[Path]:
    """The files opened last, newest first; those that are gone are left out, and so is a list that is no list."""
    file = state_folder() / "recent.json"
    try:
        names = json.loads(read_bytes(file, limit_bytes=_MAX_BYTES)) if file.exists() else []
    except (OSError, ValueError, RecursionError):
        return []
    if not isinstance(names, list):
        return []
    out = []
    for name in names:
        with suppress(OSError, ValueError):  # names too long, or with a zero in them
            if isinstance(name, str) and Path(name).exists():
                out.append(Path(name))
    return out[:MAX_RECENT]


def remember(path: Path) -> None:
    """Put a file on top of the recent ones; a full disk is no reason to bother the user with that."""
    names = [str(path.absolute())] + [str(p) for p in recent_files() if p != path.absolute()]
    try:
        write_text(made(state_folder()) / "recent.json", json.dumps(names[:MAX_RECENT]))
    except InputError as error:
        log.warning("%s", error)


@dataclass(frozen=True)
class Leftover:
    """A copy of work whose run did not end well."""

    file: Path
    saved_at: float

    @property
    def ended(self) -> bool:
        """Whether it was kept because the program was told to end, and not by a crash."""
        return self.file.name.startswith(_ENDED)

    @property
    def age_words(self) -> str:
        minutes = max(0, round((time.time() - self.saved_at) / 60))
        return "just now" if minutes < 1 else f"{minutes} min ago" if minutes < 120 else f"{minutes // 60} h ago"


class Copy:
    """The copy that is kept of one open document, under a random name, locked as long as the document is open."""

    def __init__(self) -> None:
        self.file = autosave_folder() / f"work-{secrets.token_hex(8)}{PROJECT_SUFFIX}"
        self._held: Held | None = None
        self._gone = False  # set on the GUI thread while another may be writing
        self._instead_of: list[tuple[Leftover, Held]] = []

    def keep(self, document: Document) -> None:
        """Write the document beside, never over, the user's file; what it was recovered from is no longer needed then.

        Raises
        ------
        InputError
            Where it cannot be written.
        """
        from ghoststep.files.project import save_project

        folder = made(autosave_folder(), private=True)
        if self._held is None:
            with suppress(Busy):
                self._held = lock(self.file)
        clear_parts(folder)
        save_project(self.file, document, private=True)
        if self._gone:
            self._remove()
        else:
            self._drop_older()

    def recovered_from(self, leftover: Leftover, held: Held) -> None:
        """Keep an older copy until this document has one of its own, or is saved."""
        self._instead_of.append((leftover, held))

    def hand_over(self, document: Document) -> None:
        """Keep the work for the next start, under a name that says that the program was told to end.

        Raises
        ------
        InputError
            Where it cannot be written.
        """
        self.keep(document)
        kept = self.file.with_name(f"{_ENDED}{self.file.name}")
        with suppress(OSError):
            self.file.replace(kept)
        self._gone = True
        if self._held is not None:
            self._held.release()
            self._held = None
        self._drop_older()

    def forget(self) -> None:
        """The work is saved or given up: no copy is needed, and one that is being written goes too."""
        self._gone = True
        self._remove()
        self._drop_older()

    def _remove(self) -> None:
        with suppress(OSError):
            self.file.unlink(missing_ok=True)
        if self._held is not None:
            self._held.release()
            self._held = None

    def _drop_older(self) -> None:
        for leftover, held in self._instead_of:
            with suppress(OSError):
                leftover.file.unlink(missing_ok=True)
            held.release()
        self._instead_of = []


def leftovers() -> list[Leftover]:
    """Copies that no running program holds, newest first."""
    found = []
    with suppress(OSError):
        for file in autosave_folder().glob(f"*{PROJECT_SUFFIX}"):
            with suppress(OSError, Busy):
                held = lock(file)
                if held is not None:
                    held.release()
                found.append(Leftover(file, file.stat().st_mtime))
    return sorted(found, key=lambda x: -x.saved_at)


def recovered(leftover: Leftover) -> tuple[Document, Held]:
    """The work of a copy, and the lock on it, so that no other window takes it too.

    Raises
    ------
    InputError
        Where it cannot be read, or another window has it.
    """
    from ghoststep.files.project import load_project

    try:
        held = lock(leftover.file)
    except Busy as error:
        raise InputError("Another window has taken that copy already.") from error
    if held is None:
        raise InputError("The copy cannot be locked here, so it is left where it is.")
    try:
        return load_project(leftover.file), held
    except InputError:
        held.release()
        raise


def drop(leftover: Leftover) -> None:
    """Throw a copy away, unless another window has it."""
    with suppress(OSError, Busy):
        held = lock(leftover.file)
        leftover.file.unlink(missing_ok=True)
        if held is not None:
            held.release()
