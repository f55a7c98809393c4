"""Playing: what is wanted is prepared as one program off the GUI thread and handed to the player."""

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, QTimer, Signal

from ghoststep.desk.model.session import Session
from ghoststep.desk.model.tasks import Progress
from ghoststep.devices.output import Output, default_output
from ghoststep.devices.player import Player
from ghoststep.music.groove import Groove
from ghoststep.music.time import TempoMap
from ghoststep.sound.kit import Kit
from ghoststep.sound.mixdown import Mixdown
from ghoststep.sound.program import Plays, Program, Source, Tape, Wish, program
from ghoststep.work.kits import FoundKit, kit_or_default

STRETCH_BARS = 64
_LOOK_EVERY_MS = 700  # whether a loop needs its next passes
_TOGETHER_S, _LEAST_HEARD_S = 0.045, 0.14  # hits closer together are heard as one; the least that says anything


@lru_cache(maxsize=4)
def _found(name: str) -> FoundKit:
    return kit_or_default(name)


def kit_of(name: str = "") -> Kit:
    """The kit of a groove; the first time it is read, which takes a while: never on the GUI thread."""
    return _found(name).kit


class Playback(QObject):
    """Plays the document of a session."""

    changed = Signal()  # it plays, or does not any more
    wish_changed = Signal()

    def __init__(self, session: Session, output: Output | None = None) -> None:
        super().__init__()
        self._session = session
        self._told_of: set[str] = set()  # kits whose trouble was said
        self.wish = Wish()
        self.player = Player(output or default_output())
        self._mixdown = Mixdown()  # used by the one thread that prepares sound
        self._from_ticks = 0  # where playing began
        self._wanted = 0  # number of the newest program asked for
        self._asked_after: Program | None = None  # the program whose next passes are being made
        session.choice.range_changed.connect(self._range_changed)
        session.document_changed.connect(self.refresh)
        self._passes = QTimer(self)
        self._passes.timeout.connect(self.prepare_passes)
        self._passes.start(_LOOK_EVERY_MS)

    def warm_up(self) -> None:
        """Make the sounds of the document's kit before they are asked for."""
        groove, wish, tape = self._session.groove, self._near(self.wish), self._tape()
        name = self._session.document.kit
        self._session.tasks.start("sound", lambda _progress: program(groove, kit_of(name), wish, tape, self._mixdown))

    def _tape(self) -> Tape | None:
        document = self._session.document
        if document.recording is None or document.listening is None:
            return None
        heard = document.listening.explained
        onsets = np.sort([h.origin.time_s for h in heard.groove.pattern.hits if h.origin])
        recording = document.recording
        return Tape(recording.samples, recording.rate, heard.start_s, onsets, heard.groove.tempo)

    def _near(self, wish: Wish) -> Wish:
        """The wish with its range; of a groove of hundreds of bars a stretch, from where playing began."""
        pattern = self._session.groove.pattern
        region = self._session.choice.range_ticks
        if region is None and pattern.bars > STRETCH_BARS:
            first = min(pattern.frame.spot_at(self._from_ticks).bar, pattern.bars)
            last = min(first + STRETCH_BARS, pattern.bars + 1)
            region = (pattern.frame.start_of(first), pattern.frame.start_of(last))
        return replace(wish, region_ticks=region)

    def _prepare(self, then: Callable[[Program], None]) -> None:
        """Prepare the sound off the GUI thread; an older one that comes late is dropped."""
        self._wanted += 1
        number, groove, wish, tape = self._wanted, self._session.groove, self._near(self.wish), self._tape()
        kit = self._session.document.kit

        playing = self.player.program
        first = playing.first_pass if playing is not None and playing.what is Plays.PART else 0

        def work(_progress: Progress) -> Program | None:
            return program(groove, kit_of(kit), wish, tape, self._mixdown, first) if number == self._wanted else None

        self._ready(work, number, then)

    def prepare_passes(self) -> None:
        """Make the next passes of a loop whose passes vary, once those that play are the last that are ready."""
        now = self.player.waits_for_passes
        if now is None or now.what is not Plays.PART or now is self._asked_after:
            return
        self._asked_after = now
        number, groove, wish, tape = self._wanted, self._session.groove, self._near(self.wish), self._tape()
        kit = self._session.document.kit
        first = now.first_pass + sum(p is Source.GROOVE for p in now.passes)

        def work(_progress: Progress) -> Program | None:
            return program(groove, kit_of(kit), wish, tape, None, first) if number == self._wanted else None

        self._ready(work, number, lambda ready: self.player.follow(ready, now))

    def _ready(self, work: Callable[[Progress], Program | None], number: int, then: Callable[[Program], None]) -> None:
        def done(ready: Program | None) -> None:
            if ready is not None and number == self._wanted:
                self._tell_of_kit()
                then(ready)

        self._session.tasks.start("sound", work, done=done, failed=self._session.fail)

    def _tell_of_kit(self) -> None:
        """Say once what does not play of the groove's kit, or that it is lost."""
        name = self._session.document.kit
        if name in self._told_of:
            return
        self._told_of.add(name)
        trouble = _found(name).trouble  # kept since the sound was made with it
        if trouble:
            more = f" And {len(trouble) - 2} more." if len(trouble) > 2 else ""
            self._session.said.emit(f"Kit {Path(name).stem}: {'; '.join(trouble[:2])}.{more}".replace("..", "."), True)

    def _exchange(self, ready: Program) -> None:
        if self.player.what is Plays.PART:
            self.player.replace(ready, loop=self.wish.loop)

    def refresh(self) -> None:
        """Let what changed be heard, if the part that is worked on is playing; nothing else is disturbed."""
        if self.player.what is Plays.PART:
            self._prepare(self._exchange)

    def _range_changed(self) -> None:
        self.wish_changed.emit()
        self.refresh()

    def play(self, from_ticks: float | None = None) -> None:
        """Play from the start of the loop, or from a position."""
        self._from_ticks = int(from_ticks or 0)

        def begin(ready: Program) -> None:
            self._begin(ready, loop=self.wish.loop, from_ticks=from_ticks)

        self._prepare(begin)

    def _begin(self, ready: Program, *, loop: bool, from_ticks: float | None = None) -> None:
        self.player.play(ready, loop=loop, from_ticks=from_ticks)
        self.changed.emit()

    def toggle(self) -> None:
        """Play or stop."""
        if self.player.playing:
            self.stop()
        else:
            self.play()

    def start_over(self) -> None:
        """Another document is open: its recording is heard only where it has one."""
        document = self._session.document
        tape = document.recording is not None and document.listening is not None
        self.wish = replace(self.wish, source=self.wish.source if tape else Source.GROOVE)

    def stop(self) -> None:
        """Stop; what is being prepared is not played."""
        self._wanted += 1
        self.player.stop()
        self.changed.emit()

    def set_wish(self, **fields: object) -> None:
        """Change how it is heard; while playing it goes on with that."""
        self.wish = replace(self.wish, **fields)  # type: ignore[arg-type]
        self.wish_changed.emit()
        self.refresh()

    def play_click(self, bpm: float) -> None:
        """A click by itself, for tapping along; 0 stops it."""
        if not bpm:
            self.stop()
            return
        self._wanted += 1
        ground = Groove(tempo=TempoMap.constant(bpm))

        def work(_progress: Progress) -> Program:
            return replace(program(ground, kit_of(), Wish(click=True)), what=Plays.CLICK)

        self._ready(work, self._wanted, lambda ready: self._begin(ready, loop=True))

    def try_out(self, groove: Groove | None) -> None:
        """Play another version of the groove without taking it; None stops."""
        if groove is None:
            self.stop()
            return
        self._wanted += 1
        wish, kit = replace(self._near(self.wish), source=Source.GROOVE, loop=True), self._session.document.kit

        def work(_progress: Progress) -> Program:
            return replace(program(groove, kit_of(kit), wish), what=Plays.PREVIEW)

        self._ready(work, self._wanted, lambda ready: self._begin(ready, loop=True))

    def play_samples(self, samples: NDArray[np.float32], rate: int) -> None:
        """Play sound once; samples: frames by channels, at `rate` samples a second."""
        self._wanted += 1
        stereo = np.repeat(samples.mean(axis=1, keepdims=True), 2, axis=1).astype(np.float32)
        nothing = np.zeros((0, 2), np.float32)
        self._begin(Program(stereo, nothing, rate, (0, 1), (Source.RECORDING,), Plays.MOMENT), loop=False)

    def hear_moment(self, time_s: float) -> None:
        """Play the recording from a moment on: a hit alone, up to the next one, or a second where there is none."""
        recording = self._session.document.recording
        if recording is None:
            self._session.said.emit("There is no recording in this project.", True)
            return
        heard = self._session.document.listening
        onsets = [h.origin.time_s for h in heard.explained.groove.pattern.hits if h.origin] if heard else []
        following = min((t for t in onsets if t > time_s + _TOGETHER_S), default=time_s + 1.0)
        end_s = min(max(following - 0.01, time_s + _LEAST_HEARD_S), time_s + 1.0)
        a, b = (round(t * recording.rate) for t in (max(time_s - 0.01, 0.0), end_s))
        piece = recording.samples[a:b].copy()
        fade = min(len(piece), round(0.01 * recording.rate))
        piece[len(piece) - fade :] *= np.linspace(1, 0, fade, dtype=np.float32)[:, None]
        self.play_samples(piece, recording.rate)
