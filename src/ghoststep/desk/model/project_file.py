"""The project's file: its path, who else has it open, and saving."""

import os
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from ghoststep.desk.model import memory
from ghoststep.desk.model.session import Session
from ghoststep.desk.model.tasks import Progress
from ghoststep.files.locks import Busy, Held, lock
from ghoststep.files.safe import remarks, shown, state_of
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document


class ProjectFile(QObject):
    """The file that the open document is saved in, if it has one."""

    changed = Signal()  # name, path or saved state
    saved = Signal(object)  # the document that stands in the file now

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.path: Path | None = None
        self._lock: Held | None = None
        self._state: tuple[int, int, int] | None = None
        session.document_changed.connect(self.changed)

    def hold(self, path: Path | None) -> None:
        """Lock a project against other windows; where one has it, this is a copy without a file of its own."""
        self.release()
        self.path = path
        self._state = None
        if path is None:
            return
        try:
            self._lock = lock(path)
        except Busy:
            self.path = None
            self._session.fail(f"{shown(path)} is open in another window: this is a copy, save it under a new name.")
            return
        self._state = state_of(path)

    def release(self) -> None:
        """Let others have the file."""
        if self._lock is not None:
            self._lock.release()
            self._lock = None

    @property
    def changed_outside(self) -> bool:
        """Whether somebody else wrote the project's file since it was opened or saved here."""
        return self.path is not None and self._state != state_of(self.path)

    def save(self, path: Path, then: Callable[[bool], None] = lambda _saved: None) -> None:
        """Save the project off the GUI thread; `then` is told whether it was saved. On trouble file and work stay."""
        session = self._session
        other = self.path is None or os.path.realpath(path) != os.path.realpath(self.path)
        document, owner = session.document, session.owner

        def work(_progress: Progress) -> tuple[Held | None, str]:
            return _written(path, document, new=other)

        def done(written: tuple[Held | None, str]) -> None:
            taken, warning = written
            if session.owner is owner:
                self._stands(path, document, taken, other=other)
                if warning:
                    session.fail(f"Saved as {shown(path)}, but: {warning}")
            elif taken is not None:
                taken.release()
            then(True)

        def failed(words: str) -> None:
            session.fail(words)
            then(False)

        session.tasks.start(
            "write", work, done=done, failed=failed, always=True, words=f"Saving {shown(path)}", stops=False
        )

    def _stands(self, path: Path, document: Document, taken: Held | None, *, other: bool) -> None:
        if other:
            self.release()
            self._lock = taken
        if self._lock is not None:
            self._lock.written(path)
        self.path, self._state = path, state_of(path)
        self._session.history.mark_saved(document)
        memory.remember(path)
        self.saved.emit(document)
        self.changed.emit()
        self._session.said.emit(f"Saved as {shown(path)}.", False)


def _written(path: Path, document: Document, *, new: bool) -> tuple[Held | None, str]:
    """Write a project and lock its file where it is a new one; the lock, and what has to be said of it.

    Raises
    ------
    InputError
        Where it cannot be written, or another window has the file.
    """
    from ghoststep.files.project import save_project

    taken = None
    try:
        taken = lock(path) if new else None
        with remarks() as said:
            warned = [save_project(path, document), *said]
    except Busy as error:
        raise InputError(f"{shown(path)} is open in another window: choose another name.") from error
    except InputError:
        if taken is not None:
            taken.release()
        raise
    return taken, " ".join(w for w in warned if w)
