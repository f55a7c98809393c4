"""What strikes one about a groove, each a test on the pattern and so true by construction: that it is linear, that the
hats pause at a crash, that a backbeat is pushed or late. The groove itself is told by `session.say.telling`."""

from collections.abc import Callable
from dataclasses import dataclass

from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice
from ghoststep.music.pattern import Pattern
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.music.touch import Role


@dataclass(frozen=True)
class Sentence:
    """What is said, and the test that makes it true."""

    words: str
    holds: Callable[[Pattern], bool]


@dataclass(frozen=True)
class _Bar:
    number: int
    start: int
    places: frozenset[int]  # where the voice strikes, from the bar line


def remarks(groove: Groove) -> list[Sentence]:
    """Sentences that are true of a groove, and worth saying."""
    pattern = groove.pattern
    out = [*_whole(pattern), *_pauses(pattern), *_backbeats(pattern)]
    return [s for s in out if s.holds(pattern)]


# -- of the whole -------------------------------------------------------------------------------------------------


def _linear(pattern: Pattern) -> bool:
    ticks = [h.position_ticks for h in pattern.hits if not h.grace]
    return len(ticks) == len(set(ticks)) and len(ticks) > 1


def _whole(pattern: Pattern) -> list[Sentence]:
    out = []
    if _linear(pattern) and len(pattern.voices) > 1:
        out.append(Sentence("Linear: no two limbs strike together.", _linear))
    return out


# -- how voices answer each other ---------------------------------------------------------------------------------


def _pauses(pattern: Pattern) -> list[Sentence]:
    """Time that pauses where a crash is struck."""
    out = []
    for keeper in ("hat", "ride"):

        def holds(p: Pattern, keeper: str = keeper) -> bool:
            crash = {h.position_ticks for h in p.hits if h.voice.startswith("crash")}
            time = {h.position_ticks for h in p.hits if h.voice.startswith(keeper) and h.voice != "hat_pedal"}
            return bool(crash) and len(time) > 2 and not crash & time

        if holds(pattern):
            out.append(Sentence(f"{'Hats pause' if keeper == 'hat' else 'Ride pauses'} at the crash.", holds))
    return out  # fmt: skip


def _backbeats(pattern: Pattern) -> list[Sentence]:
    """Backbeats that are pushed or late in single bars, where the others have them on 2 and 4."""
    if pattern.meter.denominator != 4 or pattern.meter_changes or pattern.bars < 2:
        return []
    loud = {b.number: b for b in _bars_of_loud(pattern)}
    unit = pattern.meter.unit_ticks
    usual = [t for t in (unit, 3 * unit) if t < pattern.meter.bar_ticks]
    out = []
    for beat, t in enumerate(usual):
        away = [b for b in loud.values() if t not in b.places]
        if 2 * len(away) >= len(loud):
            continue
        for b in away:
            for moved, words in _MOVES:
                if t + moved in b.places and all(t + moved not in o.places for o in loud.values() if o not in away):
                    out.append(_moved_backbeat(b.number, 2 + 2 * beat, t, moved, words))
                    break
    return out


_EIGHTH, _SIXTEENTH = TICKS_PER_QUARTER // 2, TICKS_PER_QUARTER // 4
_MOVES = (
    (_EIGHTH, "late by an eighth"),
    (-_EIGHTH, "early by an eighth"),
    (_SIXTEENTH, "late by a sixteenth"),
    (-_SIXTEENTH, "early by a sixteenth"),
)


def _bars_of_loud(pattern: Pattern) -> list[_Bar]:
    """Where the snare is struck and is no ghost."""
    snare = [h for h in pattern.hits if voice(h.voice).group == "snare" and h.role is not Role.GHOST and not h.grace]
    out = []
    for number, start, meter in pattern.frame.between(0, pattern.length_ticks):
        inside = {h.position_ticks - start for h in snare if start <= h.position_ticks < start + meter.bar_ticks}
        out.append(_Bar(number, start, frozenset(inside)))
    return out


def _moved_backbeat(bar: int, beat: int, at: int, moved: int, words: str) -> Sentence:
    def holds(p: Pattern) -> bool:
        here = next((b.places for b in _bars_of_loud(p) if b.number == bar), frozenset())
        return at not in here and at + moved in here

    return Sentence(f"Backbeat on {beat} {words} in bar {bar}.", holds)
