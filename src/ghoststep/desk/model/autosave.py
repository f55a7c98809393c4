"""Copies of the work for after a crash, kept while it is not saved."""

import logging
from dataclasses import replace

from PySide6.QtCore import QObject, QTimer

from ghoststep.desk.model import memory
from ghoststep.desk.model.session import Session
from ghoststep.desk.model.tasks import Progress
from ghoststep.files.locks import Held
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document

EVERY_MS = 15_000
log = logging.getLogger(__name__)


class Autosave(QObject):
    """Keeps a copy of a session's document every so often."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.copy = memory.Copy()
        self.copied: Document | None = None  # what stands in the copy, or in the project's file
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.keep)
        self._timer.start(EVERY_MS)

    def start_over(self, copied: Document | None = None) -> None:
        """Forget the copy: another document is open, or `copied` was saved to its file."""
        self.copy.forget()
        self.copy, self.copied = memory.Copy(), copied

    def keep(self) -> None:
        """Keep a copy for after a crash, if anything changed since the last one; what failed is tried again."""
        session, document, copy = self._session, self._session.document, self.copy
        if (not session.history.unsaved and document.listening is None) or document is self.copied:
            return

        def done(_result: object) -> None:
            if copy is self.copy:
                self.copied = document

        def work(_progress: Progress) -> None:
            if copy is self.copy:  # forgotten meanwhile, it must not come back
                copy.keep(document)

        session.tasks.start("copy", work, done=done, failed=session.fail)

    def recovered(self, leftover: memory.Leftover) -> tuple[Document, Held]:
        """The document of an earlier run's copy, under a name that says so, and that copy, held.

        Raises
        ------
        InputError
            Where it cannot be read.
        """
        document, held = memory.recovered(leftover)
        return replace(document, name=f"{document.name} recovered"), held

    def hand_over(self) -> None:
        """Keep what is not saved for the next start: somebody ends the program and nobody can be asked."""
        if not self._session.history.unsaved:
            return
        self._session.tasks.wait()
        try:
            self.copy.hand_over(self._session.document)
        except InputError as error:
            log.warning("%s", error)
        else:
            self.copy = memory.Copy()

    def close(self) -> None:
        """A clean end needs no copy."""
        self._timer.stop()
        self.copy.forget()
