"""A loop repeats itself, and that is evidence too.

Once bars are known, every candidate has a spot. What stands at the same spot of the other bars, and at the same part
of the other beats, makes a voice there more or less likely; so does how often the voice is struck in the recording at
all (a kit without a ride has no single faint ride stroke under a snare). The network's log-odds are shifted by the
log-odds of that expectation against the one it was trained with (Saerens, Latinne & Decaestecker 2002), with a weight,
since the expectation is made of the same uncertain odds.
"""

from dataclasses import dataclass

import numpy as np

from ghoststep.listen.bars.explain import Explained, meant_spots
from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.strokes.evidence import HAT, NOTHING, SNARE, Evidence, Shift
from ghoststep.listen.strokes.network import odds_of, probability_of
from ghoststep.listen.strokes.rules.rule import Idea, Rule
from ghoststep.music.time import TICKS_PER_QUARTER

# How often each of NET_GROUPS is struck at a candidate of the training material.
_TRAINED_SHARE = np.array([0.19, 0.20, 0.28, 0.07, 0.13])
_BELIEVED = (0.01, 0.99)  # nothing is expected more surely than that


@dataclass(frozen=True)
class OtherBars(Rule):
    """Each group as much likelier as the other bars and beats make it, its own bar left out.

    The weights were compared on development and own cases.
    """

    name = "other bars"
    why = "What stands at the same place of the other bars is likelier to be struck here too."
    idea = Idea.REPEATS
    once = False
    weight: float = 0.2  # of the whole shift
    recording: float = 2.0  # bars' worth of belief in how often a voice is struck at all
    beats: float = 0.25  # of another beat against another bar

    def shift(self, e: Evidence) -> Shift:
        return NOTHING if e.explained is None else Shift(groups=self.weight * self.whole_shift(e, e.explained))

    def whole_shift(self, e: Evidence, explained: Explained) -> np.ndarray[tuple[int, ...], np.dtype[np.float64]]:
        """By how much the other bars make each group likelier, in log-odds; shape (n, groups)."""
        expected = self._expected(e, explained)
        return np.asarray(odds_of(np.clip(expected, *_BELIEVED)) - odds_of(_TRAINED_SHARE))

    def _expected(self, e: Evidence, explained: Explained) -> np.ndarray[tuple[int, ...], np.dtype[np.float64]]:
        """Expected share of each group at each candidate, its own bar left out; shape (n, groups)."""
        probability, pattern = probability_of(e.heard.group_odds), explained.groove.pattern
        step = TICKS_PER_QUARTER // (6 if pattern.grid in (12, 24) else 4)
        spots = meant_spots(e.moments_s, explained)
        steps_per_bar = -(-pattern.meter.bar_ticks // step)
        bar = pattern.frame.bars_of(spots)
        place = (spots - pattern.frame.start_of(bar)) // step
        low, bars = int(bar.min()), int(bar.max() - bar.min()) + 1
        struck = np.zeros((bars, steps_per_bar, len(NET_GROUPS)))
        np.maximum.at(struck, (bar - low, place), probability)
        per_beat = max(1, TICKS_PER_QUARTER // step)
        usual = probability.mean(axis=0)
        by_place = struck.sum(axis=0)
        phase = np.arange(steps_per_bar) % per_beat
        by_phase = np.stack([by_place[phase == p].sum(axis=0) for p in range(per_beat)])
        beats = np.array([(phase == p).sum() for p in range(per_beat)])
        own = struck[bar - low, place]
        same_place = by_place[place] - own
        same_phase = by_phase[phase[place]] - by_place[place]
        other_beats = (beats[phase[place]] - 1)[:, None] * bars
        total = self.recording * usual + same_place + self.beats * same_phase
        count = self.recording + (bars - 1) + self.beats * other_beats
        return np.asarray(total / count)


@dataclass(frozen=True)
class HatsWithSnares(Rule):
    """A snare has much of what a hat has, so where one is likelier than not the other bars count for more."""

    name = "hats with snares"
    why = "Beside a snare the network hears hats badly, so what the other bars say of them counts more."
    idea = Idea.REPEATS
    once = False
    weight: float = 0.5  # of the whole shift of "other bars", once more
    bars: OtherBars = OtherBars()

    def shift(self, e: Evidence) -> Shift:
        if e.explained is None:
            return NOTHING
        groups = np.zeros(e.heard.group_odds.shape)
        struck = e.heard.group_odds[:, SNARE] >= 0
        whole = self.bars.whole_shift(e.before(self.bars.name), e.explained)
        groups[struck, HAT] = self.weight * whole[struck, HAT]
        return Shift(groups=groups)
