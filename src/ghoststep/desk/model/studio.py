"""The working state behind the window: document and history, choice, listening, playing, files. Widgets ask it."""

import logging
import os
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QEventLoop, QTimer, Signal

from ghoststep.desk.model import memory
from ghoststep.desk.model.playback import Playback
from ghoststep.desk.model.tasks import Progress
from ghoststep.devices.output import Output
from ghoststep.files.feels import use_shelf
from ghoststep.files.keymap import KeyMap, general_midi_keys, read_keys
from ghoststep.files.locks import Busy, Held, lock
from ghoststep.files.places import keys_file
from ghoststep.files.project import PROJECT_SUFFIX, save_project
from ghoststep.files.safe import remarks, shown, state_of
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANE_OF_VOICE
from ghoststep.music.performance import Performance
from ghoststep.session.document.document import Document, Recording
from ghoststep.session.document.history import History
from ghoststep.session.edits.commit import opened
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.edits.shelf import Shelf
from ghoststep.session.language.doing import call, commit, do
from ghoststep.session.language.edit_context import Done, EditContext
from ghoststep.sound.program import Source

AUTOSAVE_EVERY_MS = 15_000
PICK_FROM_S = 150.0  # from a longer file a passage is picked first
Correction = Callable[[Document], Edit]

log = logging.getLogger(__name__)


class Studio(Playback):
    """One open document and what is done with it; playing stands in `playback`."""

    document_changed = Signal()
    document_opened = Signal()  # another document, not a change of this one
    file_changed = Signal()  # name, path or saved state
    heard = Signal()  # listening ended with a new document
    heard_late = Signal(object, object)  # it ended for a document that was worked on meanwhile: document and path
    passage_wanted = Signal(object, object)  # path and overview of a long file
    corrected = Signal()  # a correction was done or refused

    def __init__(self, output: Output | None = None) -> None:
        self._owner = object()
        super().__init__(output)
        use_shelf()
        self.path: Path | None = None
        self.history = self._history(Document())
        self.startup_trouble = ""
        self.keys = self._keys()
        self.shelf: Shelf | None = None  # what was copied
        self._waiting: list[Correction] = []
        self._copy = memory.Copy()
        self._copied: Document | None = None
        self._project_lock: Held | None = None
        self._file_state: tuple[int, int, int] | None = None
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.autosave)
        self._timer.start(AUTOSAVE_EVERY_MS)

    def _history(self, document: Document) -> History:
        return History(document, commit, lambda _document: self._changed())

    def _keys(self) -> KeyMap:
        try:
            return read_keys(keys_file())
        except InputError as error:
            self.startup_trouble = f"{error} The built-in key map is used."
            return general_midi_keys()

    # -- document -----------------------------------------------------------------------------------------------

    @property
    def owner(self) -> object:
        return self._owner

    @property
    def document(self) -> Document:
        return self.history.document

    @property
    def groove(self) -> Groove:
        return self.history.document.groove

    def edit(self, change: Callable[[Document], Edit]) -> bool:
        """Do a change as one undo step; trouble is said and changes nothing."""
        try:
            words, document = change(self.document)
        except InputError as error:
            self.said.emit(str(error), True)
            return False
        if document is self.document:
            return False
        self.said.emit(self.history.do(words, document), False)
        return True

    # -- phrases ------------------------------------------------------------------------------------------------

    def context(self) -> EditContext:
        """Where the user stands, for a command."""
        choice = self.choice
        return EditContext(self.document, choice.keys, choice.cursor_ticks, choice.lane, self.shelf)

    def perform(self, phrase: str) -> None:
        """Do a phrase as one step; trouble is an InputError."""
        self._done(do(self.context(), phrase))

    def say(self, phrase: str) -> bool:
        """Do a phrase as one step; trouble is said and changes nothing."""
        return self._tried(lambda: do(self.context(), phrase))

    def call(self, verb: str, /, **values: Any) -> bool:
        """Do a verb with values as one step, on what is chosen; trouble is said and changes nothing."""
        return self._tried(lambda: call(self.context(), verb, **values))

    def put_cursor(self, ticks: int, lane: int) -> None:
        """Move the cursor; what stands there is chosen."""
        pattern = self.groove.pattern
        here = [pattern.hits[i] for i in pattern.between(ticks, ticks + 1)]
        keys = (h.key for h in here if LANE_OF_VOICE[h.voice] == lane)
        self.choice.put(keys=keys, cursor_ticks=ticks, lane=lane)

    def _tried(self, work: Callable[[], Done]) -> bool:
        try:
            done = work()
        except InputError as error:
            self.said.emit(str(error), True)
            self.choice.changed.emit()  # fields show again what is the case
            return False
        self._done(done)
        return True

    def take(self, words: str, context: EditContext) -> bool:
        """Take what was done already, as one step; whether it changed anything."""
        before = self.document
        self._done((words, context))
        return self.document is not before

    def _done(self, done: Done) -> None:
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

    # -- corrections --------------------------------------------------------------------------------------------

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
            self._fail(words)
            after()

        def after() -> None:
            self._waiting.pop(0)
            self.corrected.emit()
            if self._waiting:
                self._fit_next()

        self.tasks.start("fit", lambda _progress: change(before), done=done, failed=failed)

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

    def _changed(self) -> None:
        length = self.groove.pattern.length_ticks
        if self.choice.cursor_ticks >= length:
            self.choice.cursor_ticks = length - 1
        region = self.choice.range_ticks
        if region and region[1] > length:
            self.choice.set_range(None)
        self.document_changed.emit()
        self.file_changed.emit()
        self.refresh_playing()

    def set_document(self, document: Document, path: Path | None, *, saved: bool = True) -> None:
        """Start over with another document; what still works for the old one is stopped."""
        self.stop()
        self.tasks.cancel_of(self._owner)
        self._owner = object()
        self._waiting = []
        self._copy.forget()
        self._copy, self._copied = memory.Copy(), None
        self._hold(path)
        document = opened(document)
        self.history = self._history(document)
        if not saved:
            self.history.do("Recovered" if path is None else "Opened", replace(document))
        tape = document.recording is not None and document.listening is not None
        self.wish = replace(self.wish, source=self.wish.source if tape else Source.GROOVE)
        self.choice.start_over()
        self.document_changed.emit()
        self.document_opened.emit()
        self.wish_changed.emit()
        self.file_changed.emit()
        self.warm_up()

    def _hold(self, path: Path | None) -> None:
        """Lock a project against other windows; where one has it, this is a copy without a file of its own."""
        if self._project_lock is not None:
            self._project_lock.release()
            self._project_lock = None
        self.path = path
        self._file_state = None
        if path is None:
            return
        try:
            self._project_lock = lock(path)
        except Busy:
            self.path = None
            self.said.emit(f"{shown(path)} is open in another window: this is a copy, save it under a new name.", True)
            return
        self._file_state = state_of(path)

    # -- files --------------------------------------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Open anything: recordings and MIDI files are listened to, the rest is read."""
        from ghoststep.work.formats import is_listenable
        from ghoststep.work.grooves import open_document

        if self.tasks.busy:
            self.said.emit("Wait for what is going on to end, or cancel it first.", True)
            return
        if is_listenable(path):
            self._look_or_listen(path)
            return
        before = self.document

        def opened_it(document: Document) -> None:
            if self.document is not before:
                self.heard_late.emit(document, path)
                return
            self.show_opened(document, path)

        self.tasks.start(
            "listen",
            lambda _progress: open_document(path, self.keys),
            done=opened_it,
            failed=self._fail,
            words=f"Opening {shown(path)}",
        )

    def show_opened(self, document: Document, path: Path | None) -> None:
        """Go on with a document that was opened or heard."""
        if document.listening is not None and (path is None or path.suffix.lower() != PROJECT_SUFFIX):
            self._listened(document, path)
            return
        project = path is not None and path.suffix.lower() == PROJECT_SUFFIX
        told = f"Opened {shown(path) if path else document.name}."
        self.said.emit(" ".join((told, *document.warnings)), bool(document.warnings))
        self.set_document(document, path if project else None)
        if path is not None:
            memory.remember(path)

    def _look_or_listen(self, path: Path) -> None:
        """Listen to a file at once, or, where it is minutes long, let the user pick a passage first."""
        from ghoststep.files.sound import Overview, length_s, read_overview
        from ghoststep.work.formats import Holds, holds
        from ghoststep.work.grooves import hear_file

        def work(progress: Progress) -> Document | Overview:
            if holds(path) is Holds.SOUND and length_s(path) > PICK_FROM_S:
                return read_overview(path, progress)
            return hear_file(path, self.keys, Hints(), progress)

        def done(found: Document | Overview) -> None:
            if isinstance(found, Overview):
                self.passage_wanted.emit(path, found)
            else:
                self._listened(found, path)

        self._listen(f"Listening to {shown(path)}", work, path, done)

    def listen_to(self, path: Path, passage_s: tuple[float, float] | None) -> None:
        """Listen to a passage of a file, or to all of it."""
        from ghoststep.work.grooves import hear_file

        self._listen(
            f"Listening to {shown(path)}",
            lambda progress: hear_file(path, self.keys, Hints(), progress, passage_s=passage_s),
            path,
        )

    def listen_together(self, paths: tuple[Path, ...]) -> None:
        """Listen to several files as tracks of one performance."""
        from ghoststep.work.tracks import hear_tracks

        self._listen(
            f"Listening to {len(paths)} tracks together",
            lambda progress: hear_tracks(paths, Hints(), progress),
            None,
        )

    def hear_passage(self, path: Path, start_s: float, end_s: float) -> None:
        """Play a stretch of a file that is not open yet."""
        from ghoststep.files.sound import read_passage

        def ready(recording: Recording) -> None:
            self._play_samples(recording.samples, recording.rate)

        self.tasks.start("sound", lambda _progress: read_passage(path, start_s, end_s), done=ready, failed=self._fail)

    def listen_to_mouth(self, path: Path, taught: tuple[str, ...]) -> None:
        """Hear a beatboxed phrase; `taught` names the sounds it begins with, where it teaches them."""
        from ghoststep.work.grooves import hear_mouth_file

        self._listen(
            f"Listening to {shown(path)}",
            lambda progress: hear_mouth_file(path, Hints(), progress, taught=taught),
            path,
        )

    def take_taps(self, played: Performance, bpm: float) -> None:
        """Make a document of what was tapped; bpm is the click's, 0 where there was none."""
        from ghoststep.work.grooves import heard_performance

        self._listen(
            "Fitting the taps",
            lambda progress: heard_performance(played, "Taps", Hints(tempo_bpm=bpm or None), progress=progress),
            None,
        )

    def _listen(
        self,
        words: str,
        work: Callable[[Progress], Any],
        path: Path | None,
        done: Callable[[Any], None] | None = None,
    ) -> None:
        """Listen off the GUI thread; what ends after the document was worked on is offered and not laid over it."""
        before = self.document

        def ended(found: Any) -> None:
            if isinstance(found, Document) and self.document is not before:
                self.heard_late.emit(found, path)
            elif done is not None:
                done(found)
            else:
                self._listened(found, path)

        def late(found: Any) -> None:
            if isinstance(found, Document):
                self.heard_late.emit(found, path)

        self.tasks.start("listen", work, done=ended, late=late, failed=self._fail, words=words)

    def _listened(self, document: Document, path: Path | None) -> None:
        self.set_document(document, None, saved=path is not None)
        if path is not None:
            memory.remember(path)
        self.heard.emit()

    @property
    def busy(self) -> bool:
        return self.tasks.busy

    def cancel(self) -> None:
        if self.tasks.cancel_shown():
            self.said.emit("Stopped.", False)

    @property
    def changed_outside(self) -> bool:
        """Whether somebody else wrote the project's file since it was opened or saved here."""
        return self.path is not None and self._file_state != state_of(self.path)

    def save(self, path: Path) -> bool:
        """Save the project off the GUI thread and wait for it; on trouble the old file and the work stay."""
        other = self.path is None or os.path.realpath(path) != os.path.realpath(self.path)
        document, owner = self.document, self._owner
        ended: list[bool] = []
        loop = QEventLoop()

        warned: list[str] = []

        def work(_progress: Progress) -> Held | None:
            taken = None
            try:
                taken = lock(path) if other else None
                with remarks() as said:
                    warned.append(save_project(path, document))
                    warned.extend(said)
            except Busy as error:
                raise InputError(f"{shown(path)} is open in another window: choose another name.") from error
            except InputError:
                if taken is not None:
                    taken.release()
                raise
            return taken

        def done(taken: Held | None) -> None:
            ended.append(True)
            if self._owner is owner:
                self._saved(path, document, taken, other=other)
                if any(warned):
                    self.said.emit(f"Saved as {shown(path)}, but: {' '.join(w for w in warned if w)}", True)
            elif taken is not None:
                taken.release()
            loop.quit()

        def failed(words: str) -> None:
            ended.append(False)
            self._fail(words)
            loop.quit()

        self.tasks.start(
            "write", work, done=done, failed=failed, always=True, words=f"Saving {shown(path)}", stops=False
        )
        if not ended:
            loop.exec()
        return bool(ended and ended[0])

    def _saved(self, path: Path, document: Document, taken: Held | None, *, other: bool) -> None:
        if other:
            if self._project_lock is not None:
                self._project_lock.release()
            self._project_lock = taken
        if self._project_lock is not None:
            self._project_lock.written(path)
        self.path, self._file_state = path, state_of(path)
        self.history.mark_saved(document)
        memory.remember(path)
        self._copy.forget()
        self._copy, self._copied = memory.Copy(), document
        self.file_changed.emit()
        self.said.emit(f"Saved as {shown(path)}.", False)

    def in_background(self, work: Callable[[Progress], Any], *, done: Callable[[Any], None], words: str = "") -> None:
        """Write something off the GUI thread; trouble is said. It is finished whatever is opened meanwhile."""
        said: list[str] = []

        def noting(progress: Progress) -> Any:
            with remarks() as found:
                result = work(progress)
                said.extend(found)
            return result

        def ended(result: Any) -> None:
            done(result)
            if said:
                self.said.emit(f"Written, but: {' '.join(said)}", True)

        self.tasks.start("write", noting, done=ended, failed=self._fail, always=True, words=words)

    def recover(self, leftover: memory.Leftover) -> None:
        """Go on with a copy of an earlier run; it is kept until this document has one of its own.

        Raises
        ------
        InputError
            Where it cannot be read.
        """
        document, held = memory.recovered(leftover)
        self.set_document(replace(document, name=f"{document.name} recovered"), None, saved=False)
        self._copy.recovered_from(leftover, held)
        self.autosave()

    def autosave(self) -> None:
        """Keep a copy for after a crash, if anything changed since the last one; what failed is tried again."""
        document, copy = self.document, self._copy
        if (not self.history.unsaved and document.listening is None) or document is self._copied:
            return

        def done(_result: object) -> None:
            if copy is self._copy:
                self._copied = document

        def work(_progress: Progress) -> None:
            if copy is self._copy:  # forgotten meanwhile, it must not come back
                copy.keep(document)

        self.tasks.start("copy", work, done=done, failed=self._fail)

    def hand_over(self) -> None:
        """Keep what is not saved for the next start: somebody ends the program and nobody can be asked."""
        if not self.history.unsaved:
            return
        self.tasks.wait()
        try:
            self._copy.hand_over(self.document)
        except InputError as error:
            log.warning("%s", error)
        else:
            self._copy = memory.Copy()

    def close(self) -> None:
        """End everything; a clean end needs no copy."""
        self.stop()
        self._timer.stop()
        self.tasks.wait()
        self._copy.forget()
        if self._project_lock is not None:
            self._project_lock.release()
            self._project_lock = None
