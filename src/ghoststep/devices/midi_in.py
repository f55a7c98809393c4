"""MIDI that comes in: messages with the moment at which they came, from ALSA's sequencer or from a simulated kit."""

import threading
import time
from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple, Protocol

from ghoststep.music.errors import InputError
from ghoststep.music.performance import Performance

MOST_EVENTS = 200_000  # of one take: what sends more is not a drummer
_POLL_S = 0.02
_NOTE_S = 0.05


class MidiEvent(NamedTuple):
    """A note that was struck or let go (velocity 0), or a controller that moved; seconds since listening began."""

    time_s: float
    kind: str  # "note" or "control"
    number: int
    value: int


class MidiInput(Protocol):
    """Something that notes come from."""

    name: str
    simulated: bool

    def events(self, stopped: Callable[[], bool]) -> Iterator[MidiEvent]:
        """What comes in, as it comes, until it is stopped or ends. Raises OSError where the device is lost."""
        ...


class SimulatedKit:
    """An electronic kit that plays a performance by itself, in real time; `pace` 0 plays as fast as it can, for tests.

    `keys` has the key of each voice; what has none is not sent.
    """

    simulated = True

    def __init__(
        self, performance: Performance, keys: Sequence[int | None], name: str = "simulated", *, pace: float = 1.0
    ) -> None:
        self.name = name
        self._pace = pace
        self._events = _sent(performance, keys)

    def events(self, stopped: Callable[[], bool]) -> Iterator[MidiEvent]:
        """Each note when it is due; its moment is the one that is meant, not that of our clock."""
        begin = time.monotonic()
        for event in self._events:
            while (left := begin + self._pace * event.time_s - time.monotonic()) > 0 and not stopped():
                time.sleep(min(left, _POLL_S))
            if stopped():
                return
            yield event


def _sent(performance: Performance, keys: Sequence[int | None]) -> list[MidiEvent]:
    ordered = performance.ordered()
    first = min(0.0, float(ordered.onset_s.min(initial=0.0)))
    out = []
    for onset, voice, velocity in zip(
        ordered.onset_s.tolist(), ordered.voice.tolist(), ordered.velocity.tolist(), strict=True
    ):
        key = keys[voice]
        if key is not None:
            out += [MidiEvent(onset - first, "note", key, velocity), MidiEvent(onset - first + _NOTE_S, "note", key, 0)]
    return sorted(out)


def taken(source: MidiInput, seconds: float | None, stop: threading.Event | None = None) -> list[MidiEvent]:
    """All that comes in for so many seconds, until it is stopped, or to its end.

    Raises
    ------
    InputError
        Where it is more than any drummer plays.
    """
    end = None if seconds is None else time.monotonic() + seconds
    out: list[MidiEvent] = []

    def stopped() -> bool:
        return (stop is not None and stop.is_set()) or (end is not None and time.monotonic() >= end)

    for event in source.events(stopped):
        if seconds is not None and event.time_s >= seconds:
            break
        if len(out) >= MOST_EVENTS:
            raise InputError(f"More than {MOST_EVENTS} messages came from {source.name}: that is no playing.")
        out.append(event)
    return out
