"""What a sentence is made of, in its order: drums, roles, spots, bars, acts, comparisons, amounts, relations."""

from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Item:
    """One thing that was said. first, last: of the words it was said with (last is not in it)."""

    kind: str
    value: Any
    first: int
    last: int

    @property
    def content(self) -> bool:
        """Whether it says something by itself."""
        return self.kind not in ("filler", "sep")


@dataclass(frozen=True)
class Amount:
    """A number with its unit: "ms", "dB", "%", "bpm", "velocity" or "" where none was said. sign: -1 where it was."""

    value: float
    unit: str = ""
    sign: int = 0
