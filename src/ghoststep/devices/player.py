"""Playing prepared programs one after the other: the sound callback only copies samples and counts.

What plays is a tagged thing (see `sound.program.Plays`), with the performance it was made from beside it. Programs wait
in a queue, each behind a gap of silence if wanted. A changed program can be handed over while playing: it takes effect
at the next block, at the same place of the groove, so an edit is heard from the next pass of its spot on. One that is
to follow takes over where a loop comes round, which is how a loop never plays the same passes twice.
"""

import logging
import threading
from collections import deque
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.devices.output import Output, SimulatedOutput
from ghoststep.sound.program import Plays, Program, Source

log = logging.getLogger(__name__)
_CROSSFADE = 128


@dataclass(frozen=True, eq=False)
class Queued:
    """A program that waits its turn: `gap` samples of silence come before it."""

    program: Program
    loop: bool = False
    gap: int = 0


class Player:
    """Plays programs on an output; all methods may be called from the GUI thread."""

    def __init__(self, output: Output) -> None:
        self.output = output
        self._lock = threading.Lock()
        self._program: Program | None = None
        self._next: Program | None = None
        self._following: Program | None = None  # takes over where the loop comes round
        self._fade: NDArray[np.float32] = np.zeros((0, 2), np.float32)  # what rang there, still to fade from
        self._queue: deque[Queued] = deque()
        self._at = 0  # sample of the program
        self._lead = 0  # samples of count-in still to come
        self._gap = 0  # samples of silence still to come
        self._clock = 0  # samples handed out since playing began
        self._loop = True
        self._running = False
        self._ended = False

    @property
    def playing(self) -> bool:
        return self._running and not self._ended

    @property
    def what(self) -> Plays | None:
        """What is playing; None when nothing is."""
        with self._lock:
            return self._program.what if self._program is not None and self.playing else None

    @property
    def program(self) -> Program | None:
        """The program that is playing, with the performance it was made from."""
        with self._lock:
            return self._program if self.playing else None

    @property
    def clock(self) -> int:
        """Samples handed out since playing began, gaps and count-in among them."""
        with self._lock:
            return self._clock

    def play(self, program: Program, *, loop: bool, from_ticks: float | None = None) -> None:
        """Start a program at its beginning, or at a position of the groove. Falls back to silence on device trouble."""
        self.stop()
        with self._lock:
            self._program, self._next, self._following = program, None, None
            self._fade = self._fade[:0]
            self._queue.clear()
            self._at = program.sample_of(from_ticks) if from_ticks is not None else 0
            self._lead, self._gap, self._clock = len(program.count_in), 0, 0
            self._loop, self._ended = loop, False
        try:
            self.output.start(self._fill, program.rate)
        except OSError as error:
            log.warning("%s", error)
            self.output = SimulatedOutput(str(error))
            self.output.start(self._fill, program.rate)
        self._running = True

    def append(self, program: Program, *, loop: bool = False, gap_s: float = 0.0) -> None:
        """Let a program follow once all before it have ended, behind a gap of silence."""
        with self._lock:
            self._queue.append(Queued(program, loop, round(gap_s * program.rate)))

    def replace(self, program: Program, *, loop: bool) -> None:
        """Go on with a changed program at the same place of the groove."""
        with self._lock:
            self._next, self._loop = program, loop
            self._following = None  # it was made from what there was

    def follow(self, program: Program, after: Program) -> None:
        """Let a program take over where the loop comes round, if that one still plays."""
        with self._lock:
            if self._program is after and self._next is None:
                self._following = program

    @property
    def waits_for_passes(self) -> Program | None:
        """The program that plays in a loop, where its passes vary and none are ready to follow; else None."""
        with self._lock:
            ready = self._following is not None or self._next is not None or self._queue
            if not self.playing or self._program is None or not self._loop or ready:
                return None
            return self._program if self._program.vary else None

    def stop(self) -> None:
        if self._running:
            self.output.stop()
        self._running = False

    def position_ticks(self) -> float | None:
        """Where the groove is that is heard now; None when stopped, counting in, or between programs."""
        with self._lock:
            program, at, waiting = self._program, self._at, self._lead or self._gap
        if not self.playing or program is None or waiting or not program.what.moves:
            return None
        heard = at - round(self.output.latency_s * program.rate)
        return program.position_ticks(heard % len(program.samples))

    def source(self) -> Source | None:
        """Which of groove and recording is heard now."""
        with self._lock:
            program, at = self._program, self._at
        return program.source_at(at) if program is not None and self.playing else None

    def _fill(self, out: NDArray[np.float32]) -> None:
        """Copy the next block; called on the sound thread."""
        with self._lock:
            self._clock += len(out)
            fade_from = self._exchanged(len(out))
            if self._program is None or self._ended or not len(self._program.samples):
                out.fill(0)
                return
            at = self._waited(out)
            self._copy(out[at:])
            if fade_from is not None and not self._lead:
                rise = np.linspace(0, 1, len(fade_from), dtype=np.float32)[:, None]
                out[: len(fade_from)] = out[: len(fade_from)] * rise + fade_from * (1 - rise)

    def _exchanged(self, block: int) -> NDArray[np.float32] | None:
        """Take over a changed program, if one waits; what the old one would have sounded like, to fade from."""
        old, new = self._program, self._next
        if old is None or new is None:
            return None
        fade_from = _looped(old.samples, self._at, min(block, _CROSSFADE))
        if new.region_ticks != old.region_ticks or new.passes != old.passes:
            self._at = new.sample_of(old.position_ticks(self._at))
        else:
            self._at = round(self._at * len(new.samples) / max(len(old.samples), 1)) % max(len(new.samples), 1)
        self._lead = min(self._lead, len(new.count_in))  # a count-in that was switched off is over
        self._program, self._next = new, None
        return fade_from

    def _waited(self, out: NDArray[np.float32]) -> int:
        """Fill with the gap and the count-in that are still to come; how much of the block they took."""
        assert self._program is not None
        at = min(self._gap, len(out))
        out[:at] = 0
        self._gap -= at
        if self._lead and at < len(out):
            begin = len(self._program.count_in) - self._lead
            part = self._program.count_in[begin : begin + len(out) - at]
            out[at : at + len(part)] = part
            at += len(part)
            self._lead -= len(part)
        return at

    def _copy(self, out: NDArray[np.float32]) -> None:
        done = 0
        while done < len(out):
            program = self._program
            assert program is not None
            length = len(program.samples)
            count = min(len(out) - done, length - self._at)
            out[done : done + count] = program.samples[self._at : self._at + count]
            self._faded(out[done : done + count])
            done += count
            self._at += count
            if self._at < length:
                continue
            self._at = 0
            if self._loop and not self._queue:
                self._followed()
                continue
            if not self._queue:
                out[done:] = 0
                self._ended = True
                return
            following = self._queue.popleft()
            self._program, self._loop = following.program, following.loop
            self._gap, self._lead = following.gap, len(following.program.count_in)
            done += self._waited(out[done:])

    def _followed(self) -> None:
        """Where the loop comes round: go on with the program that follows, if there is one."""
        if self._program is None or self._following is None:
            return
        self._fade = _looped(self._program.samples, 0, _CROSSFADE).copy()
        self._program, self._following = self._following, None

    def _faded(self, out: NDArray[np.float32]) -> None:
        """What rang when the loop came round fades into what rings now."""
        count = min(len(self._fade), len(out))
        if count:
            done = _CROSSFADE - len(self._fade)
            rise = (np.arange(done, done + count, dtype=np.float32) / _CROSSFADE)[:, None]
            out[:count] = out[:count] * rise + self._fade[:count] * (1 - rise)
            self._fade = self._fade[count:]


def _looped(samples: NDArray[np.float32], at: int, count: int) -> NDArray[np.float32]:
    indices = (at + np.arange(count)) % max(len(samples), 1)
    return samples[indices] if len(samples) else np.zeros((count, 2), np.float32)
