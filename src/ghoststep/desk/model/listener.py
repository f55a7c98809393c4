"""Opening and listening: what comes in from files, taps and the mouth, off the GUI thread."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from ghoststep.desk.model import memory
from ghoststep.desk.model.playback import Playback
from ghoststep.desk.model.session import Session
from ghoststep.desk.model.tasks import Progress
from ghoststep.files.keymap import KeyMap
from ghoststep.files.places import PROJECT_SUFFIX
from ghoststep.files.safe import shown
from ghoststep.music.performance import Performance
from ghoststep.session.document.document import Document, Recording

PICK_FROM_S = 150.0  # from a longer file a passage is picked first
SetDocument = Callable[..., None]  # a document, its file or None, and `saved`


class Listener(QObject):
    """Opens and hears; what ends after the document was worked on is offered and not laid over it."""

    heard = Signal()  # listening ended with a new document
    heard_late = Signal(object, object)  # it ended for a document that was worked on meanwhile: document and path
    passage_wanted = Signal(object, object)  # path and overview of a long file

    def __init__(self, session: Session, playback: Playback, keys: KeyMap, set_document: SetDocument) -> None:
        super().__init__()
        self._session, self._playback, self._keys, self._set_document = session, playback, keys, set_document

    def open(self, path: Path) -> None:
        """Open anything: recordings and MIDI files are listened to, the rest is read."""
        from ghoststep.work.formats import is_listenable
        from ghoststep.work.opening import open_document

        session = self._session
        if session.tasks.busy:
            session.fail("Wait for what is going on to end, or cancel it first.")
            return
        if is_listenable(path):
            self._look_or_listen(path)
            return
        before = session.document

        def opened_it(document: Document) -> None:
            if session.document is not before:
                self.heard_late.emit(document, path)
                return
            self.show(document, path)

        session.tasks.start(
            "listen",
            lambda _progress: open_document(path, self._keys),
            done=opened_it,
            failed=session.fail,
            words=f"Opening {shown(path)}",
        )

    def show(self, document: Document, path: Path | None) -> None:
        """Go on with a document that was opened or heard."""
        if document.listening is not None and (path is None or path.suffix.lower() != PROJECT_SUFFIX):
            self._listened(document, path)
            return
        project = path is not None and path.suffix.lower() == PROJECT_SUFFIX
        told = f"Opened {shown(path) if path else document.name}."
        self._session.said.emit(" ".join((told, *document.warnings)), bool(document.warnings))
        self._set_document(document, path if project else None)
        if path is not None:
            memory.remember(path)

    def _look_or_listen(self, path: Path) -> None:
        """Listen to a file at once, or, where it is minutes long, let the user pick a passage first."""
        from ghoststep.files.sound import Overview, length_s, read_overview
        from ghoststep.listen.bars.reading import Hints
        from ghoststep.work.formats import Holds, holds
        from ghoststep.work.grooves import hear_file

        def work(progress: Progress) -> Document | Overview:
            if holds(path) is Holds.SOUND and length_s(path) > PICK_FROM_S:
                return read_overview(path, progress)
            return hear_file(path, self._keys, Hints(), progress)

        def done(found: Document | Overview) -> None:
            if isinstance(found, Overview):
                self.passage_wanted.emit(path, found)
            else:
                self._listened(found, path)

        self._listen(f"Listening to {shown(path)}", work, path, done)

    def listen_to(self, path: Path, passage_s: tuple[float, float] | None) -> None:
        """Listen to a passage of a file, or to all of it."""
        from ghoststep.listen.bars.reading import Hints
        from ghoststep.work.grooves import hear_file

        self._listen(
            f"Listening to {shown(path)}",
            lambda progress: hear_file(path, self._keys, Hints(), progress, passage_s=passage_s),
            path,
        )

    def listen_together(self, paths: tuple[Path, ...]) -> None:
        """Listen to several files as tracks of one performance."""
        from ghoststep.listen.bars.reading import Hints
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
            self._playback.play_samples(recording.samples, recording.rate)

        tasks = self._session.tasks
        tasks.start(
            "sound", lambda _progress: read_passage(path, start_s, end_s), done=ready, failed=self._session.fail
        )

    def listen_to_mouth(self, path: Path, taught: tuple[str, ...]) -> None:
        """Hear a beatboxed phrase; `taught` names the sounds it begins with, where it teaches them."""
        from ghoststep.listen.bars.reading import Hints
        from ghoststep.work.grooves import hear_mouth_file

        self._listen(
            f"Listening to {shown(path)}",
            lambda progress: hear_mouth_file(path, Hints(), progress, taught=taught),
            path,
        )

    def take_taps(self, played: Performance, bpm: float) -> None:
        """Make a document of what was tapped; bpm is the click's, 0 where there was none."""
        from ghoststep.listen.bars.reading import Hints
        from ghoststep.work.hits_heard import heard_performance

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
        session = self._session
        before = session.document

        def ended(found: Any) -> None:
            if isinstance(found, Document) and session.document is not before:
                self.heard_late.emit(found, path)
            elif done is not None:
                done(found)
            else:
                self._listened(found, path)

        def late(found: Any) -> None:
            if isinstance(found, Document):
                self.heard_late.emit(found, path)

        session.tasks.start("listen", work, done=ended, late=late, failed=session.fail, words=words)

    def _listened(self, document: Document, path: Path | None) -> None:
        self._set_document(document, None, saved=path is not None)
        if path is not None:
            memory.remember(path)
        self.heard.emit()
