"""What a sentence is said to, and what it was taken for: readings in exact phrases, tried on the groove."""

from dataclasses import dataclass, field

from ghoststep.music.pattern import Hit, Pattern
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.say.clause import Clause
from ghoststep.session.say.degrees import Degrees
from ghoststep.session.say.selecting import Thing, Where


@dataclass(frozen=True)
class Reading:
    """What may be meant: in words, and in phrases of the exact language. likely: against other readings of the same
    words, 1 is plain."""

    about: str
    phrases: tuple[str, ...]
    likely: float = 1.0


class MissingError(Exception):
    """What was named is not there; the words say what, for people."""


class AlreadyError(MissingError):
    """What was asked is so already."""


@dataclass
class Sense:
    """The groove, where the user stands, how much a degree is, and what was said before."""

    context: EditContext
    degrees: Degrees = field(default_factory=Degrees)
    before: tuple[Clause, ...] = ()
    within: frozenset[int] = frozenset()  # bars that are meant where none are named

    def __post_init__(self) -> None:
        self.where = Where(self.context.document.groove.pattern, self.context.bar, self.within)

    @property
    def pattern(self) -> Pattern:
        return self.where.pattern

    def hits(self, thing: Thing, words: str = "") -> list[Hit]:
        """The hits a thing means; `MissingError` where there are none."""
        self.check(thing)
        found = self.where.hits(thing)
        if not found:
            raise MissingError(f"There is no {words or 'such stroke'} in this groove.")
        return found

    def check(self, thing: Thing) -> None:
        """`MissingError` where a bar or a beat that was named is not there."""
        missing = self.where.missing(thing.bars)
        if missing:
            raise MissingError(f"There is no bar {missing[0]}: this groove has {self.pattern.bars}.")
        if thing.spots is not None:
            self.where_spots(thing)

    def where_spots(self, thing: Thing) -> dict[int, set[int]]:
        """The places of a thing's spots by bar; `MissingError` where no bar that is meant has them."""
        assert thing.spots is not None
        found = self.where.places(thing.spots, thing.bars, thing.stretch)
        for spot in thing.spots.all:
            if spot.kind == "beat" and not any(
                spot.ticks(self.where.meter(bar))
                for bar in self.where.bars(thing.bars)
                if 1 <= bar <= self.pattern.bars
            ):
                raise MissingError(f"No bar that is meant has a beat {spot.number}.")
        if not found:
            raise MissingError("No bar that is meant has such a spot.")
        return found
