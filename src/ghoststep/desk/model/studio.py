"""The working state behind the window, as five parts: session, playback, listener, the project's file, autosave."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from ghoststep.desk.model import memory
from ghoststep.desk.model.autosave import Autosave
from ghoststep.desk.model.choice import Choice
from ghoststep.desk.model.listener import Listener
from ghoststep.desk.model.playback import Playback
from ghoststep.desk.model.project_file import ProjectFile
from ghoststep.desk.model.saying import Saying
from ghoststep.desk.model.session import Session
from ghoststep.desk.model.tasks import Progress
from ghoststep.devices.output import Output
from ghoststep.files.feels import use_shelf
from ghoststep.files.keymap import KeyMap, general_midi_keys, read_keys
from ghoststep.files.places import keys_file
from ghoststep.files.safe import remarks
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document
from ghoststep.session.document.history import History
from ghoststep.work.kits import use_kits


class Studio:
    """One open document and all that is done with it. What widgets ask for most stands here too."""

    def __init__(self, output: Output | None = None) -> None:
        use_shelf()
        use_kits()
        self.startup_trouble = ""
        self.keys = self._keys()
        self.session = session = Session()
        self.playback = Playback(session, output)
        self.file = ProjectFile(session)
        self.autosave = Autosave(session)
        self.listener = Listener(session, self.playback, self.keys, self.set_document)
        self.saying = Saying(session)
        self.file.saved.connect(self.autosave.start_over)
        self.tasks, self.said, self.document_changed = session.tasks, session.said, session.document_changed
        self.edit, self.say, self.call, self.compute = session.edit, session.say, session.call, session.compute
        self.undo, self.redo = session.undo, session.redo

    def _keys(self) -> KeyMap:
        try:
            return read_keys(keys_file())
        except InputError as error:
            self.startup_trouble = f"{error} The built-in key map is used."
            return general_midi_keys()

    @property
    def document(self) -> Document:
        return self.session.document

    @property
    def groove(self) -> Groove:
        return self.session.groove

    @property
    def history(self) -> History:
        return self.session.history

    @property
    def choice(self) -> Choice:
        return self.session.choice

    def set_document(self, document: Document, path: Path | None, *, saved: bool = True) -> None:
        """Start over with another document; what still works for the old one is stopped."""
        self.playback.stop()
        self.autosave.start_over()
        self.file.hold(path)
        unsaved = "" if saved else "Recovered" if path is None else "Opened"
        self.session.start_over(document, unsaved)
        self.playback.start_over()
        self.playback.warm_up()

    def recover(self, leftover: memory.Leftover) -> None:
        """Go on with a copy of an earlier run; it is kept until this document has one of its own.

        Raises
        ------
        InputError
            Where it cannot be read.
        """
        document, held = self.autosave.recovered(leftover)
        self.set_document(document, None, saved=False)
        self.autosave.copy.recovered_from(leftover, held)
        self.autosave.keep()

    @property
    def busy(self) -> bool:
        """Whether the user waits for something."""
        return self.tasks.busy

    def cancel(self) -> None:
        """Stop what the user waits for."""
        if self.tasks.cancel_shown():
            self.said.emit("Stopped.", False)

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

        self.tasks.start("write", noting, done=ended, failed=self.session.fail, always=True, words=words)

    def close(self) -> None:
        """End everything."""
        self.playback.stop()
        self.tasks.wait()
        self.autosave.close()
        self.file.release()
