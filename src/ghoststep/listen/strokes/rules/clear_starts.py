"""Strokes that clearly begin, though the networks know no voice they could be.

Metal sounds as it likes: an open hat of a maker nobody learnt from is told as nothing at all, though it stands out of
the silence once in every bar. Where something bright begins that no stroke accounts for, again and again at one place
of the bar, it is taken for a hat, the commonest of metals; where it begins but once, or no other metal is heard in the
recording, it is offered.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bars.explain import Explained, meant_spots
from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats
from ghoststep.listen.strokes.evidence import CYMBALS, HAT, NOTHING, Evidence, Shift
from ghoststep.listen.strokes.network import odds_of
from ghoststep.listen.strokes.rules.one_metal import CYMBALS_SURER
from ghoststep.listen.strokes.rules.rule import Idea, Rule

_BEFORE_S, _GAP_S, _AFTER_S = 0.030, 0.004, 0.030  # of sound before and after a beginning, and between
_SHORTEST = 256  # samples that can be compared
_RANGES_HZ = ((2500.0, 6000.0), (6000.0, 15000.0))  # what bleeds from other instruments hardly begins here


@dataclass(frozen=True)
class ClearStarts(Rule):
    """Hats where something bright begins that no stroke accounts for.

    Where each drum has a track of its own, the tracks say what is struck, and nothing is put in.
    """

    name = "clear starts"
    why = "Something bright that begins at one place of most bars is a hat, though no kit learnt from has its sound."
    idea = Idea.REPEATS
    rise_db: float = 6.0  # in each of the ranges
    clear_db: float = 9.0  # and in one
    softest_db: float = -25.0  # below the median of the strokes that are told
    alone_s: float = 0.060  # nearer to a stroke that is told, a beginning may be its own
    fewest: int = 2  # bars in which it begins at one place, for it to be told
    of_bars: float = 0.5  # share of the bars, too
    told: float = 0.3  # probability it gets,
    offered: float = 0.15  # where it is only offered,
    offered_cymbal: float = 0.5  # and as a cymbal

    def shift(self, e: Evidence) -> Shift:
        told = np.asarray(e.told.any(axis=1))
        if e.sound is None or e.explained is None or not told.any() or e.heard.given is not None:
            return NOTHING
        found = self._beginnings(e.sound, e.moments_s, told)
        if not len(found):
            return NOTHING
        odds, groups = e.heard.group_odds[found].astype(np.float64), e.no_groups()
        cymbals = odds[:, CYMBALS] - odds[:, HAT] >= CYMBALS_SURER
        again = e.told[:, (HAT, CYMBALS)].any() & self._again(e.moments_s[found], e.moments_s[told], e.explained)
        as_hat, as_cymbal = odds_of(np.where(again, self.told, self.offered)), odds_of(self.offered_cymbal)
        groups[found, HAT] = np.where(cymbals, 0, as_hat - odds[:, HAT])
        groups[found, CYMBALS] = np.where(cymbals, as_cymbal - odds[:, CYMBALS], 0)
        return Shift(groups=groups)

    def _beginnings(self, sound: Floats, moments_s: NDArray[np.float64], told: NDArray[np.bool_]) -> NDArray[np.int64]:
        """Candidates at which something bright begins, away from all that is told."""
        alone = np.flatnonzero(_away(moments_s, moments_s[told]) >= self.alone_s)
        usual_db = float(np.median(_levels_db(sound, moments_s[told])))
        alone = alone[_levels_db(sound, moments_s[alone]) >= usual_db + self.softest_db]
        rise_db = _rises_db(sound, moments_s[alone])
        return np.asarray(alone[(rise_db.min(axis=1) >= self.rise_db) & (rise_db.max(axis=1) >= self.clear_db)])

    def _again(
        self, found_s: NDArray[np.float64], told_s: NDArray[np.float64], explained: Explained
    ) -> NDArray[np.bool_]:
        """Which of some beginnings are at a place of the bar at which others are too, in enough bars; (n,)."""
        frame = explained.groove.pattern.frame
        spots = meant_spots(found_s, explained)
        bars = frame.bars_of(spots)
        places = spots - frame.start_of(bars)
        played = frame.bars_of(meant_spots(told_s, explained))
        enough = max(self.fewest, self.of_bars * (int(played.max()) - int(played.min()) + 1))
        return np.array([len(set(bars[places == place].tolist())) >= enough for place in places], bool)


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
