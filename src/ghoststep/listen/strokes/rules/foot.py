"""Hats that sound as if the foot had closed them, and which of them it did close.

While a hand plays the hats, the foot holds them together and plays nothing of its own, but for closing an open hat. A
pedal among hats of the hand is therefore one of these; on a ride's side it is the foot's, where it is more than the
ride's own attack. Under a backbeat it is hardly heard at all, and is told by all of them together.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.strokes.evidence import CYMBALS, HAT, NOTHING, SNARE, Evidence, Shift
from ghoststep.listen.strokes.network import odds_of
from ghoststep.listen.strokes.rules.rule import Idea, Rule
from ghoststep.music.kit import VOICE_INDEX, VOICES

_PEDAL = VOICE_INDEX["hat_pedal"]
_OPEN = (VOICE_INDEX["hat_open"], VOICE_INDEX["hat_half"])


@dataclass(frozen=True)
class HatsOfTheHand(Rule):
    """Pedal hats among hats of the hand are the likeliest of these; set on kept-back cases."""

    name = "hats of the hand"
    why = "While a hand plays the hats, the foot plays nothing but the closing of an open one."
    idea = Idea.EXPLAINED
    around_s: float = 1.2
    fewest: int = 2  # hats so near, for a hand to play there

    def shift(self, e: Evidence) -> Shift:
        told, pedal = e.told_beside_snares, e.hat_voice == _PEDAL
        foot, hand = np.flatnonzero(told[:, HAT] & pedal), np.flatnonzero(told[:, HAT] & ~pedal)
        if not len(foot) or len(hand) < self.fewest:
            return NOTHING
        opened = np.isin(e.hat_voice[hand], _OPEN)
        at_s = e.moments_s[foot]
        near = (self._around(e.moments_s[which], at_s) for which in (hand, hand[opened], told[:, CYMBALS]))
        hands, opens, rides = near
        before = np.searchsorted(e.moments_s[hand], at_s) - 1
        closes = (before >= 0) & opened[before] & (2 * opens <= hands)
        wrong = foot[(hands >= self.fewest) & (hands > rides) & ~closes]
        voices = e.no_voices()
        hats = [v for v, voice in enumerate(VOICES[: voices.shape[1]]) if voice.group == "hat"]
        odds = e.heard.voice_odds[wrong].astype(np.float64)
        voices[wrong, _PEDAL] = odds[:, hats].min(axis=1) - 1 - odds[:, _PEDAL]
        return Shift(voices=voices)

    def _around(self, these_s: NDArray[np.float64], moments_s: NDArray[np.float64]) -> NDArray[np.int64]:
        """How many of some ascending moments lie near each of others; shape (n,)."""
        ends = (np.searchsorted(these_s, moments_s + side * self.around_s) for side in (-1, 1))
        first, end = ends
        return np.asarray(end - first)


@dataclass(frozen=True)
class DoubtfulFeet(Rule):
    """No pedal hats at poor odds under a cymbal that no snare sounds with.

    A snare masks the foot as well as it resembles it: with one, the odds of feet that are played are as poor as those
    of others. Of 49 feet below the limit 46 are nobody's, of 13 above four.
    """

    name = "doubtful feet"
    why = "The attack of a ride, and of a kick beside it, has much of a hat that the foot closes."
    idea = Idea.EXPLAINED
    least: float = 0.4  # probability

    def shift(self, e: Evidence) -> Shift:
        doubtful = e.told[:, HAT] & (e.hat_voice == _PEDAL) & e.told[:, CYMBALS] & ~e.told[:, SNARE]
        where = np.zeros_like(e.told)
        where[:, HAT] = doubtful & (e.heard.group_odds[:, HAT] < odds_of(self.least))
        return e.taken_back(where) if where.any() else NOTHING


@dataclass(frozen=True)
class FeetOnBackbeats(Rule):
    """Pedal hats at even odds under the snares of a ride, where these together speak for them.

    Feet close the hats on the backbeats throughout or not at all. A snare beside a ride hides them, so that each has
    poor odds, but on average those with a foot have better ones than those without. Of 61 recordings with a ride this
    adds 70 feet that are played and 19 that are not.
    """

    name = "feet on backbeats"
    why = "A foot closes the hats on all backbeats of a ride or on none, so they speak together."
    idea = Idea.REPEATS
    on_average: float = -1.7  # log-odds of hats under the snares of a ride
    each: float = -2.5  # log-odds
    fewest: int = 3  # backbeats

    def shift(self, e: Evidence) -> Shift:
        told, hats = e.told_beside_snares, e.heard.group_odds[:, HAT]
        ridden = told[:, SNARE] & told[:, CYMBALS]
        if ridden.sum() < self.fewest or told[:, HAT].sum() > told[:, CYMBALS].sum():
            return NOTHING
        if hats[ridden].mean() < self.on_average:
            return NOTHING
        foot = ridden & (e.hat_voice == _PEDAL) & (hats >= self.each)
        groups = e.no_groups()
        groups[foot, HAT] = np.maximum(-hats[foot], 0)
        return Shift(groups=groups)
