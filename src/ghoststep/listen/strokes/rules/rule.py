"""What a rule of listening is: a name, a reason, the idea it stands under, its numbers, and what it adds."""

from abc import ABC, abstractmethod
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import ClassVar

from ghoststep.listen.strokes.evidence import Evidence, Shift


class Idea(StrEnum):
    """What all rules come down to."""

    ALIKE = "sounds that are alike are one instrument"
    EXPLAINED = "explained by another sound"
    REPEATS = "what repeats is likelier"
    EDGES = "the edges of the file"


@dataclass(frozen=True)
class Rule(ABC):
    """The fields of a rule are its numbers, with their units in their names.

    once: whether it adds nothing where it is heard a second time in a row.
    """

    name: ClassVar[str]
    why: ClassVar[str]
    idea: ClassVar[Idea]
    once: ClassVar[bool] = True

    @abstractmethod
    def shift(self, e: Evidence) -> Shift:
        """What the rule adds to what is heard."""


def after(rules: Sequence[Rule], evidence: Evidence, *, off: Collection[str] = ()) -> Evidence:
    """The evidence once each rule in turn was heard, but for those that are off, by their names."""
    for rule in rules:
        evidence = evidence.moved(rule.shift(evidence) if rule.name not in off else Shift(), rule.name)
    return evidence
