"""Meters with their grouping: 4/4, 12/8, 7/8 as 2+2+3, 11/4 as 4+4+3."""

import re
from dataclasses import dataclass
from itertools import accumulate

from ghoststep.music.errors import InputError
from ghoststep.music.time import TICKS_PER_WHOLE


def _usual_groups(numerator: int, denominator: int) -> tuple[int, ...]:
    """The grouping people mean when they name none: threes in compound time, else twos with a last three."""
    if denominator >= 8 and numerator % 3 == 0:
        return (3,) * (numerator // 3)
    if denominator < 8 or numerator < 4:
        return (1,) * numerator
    return (2,) * (numerator // 2 - numerator % 2) + ((3,) if numerator % 2 else ())


@dataclass(frozen=True)
class Meter:
    """A meter. `groups` count denominators and sum to the numerator; () takes the usual grouping."""

    numerator: int = 4
    denominator: int = 4
    groups: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if not 1 <= self.numerator <= 64:
            raise InputError(f"A meter of {self.numerator}/{self.denominator} does not fit: 1 to 64 on top.")
        if self.denominator not in (1, 2, 4, 8, 16, 32):
            raise InputError(
                f"A meter of {self.numerator}/{self.denominator} does not fit:"
                " the lower number is 1, 2, 4, 8, 16 or 32."
            )
        if not self.groups:
            object.__setattr__(self, "groups", _usual_groups(self.numerator, self.denominator))
        if any(g < 1 for g in self.groups) or sum(self.groups) != self.numerator:
            shown = "+".join(map(str, self.groups))
            raise InputError(
                f"The grouping {shown} does not fit {self.numerator}/{self.denominator}:"
                f" it has to add up to {self.numerator}."
            )

    @classmethod
    def parse(cls, text: str) -> "Meter":
        """Read "4/4", "7/8 2+2+3" or "11/4 (4+4+3)".

        Raises
        ------
        InputError
            Where it is no meter.
        """
        found = re.fullmatch(r"\s*(\d{1,3})\s*/\s*(\d{1,3})(?:\s+\(?(\d+(?:\s*\+\s*\d+)*)\)?)?\s*", text)
        if not found:
            raise InputError(f"'{text.strip()}' is not a meter: write it like 4/4 or 7/8 2+2+3.")
        groups = tuple(int(g) for g in found[3].split("+")) if found[3] else ()
        return cls(int(found[1]), int(found[2]), groups)

    def __str__(self) -> str:
        return f"{self.numerator}/{self.denominator}"

    @property
    def full_name(self) -> str:
        """With its grouping where that is not the usual one for the meter."""
        if self.groups == _usual_groups(self.numerator, self.denominator) and self.denominator < 8:
            return str(self)
        return f"{self} {'+'.join(map(str, self.groups))}" if len(self.groups) > 1 else str(self)

    @property
    def unit_ticks(self) -> int:
        """Ticks of one denominator note."""
        return TICKS_PER_WHOLE // self.denominator

    @property
    def bar_ticks(self) -> int:
        return self.numerator * self.unit_ticks

    @property
    def group_starts(self) -> tuple[int, ...]:
        """Ticks from the bar line at which the groups start; the pulses people tap."""
        return tuple(s * self.unit_ticks for s in accumulate((0, *self.groups[:-1])))
