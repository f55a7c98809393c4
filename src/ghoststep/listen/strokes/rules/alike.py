"""Strokes of metal that sound alike are strokes of one instrument.

The network judges each stroke for itself, and where a kit's open hat lies between its hats and its cymbals it says now
the one and now the other. So what it says of hat and cymbal is averaged over the strokes of the recording that sound
like this one (as non-local means do with pictures: Buades, Coll & Morel 2005), which leaves a ride beside hats alone.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.patches import BANDS
from ghoststep.listen.strokes.evidence import CYMBALS, HAT, NOTHING, SNARE, TOMS, Evidence, Shift
from ghoststep.listen.strokes.network import Heard
from ghoststep.listen.strokes.own_strokes import FINE
from ghoststep.listen.strokes.rules.one_metal import lone_crashes
from ghoststep.listen.strokes.rules.rule import Idea, Rule

_METAL, _DRUMS = [HAT, CYMBALS], [SNARE, TOMS]
# What is compared: from 4 to 230 ms after the stroke, from some 1.4 kHz upwards, where drums say little.
_MOMENTS, _LOWEST_BAND = slice(4, 17), 26
_ROWS = 512  # at once, so that little memory is needed


@dataclass(frozen=True)
class MetalAlike(Rule):
    """The log-odds of hat and cymbals averaged over strokes that sound alike.

    Only strokes that are metal rather than not, with no drum but a kick at the same moment; crashes beyond doubt keep
    what was said of them and say nothing of others.
    """

    name = "metal alike"
    why = "Strokes of metal that sound alike are of one instrument."
    idea = Idea.ALIKE
    once = False
    alike: float = 0.12  # root mean square distance, in units of a patch, at which strokes begin to be others
    fewest: int = 6
    most_compared: int = 1200  # strokes that each is compared with: work grows linearly with the length
    surest: float = 6.0  # log-odds from which on a stroke counts no more
    sure_of_cymbal: float = 1.0  # log-odds

    def shift(self, e: Evidence) -> Shift:
        odds = e.heard.group_odds.astype(np.float64)
        metal = np.flatnonzero((odds[:, _METAL].max(axis=1) > 0) & (odds[:, _DRUMS].max(axis=1) < 0) & ~lone_crashes(e))
        if len(metal) < self.fewest:
            return NOTHING
        sounds = _sounds(e.heard, metal)
        step = -(-len(metal) // self.most_compared)
        others, said = sounds[::step], np.clip(odds[metal[::step]][:, _METAL], -self.surest, self.surest)
        groups = e.no_groups()
        for a in range(0, len(metal), _ROWS):
            rows = metal[a : a + _ROWS]
            share = np.exp(-_square_distances(sounds[a : a + _ROWS], others) / (2 * self.alike**2))
            total = share.sum(axis=1, keepdims=True)
            mean = share @ said / np.maximum(total, 1e-9)
            # A stroke that is like none of those compared keeps what was said of it.
            added = np.where(total > 1e-6, mean - odds[rows][:, _METAL], 0)
            # A foot may close the hats under some strokes of a cymbal: that they are alike says nothing of it.
            under = (odds[rows][:, _METAL] + added)[:, _METAL.index(CYMBALS)] > self.sure_of_cymbal
            added[under, _METAL.index(HAT)] = 0
            groups[rows[:, None], _METAL] = added
        return Shift(groups=groups)


def _sounds(heard: Heard, which: NDArray[np.int64]) -> NDArray[np.float32]:
    """The colour and decay of some strokes, whatever their level; shape (n, numbers)."""
    fine = heard.fine[which].astype(np.float32).reshape(len(which), FINE // BANDS, BANDS)
    part = fine[:, _MOMENTS, _LOWEST_BAND:].reshape(len(which), -1)
    return np.asarray(part - part.mean(axis=1, keepdims=True))


def _square_distances(a: NDArray[np.float32], b: NDArray[np.float32]) -> NDArray[np.float32]:
    """Mean square differences of all pairs; shape (rows of a, rows of b)."""
    squares = (a * a).mean(axis=1)[:, None] + (b * b).mean(axis=1)
    return np.asarray(np.maximum(squares - 2 * (a @ b.T) / a.shape[1], 0))
