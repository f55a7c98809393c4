"""How far hats are open, by how fast they die away: kits whose closed hats ring a little are not half open throughout.

The network was trained with closed hats that are gone after 50 ms. On a kit whose closed hats ring longer it hears them
half open. What a hat is shows in the file: the tightest of its hats are the closed ones, if they do die away.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats, magnitudes_in_parts
from ghoststep.listen.strokes.evidence import CYMBALS, HAT, NOTHING, SNARE, TOMS, Evidence, Shift
from ghoststep.listen.strokes.rules.rule import Idea, Rule
from ghoststep.music.kit import VOICE_INDEX

_MASKS = [SNARE, TOMS, CYMBALS]
_CLOSED = VOICE_INDEX["hat_closed"]
_OPENED = (VOICE_INDEX["hat_half"], VOICE_INDEX["hat_open"])
# A fall is measured between windows of 23 ms around these moments after the attack, in this range.
_FROM_S, _TO_S, _FFT, _RANGE_HZ = 0.012, 0.060, 1024, (6000.0, 18000.0)


@dataclass(frozen=True)
class ClosedHats(Rule):
    """Half-open and open hats that die away as closed ones do are closed.

    Where the file has hats that are tighter by far, those are the closed ones, and what is told half open stays so. On
    kits as they are nine of ten closed hats fall by 8 dB and more, nine of ten open ones by 4 and less.
    """

    name = "closed hats"
    why = "A hat that dies away as closed ones do is closed, whatever its kit's hats sound like."
    idea = Idea.ALIKE
    alone_s: float = 0.085  # to the next stroke, where a fall can be measured
    least_db: float = 6.0  # that a closed hat falls
    tighter_db: float = 6.0  # by which closed ones fall more than half-open ones of the same kit
    fewest: int = 3  # measured strokes of a voice that speak for the others,
    agree: float = 0.8  # and the share of them that agrees

    def shift(self, e: Evidence) -> Shift:
        if e.sound is None:
            return NOTHING
        told, voices, odds = e.told_beside_snares, e.hat_voice, e.heard.voice_odds.astype(np.float64)
        at_s = e.moments_s + e.heard.late_s[np.arange(len(voices)), voices]
        following = np.append(e.moments_s[told.any(axis=1)], np.inf)
        alone = following[np.searchsorted(following, e.moments_s + 0.03)] - e.moments_s > self.alone_s
        hats = told[:, HAT]
        clear = hats & alone & ~told[:, _MASKS].any(axis=1)
        fall_db = np.full(len(voices), np.nan)
        fall_db[clear] = falls_db(e.sound, at_s[clear])
        closed_db = fall_db[clear & (voices == _CLOSED)]
        tight_db = float(np.median(closed_db)) if len(closed_db) >= self.fewest else -np.inf
        added = e.no_voices()
        for voice in _OPENED:
            mine = hats & (voices == voice)
            dies = mine & (fall_db >= max(self.least_db, tight_db - self.tighter_db))
            measured = int((mine & clear).sum())
            if measured >= self.fewest and dies.sum() >= self.agree * measured:
                dies |= mine & ~clear
            added[dies, _CLOSED] = odds[dies, voice] + 1 - odds[dies, _CLOSED]
        return Shift(voices=added)


def falls_db(sound: Floats, attacks_s: NDArray[np.float64]) -> NDArray[np.float64]:
    """By how many dB the range of hats falls in the 50 ms after each attack; shape (n,)."""
    if not len(attacks_s):
        return np.zeros(0)
    centres = np.rint((attacks_s[:, None] + (_FROM_S, _TO_S)) * LISTEN_RATE).astype(np.int64)
    hz = np.arange(_FFT // 2 + 1) * (LISTEN_RATE / _FFT)
    inside = ((hz >= _RANGE_HZ[0]) & (hz < _RANGE_HZ[1])).astype(np.float32)
    parts = [np.square(part) @ inside for part in magnitudes_in_parts(sound, centres, _FFT)]
    level_db = 10 * np.log10(np.concatenate(parts).astype(np.float64) + 1e-13).reshape(-1, 2)
    return np.asarray(level_db[:, 0] - level_db[:, 1])
