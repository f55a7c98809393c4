"""What begins with the recording itself: noise that was cut there begins like a soft stroke."""

from dataclasses import dataclass

import numpy as np

from ghoststep.listen.strokes.evidence import NOTHING, Evidence, Shift
from ghoststep.listen.strokes.rules.rule import Idea, Rule


@dataclass(frozen=True)
class Beginning(Rule):
    """All within the first milliseconds is less sure. A recording that is cut at a stroke begins with a surer one."""

    name = "beginning"
    why = "Noise that is cut where the file begins looks like a soft stroke."
    idea = Idea.EDGES
    once = False
    first_s: float = 0.005
    less_sure: float = 1.5  # log-odds

    def shift(self, e: Evidence) -> Shift:
        first = int(np.searchsorted(e.moments_s, self.first_s))
        if not first:
            return NOTHING
        groups = e.no_groups()
        groups[:first] = -self.less_sure
        return Shift(groups=groups)


@dataclass(frozen=True)
class OnlyExpected(Rule):
    """Over this the network heard 26 of 28 strokes of metal at such candidates, and three where there were none; by
    what is enough elsewhere all of them, and fourteen."""

    name = "only expected"
    why = "Where nothing seemed to begin and only other bars speak for a stroke, it has to be surer."
    idea = Idea.REPEATS
    once = False
    less_sure: float = 1.4  # log-odds

    def shift(self, e: Evidence) -> Shift:
        if e.expected is None or not e.expected.any():
            return NOTHING
        groups = e.no_groups()
        groups[e.expected] = -self.less_sure
        return Shift(groups=groups)
