"""A recording of one drum alone: where all strokes sound alike, all of them are the same drum.

The network has heard whole kits only. On a track of hats it tells a snare under most of them, on one of kicks hats. Two
drums of a kit never sound as nearly alike as two strokes of one, however hard each is struck.
"""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.own_strokes import FINE
from ghoststep.listen.patches import BANDS
from ghoststep.listen.voicenet import NET_GROUPS, NO, Heard, told_groups

_MOMENTS = slice(3, 14)  # what is compared of each stroke: from just before it to some 150 ms after
_FEWEST, _MOST_COMPARED = 6, 400  # strokes
# How far three in four strokes, and nine in ten, are from the usual one, in units of a patch: tracks of one drum lie
# under .11 and .165, recordings of kits over .137 and .195 (docs/figures.md).
_ALIKE_MOST, _ALIKE_NEARLY_ALL = 0.12, 0.175
_METAL = [NET_GROUPS.index("hat"), NET_GROUPS.index("cymbals")]
_SUREST = 6.0  # log-odds from which on a stroke counts no more


def of_one_drum(heard: Heard, least: Mapping[str, float]) -> Heard:
    """What was heard, with no group but the likeliest where all strokes that are told sound alike.

    Hats and cymbals both stay where one of them is: `listen/one_metal.py` tells which it is.

    Parameters
    ----------
    least
        The odds (0 to 1) by group from which on a stroke is told.
    """
    struck = told_groups(heard.group_odds, least)
    told = np.flatnonzero(struck.any(axis=1))
    if len(told) < _FEWEST or not _alike(heard.fine[told[:: -(-len(told) // _MOST_COMPARED)]]):
        return heard
    odds = heard.group_odds.copy()
    # The group that is told most often, of those told alike the surest.
    surest = np.clip(odds[told], -_SUREST, _SUREST).mean(axis=0) / (4 * _SUREST)
    likeliest = int(np.argmax(struck.sum(axis=0) + surest))
    kept = _METAL if likeliest in _METAL else [likeliest]
    odds[:, np.delete(np.arange(len(NET_GROUPS)), kept)] = NO
    return replace(heard, group_odds=odds)


def _alike(fine: NDArray[np.float16]) -> bool:
    """Whether strokes have one colour and decay, whatever their level."""
    sounds = fine.astype(np.float32).reshape(len(fine), FINE // BANDS, BANDS)[:, _MOMENTS].reshape(len(fine), -1)
    sounds -= sounds.mean(axis=1, keepdims=True)
    away = np.sqrt(np.square(sounds - np.median(sounds, axis=0)).mean(axis=1))
    most, nearly_all = np.percentile(away, [75, 90])
    return bool(most < _ALIKE_MOST and nearly_all < _ALIKE_NEARLY_ALL)
