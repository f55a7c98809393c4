"""A stick meets one piece of metal: where hats and cymbals are heard at the same strokes, one of the two is wrong.

A ring of an open hat is much like that of a ride, so that on some kits both are told at every stroke. A foot may close
the hats under some strokes of a ride, seldom under most of them; two sticks on two metals at once are rarer still.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.strokes.evidence import CYMBALS, HAT, Evidence, Shift
from ghoststep.listen.strokes.limits import TAKEN_BACK
from ghoststep.listen.strokes.network import odds_of
from ghoststep.listen.strokes.rules.rule import Idea, Rule
from ghoststep.music.kit import VOICE_INDEX

_CRASHES = (VOICE_INDEX["crash"], VOICE_INDEX["splash"])
CYMBALS_SURER = 2.7  # by so much in log-odds: hats are far commoner, and are struck from lower odds on
# Log-odds of a crash, and by how much they are better than those of a hat; so many crashes are few.
_SURE_CRASH, _SURE_NO_HAT = 2.0, 2.5
_MOST_CRASHES, _CRASH_SHARE = 2, 0.12


def lone_crashes(e: Evidence) -> NDArray[np.bool_]:
    """Which candidates are crashes or splashes beyond doubt, of which there are but a few; shape (n,).

    Where many strokes are told as crashes, the metal that is ridden on is meant, and none counts as one.
    """
    odds = e.heard.group_odds
    surer = odds[:, CYMBALS] - odds[:, HAT]
    told = np.isin(e.cymbal_voice, _CRASHES) & (odds[:, CYMBALS] >= 0) & (surer >= 0)
    metal = odds[:, (HAT, CYMBALS)].max(axis=1) > 0
    if told.sum() > max(_MOST_CRASHES, _CRASH_SHARE * metal.sum()):
        return np.zeros(len(odds), bool)
    return np.asarray(told & (odds[:, CYMBALS] >= _SURE_CRASH) & (surer >= _SURE_NO_HAT))


@dataclass(frozen=True)
class OneMetal(Rule):
    """Either hat or cymbal where both are told, or offered, of the same strokes.

    Hats closed by the foot under a part of a cymbal's strokes are left alone: they stand out from the others. Crashes,
    as they were before strokes that sound alike were made alike, are judged each for itself.

    A whole part is a ride's where that is surer than an open hat by `ride_surer`, on average over its cymbals: of 119
    parts on 30 sets the fewest strokes come out wrong so, by whichever networks.
    """

    name = "one metal"
    why = "A stick meets one piece of metal, so hat and cymbal at the same strokes are one of the two."
    idea = Idea.EXPLAINED
    once = False
    ride_surer: float = 2.2  # log-odds
    under_most: float = 0.5  # a foot closes the hats under fewer of a cymbal's strokes,
    even: float = 0.9  # and then their log-odds differ by more
    fewest: int = 3

    def shift(self, e: Evidence) -> Shift:
        odds, heard = e.odds_beside_snares, e.heard
        lone = lone_crashes(e.before("metal alike"))
        surer = odds[:, CYMBALS] - odds[:, HAT]
        groups = e.no_groups()
        crashes = lone & (surer >= CYMBALS_SURER)
        told = heard.group_odds.astype(np.float64)
        groups[crashes, HAT] = TAKEN_BACK - told[crashes, HAT]
        cymbal = ~lone & (odds[:, CYMBALS] >= odds_of(e.offered["cymbals"]))
        both = cymbal & (odds[:, HAT] >= odds_of(e.offered["hat"]))
        if both.sum() < max(self.fewest, self.under_most * cymbal.sum()) or odds[cymbal, HAT].std() > self.even:
            both &= e.hat_voice != VOICE_INDEX["hat_pedal"]
        if both.sum() >= self.fewest:
            ride, open_hat = (heard.voice_odds[cymbal, VOICE_INDEX[name]].mean() for name in ("ride", "hat_open"))
            one, other = (CYMBALS, HAT) if ride - open_hat >= self.ride_surer else (HAT, CYMBALS)
            groups[both, one] = _of_either(told[both]) - told[both, one]
            groups[both, other] = TAKEN_BACK - told[both, other]
        return Shift(groups=groups)


def _of_either(odds: NDArray[np.float64]) -> NDArray[np.float64]:
    """Log-odds that hat or cymbal is struck; finite however sure both are."""
    return np.asarray(np.log(np.expm1(np.logaddexp(0, odds[:, (HAT, CYMBALS)]).sum(axis=1))))
