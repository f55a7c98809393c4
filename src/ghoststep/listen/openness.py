"""How far hats are open, by how fast they die away: kits whose closed hats ring a little are not half open throughout.

The network was trained with closed hats that are gone after 50 ms. On a kit whose closed hats ring longer it hears them
half open. What a hat is shows in the file: the tightest of its hats are the closed ones, if they do die away.
"""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.one_metal import less_of_hats_with_snares
from ghoststep.listen.spectrum import LISTEN_RATE, Floats, magnitudes_in_parts
from ghoststep.listen.voicenet import NET_GROUPS, Heard, likeliest_voices, told_groups
from ghoststep.music.kit import VOICE_INDEX

_HAT = NET_GROUPS.index("hat")
_MASKS = [NET_GROUPS.index(group) for group in ("snare", "toms", "cymbals")]
_CLOSED = VOICE_INDEX["hat_closed"]
_OPENED = (VOICE_INDEX["hat_half"], VOICE_INDEX["hat_open"])
# A fall is measured between windows of 23 ms around these moments after the attack, in this range.
_FROM_S, _TO_S, _FFT, _RANGE_HZ = 0.012, 0.060, 1024, (6000.0, 18000.0)
_ALONE_S = 0.085  # to the next stroke, where a fall can be measured
# dB that a closed hat falls at least: on kits as they are nine of ten closed hats fall by 8 and more, nine of ten open
# ones by 4 and less (docs/figures.md); and by how much closed ones fall more than half-open ones of the same kit.
_LEAST_DB, _TIGHTER_DB = 6.0, 6.0
_FEWEST, _MOST = 3, 0.8  # measured strokes of a voice that speak for the others, and the share that agrees


def with_closed_hats(heard: Heard, moments_s: NDArray[np.float64], sound: Floats, least: Mapping[str, float]) -> Heard:
    """What was heard, with half-open and open hats that die away as closed ones do as closed.

    Where the file has hats that are tighter by far, those are the closed ones, and what is told half open stays so.

    Parameters
    ----------
    moments_s
        Candidates in s, ascending, shape (n,).
    sound
        Mono at LISTEN_RATE.
    least
        The odds (0 to 1) by group from which on a stroke is told.
    """
    told = told_groups(less_of_hats_with_snares(heard.group_odds), least)
    voices = likeliest_voices(heard, "hat")
    at_s = moments_s + heard.late_s[np.arange(len(voices)), voices]
    following = np.append(moments_s[told.any(axis=1)], np.inf)
    alone = following[np.searchsorted(following, moments_s + 0.03)] - moments_s > _ALONE_S
    hats = told[:, _HAT]
    clear = hats & alone & ~told[:, _MASKS].any(axis=1)
    fall_db = np.full(len(voices), np.nan)
    fall_db[clear] = falls_db(sound, at_s[clear])
    closed_db = fall_db[clear & (voices == _CLOSED)]
    tight_db = float(np.median(closed_db)) if len(closed_db) >= _FEWEST else -np.inf
    odds = heard.voice_odds.copy()
    for voice in _OPENED:
        mine = hats & (voices == voice)
        dies = mine & (fall_db >= max(_LEAST_DB, tight_db - _TIGHTER_DB))
        measured = int((mine & clear).sum())
        if measured >= _FEWEST and dies.sum() >= _MOST * measured:
            dies |= mine & ~clear
        odds[dies, _CLOSED] = odds[dies, voice] + 1
    return replace(heard, voice_odds=odds)


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
