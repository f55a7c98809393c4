"""Places that a sentence names, before they are laid on a groove: spots of a bar, bars, stretches of a bar, the nth of
some hits."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from ghoststep.music.frame import Bars
from ghoststep.music.meter import Meter
from ghoststep.music.time import TICKS_PER_WHOLE

LAST = -1
SHARES = {
    "e": Fraction(1, 4), "&": Fraction(1, 2), "and": Fraction(1, 2), "a": Fraction(3, 4), "ah": Fraction(3, 4),
    "trip": Fraction(1, 3), "let": Fraction(2, 3),
}  # fmt: skip


@dataclass(frozen=True)
class Spot:
    """One spot of a bar, or a row of them.

    kind: "beat" (number, or LAST, and a share of it), "every" (a share of every beat), "note" (a note value that goes
    through the bar), "last note" (the last of a value), "backbeats", "nth backbeat", "groups" (the first beat of each
    group, or of the nth), "first of all" (the bar line of the first bar, unless one is named).
    """

    kind: str
    number: int = 0
    share: Fraction = Fraction(0)
    exact: bool = False  # said as a number, so that no syllable is meant

    def ticks(self, meter: Meter) -> set[int]:
        """Where that is, in ticks from the bar line; nothing where a bar of this meter has no such spot."""
        unit, beats = meter.unit_ticks, meter.numerator
        if self.kind == "beat":
            beat = beats if self.number == LAST else self.number
            return {(beat - 1) * unit + int(self.share * unit)} if 1 <= beat <= beats else set()
        if self.kind == "every":
            return {k * unit + int(self.share * unit) for k in range(beats)}
        if self.kind == "note":
            return set(range(0, meter.bar_ticks, TICKS_PER_WHOLE // self.number))
        if self.kind == "last note":
            return {meter.bar_ticks - TICKS_PER_WHOLE // self.number}
        if self.kind == "backbeats":
            return {k * unit for k in backbeats(meter)}
        if self.kind == "nth backbeat":
            row = [k * unit for k in backbeats(meter)]
            return {row[-1 if self.number == LAST else self.number - 1]} if row and self.number <= len(row) else set()
        if self.kind == "end":
            return {meter.bar_ticks - TICKS_PER_WHOLE // 16}
        if self.kind == "first of all":
            return {0}
        starts = [sum(meter.groups[:k]) * unit for k in range(len(meter.groups))]
        if self.number:
            return {starts[self.number - 1]} if self.number <= len(starts) else set()
        return set(starts)


def on_triplets(spots: "Spots") -> "Spots":
    """What is meant where beats are counted in triplets: there "a" is the last third."""
    third = Fraction(2, 3)
    mapped = (replace(s, share=third) if s.share == SHARES["a"] and not s.exact else s for s in spots.all)
    return replace(spots, all=tuple(mapped))


def backbeats(meter: Meter) -> list[int]:
    """The beats (from 0) of the backbeat: 2 and 4 of four, 2 and 3 of three, every second one else; of an uneven meter
    the groups after the first."""
    if meter.denominator == 8:
        groups = meter.groups if len(meter.groups) > 1 else (3,) * (meter.numerator // 3)
        starts = [sum(groups[:k]) for k in range(len(groups))]
        return starts[1::2] if len(starts) % 2 == 0 else starts[1:]
    return [1, 2] if meter.numerator == 3 else list(range(1, meter.numerator, 2))


@dataclass(frozen=True)
class Spots:
    """Spots of a bar. last: it is the last of the groove unless a bar is named. beats: whole beats may be meant, as the
    word was said. group: the spots stand for no beat of their own, as "every eighth"."""

    all: tuple[Spot, ...]
    last: bool = False
    beats: bool = False

    def ticks(self, meter: Meter) -> set[int]:
        return set().union(*(s.ticks(meter) for s in self.all))

    @property
    def row(self) -> bool:
        """Whether it goes through the bar and names no single beat."""
        return all(s.kind in ("every", "note") for s in self.all)


@dataclass(frozen=True)
class InBars:
    """Bars that are named: by number, from the front or the end, every nth, odd and even, the cursor's."""

    numbers: tuple[int, ...] = ()
    first: int = 0
    last: int = 0
    step: int = 0
    start: int = 1
    here: bool = False
    each: bool = False  # every bar for itself, said so

    def among(self, bars: int, cursor: int) -> set[int]:
        """Their numbers in a groove of so many bars; some may not be there."""
        if self.here:
            return {cursor}
        out = set(self.numbers)
        out |= set(range(1, self.first + 1))
        out |= set(range(bars - self.last + 1, bars + 1)) if self.last else set()
        if self.step:
            out |= set(range(self.start, bars + 1, self.step))
        return out


@dataclass(frozen=True)
class Stretch:
    """A part of a bar in shares of it or in beats: from `start` to before `end` (None: its end); below 0 from the end.

    unit: "half", or "beat" (0 is before the first).
    """

    unit: str
    start: Fraction
    end: Fraction | None
    last: bool = False  # of the last bar of the groove unless one is named

    def ticks(self, meter: Meter) -> tuple[int, int]:
        """From where to where, in ticks from the bar line."""
        whole = meter.bar_ticks
        size = Fraction(whole, 2) if self.unit == "half" else Fraction(meter.unit_ticks)

        def at(value: Fraction) -> int:
            return int(value * size) if value >= 0 else whole + int(value * size)

        return at(self.start), whole if self.end is None else at(self.end)


@dataclass(frozen=True)
class Nth:
    """Which of some hits in their order: the nth (below 0 from the end), so many of them, or every nth."""

    at: int = 0
    count: int = 1
    every: int = 0
    others: tuple[int, ...] = ()  # further ones: "the second and fourth"
    scope: str = ""  # "bar" or "beat": of each of them; "" is not said

    def of(self, row: Sequence[int]) -> list[int]:
        """The chosen ones of a row."""
        if self.others:
            wanted = {self.at, *self.others}
            return [x for k, x in enumerate(row, 1) if k in wanted or k - len(row) - 1 in wanted]
        if self.every:
            return list(row[self.every - 1 :: self.every])
        if self.at < 0:
            end = len(row) + self.at + 1
            return list(row[max(end - self.count, 0) : end])
        return list(row[self.at - 1 : self.at - 1 + self.count])


def bar_of(frame: Bars, ticks: int) -> int:
    return frame.spot_at(ticks).bar
