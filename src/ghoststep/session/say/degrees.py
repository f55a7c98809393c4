"""What "a bit", "louder" and "a lot" come to: a table with units, relative to tempo where that is what is heard.

A step of velocity below 3 and a shift below 4 ms are hardly heard as a difference; velocity 8 is about 2.5 dB on a
usual stroke, 12 ms what players call laid back (music-facts, dynamics and micro-timing).
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

from ghoststep.music.errors import InputError

DEGREES = ("tiny", "bit", "", "lot")
# By what is changed: how much a touch, a bit, plainly, and a lot come to.
_USUAL = {
    "velocity": (3.0, 5.0, 8.0, 20.0),  # steps of 127
    "late_ms": (4.0, 6.0, 12.0, 20.0),  # at 100 BPM; shorter where beats are
    "early_ms": (3.0, 5.0, 8.0, 14.0),
    "tempo_percent": (2.0, 3.0, 5.0, 15.0),
    "swing_percent": (2.0, 4.0, 6.0, 10.0),  # points of the first note's share
    "loose_ms": (1.0, 1.5, 3.0, 6.0),
    "pull_percent": (20.0, 30.0, 50.0, 80.0),
}


@dataclass(frozen=True)
class Degrees:
    """How much each degree of each kind of change is; what is not given has its usual size."""

    own: Mapping[str, tuple[float, float, float, float]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for name, row in self.own.items():
            if name not in _USUAL:
                raise InputError(f"'{name}' is no kind of change. There are: {', '.join(_USUAL)}.")
            if len(row) != len(DEGREES) or not all(0 < a <= b for a, b in zip(row, (*row[1:], row[-1]), strict=True)):
                raise InputError(f"{name}: give four amounts above 0 that grow: a touch, a bit, plainly, a lot.")
        object.__setattr__(self, "own", MappingProxyType(dict(self.own)))

    def of(self, kind: str, degree: str) -> float:
        """How much a degree ("tiny", "bit", "", "lot") of a change comes to, in the unit of its kind."""
        return self.own.get(kind, _USUAL[kind])[DEGREES.index(degree)]

    @classmethod
    def parse(cls, text: str) -> "Degrees":
        """Read lines such as "velocity 3 5 8 20"; empty lines and those with # at the start are passed over.

        Raises
        ------
        InputError
            Where a line is none.
        """
        rows: dict[str, tuple[float, float, float, float]] = {}
        for number, line in enumerate(text.splitlines(), 1):
            words = line.split("#")[0].split()
            if not words:
                continue
            try:
                a, b, c, d = (float(x) for x in words[1:])
            except ValueError as error:
                raise InputError(
                    f"Line {number}: write a kind of change and four amounts, as velocity 3 5 8 20."
                ) from error
            rows[words[0]] = (a, b, c, d)
        return cls(rows)

    @staticmethod
    def text() -> str:
        """The usual table, as it is read."""
        return "".join(f"{name} {' '.join(f'{x:g}' for x in row)}\n" for name, row in _USUAL.items())
