"""Kinds of parameters: how words of a phrase are read as values, with unit, range and what they are called.

Each kind takes what it needs from the front of a row of words and hands back the rest. What it refuses is an InputError
that says what was expected.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Protocol

from ghoststep.music.errors import InputError
from ghoststep.music.feel import Swing
from ghoststep.music.kit import VOICE_NAMES
from ghoststep.music.meter import Meter
from ghoststep.music.time import step_ticks
from ghoststep.session.language.arguments import bars_of, grid_of, ticks_of
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.voice_words import voice_named, voices_meant, voices_named

Taken = tuple[Any, list[str]]


class Kind(Protocol):
    """What a parameter may be."""

    @property
    def usage(self) -> str: ...

    def take(self, words: list[str], context: EditContext) -> Taken: ...


@dataclass(frozen=True)
class Amount:
    """A number as it was said: a value, or (with a sign) a change; `unit` as it stood there."""

    value: float
    relative: bool = False
    unit: str = ""

    def onto(self, base: float) -> float:
        """The value meant, where a change counts from a base."""
        return base + self.value if self.relative else self.value


_NUMBER = re.compile(r"([+-]?)(\d{1,9}(?:\.\d{1,9})?)([a-z%]*)", re.IGNORECASE)
_UNITS = ("%", "ms", "bpm", "db")


@dataclass(frozen=True)
class Number:
    """A number in one of some units, within a range (which holds for values, not for changes)."""

    what: str
    units: tuple[str, ...] = ("",)  # the first is what a bare number is in
    low: float = -1e6
    high: float = 1e6
    whole: bool = False
    signed: bool = True  # whether a sign may stand there
    name: str = "N"

    @property
    def usage(self) -> str:
        return f"{self.name}{'|+N|-N' if self.signed and self.name == 'N' else ''}"

    def take(self, words: list[str], context: EditContext) -> Taken:
        found = _NUMBER.fullmatch(words[0]) if words else None
        if found is None or (found[1] and not self.signed):
            raise InputError(f"'{' '.join(words)}' is not {self.what}: give a number{self._range()}.")
        unit, rest = found[3].lower(), words[1:]
        if not unit and rest and rest[0].lower() in _UNITS:
            unit, rest = rest[0].lower(), rest[1:]
        known = [u.lower() for u in self.units]
        if unit and unit not in known:
            said = {"": "no unit"}.get(self.units[0], self.units[0])
            raise InputError(f"'{found[0]}{'' if found[3] else ' ' + unit}' is not {self.what}: it is given in {said}.")
        value = float(found[1] + found[2])
        if self.whole and value != int(value):
            raise InputError(f"'{found[0]}' is not {self.what}: give a whole number{self._range()}.")
        relative = bool(found[1]) and self.low >= 0
        if not relative and unit in ("", known[0]) and not self.low <= value <= self.high:
            raise InputError(f"{value:g} is not {self.what}{self._range()}.")
        return Amount(value, relative, self.units[known.index(unit)] if unit else self.units[0]), rest

    def _range(self) -> str:
        unit = f" {self.units[0]}" if self.units[0] else ""
        return f" from {self.low:g} to {self.high:g}{unit}" if abs(self.low) < 1e6 or abs(self.high) < 1e6 else ""


@dataclass(frozen=True)
class OneOf:
    """One of some words."""

    what: str
    known: tuple[str, ...]
    also: dict[str, str] = field(default_factory=dict)  # other words for them

    @property
    def usage(self) -> str:
        return "|".join(self.known)

    def take(self, words: list[str], context: EditContext) -> Taken:
        word = words[0].lower() if words else ""
        word = self.also.get(word, word)
        if word not in self.known:
            known = ", ".join(self.known)
            raise InputError(
                f"'{word}' is no {self.what}. There are: {known}." if word else f"Which {self.what}? {known}."
            )
        return word, words[1:]


@dataclass(frozen=True)
class OneVoice:
    """One voice, by its name or by what people call it."""

    usage: str = "VOICE"

    def take(self, words: list[str], context: EditContext) -> Taken:
        for size in (2, 1):
            if len(words) >= size and (found := voice_named("_".join(words[:size]))) is not None:
                return found, words[size:]
        said = words[0] if words else ""
        raise InputError(f"'{said}' is no voice of the kit. The voices are: {', '.join(VOICE_NAMES)}.")


@dataclass(frozen=True)
class SomeVoices:
    """A voice, or all of a group."""

    usage: str = "VOICE"

    def take(self, words: list[str], context: EditContext) -> Taken:
        if len(words) >= 2 and (two := voices_named("_".join(words[:2]))) is not None:
            return two, words[2:]
        return voices_meant(words[:1]), words[1:]


@dataclass(frozen=True)
class ManyVoices:
    """Voices and groups, one or several: "kick snare", "kick and floor tom"."""

    usage: str = "VOICES"

    def take(self, words: list[str], context: EditContext) -> Taken:
        out: list[str] = []
        rest = list(words)
        while rest:
            if rest[0].lower() in ("and", ",") and out:
                rest = rest[1:]
                continue
            two = voices_named("_".join(rest[:2])) if len(rest) > 1 else None
            found = two or voices_named(rest[0])
            if found is None:
                break
            out += [v for v in found if v not in out]
            rest = rest[2 if two else 1 :]
        return (tuple(out) if out else voices_meant(words[:1])), rest


@dataclass(frozen=True)
class VoicePath:
    """Voices one after the other, each as it is said: "snare high tom, floor tom"; of a group its usual one."""

    usage: str = "VOICES"

    def take(self, words: list[str], context: EditContext) -> Taken:
        out: list[str] = []
        rest = list(words)
        while rest:
            if rest[0].lower() in ("and", ",") and out:
                rest = rest[1:]
                continue
            two = voice_named("_".join(rest[:2])) if len(rest) > 1 else None
            found = two or voice_named(rest[0])
            if found is None:
                raise InputError(f"'{rest[0]}' is no voice to move over.")
            out.append(found)
            rest = rest[2 if two else 1 :]
        if not out:
            raise InputError("Over which voices? For example: over snare high tom floor tom.")
        return tuple(out), rest


def bars_in_a_row(bars: set[int] | None, context: EditContext) -> tuple[int, int]:
    """The first and last of bars that follow one another, by default the cursor's; an InputError where they do not."""
    found = bars or {context.bar}
    if len(found) != max(found) - min(found) + 1:
        raise InputError("Give bars that follow one another, such as 1-2.")
    return min(found), max(found)


@dataclass(frozen=True)
class SomeBars:
    """Bars by number: 2, 2-4, 2,4, here."""

    usage: str = "2-4"

    def take(self, words: list[str], context: EditContext) -> Taken:
        if not words:
            raise InputError("Which bars? For example: bars 2-4.")
        if words[0].lower() == "here":
            return {context.bar}, words[1:]
        return bars_of(words[0], context.document.groove.pattern), words[1:]


@dataclass(frozen=True)
class Length:
    """A note length or distance: 1/16, 3/8, 2 steps, 1 bar; may carry a sign. Ticks."""

    usage: str = "LENGTH"

    def take(self, words: list[str], context: EditContext) -> Taken:
        size = 2 if len(words) > 1 and re.fullmatch(r"(steps?|bars?|beats?)", words[1].lower()) else 1
        if "/" in words[0] if words else False:
            size = 1
        return ticks_of(words[:size], context.document.groove.pattern, step_here(context), context.cursor_ticks), words[
            size:
        ]


def step_here(context: EditContext) -> int:
    """Ticks of a step at the cursor's lane and position."""
    return step_ticks(context.document.groove.pattern.grid_at(context.voice, context.cursor_ticks))


@dataclass(frozen=True)
class Grid:
    """Notes to a whole, by number or name."""

    usage: str = "N|NAME"

    def take(self, words: list[str], context: EditContext) -> Taken:
        if not words:
            raise InputError("Which grid? For example: grid 32 bars 2, grid triplets hat, grid 16.")
        return grid_of(words[0]), words[1:]


@dataclass(frozen=True)
class TheMeter:
    """A meter with its grouping."""

    usage: str = "7/8 [2+2+3]"

    def take(self, words: list[str], context: EditContext) -> Taken:
        size = 2 if len(words) > 1 and re.fullmatch(r"\(?\d+(\+\d+)+\)?", words[1]) else 1
        return Meter.parse(" ".join(words[:size])), words[size:]


_UNIT_WORDS = {"8": 8, "8th": 8, "8ths": 8, "eighths": 8, "16": 16, "16th": 16, "16ths": 16, "sixteenths": 16}
_RATIO_WORDS = {"straight": 0.5, "triplet": 2 / 3, "triplets": 2 / 3, "shuffle": 2 / 3, "dotted": 0.75}


@dataclass(frozen=True)
class TheSwing:
    """57%, 16ths 57%, 16:0.57, triplet, straight; the unit stays where none is said."""

    usage: str = "[8ths|16ths] 57%|triplet|straight"

    def take(self, words: list[str], context: EditContext) -> Taken:
        if not words:
            raise InputError("How much swing? For example: swing 57%, swing 16ths 57%, swing triplet, swing straight.")
        unit, rest = context.document.groove.feel.swing.unit, words
        if ":" in rest[0]:
            return Swing.parse(rest[0]), rest[1:]
        if rest[0].lower() in _UNIT_WORDS and len(rest) > 1:
            unit, rest = _UNIT_WORDS[rest[0].lower()], rest[1:]
        word = rest[0].lower()
        if word in _RATIO_WORDS:
            return Swing(unit, _RATIO_WORDS[word]), rest[1:]
        found = re.fullmatch(r"(\d{1,3}(?:\.\d{1,6})?)(%?)", word)
        if not found:
            raise InputError(f"'{' '.join(words)}' is no swing: write it like 57%, 16ths 57% or triplet.")
        rest = rest[1:]
        percent = found[2] == "%" or rest[:1] == ["%"]
        rest = rest[1:] if rest[:1] == ["%"] else rest
        ratio = float(found[1])
        return Swing(unit, ratio / 100 if percent or ratio > 1 else ratio), rest


@dataclass(frozen=True)
class Text:
    """Everything that is left."""

    usage: str = "NAME"

    def take(self, words: list[str], context: EditContext) -> Taken:
        return " ".join(words), []


@dataclass(frozen=True)
class Numbers:
    """A row of numbers, each of one kind."""

    each: Number
    count: int

    @property
    def usage(self) -> str:
        return " ".join([self.each.name] * self.count)

    def take(self, words: list[str], context: EditContext) -> Taken:
        out: list[float] = []
        for _ in range(self.count):
            if not words:
                raise InputError(f"{self.count} numbers are needed here ({self.each.what}).")
            amount, words = self.each.take(words, context)
            out.append(amount.value)
        return tuple(out), words


def takes(kind: Kind, words: Sequence[str], context: EditContext) -> bool:
    """Whether a kind can read what a row of words begins with."""
    try:
        kind.take(list(words), context)
    except InputError:
        return False
    return bool(words)
