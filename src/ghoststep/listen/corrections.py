"""What the user says about a listening, kept apart from what was heard.

A correction names a hit by its moment in the recording and its voice, never by a number, so it holds whatever is fitted
anew. All corrections are laid over what was heard each time, in the order they were made; none is ever lost to another.
"""

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bars.reading import Click, Hints
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICE_INDEX, VOICE_NAMES, voice
from ghoststep.music.meter import Meter
from ghoststep.music.performance import Performance

Floats = NDArray[np.float64]
_SAME_S = 0.004  # two moments that name one hit
_NEW_APART_S = 0.012  # a new hit of a voice keeps this distance from those there are


class FixKind(StrEnum):
    VOICE = "voice"  # it is another voice
    GONE = "gone"  # there is no hit
    NEW = "new"  # a hit was missed
    SPOT = "spot"  # it belongs to another spot
    SURE = "sure"  # it is right as it was heard


@dataclass(frozen=True)
class Fix:
    """One correction of one hit, which is named by its moment and by its voice before the correction."""

    kind: FixKind
    time_s: float
    voice: str
    to_voice: str = ""
    velocity: int = 0
    meant_s: float = 0.0

    def __post_init__(self) -> None:
        voice(self.voice)
        if self.kind is FixKind.VOICE:
            voice(self.to_voice)
        if self.kind is FixKind.NEW and not 1 <= self.velocity <= 127:
            raise InputError(f"A velocity of {self.velocity} is outside 1 to 127.")
        if not (np.isfinite(self.time_s) and np.isfinite(self.meant_s)) or self.time_s < 0:
            raise InputError("A correction needs a moment in the recording.")


@dataclass(frozen=True)
class Corrections:
    """All the user said: of single hits in the order it was said, and of the reading as a whole."""

    fixes: tuple[Fix, ...] = ()
    tempo_bpm: float | None = None
    meter: Meter | None = None
    downbeat_s: float | None = None
    straight: bool | None = None
    click: Click | None = None

    def with_fix(self, fix: Fix) -> "Corrections":
        return replace(self, fixes=(*self.fixes, fix))

    def hints(self, given: Hints) -> Hints:
        """What is known for the fit: the corrections, and where they are silent what was given before."""
        return Hints(
            given.tempo_bpm if self.tempo_bpm is None else self.tempo_bpm,
            given.meter if self.meter is None else self.meter,
            given.bars,
            given.downbeat_s if self.downbeat_s is None else self.downbeat_s,
            given.straight if self.straight is None else self.straight,
            given.click if self.click is None else self.click,
        )


@dataclass(frozen=True, eq=False)
class Corrected:
    """A performance as heard with the corrections laid over it; `meant_s` as `explain` takes it."""

    performance: Performance
    confidence: Floats
    meant_s: Floats
    keys: tuple[int, ...] = ()  # each hit's number in what was heard from 1 on, those that were put in after these


def corrected(performance: Performance, confidence: Floats, fixes: tuple[Fix, ...]) -> Corrected:
    """Lay corrections over what was heard; one whose hit is gone by now changes nothing.

    Raises
    ------
    InputError
        Where no hit is left.
    """
    onset, names = list(performance.onset_s), [VOICE_NAMES[v] for v in performance.voice]
    velocity, stroke = list(performance.velocity), list(performance.stroke)
    sure, meant = list(confidence), [float("nan")] * len(onset)
    keys = list(range(1, len(onset) + 1))
    for number, fix in enumerate(fixes):
        if fix.kind is FixKind.NEW:
            if not _taken(onset, names, fix):
                keys.append(len(performance) + 1 + number)
                for row, value in ((onset, fix.time_s), (names, fix.voice), (velocity, fix.velocity), (stroke, 0)):
                    row.append(value)
                sure.append(1.0)
                meant.append(float("nan"))
            continue
        i = _find(onset, names, fix)
        if i is None:
            continue
        sure[i] = 1.0
        if fix.kind is FixKind.VOICE:
            names[i], stroke[i] = fix.to_voice, 0
        elif fix.kind is FixKind.SPOT:
            meant[i] = fix.meant_s
        elif fix.kind is FixKind.GONE:
            for row in (onset, names, velocity, stroke, sure, meant, keys):
                del row[i]
    if not onset:
        raise InputError("That was the last hit: at least one has to stay.")
    order = np.argsort(onset, kind="stable")
    played = Performance.of(
        np.array(onset)[order],
        np.array([VOICE_INDEX[n] for n in names])[order],
        np.array(velocity)[order],
        stroke=np.array(stroke)[order],
        length_s=performance.length_s,
        cut=performance.cut,
    )
    return Corrected(played, np.array(sure)[order], np.array(meant)[order], tuple(keys[i] for i in order))


def _find(onset: list[float], names: list[str], fix: Fix) -> int | None:
    """The hit of the fix's voice nearest to its moment."""
    near = [(abs(t - fix.time_s), i) for i, t in enumerate(onset) if names[i] == fix.voice]
    best = min(near, default=(1.0, 0))
    return best[1] if best[0] <= _SAME_S else None


def _taken(onset: list[float], names: list[str], fix: Fix) -> bool:
    return any(n == fix.voice and abs(t - fix.time_s) < _NEW_APART_S for t, n in zip(onset, names, strict=True))
