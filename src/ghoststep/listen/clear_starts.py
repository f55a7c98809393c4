"""Strokes that clearly begin, though the networks know no voice they could be.

Metal sounds as it likes: an open hat of a maker nobody learnt from is told as nothing at all, though it stands out of
the silence once in every bar. Where something bright begins that no stroke accounts for, again and again at one place
of the bar, it is taken for a hat, the commonest of metals; where it begins but once, or no other metal is heard in the
recording, it is offered.
"""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.expected import spots_of
from ghoststep.listen.explain import Explained
from ghoststep.listen.one_metal import CYMBALS_SURER
from ghoststep.listen.spectrum import LISTEN_RATE, Floats
from ghoststep.listen.voicenet import NET_GROUPS, Heard, odds_of, told_groups

_HAT, _CYMBALS = NET_GROUPS.index("hat"), NET_GROUPS.index("cymbals")
_BEFORE_S, _GAP_S, _AFTER_S = 0.030, 0.004, 0.030  # of sound before and after a beginning, and between
_SHORTEST = 256  # samples that can be compared
_RANGES_HZ = ((2500.0, 6000.0), (6000.0, 15000.0))  # what bleeds from other instruments hardly begins here
_RISE_DB, _CLEAR_DB = 6.0, 9.0  # in each of the ranges, and in one
_SOFTEST_DB = -25.0  # below the median of the strokes that are told
_ALONE_S = 0.060  # nearer to a stroke that is told, a beginning may be its own
_FEWEST, _OF_BARS = 2, 0.5  # bars in which it begins at one place, for it to be told
_TOLD, _OFFERED, _OFFERED_CYMBAL = 0.3, 0.15, 0.5  # odds


def with_clear_starts(
    heard: Heard, moments_s: NDArray[np.float64], sound: Floats, explained: Explained, least: Mapping[str, float]
) -> Heard:
    """What was heard, with a hat where something bright begins that nothing told accounts for.

    Where each drum has a track of its own, the tracks say what is struck, and nothing is put in.

    Parameters
    ----------
    moments_s
        The candidates in seconds, ascending, shape (n,).
    sound
        As `hearing.prepared` gives it.
    least
        The odds (0 to 1) by group from which on a stroke is told.
    """
    by_group = told_groups(heard.group_odds, least)
    told = by_group.any(axis=1)
    if not told.any() or heard.given is not None:
        return heard
    alone = np.flatnonzero(_away(moments_s, moments_s[told]) >= _ALONE_S)
    usual_db = float(np.median(_levels_db(sound, moments_s[told])))
    alone = alone[_levels_db(sound, moments_s[alone]) >= usual_db + _SOFTEST_DB]
    rise_db = _rises_db(sound, moments_s[alone])
    found = alone[(rise_db.min(axis=1) >= _RISE_DB) & (rise_db.max(axis=1) >= _CLEAR_DB)]
    if not len(found):
        return heard
    odds = heard.group_odds.copy()
    cymbals = odds[found, _CYMBALS] - odds[found, _HAT] >= CYMBALS_SURER
    again = by_group[:, (_HAT, _CYMBALS)].any() & _again(moments_s[found], moments_s[told], explained)
    odds[found, _HAT] = np.where(cymbals, odds[found, _HAT], odds_of(np.where(again, _TOLD, _OFFERED)))
    odds[found, _CYMBALS] = np.where(cymbals, odds_of(np.array(_OFFERED_CYMBAL)), odds[found, _CYMBALS])
    return replace(heard, group_odds=odds)


def _away(moments_s: NDArray[np.float64], others_s: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far each moment is from the nearest of some ascending others, in s; inf where there is none; shape (n,)."""
    edges = np.concatenate([[-np.inf], others_s, [np.inf]])
    at = np.searchsorted(edges, moments_s)
    return np.asarray(np.minimum(moments_s - edges[at - 1], edges[at] - moments_s))


def _levels_db(sound: Floats, moments_s: NDArray[np.float64]) -> NDArray[np.float64]:
    """How loud it is from some moments on, in dB; shape (n,)."""
    starts = np.round(moments_s * LISTEN_RATE).astype(int)
    pieces = [sound[a : a + round(_AFTER_S * LISTEN_RATE)] for a in starts]
    return np.array([10 * np.log10(float(np.dot(piece, piece)) / max(len(piece), 1) + 1e-12) for piece in pieces])


def _rises_db(sound: Floats, moments_s: NDArray[np.float64]) -> NDArray[np.float64]:
    """By how many dB each of _RANGES_HZ rises at some moments, shape (n, ranges).

    Where the sound begins or ends so near that there is nothing to compare, nothing rises.
    """
    rises = np.full((len(moments_s), len(_RANGES_HZ)), -np.inf)
    for i, moment in enumerate(np.round(moments_s * LISTEN_RATE).astype(int)):
        before = sound[max(0, moment - round(_BEFORE_S * LISTEN_RATE)) : max(0, moment - round(_GAP_S * LISTEN_RATE))]
        after = sound[moment : moment + round(_AFTER_S * LISTEN_RATE)]
        if len(before) >= _SHORTEST and len(after) >= _SHORTEST:
            rises[i] = [10 * np.log10(b / a) for a, b in zip(_powers(before), _powers(after), strict=True)]
    return rises


def _powers(piece: Floats) -> list[float]:
    """The power in each of _RANGES_HZ."""
    power = np.abs(np.fft.rfft(piece * np.hanning(len(piece)))) ** 2 / len(piece)
    edges = [[round(hz * len(piece) / LISTEN_RATE) for hz in limits] for limits in _RANGES_HZ]
    return [float(power[a:b].sum()) + 1e-9 for a, b in edges]


def _again(found_s: NDArray[np.float64], told_s: NDArray[np.float64], explained: Explained) -> NDArray[np.bool_]:
    """Which of some beginnings are at a place of the bar at which others are too, in half of the bars; shape (n,)."""
    frame = explained.groove.pattern.frame
    spots = spots_of(found_s, explained)
    bars = frame.bars_of(spots)
    places = spots - frame.start_of(bars)
    played = frame.bars_of(spots_of(told_s, explained))
    enough = max(_FEWEST, _OF_BARS * (int(played.max()) - int(played.min()) + 1))
    return np.array([len(set(bars[places == place].tolist())) >= enough for place in places], bool)
