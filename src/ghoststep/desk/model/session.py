"""The session: the document with its history, what is chosen, and everything that changes it, each as one undo step."""

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any, TypeVar

from PySide6.QtCore import QObject, Signal

from ghoststep.desk.model.choice import Choice
from ghoststep.desk.model.tasks import Progress, Task, Tasks
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANE_OF_VOICE
from ghoststep.session.document.document import Document
from ghoststep.session.document.history import History
from ghoststep.session.edits.commit import opened
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.edits.shelf import Shelf

if TYPE_CHECKING:
    from ghoststep.session.language.edit_context import Done, EditContext

Correction = Callable[[Document], Edit]
Found = TypeVar("Found")


class Session(QObject):
    """One open document and what is done with it. The language is loaded when something is done for the first time."""

    said = Signal(str, bool)  # a message, and whether it is trouble
    document_changed = Signal()
    document_opened = Signal()  # another document, not a change of this one
    asked = Signal(object)  # an `Ask` of a phrase: to play, to mute, to take back
    corrected = Signal()  # a correction was done or refused

    def __init__(self) -> None:
        super().__init__()
        self.owner = object()  # what tasks belong to: another one with each document that is opened
        self.tasks = Tasks(lambda: self.owner)
        self.choice = Choice()
        self.history = self._history(Document())
        self.shelf: Shelf | None = None  # what was copied
        self._waiting: list[Correction] = []

    def _history(self, document: Document) -> History:
        return History(document, _committed, lambda _document: self._changed())

    @property
    def document(self) -> Document:
        return self.history.document

    @property
    def groove(self) -> Groove:
        return self.history.document.groove

    def fail(self, words: str) -> None:
        """Say trouble."""
        self.said.emit(words, True)

    def start_over(self, document: Document, unsaved_words: str = "") -> None:
        """Go on with another document; what still works for the old one is stopped.

        unsaved_words: what it counts as not saved for, as the history shows it; "" where it is saved.
        """
        self.tasks.cancel_of(self.owner)
        self.owner = object()
        self._waiting = []
        document = opened(document)
        self.history = self._history(document)
        if unsaved_words:
            self.history.do(unsaved_words, replace(document))
        self.choice.start_over()
        self.document_changed.emit()
        self.document_opened.emit()

    def compute(
        self,
        lane: str,
        work: Callable[[Document, Progress], Found],
        apply: Callable[[Found], None],
        *,
        failed: Callable[[str], None] | None = None,
        words: str = "",
    ) -> Task:
        """Work something out for the document as it is now, off the GUI thread.

        lane: what it waits for (see `Tasks.start`). What comes back once the document is another one, opened or only
        changed, is dropped: it was meant for what is not there any more. failed: is told trouble, which else is said.
        """
        document = self.document

        def done(found: Found) -> None:
            if self.document is document:
                apply(found)

        return self.tasks.start(
            lane, lambda progress: work(document, progress), done=done, failed=failed or self.fail, words=words
        )

    # -- edits and phrases --------------------------------------------------------------------------------------

    def edit(self, change: Callable[[Document], Edit]) -> bool:
        """Do a change as one undo step; trouble is said and changes nothing."""
        try:
            words, document = change(self.document)
        except InputError as error:
            self.fail(str(error))
            return False
        if document is self.document:
            return False
        self.said.emit(self.history.do(words, document), False)
        return True

    def context(self) -> "EditContext":
        """The document, what is chosen, the cursor and what was copied, for a command."""
        from ghoststep.session.language.edit_context import EditContext

        choice = self.choice
        return EditContext(self.document, choice.keys, choice.cursor_ticks, choice.lane, self.shelf)

    def perform(self, phrase: str) -> None:
        """Do a phrase as one step.

        Raises
        ------
        InputError
            Where it means nothing or cannot be done.
        """
        from ghoststep.session.language.doing import do

        self._done(do(self.context(), phrase))

    def say(self, phrase: str) -> bool:
        """Do a phrase as one step; trouble is said and changes nothing."""
        from ghoststep.session.language.doing import do

        return self._tried(lambda: do(self.context(), phrase))

    def call(self, verb: str, /, **values: Any) -> bool:
        """Do a verb with values as one step, on what is chosen; trouble is said and changes nothing."""
        from ghoststep.session.language.doing import call

        return self._tried(lambda: call(self.context(), verb, **values))

    def take(self, words: str, context: "EditContext") -> bool:
        """Take what was done already, as one step; whether it changed anything."""
        before = self.document
        self._done((words, context))
        return self.document is not before

    def put_cursor(self, ticks: int, lane: int) -> None:
        """Move the cursor; what stands there is chosen."""
        pattern = self.groove.pattern
        here = [pattern.hits[i] for i in pattern.between(ticks, ticks + 1)]
        keys = (h.key for h in here if LANE_OF_VOICE[h.voice] == lane)
        self.choice.put(keys=keys, cursor_ticks=ticks, lane=lane)

    def _tried(self, work: "Callable[[], Done]") -> bool:
        try:
            done = work()
        except InputError as error:
            self.fail(str(error))
            self.choice.changed.emit()  # fields show again what is the case
            return False
        self._done(done)
        return True

    def _done(self, done: "Done") -> None:
        words, after = done
        self.shelf = after.shelf
        if after.document is not self.document:
            # The choice stands before the document is shown, so that everything is shown once.
            self.choice.keys, self.choice.lane = after.chosen, after.lane
            self.said.emit(self.history.do(words, after.document, settled=True), False)  # verbs commit
        elif words:
            self.said.emit(words, False)
        length = self.groove.pattern.length_ticks
        self.choice.put(keys=after.chosen, cursor_ticks=min(max(after.cursor_ticks, 0), length - 1), lane=after.lane)
        for ask in after.asks:  # last: to take back is to go to another document
            self.asked.emit(ask)

    def _changed(self) -> None:
        length = self.groove.pattern.length_ticks
        if self.choice.cursor_ticks >= length:
            self.choice.cursor_ticks = length - 1
        region = self.choice.range_ticks
        if region and region[1] > length:
            self.choice.set_range(None)
        self.document_changed.emit()

    # -- corrections of the listening ---------------------------------------------------------------------------

    def correct(self, change: Correction) -> None:
        """Do a correction of the listening: the fit is made off the GUI thread, one correction after the other."""
        self._waiting.append(change)
        if len(self._waiting) == 1:
            self._fit_next()

    @property
    def fitting(self) -> bool:
        return bool(self._waiting)

    def _fit_next(self) -> None:
        change, before = self._waiting[0], self.document

        def done(edit: Edit) -> None:
            words, document = edit
            if self.document is not before:  # something else was done meanwhile: fit again on top of it
                self._fit_next()
                return
            self.said.emit(self.history.do(words, document), False)
            after()

        def failed(words: str) -> None:
            self.fail(words)
            after()

        def after() -> None:
            self._waiting.pop(0)
            self.corrected.emit()
            if self._waiting:
                self._fit_next()

        self.tasks.start("fit", lambda _progress: change(before), done=done, failed=failed)

    # -- history ------------------------------------------------------------------------------------------------

    def undo(self) -> None:
        words = self.history.undo()
        self.said.emit(f"Taken back: {words}" if words else "Nothing to take back.", False)

    def redo(self) -> None:
        words = self.history.redo()
        self.said.emit(f"Done again: {words}" if words else "Nothing to do again.", False)

    def go_to_step(self, step: int) -> None:
        """Go to a version of the history."""
        if step != self.history.at:
            self.said.emit(f"At: {self.history.go_to(step)}", False)


def _committed(before: Document, edit: Edit) -> Edit:
    from ghoststep.session.language.doing import commit

    return commit(before, edit)
