"""Playing a prepared program: the sound callback only copies samples and counts.

A new program can be handed over while playing. It takes effect at the next block, at the same place of the groove, so
an edit is heard from the next pass of its spot on.
"""

import logging
import threading

import numpy as np
from numpy.typing import NDArray

from ghoststep.devices.output import Output, SimulatedOutput
from ghoststep.sound.program import Program, Source

log = logging.getLogger(__name__)
_CROSSFADE = 128


class Player:
    """Plays programs on an output; all methods may be called from the GUI thread."""

    def __init__(self, output: Output) -> None:
        self.output = output
        self._lock = threading.Lock()
        self._program: Program | None = None
        self._next: Program | None = None
        self._at = 0  # sample of the program
        self._lead = 0  # samples of count-in still to come
        self._loop = True
        self._running = False
        self._ended = False

    @property
    def playing(self) -> bool:
        return self._running and not self._ended

    def play(self, program: Program, *, loop: bool, from_ticks: float | None = None) -> None:
        """Start a program at its beginning, or at a position of the groove. Falls back to silence on device trouble."""
        self.stop()
        with self._lock:
            self._program, self._next = program, None
            self._at = _sample_of(program, from_ticks) if from_ticks is not None else 0
            self._lead = len(program.count_in)
            self._loop, self._ended = loop, False
        try:
            self.output.start(self._fill, program.rate)
        except OSError as error:
            log.warning("%s", error)
            self.output = SimulatedOutput(str(error))
            self.output.start(self._fill, program.rate)
        self._running = True

    def replace(self, program: Program, *, loop: bool) -> None:
        """Go on with a changed program at the same place of the groove."""
        with self._lock:
            self._next, self._loop = program, loop

    def stop(self) -> None:
        if self._running:
            self.output.stop()
        self._running = False

    def position_ticks(self) -> float | None:
        """Where the groove is that is heard now; None when stopped or counting in."""
        with self._lock:
            program, at, lead = self._program, self._at, self._lead
        if not self.playing or program is None or lead:
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
            fade_from = None
            if self._next is not None and self._program is not None:
                old, new = self._program, self._next
                fade_from = _looped(old.samples, self._at, min(len(out), _CROSSFADE))
                self._at = round(self._at * len(new.samples) / max(len(old.samples), 1)) % max(len(new.samples), 1)
                if new.region_ticks != old.region_ticks or new.passes != old.passes:
                    self._at = _sample_of(new, old.position_ticks(self._at))
                self._program, self._next = new, None
            program = self._program
            if program is None or self._ended or not len(program.samples):
                out.fill(0)
                return
            at = 0
            if self._lead:
                begin = len(program.count_in) - self._lead
                part = program.count_in[max(begin, 0) : max(begin, 0) + len(out)]
                out[: len(part)] = part
                at, self._lead = len(part), max(0, self._lead - len(part))
            self._copy(program, out[at:])
            if fade_from is not None and not self._lead:
                rise = np.linspace(0, 1, len(fade_from), dtype=np.float32)[:, None]
                out[: len(fade_from)] = out[: len(fade_from)] * rise + fade_from * (1 - rise)

    def _copy(self, program: Program, out: NDArray[np.float32]) -> None:
        done, length = 0, len(program.samples)
        while done < len(out):
            count = min(len(out) - done, length - self._at)
            out[done : done + count] = program.samples[self._at : self._at + count]
            done += count
            self._at += count
            if self._at >= length:
                self._at = 0
                if not self._loop:
                    out[done:] = 0
                    self._ended = True
                    return


def _looped(samples: NDArray[np.float32], at: int, count: int) -> NDArray[np.float32]:
    indices = (at + np.arange(count)) % max(len(samples), 1)
    return samples[indices] if len(samples) else np.zeros((count, 2), np.float32)


def _sample_of(program: Program, ticks: float) -> int:
    """The first sample at a position; the start of the region where the position lies outside it."""
    a, b = program.region_ticks
    if not a <= ticks < b:
        return 0
    return min(int((ticks - a) / (b - a) * program.pass_length), program.pass_length - 1)
