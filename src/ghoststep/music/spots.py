"""Spots in a bar and the names people give them.

The same spot is "2a", "the a of 2", "2.75", "step 8" and "bar 1 step 8". All are printed and read.
Beats are counted in denominator notes: in 7/8 one counts to seven.
"""

import re
from fractions import Fraction

from ghoststep.music.errors import InputError
from ghoststep.music.frame import Bars, Spot
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
_FINEST_COUNTED = 24  # parts of a counted note that people name as fractions


def count_name(tick: int, meter: Meter) -> str:
    """The counted name of a position in the bar: "2", "2a", "3let", "2.125" where no syllable exists, or "2+1/6"."""
    beat, rest = divmod(tick, meter.unit_ticks)
    if not rest:
        return f"{beat + 1}"
    part = Fraction(rest, meter.unit_ticks)
    if part in SYLLABLES:
        return f"{beat + 1}{SYLLABLES[part]}"
    # Decimals of a sixth or a seventh would be cut; of an odd tick its fraction says nothing.
    return exact_name(tick, meter) if part.denominator <= _FINEST_COUNTED else decimal_name(tick, meter)


def decimal_name(tick: int, meter: Meter) -> str:
    """The position counted in decimals: 2.75. At most four places, exact where that is enough."""
    return f"{1 + tick / meter.unit_ticks:.4f}".rstrip("0").rstrip(".")


def name_at(position_ticks: int, bars: Bars) -> str:
    """The counted name of a position in its bar."""
    return count_name(bars.spot_at(position_ticks).tick, bars.meter_at(position_ticks))


def all_names(position_ticks: int, bars: Bars, grid: int) -> list[str]:
    """Every name of a spot, the counted one first."""
    spot, meter = bars.spot_at(position_ticks), bars.meter_at(position_ticks)
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
    re.compile(r"(?:the\s+)?(?P<syllable>e|&|and|\+|a|ah|trip|let)\s+of\s+(?P<beat>\d{1,6})"),
    re.compile(r"step\s+(?P<step>\d{1,6})"),
    re.compile(r"(?P<beat>\d{1,6})\s*(?P<syllable>e|&|and|\+|a|ah|trip|let)"),
    re.compile(r"(?P<beat>\d{1,6})(?:\.(?P<decimals>\d{1,6}))?"),
    re.compile(r"(?P<beat>\d{1,6})\s*\+\s*(?P<over>\d{1,6})/(?P<under>\d{1,6})"),
)


def parse_spot(text: str, bars: Bars, grid: int = 16, *, bar: int = 1) -> Spot:
    """Read any of the names; "bar 3 2a" names the bar too, else `bar` holds.

    Raises
    ------
    InputError
        Where the words name no spot, or one outside the bar.
    """
    words = " ".join(text.lower().split())
    named_bar = re.match(r"bar\s+(\d{1,6})[\s,:]*", words)
    if named_bar:
        bar, words = int(named_bar[1]), words[named_bar.end() :]
        words = words or "1"
    for pattern in _PATTERNS:
        found = pattern.fullmatch(words)
        if found:
            return _checked(bar, found.groupdict(), bars, grid, text)
    raise InputError(f"'{text}' names no spot: write it like 2a, the & of 3, 2.75, step 8 or bar 3 step 11.")


def _tick(parts: dict[str, str | None], meter: Meter, grid: int) -> int:
    if step := parts.get("step"):
        return (int(step) - 1) * step_ticks(grid)
    tick = (int(parts["beat"] or 1) - 1) * meter.unit_ticks
    if syllable := parts.get("syllable"):
        share = _SYLLABLE_WORDS[syllable]
        if syllable in ("a", "ah") and grid % 3 == 0:  # on a triplet grid many call the last third "a": 2 a 3
            share = Fraction(2, 3)
        return tick + int(share * meter.unit_ticks)
    if decimals := parts.get("decimals"):
        return tick + round(Fraction(int(decimals), 10 ** len(decimals)) * meter.unit_ticks)
    if over := parts.get("over"):
        return tick + (round(Fraction(int(over), int(parts["under"] or 1)) * meter.unit_ticks))
    return tick


def _checked(bar: int, parts: dict[str, str | None], bars: Bars, grid: int, text: str) -> Spot:
    if parts.get("under") and not int(parts["under"] or 0):
        raise InputError(f"'{text}' names no spot: nothing is divided by 0.")
    meter = bars.meter_of(bar) if bar >= 1 else bars.first
    tick = _tick(parts, meter, grid)
    if bar < 1 or not 0 <= tick < meter.bar_ticks:
        raise InputError(f"'{text}' lies outside a bar of {meter}, which counts from 1 to {meter.numerator}.")
    return Spot(bar, tick)


def exact_name(tick: int, meter: Meter) -> str:
    """A name of a position in the bar that reads back as exactly it: "2.75", else as a fraction, "3+5/7"."""
    beat, rest = divmod(tick, meter.unit_ticks)
    share = Fraction(rest, meter.unit_ticks)
    if not rest:
        return f"{beat + 1}"
    if 10**4 % share.denominator == 0:
        return decimal_name(tick, meter)
    return f"{beat + 1}+{share}"
