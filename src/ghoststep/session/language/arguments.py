"""Words of a phrase read as numbers, note lengths, bars and spots."""

import re
from fractions import Fraction

from ghoststep.music.errors import InputError
from ghoststep.music.pattern import Pattern
from ghoststep.music.time import TICKS_PER_WHOLE, step_ticks


def number(words: list[str], what: str) -> float:
    """The one number that is left, without a unit.

    Raises
    ------
    InputError
        Where it is none, or not alone.
    """
    text = "".join(words)
    found = re.fullmatch(r"([+-]?\d{1,9}(?:\.\d{1,9})?)", text)
    if not found:
        raise InputError(f"'{' '.join(words)}' is not {what}: give a number.")
    return float(found[1])


def ticks_of(words: list[str], pattern: Pattern, step: int, at_ticks: int = 0) -> int:
    """A note length or distance: 1/16, 3/8, 1/12, "2 steps", "1 bar", "1 beat"; may carry a sign.

    Bars and beats are those of the meter at a position.

    Raises
    ------
    InputError
        Where it is no length.
    """
    text = " ".join(words).lower()
    found = re.fullmatch(r"([+-]?)(?:(\d{1,6})\s*/\s*(\d{1,6})|(\d{1,6})?\s*(steps?|bars?|beats?))", text)
    if not found:
        raise InputError(f"'{text}' is no length: write it like 1/16, 3/8, 2 steps or 1 bar.")
    sign = -1 if found[1] == "-" else 1
    if found[2]:
        if not int(found[3]):
            raise InputError(f"'{text}' is no length: write it like 1/16.")
        ticks = Fraction(int(found[2]), int(found[3])) * TICKS_PER_WHOLE
        if ticks.denominator != 1:
            raise InputError(f"'{text}' does not fit into whole ticks: use lengths such as 1/16, 1/24 or 1/20.")
        return sign * int(ticks)
    meter = pattern.frame.meter_at(at_ticks)
    units = {"step": step, "beat": meter.unit_ticks, "bar": meter.bar_ticks}
    return sign * int(found[4] or 1) * units[found[5].rstrip("s")]


def numbers(text: str, what: str) -> set[int]:
    """ "2-4,8" as {2, 3, 4, 8}.

    Raises
    ------
    InputError
        Where they are no numbers.
    """
    out: set[int] = set()
    for part in text.split(","):
        found = re.fullmatch(r"(\d{1,4})(?:-(\d{1,4}))?", part.strip())
        if not found or int(found[2] or found[1]) < int(found[1]):
            raise InputError(f"'{text}' is no list of {what}: write it like 2, 2-4 or 2,4,8.")
        out |= set(range(int(found[1]), int(found[2] or found[1]) + 1))
    return out


def bars_of(text: str, pattern: Pattern) -> set[int]:
    """Bars by number, all of which have to be there.

    Raises
    ------
    InputError
        Naming what is not there.
    """
    bars = numbers(text, "bars")
    outside = sorted(b for b in bars if not 1 <= b <= pattern.bars)
    if outside:
        raise InputError(f"There is no bar {outside[0]}: this groove has {pattern.bars}.")
    return bars


def grid_of(text: str) -> int:
    """A grid by its number or name: 16, 32, triplets, quintuplets ...

    Raises
    ------
    InputError
        Where it is none.
    """
    names = {
        "quarters": 4, "eighths": 8, "8ths": 8, "sixteenths": 16, "16ths": 16, "32nds": 32, "64ths": 64, "triplets": 12,
        "sextuplets": 24, "quintuplets": 20, "septuplets": 28,
    }  # fmt: skip
    grid = names.get(text.lower()) or (int(text) if re.fullmatch(r"\d{1,5}", text) else 0)
    if not grid:
        raise InputError(f"'{text}' is no grid: use notes to a whole (8, 16, 32, 12) or one of {', '.join(names)}.")
    step_ticks(grid)
    return grid
