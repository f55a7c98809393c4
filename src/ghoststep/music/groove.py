"""A pattern with the feel and the tempo it is played in."""

from dataclasses import dataclass, field, replace
from typing import Any

from ghoststep.music.feel import Feel
from ghoststep.music.pattern import Pattern
from ghoststep.music.time import TempoMap


@dataclass(frozen=True)
class Groove:
    """`feels`: (bar, feel) from which another feel holds, in order; sections of a form have them."""

    pattern: Pattern = field(default_factory=Pattern)
    feel: Feel = field(default_factory=Feel)
    tempo: TempoMap = field(default_factory=TempoMap)
    name: str = ""
    feels: tuple[tuple[int, Feel], ...] = ()

    @property
    def length_s(self) -> float:
        return float(self.tempo.seconds(self.pattern.length_ticks))

    def changed(self, **fields: Any) -> "Groove":
        """A copy with other fields, where fields of the pattern may be named directly."""
        own = {k: v for k, v in fields.items() if k in ("pattern", "feel", "tempo", "name", "feels")}
        inner = {k: v for k, v in fields.items() if k not in own}
        groove = replace(self, **own)
        return replace(groove, pattern=replace(groove.pattern, **inner)) if inner else groove
