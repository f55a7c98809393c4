"""Playing: what is wanted is prepared as one program off the GUI thread and handed to the player."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from ghoststep.desk.model.jobs import Jobs
from ghoststep.devices.output import Output, default_output
from ghoststep.devices.player import Player
from ghoststep.music.groove import Groove
from ghoststep.music.time import TempoMap
from ghoststep.session.document.document import Document
from ghoststep.sound.kit import Kit
from ghoststep.sound.mixdown import Mixdown
from ghoststep.sound.program import Program, Source, Tape, Wish, program

STRETCH_BARS = 64
_TOGETHER_S, _LEAST_HEARD_S = 0.045, 0.14  # hits closer together are heard as one; the least that says anything


class Playback(QObject):
    """Plays the document of the studio that is built on it."""

    said = Signal(str, bool)  # a message, and whether it is trouble
    playing_changed = Signal()
    wish_changed = Signal()

    def __init__(self, output: Output | None = None) -> None:
        super().__init__()
        self.kit = Kit()
        self.wish = Wish()
        self.player = Player(output or default_output())
        self._mixdown = Mixdown()  # used by the one thread that prepares sound
        self._programs = Jobs(threads=1)
        self._from_ticks = 0  # where playing began
        self._wanted = 0  # number of the newest program asked for

    @property
    def document(self) -> Document:
        raise AssertionError("the studio has the document")

    @property
    def groove(self) -> Groove:
        return self.document.groove

    def _fail(self, words: str) -> None:
        self.said.emit(words, True)

    def warm_up(self) -> None:
        """Make the sounds of the document's kit before they are asked for."""
        self._programs.start(lambda _progress: self._program(), done=lambda _p: None, failed=self._fail)

    def _tape(self) -> Tape | None:
        document = self.document
        if document.recording is None or document.listening is None:
            return None
        heard = document.listening.explained
        onsets = np.sort([h.origin.time_s for h in heard.groove.pattern.hits if h.origin])
        return Tape(document.recording.samples, document.recording.rate, heard.start_s, onsets)

    def _program(self) -> Program:
        return program(self.groove, self.kit, self._near(self.wish), self._tape(), self._mixdown)

    def _near(self, wish: Wish) -> Wish:
        """A groove of hundreds of bars is played in stretches: what is wanted of it, from where playing began."""
        pattern = self.groove.pattern
        if wish.region_ticks or pattern.bars <= STRETCH_BARS:
            return wish
        bar = pattern.meter.bar_ticks
        first = min(self._from_ticks // bar, pattern.bars - 1)
        return replace(wish, region_ticks=(first * bar, min(first + STRETCH_BARS, pattern.bars) * bar))

    def _prepare(self, then: Callable[[Program], None]) -> None:
        """Prepare the sound off the GUI thread; an older one that comes late is dropped."""
        self._wanted += 1
        number, groove, wish, tape = self._wanted, self.groove, self._near(self.wish), self._tape()

        def work(_progress: Callable[[float], None]) -> Program | None:
            return program(groove, self.kit, wish, tape, self._mixdown) if number == self._wanted else None

        def done(ready: Program | None) -> None:
            if ready is not None and number == self._wanted:
                then(ready)

        self._programs.start(work, done=done, failed=self._fail)

    def _exchange(self, ready: Program) -> None:
        if self.player.playing:
            self.player.replace(ready, loop=self.wish.loop)

    def play(self, from_ticks: float | None = None) -> None:
        """Play from the start of the loop, or from a position."""

        self._from_ticks = int(from_ticks or 0)

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

    def play_click(self, bpm: float) -> None:
        """A click by itself, for tapping along; 0 stops it."""
        if not bpm:
            self.stop()
            return
        ground = Groove(tempo=TempoMap.constant(bpm))
        self.player.play(program(ground, self.kit, Wish(click=True)), loop=True)
        self.playing_changed.emit()

    def try_out(self, groove: Groove | None) -> None:
        """Play another version of the groove without taking it; None stops."""
        if groove is None:
            self.stop()
            return
        self._wanted += 1
        number, wish = self._wanted, replace(self.wish, source=Source.GROOVE, loop=True)

        def done(ready: Program) -> None:
            if number == self._wanted:
                self.player.play(ready, loop=True)
                self.playing_changed.emit()

        self._programs.start(lambda _progress: program(groove, self.kit, wish), done=done, failed=self._fail)

    def _play_samples(self, samples: NDArray[np.float32], rate: int) -> None:
        stereo = np.repeat(samples.mean(axis=1, keepdims=True), 2, axis=1).astype(np.float32)
        sound = Program(stereo, np.zeros((0, 2), np.float32), rate, (0, 1), (Source.RECORDING,))
        self.player.play(sound, loop=False)
        self.playing_changed.emit()

    def hear_moment(self, time_s: float) -> None:
        """Play the recording from a moment on: a hit alone, up to the next one, or a second where there is none."""
        recording = self.document.recording
        if recording is None:
            self.said.emit("There is no recording in this project.", True)
            return
        heard = self.document.listening
        onsets = [h.origin.time_s for h in heard.explained.groove.pattern.hits if h.origin] if heard else []
        following = min((t for t in onsets if t > time_s + _TOGETHER_S), default=time_s + 1.0)
        end_s = min(max(following - 0.01, time_s + _LEAST_HEARD_S), time_s + 1.0)
        a, b = (round(t * recording.rate) for t in (max(time_s - 0.01, 0.0), end_s))
        piece = recording.samples[a:b].copy()
        fade = min(len(piece), round(0.01 * recording.rate))
        piece[len(piece) - fade :] *= np.linspace(1, 0, fade, dtype=np.float32)[:, None]
        self._play_samples(piece, recording.rate)
