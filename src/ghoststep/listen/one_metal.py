"""A stick meets one piece of metal: where hats and cymbals are heard at the same strokes, one of the two is wrong.

A ring of an open hat is much like that of a ride, so that on some kits both are told at every stroke. A foot may close
the hats under some strokes of a ride, seldom under most of them; two sticks on two metals at once are rarer still.
"""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.voicenet import NET_GROUPS, NO, Heard, likeliest_voices, odds_of
from ghoststep.music.kit import VOICE_INDEX

_HAT, _CYMBALS, _SNARE = (NET_GROUPS.index(g) for g in ("hat", "cymbals", "snare"))
_CRASHES = (VOICE_INDEX["crash"], VOICE_INDEX["splash"])
# Set on kits as they are and on remade ones (docs/figures.md, fourth round's sets).
_WITH_SNARE = 0.77  # log-odds that a hat needs more where a snare is struck: odds of .35 instead of .2
CYMBALS_SURER = 2.7  # by so much in log-odds: hats are far commoner, and are struck from lower odds on
# A whole part is a ride's where that is surer than an open hat by so much in log-odds, on average over its cymbals: of
# 119 parts on 30 sets the fewest strokes come out wrong so, by whichever networks (docs/figures.md, fourteenth round).
_RIDE_SURER = 2.2
# A foot closes the hats under fewer of a cymbal's strokes, and then their odds differ by more, in log-odds.
_UNDER_MOST, _EVEN = 0.5, 0.9
_FEWEST = 3
# Log-odds of a crash, and by how much they are better than those of a hat; so many crashes are few.
_SURE_CRASH, _SURE_NO_HAT = 2.0, 2.5
_MOST_CRASHES, _CRASH_SHARE = 2, 0.12


def less_of_hats_with_snares(odds: NDArray[np.float32]) -> NDArray[np.float32]:
    """Log-odds of NET_GROUPS, shape (n, groups), with those of hats lowered where a snare is likelier than not.

    A snare has much of what a hat has: beside one a hat needs better odds.
    """
    out = odds.copy()
    out[odds[:, _SNARE] > 0, _HAT] -= _WITH_SNARE
    return out


def lone_crashes(heard: Heard) -> NDArray[np.bool_]:
    """Which candidates are crashes or splashes beyond doubt, of which there are but a few; shape (n,).

    Where many strokes are told as crashes, the metal that is ridden on is meant, and none counts as one.
    """
    odds = heard.group_odds
    surer = odds[:, _CYMBALS] - odds[:, _HAT]
    told = np.isin(likeliest_voices(heard, "cymbals"), _CRASHES) & (odds[:, _CYMBALS] >= 0) & (surer >= 0)
    metal = odds[:, (_HAT, _CYMBALS)].max(axis=1) > 0
    if told.sum() > max(_MOST_CRASHES, _CRASH_SHARE * metal.sum()):
        return np.zeros(len(odds), bool)
    return np.asarray(told & (odds[:, _CYMBALS] >= _SURE_CRASH) & (surer >= _SURE_NO_HAT))


def of_one_metal(heard: Heard, least: Mapping[str, float], lone: NDArray[np.bool_]) -> Heard:
    """What is heard, with either hat or cymbal where both are told of the same strokes.

    Hats closed by the foot under a part of a cymbal's strokes are left alone: they stand out from the others.

    Parameters
    ----------
    least
        The odds (0 to 1) by group from which on a stroke is told or offered.
    lone
        Which candidates are crashes, as `lone_crashes` tells them, shape (n,); each is judged for itself.
    """
    odds = less_of_hats_with_snares(heard.group_odds)
    surer = odds[:, _CYMBALS] - odds[:, _HAT]
    groups = heard.group_odds.copy()
    groups[lone & (surer >= CYMBALS_SURER), _HAT] = NO
    cymbal = ~lone & (odds[:, _CYMBALS] >= odds_of(least["cymbals"]))
    both = cymbal & (odds[:, _HAT] >= odds_of(least["hat"]))
    if both.sum() < max(_FEWEST, _UNDER_MOST * cymbal.sum()) or odds[cymbal, _HAT].std() > _EVEN:
        both &= likeliest_voices(heard, "hat") != VOICE_INDEX["hat_pedal"]
    if both.sum() >= _FEWEST:
        ride, open_hat = (heard.voice_odds[cymbal, VOICE_INDEX[name]].mean() for name in ("ride", "hat_open"))
        one, other = (_CYMBALS, _HAT) if ride - open_hat >= _RIDE_SURER else (_HAT, _CYMBALS)
        groups[both, one] = _of_either(heard.group_odds[both])
        groups[both, other] = NO
    return replace(heard, group_odds=groups)


def _of_either(odds: NDArray[np.float32]) -> NDArray[np.float64]:
    """Log-odds that hat or cymbal is struck; finite however sure both are."""
    return np.asarray(np.log(np.expm1(np.logaddexp(0, odds[:, (_HAT, _CYMBALS)].astype(float)).sum(axis=1))))
