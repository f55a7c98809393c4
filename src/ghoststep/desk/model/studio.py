"""The working state behind the window: document and history, listening, playing, files. Widgets ask it."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QTimer, Signal

from ghoststep.desk.model import memory
from ghoststep.desk.model.jobs import Job, Jobs
from ghoststep.desk.model.playback import Playback
from ghoststep.devices.output import Output
from ghoststep.files.keymap import KeyMap, general_midi_keys, read_keys
from ghoststep.files.places import keys_file
from ghoststep.files.project import PROJECT_SUFFIX, save_project
from ghoststep.listen.reading import Hints
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.performance import Performance
from ghoststep.session.document.document import Document, Recording
from ghoststep.session.document.history import History
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.edits.shelf import Shelf
from ghoststep.sound.program import Source

AUTOSAVE_EVERY_MS = 15_000
PICK_FROM_S = 150.0  # from a longer file a passage is picked first
Correction = Callable[[Document], Edit]
Progress = Callable[[float], None]


class Studio(Playback):
    """One open document and what is done with it; playing stands in `playback`."""

    document_changed = Signal()
    document_opened = Signal()  # another document, not a change of this one
    file_changed = Signal()  # name, path or saved state
    busy_changed = Signal(str, float)  # what is going on ("" for nothing) and how far, 0 to 1
    heard = Signal()  # listening ended with a new document
    passage_wanted = Signal(object, object)  # path and overview of a long file
    corrected = Signal()  # a correction was done or refused

    def __init__(self, output: Output | None = None) -> None:
        super().__init__(output)
        self.path: Path | None = None
        self.history = History(Document(), lambda _document: self._changed())
        self.startup_trouble = ""
        self.keys = self._keys()
        self._jobs = Jobs(threads=1)
        self._saves = Jobs(threads=1)
        self._fits = Jobs(threads=1)
        self.shelf: Shelf | None = None  # what was copied
        self._waiting: list[Correction] = []
        self._listening: Job | None = None
        self._autosaved: Document | None = None
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.autosave)
        self._timer.start(AUTOSAVE_EVERY_MS)

    def _keys(self) -> KeyMap:
        try:
            return read_keys(keys_file())
        except InputError as error:
            self.startup_trouble = f"{error} The built-in key map is used."
            return general_midi_keys()

    # -- document -----------------------------------------------------------------------------------------------

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
        self.history.do(words, document)
        self.said.emit(words, False)
        return True

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
            self.history.do(words, document)
            self.said.emit(words, False)
            after()

        def failed(words: str) -> None:
            self._fail(words)
            after()

        def after() -> None:
            self._waiting.pop(0)
            self.corrected.emit()
            if self._waiting:
                self._fit_next()

        self._fits.start(lambda _progress: change(before), done=done, failed=failed)

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
        region = self.wish.region_ticks
        if region and region[1] > self.groove.pattern.length_ticks:
            self.wish = replace(self.wish, region_ticks=None)
            self.wish_changed.emit()
        self.document_changed.emit()
        self.file_changed.emit()
        if self.player.playing:
            self._prepare(self._exchange)

    def set_document(self, document: Document, path: Path | None, *, saved: bool = True) -> None:
        """Start over with another document."""
        self.stop()
        self.path = path
        self.history = History(document, lambda _document: self._changed())
        if not saved:
            self.history.do("recovered", replace(document))
        tape = document.recording is not None and document.listening is not None
        self.wish = replace(self.wish, region_ticks=None, source=self.wish.source if tape else Source.GROOVE)
        self._autosaved = None
        self.document_changed.emit()
        self.document_opened.emit()
        self.wish_changed.emit()
        self.file_changed.emit()
        self.warm_up()

    # -- files --------------------------------------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Open anything: recordings and MIDI files are listened to, the rest is read."""
        from ghoststep.work.grooves import is_listenable, open_document

        if self._listening is not None:
            self.said.emit("Wait for the listening to end, or cancel it first.", True)
            return
        if is_listenable(path):
            self._look_or_listen(path)
            return

        def opened(document: Document) -> None:
            project = path.suffix.lower() == PROJECT_SUFFIX
            self.set_document(document, path if project else None)
            memory.remember(path)
            self.said.emit(f"Opened {path.name}.", False)

        self._start(f"Opening {path.name}", lambda _progress: open_document(path, self.keys), opened)

    def _look_or_listen(self, path: Path) -> None:
        """Listen to a file at once, or, where it is minutes long, let the user pick a passage first."""
        from ghoststep.files.sound import SOUND_SUFFIXES, Overview, length_s, read_overview
        from ghoststep.work.grooves import hear_file

        def work(progress: Progress) -> Document | Overview:
            if path.suffix.lower() in SOUND_SUFFIXES and length_s(path) > PICK_FROM_S:
                return read_overview(path, progress)
            return hear_file(path, self.keys, Hints(), progress)

        def done(found: Document | Overview) -> None:
            if isinstance(found, Overview):
                self.passage_wanted.emit(path, found)
            else:
                self._listened(found, path)

        self._start(f"Listening to {path.name}", work, done)

    def listen_to(self, path: Path, passage_s: tuple[float, float] | None) -> None:
        """Listen to a passage of a file, or to all of it."""
        from ghoststep.work.grooves import hear_file

        self._start(
            f"Listening to {path.name}",
            lambda progress: hear_file(path, self.keys, Hints(), progress, passage_s=passage_s),
            lambda document: self._listened(document, path),
        )

    def hear_passage(self, path: Path, start_s: float, end_s: float) -> None:
        """Play a stretch of a file that is not open yet."""
        from ghoststep.files.sound import read_passage

        def ready(recording: Recording) -> None:
            self._play_samples(recording.samples, recording.rate)

        self._start("Reading", lambda _progress: read_passage(path, start_s, end_s), ready)

    def listen_to_mouth(self, path: Path, taught: tuple[str, ...]) -> None:
        """Hear a beatboxed phrase; `taught` names the sounds it begins with, where it teaches them."""
        from ghoststep.work.grooves import hear_mouth_file

        self._start(
            f"Listening to {path.name}",
            lambda progress: hear_mouth_file(path, Hints(), progress, taught=taught),
            lambda document: self._listened(document, path),
        )

    def take_taps(self, played: Performance, bpm: float) -> None:
        """Make a document of what was tapped; bpm is the click's, 0 where there was none."""
        from ghoststep.work.grooves import heard_performance

        self._start(
            "Fitting the taps",
            lambda _progress: heard_performance(played, "Taps", Hints(tempo_bpm=bpm or None)),
            lambda document: self._listened(document, None),
        )

    def _listened(self, document: Document, path: Path | None) -> None:
        self.set_document(document, None, saved=path is not None)
        if path is not None:
            memory.remember(path)
        self.heard.emit()

    def _start(self, words: str, work: Callable[[Progress], Any], done: Callable[[Any], None]) -> None:
        def ended() -> None:
            self._listening = None
            self.busy_changed.emit("", 0.0)

        self.busy_changed.emit(words, 0.0)
        self._listening = self._jobs.start(
            work, done=done, failed=self._fail, progress=lambda share: self.busy_changed.emit(words, share), ended=ended
        )

    @property
    def busy(self) -> bool:
        return self._listening is not None

    def cancel(self) -> None:
        if self._listening is not None:
            self._listening.cancel()
            self.said.emit("Stopped.", False)

    def save(self, path: Path) -> bool:
        """Save the project; on trouble the old file and the work stay as they are."""
        if path.suffix.lower() != PROJECT_SUFFIX:
            path = path.with_name(path.name + PROJECT_SUFFIX)
        try:
            save_project(path, self.document)
        except InputError as error:
            self.said.emit(str(error), True)
            return False
        self.path = path
        self.history.mark_saved()
        memory.remember(path)
        memory.forget_autosave()
        self.file_changed.emit()
        self.said.emit(f"Saved as {path.name}.", False)
        return True

    def in_background(self, work: Callable[[Progress], Any], *, done: Callable[[Any], None]) -> None:
        """Write something off the GUI thread; trouble is said."""
        self._saves.start(work, done=done, failed=self._fail)

    def autosave(self) -> None:
        """Keep a copy for after a crash, if anything changed since the last one."""
        document = self.document
        if (not self.history.unsaved and document.listening is None) or document is self._autosaved:
            return
        self._autosaved = document
        self._saves.start(lambda _progress: memory.autosave(document), done=lambda _: None, failed=self._fail)

    def close(self) -> None:
        """End everything; a clean end needs no autosave."""
        self.stop()
        self._timer.stop()
        for jobs in (self._jobs, self._programs, self._saves, self._fits):
            jobs.wait()
        memory.forget_autosave()
