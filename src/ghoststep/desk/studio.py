"""The working state behind the window: document and history, listening, playing, files. Widgets ask it."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from ghoststep.desk import memory
from ghoststep.desk.jobs import Job, Jobs
from ghoststep.devices.output import Output, default_output
from ghoststep.devices.player import Player
from ghoststep.files.keymap import KeyMap, general_midi_keys, read_keys, write_keys
from ghoststep.files.places import keys_file, made
from ghoststep.files.project import PROJECT_SUFFIX, save_project
from ghoststep.listen.explain import Hints
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.session.document import Document
from ghoststep.session.edits import Edit
from ghoststep.session.history import History
from ghoststep.sound.kit import Kit
from ghoststep.sound.program import Program, Source, Tape, Wish, program

AUTOSAVE_EVERY_MS = 15_000


class Studio(QObject):
    """One open document and what is done with it."""

    document_changed = Signal()
    document_opened = Signal()  # another document, not a change of this one
    file_changed = Signal()  # name, path or saved state
    said = Signal(str, bool)  # a message, and whether it is trouble
    busy_changed = Signal(str, float)  # what is going on ("" for nothing) and how far, 0 to 1
    playing_changed = Signal()
    wish_changed = Signal()
    heard = Signal()  # listening ended with a new document

    def __init__(self, output: Output | None = None) -> None:
        super().__init__()
        self.path: Path | None = None
        self.history = History(Document(), lambda _document: self._changed())
        self.kit = Kit()
        self.wish = Wish()
        self.player = Player(output or default_output())
        self.startup_trouble = ""
        self.keys = self._keys()
        self._jobs = Jobs(threads=1)
        self._programs = Jobs(threads=1)
        self._saves = Jobs(threads=1)
        self._listening: Job | None = None
        self._wanted = 0  # number of the newest program asked for
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

    def undo(self) -> None:
        words = self.history.undo()
        self.said.emit(f"Taken back: {words}" if words else "Nothing to take back.", False)

    def redo(self) -> None:
        words = self.history.redo()
        self.said.emit(f"Done again: {words}" if words else "Nothing to do again.", False)

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
        self._programs.start(lambda _progress: self._program(), done=lambda _p: None, failed=self._fail)

    # -- files --------------------------------------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Open anything: recordings and MIDI files are listened to, the rest is read."""
        from ghoststep.files.grooves import hear_file, is_listenable, open_document

        if self._listening is not None:
            self.said.emit("Wait for the listening to end, or cancel it first.", True)
            return
        if is_listenable(path):
            self._listen(path.name, lambda progress: hear_file(path, self.keys, Hints(), progress), path)
            return

        def opened(document: Document) -> None:
            project = path.suffix.lower() == PROJECT_SUFFIX
            self.set_document(document, path if project else None)
            memory.remember(path)
            self.said.emit(f"Opened {path.name}.", False)

        self._start(f"Opening {path.name}", lambda _progress: open_document(path, self.keys), opened)

    def listen_again(self, hints: Hints) -> None:
        """Fit the same recording anew with what the user knows."""
        from ghoststep.files.grooves import hear_recording

        recording, name = self.document.recording, self.document.name
        if recording is None:
            self.said.emit("There is no recording in this project to listen to.", True)
        elif self._listening is None:
            self._listen(recording.name, lambda progress: hear_recording(recording, name, hints, progress), None)

    def _listen(self, name: str, work: Callable[[Callable[[float], None]], Document], path: Path | None) -> None:
        def done(document: Document) -> None:
            if path is None:  # the same recording heard anew is a step that can be taken back
                self.history.do("listened again", document)
            else:
                self.set_document(document, None)
                memory.remember(path)
            self.heard.emit()

        self._start(f"Listening to {name}", work, done)

    def _start(
        self, words: str, work: Callable[[Callable[[float], None]], Document], done: Callable[[Document], None]
    ) -> None:
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

    def _fail(self, words: str) -> None:
        self.said.emit(words, True)

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

    def export_midi(self, path: Path) -> bool:
        from ghoststep.files.midi_out import write_midi

        if path.suffix.lower() not in (".mid", ".midi"):
            path = path.with_name(path.name + ".mid")
        try:
            written = write_midi(path, self.groove, self.keys)
        except InputError as error:
            self.said.emit(str(error), True)
            return False
        lead = " It begins with one empty bar, since a hit is earlier than bar 1." if written.lead_bars else ""
        self.said.emit(f"{written.notes} note{'' if written.notes == 1 else 's'} written to {path.name}.{lead}", False)
        return True

    def export_sound(self, path: Path) -> None:
        from ghoststep.feel.perform import perform
        from ghoststep.files.sound import write_sound
        from ghoststep.sound.render import render

        groove, kit = self.groove, self.kit

        def work(progress: Callable[[float], None]) -> str:
            played = perform(groove)
            lead_s = max(0.0, -float(played.onset_s.min(initial=0.0)))
            write_sound(path, render(played, kit, lead_s=lead_s, progress=progress), kit.rate)
            return f"{groove.length_s:.1f} s of sound written to {path.name}."

        self._saves.start(work, done=lambda words: self.said.emit(words, False), failed=self._fail)

    def export_grid(self, path: Path) -> bool:
        from ghoststep.files.textgrid import write_grid

        try:
            write_grid(path, self.groove)
        except InputError as error:
            self.said.emit(str(error), True)
            return False
        self.said.emit(f"Written to {path.name}.", False)
        return True

    def make_key_map(self) -> None:
        """Write the key map to where the user can edit it, unless it is there already; it is read at the next start."""
        path = keys_file()
        try:
            if not path.exists():
                made(path.parent)
                write_keys(path, self.keys)
        except InputError as error:
            self.said.emit(str(error), True)
            return
        self.said.emit(f"Edit {path}: each row is a MIDI key and its voice. It is read at the next start.", False)

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
        for jobs in (self._jobs, self._programs, self._saves):
            jobs.wait()
        memory.forget_autosave()

    # -- playing ------------------------------------------------------------------------------------------------

    def _tape(self) -> Tape | None:
        document = self.document
        if document.recording is None or document.listening is None:
            return None
        heard = document.listening.explained
        onsets = np.sort([h.origin.time_s for h in heard.groove.pattern.hits if h.origin])
        return Tape(document.recording.samples, document.recording.rate, heard.start_s, onsets)

    def _program(self) -> Program:
        return program(self.groove, self.kit, self.wish, self._tape())

    def _prepare(self, then: Callable[[Program], None]) -> None:
        """Prepare the sound off the GUI thread; an older one that comes late is dropped."""
        self._wanted += 1
        number, groove, wish, tape = self._wanted, self.groove, self.wish, self._tape()

        def work(_progress: Callable[[float], None]) -> Program | None:
            return program(groove, self.kit, wish, tape) if number == self._wanted else None

        def done(ready: Program | None) -> None:
            if ready is not None and number == self._wanted:
                then(ready)

        self._programs.start(work, done=done, failed=self._fail)

    def _exchange(self, ready: Program) -> None:
        if self.player.playing:
            self.player.replace(ready, loop=self.wish.loop)

    def play(self, from_ticks: float | None = None) -> None:
        """Play from the start of the loop, or from a position."""

        def begin(ready: Program) -> None:
            self.player.play(ready, loop=self.wish.loop, from_ticks=from_ticks)
            self.playing_changed.emit()

        self._prepare(begin)

    def stop(self) -> None:
        self._wanted += 1
        self.player.stop()
        self.playing_changed.emit()

    def set_wish(self, **fields: object) -> None:
        """Change how it is heard; while playing it goes on with that."""
        self.wish = replace(self.wish, **fields)  # type: ignore[arg-type]
        self.wish_changed.emit()
        if self.player.playing:
            self._prepare(self._exchange)

    def hear_moment(self, time_s: float) -> None:
        """Play a second of the recording around a moment, as it is."""
        recording = self.document.recording
        if recording is None:
            self.said.emit("There is no recording in this project.", True)
            return
        a = max(0, round((time_s - 0.05) * recording.rate))
        piece = recording.samples[a : a + recording.rate]
        stereo = np.repeat(piece.mean(axis=1, keepdims=True), 2, axis=1).astype(np.float32)
        sound = Program(stereo, np.zeros((0, 2), np.float32), recording.rate, (0, 1), (Source.RECORDING,))
        self.player.play(sound, loop=False)
        self.playing_changed.emit()
