"""Hats that sound as if the foot had closed them, and which of them it did close.

While a hand plays the hats, the foot holds them together and plays nothing of its own, but for closing an open hat. A
pedal among hats of the hand is therefore one of these; on a ride's side it is the foot's, where it is more than the
ride's own attack. Under a backbeat it is hardly heard at all, and is told by all of them together.
"""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.one_metal import less_of_hats_with_snares
from ghoststep.listen.voicenet import NET_GROUPS, NO, Heard, likeliest_voices, odds_of, told_groups
from ghoststep.music.kit import VOICE_INDEX, VOICES

_HAT, _CYMBALS, _SNARE = (NET_GROUPS.index(group) for group in ("hat", "cymbals", "snare"))
_PEDAL = VOICE_INDEX["hat_pedal"]
_OPEN = (VOICE_INDEX["hat_open"], VOICE_INDEX["hat_half"])
_AROUND_S, _FEWEST = 1.2, 2  # a hand plays hats there where it strikes so many so near; set on kept-back cases
# Odds that a foot needs there: of 49 below, 46 are nobody's, of 13 above four (docs/figures.md, tenth round).
_UNDER_CYMBAL = 0.4
# Log-odds of hats under the snares of a ride from which on a foot closes them on all of these, on average, and each.
# Of 61 recordings with a ride that adds 70 feet that are played and 19 that are not (docs/figures.md, twelfth round).
_ON_BACKBEATS, _AT_ONE, _FEWEST_BACKBEATS = -1.7, -2.5, 3


def with_hats_of_the_hand(heard: Heard, moments_s: NDArray[np.float64], least: Mapping[str, float]) -> Heard:
    """What was heard, with pedal hats among hats of the hand as the likeliest of these.

    Parameters
    ----------
    moments_s
        Candidates in s, ascending, shape (n,).
    least
        The odds (0 to 1) by group from which on a stroke is told.
    """
    told = told_groups(less_of_hats_with_snares(heard.group_odds), least)
    pedal = likeliest_voices(heard, "hat") == _PEDAL
    foot, hand = np.flatnonzero(told[:, _HAT] & pedal), np.flatnonzero(told[:, _HAT] & ~pedal)
    if not len(foot) or len(hand) < _FEWEST:
        return heard
    opened = np.isin(likeliest_voices(heard, "hat")[hand], _OPEN)
    at_s = moments_s[foot]
    hands, opens, rides = (_around(moments_s[which], at_s) for which in (hand, hand[opened], told[:, _CYMBALS]))
    before = np.searchsorted(moments_s[hand], at_s) - 1
    closes = (before >= 0) & opened[before] & (2 * opens <= hands)
    wrong = foot[(hands >= _FEWEST) & (hands > rides) & ~closes]
    odds = heard.voice_odds.copy()
    hats = [v for v, voice in enumerate(VOICES[: odds.shape[1]]) if voice.group == "hat"]
    odds[wrong, _PEDAL] = odds[np.ix_(wrong, np.array(hats))].min(axis=1) - 1
    return replace(heard, voice_odds=odds)


def without_doubtful_feet(heard: Heard, least: Mapping[str, float]) -> Heard:
    """What was heard, without pedal hats at poor odds under a cymbal that no snare sounds with.

    The attack of a ride, and of a kick beside it, has much of a hat that the foot closes. A snare masks the foot as
    well as it resembles it: with one, the odds of feet that are played are as poor as those of others.

    Parameters
    ----------
    least
        The odds (0 to 1) by group from which on a stroke is told.
    """
    told = told_groups(heard.group_odds, least)
    pedal = told[:, _HAT] & (likeliest_voices(heard, "hat") == _PEDAL)
    doubtful = pedal & told[:, _CYMBALS] & ~told[:, _SNARE] & (heard.group_odds[:, _HAT] < odds_of(_UNDER_CYMBAL))
    odds = heard.group_odds.copy()
    odds[doubtful, _HAT] = NO
    return replace(heard, group_odds=odds)


def with_feet_under_backbeats(heard: Heard, least: Mapping[str, float]) -> Heard:
    """What was heard, with pedal hats at even odds under the snares of a ride, where these together speak for them.

    Feet close the hats on the backbeats throughout or not at all. A snare beside a ride hides them, so that each has
    poor odds, but on average those with a foot have better ones than those without.

    Parameters
    ----------
    least
        The odds (0 to 1) by group from which on a stroke is told.
    """
    told = told_groups(less_of_hats_with_snares(heard.group_odds), least)
    ridden = told[:, _SNARE] & told[:, _CYMBALS]
    if ridden.sum() < _FEWEST_BACKBEATS or told[:, _HAT].sum() > told[:, _CYMBALS].sum():
        return heard
    hats = heard.group_odds[:, _HAT]
    if hats[ridden].mean() < _ON_BACKBEATS:
        return heard
    foot = ridden & (likeliest_voices(heard, "hat") == _PEDAL) & (hats >= _AT_ONE)
    odds = heard.group_odds.copy()
    odds[foot, _HAT] = np.maximum(odds[foot, _HAT], 0)
    return replace(heard, group_odds=odds)


def _around(these_s: NDArray[np.float64], moments_s: NDArray[np.float64]) -> NDArray[np.int64]:
    """How many of some ascending moments lie near each of others; shape (n,)."""
    return np.searchsorted(these_s, moments_s + _AROUND_S) - np.searchsorted(these_s, moments_s - _AROUND_S)
