"""A recording of one drum alone: where all strokes sound alike, all of them are the same drum.

The network has heard whole kits only. On a track of hats it tells a snare under most of them, on one of kicks hats. Two
drums of a kit never sound as nearly alike as two strokes of one, however hard each is struck.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.patches import BANDS
from ghoststep.listen.strokes.evidence import CYMBALS, HAT, NOTHING, Evidence, Shift
from ghoststep.listen.strokes.own_strokes import FINE
from ghoststep.listen.strokes.rules.rule import Idea, Rule

_MOMENTS = slice(3, 14)  # what is compared of each stroke: from just before it to some 150 ms after


@dataclass(frozen=True)
class OneDrum(Rule):
    """No group but the likeliest where all strokes that are told sound alike.

    Hats and cymbals both stay where one of them is: the rule "one metal" tells which it is. How far three in four
    strokes, and nine in ten, are from the usual one, is in units of a patch: tracks of one drum lie under .11 and .165,
    recordings of kits over .137 and .195.
    """

    name = "one drum"
    why = "Where all strokes of a recording sound alike, all are one drum."
    idea = Idea.ALIKE
    fewest: int = 6
    most_compared: int = 400
    three_in_four_within: float = 0.12
    nine_in_ten_within: float = 0.175
    surest: float = 6.0  # log-odds from which on a stroke counts no more

    def shift(self, e: Evidence) -> Shift:
        told = np.flatnonzero(e.told.any(axis=1))
        if len(told) < self.fewest or not self._alike(e.heard.fine[told[:: -(-len(told) // self.most_compared)]]):
            return NOTHING
        # The group that is told most often, of those told alike the surest.
        sure = np.clip(e.heard.group_odds[told], -self.surest, self.surest).mean(axis=0) / (4 * self.surest)
        likeliest = int(np.argmax(e.told.sum(axis=0) + sure))
        kept = [HAT, CYMBALS] if likeliest in (HAT, CYMBALS) else [likeliest]
        where = np.ones_like(e.told)
        where[:, kept] = False
        return e.taken_back(where)

    def _alike(self, fine: NDArray[np.float16]) -> bool:
        """Whether strokes have one colour and decay, whatever their level."""
        sounds = fine.astype(np.float32).reshape(len(fine), FINE // BANDS, BANDS)[:, _MOMENTS].reshape(len(fine), -1)
        sounds -= sounds.mean(axis=1, keepdims=True)
        away = np.sqrt(np.square(sounds - np.median(sounds, axis=0)).mean(axis=1))
        most, nearly_all = np.percentile(away, [75, 90])
        return bool(most < self.three_in_four_within and nearly_all < self.nine_in_ten_within)
