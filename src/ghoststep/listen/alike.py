"""Strokes of metal that sound alike are strokes of one instrument.

The network judges each stroke for itself, and where a kit's open hat lies between its hats and its cymbals it says now
the one and now the other. So what it says of hat and cymbal is averaged over the strokes of the recording that sound
like this one (as non-local means do with pictures: Buades, Coll & Morel 2005), which leaves a ride beside hats alone.
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.own_strokes import FINE
from ghoststep.listen.patches import BANDS
from ghoststep.listen.voicenet import NET_GROUPS, Heard

_HAT, _CYMBALS = NET_GROUPS.index("hat"), NET_GROUPS.index("cymbals")
_METAL = [_HAT, _CYMBALS]
_DRUMS = [NET_GROUPS.index(g) for g in ("snare", "toms")]
# What is compared: from 4 to 230 ms after the stroke, from some 1.4 kHz upwards, where drums say little.
_MOMENTS, _LOWEST_BAND = slice(4, 17), 26
_ALIKE = 0.12  # root mean square distance, in units of a patch, at which strokes begin to be others
_LEAST_STROKES = 6
_MOST_COMPARED = 1200  # strokes that each is compared with: work grows linearly with the length
_SUREST = 6.0  # log-odds from which on a stroke counts no more
_SURE_OF_CYMBAL = 1.0
_ROWS = 512


def metal_alike(heard: Heard, apart: NDArray[np.bool_]) -> Heard:
    """What is heard, with the odds of hat and cymbals averaged over strokes that sound alike.

    Only strokes that are metal rather than not, with no drum but a kick at the same moment.

    Parameters
    ----------
    apart
        Which candidates keep what was said of them and say nothing of others, shape (n,).
    """
    odds = heard.group_odds.astype(np.float64)
    metal = np.flatnonzero((odds[:, _METAL].max(axis=1) > 0) & (odds[:, _DRUMS].max(axis=1) < 0) & ~apart)
    if len(metal) < _LEAST_STROKES:
        return heard
    sounds = _sounds(heard, metal)
    step = -(-len(metal) // _MOST_COMPARED)
    others, said = sounds[::step], np.clip(odds[metal[::step]][:, _METAL], -_SUREST, _SUREST)
    out = heard.group_odds.copy()
    for a in range(0, len(metal), _ROWS):
        rows = metal[a : a + _ROWS]
        share = np.exp(-_square_distances(sounds[a : a + _ROWS], others) / (2 * _ALIKE**2))
        total = share.sum(axis=1, keepdims=True)
        mean = share @ said / np.maximum(total, 1e-9)
        # A stroke that is like none of those compared keeps what was said of it.
        mean = np.where(total > 1e-6, mean, odds[rows][:, _METAL])
        # A foot may close the hats under some strokes of a cymbal: that they are alike says nothing of it.
        under = mean[:, _METAL.index(_CYMBALS)] > _SURE_OF_CYMBAL
        mean[under, _METAL.index(_HAT)] = odds[rows[under], _HAT]
        out[rows[:, None], _METAL] = mean
    return replace(heard, group_odds=out)


def _sounds(heard: Heard, which: NDArray[np.int64]) -> NDArray[np.float32]:
    """The colour and decay of some strokes, whatever their level; shape (n, numbers)."""
    fine = heard.fine[which].astype(np.float32).reshape(len(which), FINE // BANDS, BANDS)
    part = fine[:, _MOMENTS, _LOWEST_BAND:].reshape(len(which), -1)
    return np.asarray(part - part.mean(axis=1, keepdims=True))


def _square_distances(a: NDArray[np.float32], b: NDArray[np.float32]) -> NDArray[np.float32]:
    """Mean square differences of all pairs; shape (rows of a, rows of b)."""
    squares = (a * a).mean(axis=1)[:, None] + (b * b).mean(axis=1)
    return np.asarray(np.maximum(squares - 2 * (a @ b.T) / a.shape[1], 0))
