"""Words that name spots of a bar, one or several: "4a", "& of 2, 4", "step 11 bar 3", "every &", "the a of 4"."""

import re
from dataclasses import dataclass
from fractions import Fraction

from ghoststep.music.frame import Bars
from ghoststep.music.pattern import Hit
from ghoststep.music.spots import SYLLABLES, parse_spot
from ghoststep.music.time import TICKS_PER_WHOLE

_SYLLABLE = r"(?:e|&|and|\+|a|ah|trip|let)"
_SPOT = re.compile(rf"\d{{1,6}}(?:\.\d{{1,6}}|\+\d{{1,6}}/\d{{1,6}})?{_SYLLABLE}?", re.IGNORECASE)
# Note values that go through a bar from its bar line: parts of a whole note.
_NOTES = {
    "half": 2, "halves": 2, "quarter": 4, "quarters": 4, "8th": 8, "8ths": 8, "eighth": 8, "eighths": 8, "16th": 16,
    "16ths": 16, "sixteenth": 16, "sixteenths": 16, "32nd": 32, "32nds": 32, "triplet": 12, "triplets": 12,
    "sextuplet": 24, "sextuplets": 24,
}  # fmt: skip
_EVERY = {word: share for share, word in SYLLABLES.items()} | {"and": Fraction(1, 2), "beat": Fraction(0)}


@dataclass(frozen=True)
class Spots:
    """Names of spots, syllables of every beat, notes that go through the bar (in ticks), and the bar that was named
    (None for whichever bar)."""

    names: tuple[str, ...]
    every: tuple[Fraction, ...] = ()
    bar: int | None = None
    notes: tuple[int, ...] = ()

    def ticks_in(self, bar: int, bars: Bars, grid: int) -> set[int]:
        """The places meant in a bar, ticks from its bar line; an InputError where it has no such place."""
        meter = bars.meter_of(bar)
        out = {parse_spot(name, bars, grid, bar=bar).tick for name in self.names}
        for share in self.every:
            out |= {b * meter.unit_ticks + int(share * meter.unit_ticks) for b in range(meter.numerator)}
        for unit in self.notes:
            out |= set(range(0, meter.bar_ticks, unit))
        return out

    def fits(self, h: Hit, bars: Bars, grid: int) -> bool:
        """Whether a hit is meant for one of the spots; a bar too short for a spot holds nothing there."""
        spot = bars.spot_at(h.position_ticks)
        if self.bar is not None and spot.bar != self.bar:
            return False
        meter = bars.meter_of(spot.bar)
        share = Fraction(spot.tick % meter.unit_ticks, meter.unit_ticks)
        if share in self.every or any(spot.tick % unit == 0 for unit in self.notes):
            return True
        whole = Bars(meter)  # each name is read in the meter of the hit's own bar
        for name in self.names:
            try:
                if parse_spot(name, whole, grid).tick == spot.tick:
                    return True
            except ValueError:
                continue
        return not self.names and not self.every and not self.notes


def spots_in(words: list[str]) -> tuple[Spots | None, list[str]]:
    """The spots that a row of words begins with, and the rest; None where it begins with none."""
    names: list[str] = []
    every: list[Fraction] = []
    notes: list[int] = []
    bar: int | None = None
    rest = list(words)
    while rest:
        word = rest[0].lower().strip(",")
        following = [w.lower().strip(",") for w in rest[1:4]]
        if word == "every" and following and following[0] in _EVERY:
            every.append(_EVERY[following[0]])
            rest = rest[2:]
        elif word == "every" and following and following[0] in _NOTES:
            notes.append(TICKS_PER_WHOLE // _NOTES[following[0]])
            rest = rest[2:]
        elif (
            word == "bar" and following and following[0].isdecimal() and (names or every or notes or _spot_at(rest[2:]))
        ):
            bar, rest = int(following[0]), rest[2:]
        elif word == "step" and following and following[0].isdecimal():
            names.append(f"step {following[0]}")
            rest = rest[2:]
        elif (of := _of(rest)) is not None:
            names += of[0]
            rest = of[1]
        elif all(_SPOT.fullmatch(part) for part in word.split(",")):
            names += word.split(",")
            rest = rest[1:]
        else:
            break
    found = Spots(tuple(names), tuple(every), bar, tuple(notes)) if names or every or notes else None
    return found, rest


def _spot_at(words: list[str]) -> bool:
    """Whether a spot follows: "bar 3 2a" names one, "bar 3" alone is a bar."""
    return bool(words) and (words[0].lower() in ("step", "the") or _SPOT.fullmatch(words[0].strip(",")) is not None)


def _of(words: list[str]) -> tuple[list[str], list[str]] | None:
    """ "the & of 2, 4": several beats may follow."""
    rest = words[1:] if words[0].lower() == "the" else words
    if len(rest) < 3 or rest[1].lower() != "of" or not re.fullmatch(_SYLLABLE, rest[0].lower()):
        return None
    syllable, rest = rest[0].lower(), rest[2:]
    names: list[str] = []
    while rest and re.fullmatch(r"\d{1,4}(?:,\d{1,4})*,?", rest[0]):
        names += [f"{beat}{syllable}" for beat in rest[0].split(",") if beat]
        more = rest[0].endswith(",")
        rest = rest[1:]
        if not more:
            break
    return (names, rest) if names else None
