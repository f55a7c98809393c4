"""Spots in a bar and the names people give them.

The same spot is "2a", "the a of 2", "2.75", "step 8" and "bar 1 step 8". All are printed and read.
Beats are counted in denominator notes: in 7/8 one counts to seven.
"""

import re
from dataclasses import dataclass
from fractions import Fraction

from ghoststep.music.errors import InputError
from ghoststep.music.meter import Meter
from ghoststep.music.time import step_ticks

# Fraction of a counted note -> syllable; eighths and sixteenths, then triplets and sextuplets.
SYLLABLES: dict[Fraction, str] = {
    Fraction(1, 4): "e",
    Fraction(1, 2): "&",
    Fraction(3, 4): "a",
    Fraction(1, 3): "trip",
    Fraction(2, 3): "let",
}
_SYLLABLE_WORDS = {
    "e": Fraction(1, 4),
    "&": Fraction(1, 2),
    "and": Fraction(1, 2),
    "+": Fraction(1, 2),
    "a": Fraction(3, 4),
    "ah": Fraction(3, 4),
    "trip": Fraction(1, 3),
    "let": Fraction(2, 3),
}


@dataclass(frozen=True)
class Spot:
    """A bar (from 1) and a position in it (ticks from the bar line)."""

    bar: int
    tick: int

    def position_ticks(self, meter: Meter) -> int:
        return (self.bar - 1) * meter.bar_ticks + self.tick


def spot_at(position_ticks: int, meter: Meter) -> Spot:
    bar, tick = divmod(position_ticks, meter.bar_ticks)
    return Spot(bar + 1, tick)


def count_name(tick: int, meter: Meter) -> str:
    """The counted name of a position in the bar: "2", "2a", "3let", "2.125" where no syllable exists."""
    beat, rest = divmod(tick, meter.unit_ticks)
    if not rest:
        return f"{beat + 1}"
    part = Fraction(rest, meter.unit_ticks)
    if part in SYLLABLES:
        return f"{beat + 1}{SYLLABLES[part]}"
    return decimal_name(tick, meter)


def decimal_name(tick: int, meter: Meter) -> str:
    """The position counted in decimals: 2.75. At most four places, exact where that is enough."""
    return f"{1 + tick / meter.unit_ticks:.4f}".rstrip("0").rstrip(".")


def all_names(position_ticks: int, meter: Meter, grid: int) -> list[str]:
    """Every name of a spot, the counted one first."""
    spot = spot_at(position_ticks, meter)
    beat, rest = divmod(spot.tick, meter.unit_ticks)
    part = Fraction(rest, meter.unit_ticks)
    names = [count_name(spot.tick, meter)]
    if part in SYLLABLES:
        names.append(f"the {SYLLABLES[part]} of {beat + 1}")
    names.append(decimal_name(spot.tick, meter))
    step, off = divmod(spot.tick, step_ticks(grid))
    if not off:
        names.append(f"step {step + 1}")
    names.append(f"bar {spot.bar}")
    return list(dict.fromkeys(names))


_PATTERNS = (
    re.compile(r"(?:the\s+)?(?P<syllable>e|&|and|\+|a|ah|trip|let)\s+of\s+(?P<beat>\d+)"),
    re.compile(r"step\s+(?P<step>\d+)"),
    re.compile(r"(?P<beat>\d+)\s*(?P<syllable>e|&|and|\+|a|ah|trip|let)"),
    re.compile(r"(?P<beat>\d+)(?:\.(?P<decimals>\d{1,6}))?"),
)


def parse_spot(text: str, meter: Meter, grid: int = 16, *, bar: int = 1) -> Spot:
    """Read any of the names; "bar 3 2a" names the bar too, else `bar` holds.

    Raises
    ------
    InputError
        Where the words name no spot, or one outside the bar.
    """
    words = " ".join(text.lower().split())
    named_bar = re.match(r"bar\s+(\d+)[\s,:]*", words)
    if named_bar:
        bar, words = int(named_bar[1]), words[named_bar.end() :]
        words = words or "1"
    for pattern in _PATTERNS:
        found = pattern.fullmatch(words)
        if found:
            return _checked(Spot(bar, _tick(found.groupdict(), meter, grid)), meter, text)
    raise InputError(f"'{text}' names no spot: write it like 2a, the & of 3, 2.75, step 8 or bar 3 step 11.")


def _tick(parts: dict[str, str | None], meter: Meter, grid: int) -> int:
    if step := parts.get("step"):
        return (int(step) - 1) * step_ticks(grid)
    tick = (int(parts["beat"] or 1) - 1) * meter.unit_ticks
    if syllable := parts.get("syllable"):
        return tick + int(_SYLLABLE_WORDS[syllable] * meter.unit_ticks)
    if decimals := parts.get("decimals"):
        return tick + round(Fraction(int(decimals), 10 ** len(decimals)) * meter.unit_ticks)
    return tick


def _checked(spot: Spot, meter: Meter, text: str) -> Spot:
    if spot.bar < 1 or not 0 <= spot.tick < meter.bar_ticks:
        raise InputError(f"'{text}' lies outside a bar of {meter}, which counts from 1 to {meter.numerator}.")
    return spot
