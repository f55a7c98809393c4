"""Small changes that answer a bar: what may be done to it, as phrases of the language.

Each is one thing that drummers do to answer a bar with another: a kick a step earlier or later, one more or one less,
ghosts, the backbeat pushed by an eighth, a lift of the hat, a triplet, the last beat left open.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.spots import count_name
from ghoststep.music.time import step_ticks
from ghoststep.music.touch import Role


@dataclass(frozen=True)
class Idea:
    """What is done, in a word or two, and the phrases that do it."""

    about: str
    phrases: tuple[str, ...]


def ideas(pattern: Pattern, bar: int) -> list[Idea]:
    """Everything that may be done to a bar of a part, each once."""
    maker = _Maker(pattern, bar)
    found = [*maker.kicks(), *maker.ghosts(), *maker.backbeat(), *maker.hats(), *maker.last_beat()]
    return list({idea.phrases: idea for idea in found}.values())


class _Maker:
    def __init__(self, pattern: Pattern, bar: int) -> None:
        self.meter: Meter = pattern.frame.meter_of(bar)
        start = pattern.frame.start_of(bar)
        inside = pattern.between(start, start + self.meter.bar_ticks)
        self.hits: dict[tuple[int, str], Hit] = {}
        for h in pattern.hits[inside.start : inside.stop]:
            if not h.grace:
                self.hits[h.position_ticks - start, h.voice] = h
        self.step = min(step_ticks(pattern.grid), self.meter.unit_ticks // 2)
        self.bars = f" bars {bar}" if pattern.bars > 1 else ""
        self.beats = range(0, self.meter.bar_ticks, self.meter.unit_ticks)

    def _spot(self, tick: int) -> str:
        return count_name(tick, self.meter)

    def _of(self, voice: str) -> list[int]:
        return sorted(t for t, v in self.hits if v == voice)

    def _free(self, tick: int, *voices: str) -> bool:
        return 0 <= tick < self.meter.bar_ticks and all((tick, v) not in self.hits for v in voices)

    def _move(self, voice: str, tick: int, to: int) -> str:
        return f"move to {self._spot(to)} on {voice} at {self._spot(tick)}{self.bars}"

    def kicks(self) -> Iterator[Idea]:
        """A kick a step earlier or later, one added after the last, the last taken out."""
        kicks = self._of("kick")
        for tick in kicks:
            if tick == 0:
                continue
            for by, words in ((-self.step, "earlier"), (self.step, "later")):
                if self._free(tick + by, "kick", "snare") and tick + by > 0:
                    yield Idea(f"the kick on {self._spot(tick)} a step {words}", (self._move("kick", tick, tick + by),))
        last = kicks[-1] if kicks else 0
        for by in (2, 3, 1, 4):
            if self._free(last + by * self.step, "kick", "snare"):
                spot = self._spot(last + by * self.step)
                yield Idea(f"one more kick on {spot}", (f"place kick {spot}{self.bars}",))
        if len(kicks) > 1:
            yield Idea("without its last kick", (f"remove kick at {self._spot(last)}{self.bars}",))

    def ghosts(self) -> Iterator[Idea]:
        """Ghosts beside the backbeats, one or two."""
        backbeats = [t for t, v in self.hits if v == "snare" and self.hits[t, v].role is not Role.GHOST]
        one = []
        for tick in sorted(backbeats):
            for by in (3, -1, -2):
                at = tick + by * self.step
                if self._free(at, "snare", "kick") and at not in self.beats:
                    one.append(f"place snare {self._spot(at)} as ghost{self.bars}")
                    yield Idea(f"a ghost on {self._spot(at)}", (one[-1],))
                    break
        if len(one) > 1:
            yield Idea("ghosts beside the backbeats", tuple(one))

    def backbeat(self) -> Iterator[Idea]:
        """The last backbeat pushed or pulled by an eighth."""
        loud = sorted(t for t, v in self.hits if v == "snare" and self.hits[t, v].role is not Role.GHOST)
        if not loud:
            return
        for by, words in ((2, "late by an eighth"), (-2, "early by an eighth")):
            to = loud[-1] + by * self.step
            if self._free(to, "snare"):
                yield Idea(f"the last backbeat {words}", (self._move("snare", loud[-1], to),))

    def hats(self) -> Iterator[Idea]:
        """A lift at the end, a flurry, another melody of accents."""
        hats = self._of("hat_closed")
        if hats:
            lift = self._spot(hats[-1])
            yield Idea(f"the hat open on {lift}", (f"voice hat_open on hat_closed at {lift}{self.bars}",))
        middle = [t for t in hats if self.meter.bar_ticks // 2 - 1 <= t < hats[-1]] if hats else []
        if middle:
            spot = self._spot(middle[-1])
            yield Idea(f"a lift of the hat on {spot}", (f"voice hat_open on hat_closed at {spot}{self.bars}",))
        flurry = [t for t in range(self.beats[-1], self.meter.bar_ticks, self.step) if self._free(t, "hat_closed")]
        if hats and flurry:
            spots = tuple(f"place hat_closed {self._spot(t)}{self.bars}" for t in flurry)
            yield Idea("a flurry of the hat in the last beat", spots)
        off = [t for t in hats if t not in self.beats]
        if len(off) > 1 and any(self.hits[t, "hat_closed"].role is not Role.ACCENT for t in off):
            spots = tuple(f"role accent on hat_closed at {self._spot(t)}{self.bars}" for t in off)
            yield Idea("the hat accented off the beat", spots)

    def last_beat(self) -> Iterator[Idea]:
        """Triplets in the last beat, or nothing."""
        beat, unit = self.beats[-1], self.meter.unit_ticks
        inside = sorted((t, v) for t, v in self.hits if t >= beat)
        if len(self.beats) > 2 and unit % 3 == 0:
            thirds = [beat + unit // 3, beat + 2 * unit // 3]
            gone = tuple(f"remove {v} at {self._spot(t)}{self.bars}" for t, v in inside if t > beat and v in _HANDS)
            new = tuple(f"place snare {self._spot(t)}{self.bars}" for t in thirds if self._free(t, "snare"))
            yield Idea("a triplet in the last beat", (*gone, *new))
        if inside and len(self.beats) > 2:
            gone = tuple(f"remove {v} at {self._spot(t)}{self.bars}" for t, v in inside)
            yield Idea("the last beat left open", gone)


_HANDS = ("hat_closed", "hat_half", "hat_open", "ride", "ride_bell", "snare")
