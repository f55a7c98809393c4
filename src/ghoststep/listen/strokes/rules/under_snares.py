"""Pedal hats that are heard nowhere but under snares, in a recording with no other metal, are often the snare's wires.

A foot may close the hats on the backbeats and the hand leave them alone, so such hats are not ruled out. But nothing
else in the recording says that there is a hat at all, so they need better odds than where hats are heard by themselves.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.strokes.evidence import CYMBALS, HAT, NOTHING, SNARE, Evidence, Shift
from ghoststep.listen.strokes.network import probability_of
from ghoststep.listen.strokes.rules.rule import Idea, Rule
from ghoststep.music.kit import VOICE_INDEX


@dataclass(frozen=True)
class OnlyUnderSnares(Rule):
    """No pedal hats that only snares speak for, unless they are surer: of thirteen recordings without hats twelve lie
    under .59, of fifteen with a foot twelve lie over it."""

    name = "only under snares"
    why = "Hats that are heard under snares only are often the snare's wires."
    idea = Idea.EXPLAINED
    together_s: float = 0.030
    most_under: float = 0.8  # from this share of the hats on they are heard under snares only
    by_foot: float = 0.5  # share that sounds as if the foot closed them; else a hand plays, whatever its snares hide
    other_metal: float = 0.25  # cymbals to a hat from which on a hand plays metal, and the foot may be under it
    each: float = 0.4  # probability
    on_average: float = 0.59  # probability

    def shift(self, e: Evidence) -> Shift:
        told, probability = e.told_beside_snares, probability_of(e.odds_beside_snares)[:, HAT]
        hats = told[:, HAT]
        under = hats & self._near(e.moments_s, e.moments_s[told[:, SNARE]])
        if not hats.any() or under.sum() < self.most_under * hats.sum():
            return NOTHING
        if told[:, CYMBALS].sum() > self.other_metal * hats.sum():
            return NOTHING
        if (e.hat_voice[under] == VOICE_INDEX["hat_pedal"]).mean() < self.by_foot:
            return NOTHING
        sure = under & (probability >= self.each)
        believed = sure.any() and probability[sure].mean() >= self.on_average
        where = np.zeros_like(told)
        where[:, HAT] = under & ~sure if believed else under
        return e.taken_back(where)

    def _near(self, moments_s: NDArray[np.float64], others_s: NDArray[np.float64]) -> NDArray[np.bool_]:
        """Which moments have one of some ascending others within the same stroke, shape (n,)."""
        first, end = (np.searchsorted(others_s, moments_s + sign * self.together_s) for sign in (-1, 1))
        return np.asarray(end > first)
