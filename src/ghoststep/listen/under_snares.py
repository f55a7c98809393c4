"""Pedal hats that are heard nowhere but under snares, in a recording with no other metal, are often the snare's wires.

A foot may close the hats on the backbeats and the hand leave them alone, so such hats are not ruled out. But nothing
else in the recording says that there is a hat at all, so they need better odds than where hats are heard by themselves.
"""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.one_metal import less_of_hats_with_snares
from ghoststep.listen.voicenet import NET_GROUPS, NO, Heard, chance_of, likeliest_voices, told_groups
from ghoststep.music.kit import VOICE_INDEX

_HAT, _SNARE, _CYMBALS = (NET_GROUPS.index(group) for group in ("hat", "snare", "cymbals"))
_PEDAL = VOICE_INDEX["hat_pedal"]
_TOGETHER_S = 0.030
_MOST_UNDER = 0.8  # from this share of the hats on they are heard under snares only
_BY_FOOT = 0.5  # share of them that sound as if the foot closed them; else a hand plays, whatever its snares hide
_OTHER_METAL = 0.25  # cymbals to a hat from which on a hand plays metal, and the foot may be under it
# Odds that such hats need, each, and those that have them on average: of thirteen recordings without hats twelve lie
# under .59, of fifteen with a foot twelve lie over it (docs/figures.md, ninth round).
_EACH, _ON_AVERAGE = 0.4, 0.59


def without_hats_only_under_snares(heard: Heard, moments_s: NDArray[np.float64], least: Mapping[str, float]) -> Heard:
    """What was heard, without hats that only snares speak for.

    Parameters
    ----------
    moments_s
        The candidates in seconds, ascending, shape (n,).
    least
        The odds (0 to 1) by group from which on a stroke is told.
    """
    believable = less_of_hats_with_snares(heard.group_odds)
    chance, told = chance_of(believable), told_groups(believable, least)
    hats = told[:, _HAT]
    under = hats & _near(moments_s, moments_s[told[:, _SNARE]])
    if not hats.any() or under.sum() < _MOST_UNDER * hats.sum() or told[:, _CYMBALS].sum() > _OTHER_METAL * hats.sum():
        return heard
    if (likeliest_voices(heard, "hat")[under] == _PEDAL).mean() < _BY_FOOT:
        return heard
    sure = under & (chance[:, _HAT] >= _EACH)
    believed = sure.any() and chance[sure, _HAT].mean() >= _ON_AVERAGE
    doubted = under & ~sure if believed else under
    odds = heard.group_odds.copy()
    odds[doubted, _HAT] = NO
    return replace(heard, group_odds=odds)


def _near(moments_s: NDArray[np.float64], others_s: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which moments have one of some ascending others within the same stroke, shape (n,)."""
    first, end = (np.searchsorted(others_s, moments_s + sign * _TOGETHER_S) for sign in (-1, 1))
    return np.asarray(end > first)
