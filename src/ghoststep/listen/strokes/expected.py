"""Where a part goes on, something may be struck at which nothing seemed to begin.

Candidates are moments at which a sound rises fast (`signal/onsets.py`). A soft hat among loud ones, or in the ring of
the one before, hardly rises, though the network would hear it. So once bars are known, the spots at which the metal of
most other bars, or of most other beats, is struck are looked at too; what is there the network says.
"""

from collections import Counter
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bars.explain import Explained, meant_spots
from ghoststep.listen.signal.attacks import METALS, attacks_s
from ghoststep.listen.signal.filters import energies
from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.loudness import hat_levels_db, levels_db
from ghoststep.listen.signal.patches import patches, raw_patches
from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats
from ghoststep.listen.strokes.hearing import BANDS, Hearing
from ghoststep.listen.strokes.network import seen_besides
from ghoststep.music.kit import VOICES
from ghoststep.music.time import TICKS_PER_QUARTER

_METAL = ("hat", "cymbals")
_FEWEST = 6  # strokes that make a part
_OF_BARS, _OF_BEATS = 0.5, 0.6  # share of the other bars, or of all beats, at which a spot is struck
_LEAST_BARS = 3
_GOES_ON = 0.5  # of the places of a part may be missing where it goes on
_APART_S = 0.025  # nearer to a candidate than this the network was asked already
_OFF_MS = 4.0  # of the attack from where it is expected, as one deviation
_BEFORE_S, _AFTER_S = 0.35, 0.75  # of sound that is needed around a moment


def with_expected(first: Hearing, explained: Explained) -> tuple[Hearing, NDArray[np.bool_]]:
    """The hearing with candidates put in where the metal of other bars is struck, and which they are, shape (n,).

    They are not told of yet. None are put in without the sound, or where each drum has a track of its own.
    """
    none = first, np.zeros(len(first.moments_s), bool)
    if first.sound is None or first.scene is None or first.heard.given is not None:
        return none
    more_s = expected_s(first, explained)
    if len(more_s):
        more_s = attacks_s(first.sound, more_s, np.full(len(more_s), _OFF_MS), METALS)
        more_s = np.unique(more_s[_apart(more_s, first.moments_s)])
    if not len(more_s):
        return none
    at = np.searchsorted(first.moments_s, more_s)
    moments_s = np.insert(first.moments_s, at, more_s)
    new = np.zeros(len(moments_s), bool)
    new[at + np.arange(len(at))] = True
    raw, level_db = _around(first.sound, more_s)
    seen = patches(raw, moments_s, level_db, first.scene, new)
    level_db[:, NET_GROUPS.index("hat")] = hat_levels_db(first.sound, moments_s)[new]
    return replace(first, moments_s=moments_s, heard=seen_besides(first.heard, at, seen, level_db)), new


def expected_s(first: Hearing, explained: Explained) -> NDArray[np.float64]:
    """Moments with no candidate at which the metal of most other bars or beats is struck, ascending; shape (m,)."""
    played = first.performance
    metal = np.array([VOICES[v].group in _METAL for v in played.voice], bool)
    onset_s = played.onset_s[metal]
    if len(onset_s) < _FEWEST:
        return np.zeros(0)
    tempo, frame = explained.groove.tempo, explained.groove.pattern.frame
    spots = meant_spots(onset_s, explained)
    late = tempo.to_ticks(onset_s - explained.start_s) - spots  # swing and lean
    bars = frame.bars_of(spots)
    low, count = int(bars.min()), int(bars.max() - bars.min()) + 1
    if count < _LEAST_BARS:
        return np.zeros(0)
    places = spots - frame.start_of(bars)
    struck = {(int(b), int(p)) for b, p in zip(bars, places, strict=True)}
    lengths = {bar: frame.length_of(bar) for bar in range(low, low + count)}
    ticks = sorted(
        float(frame.start_of(bar) + place + _late_at(place, places, late)) for bar, place in _missing(struck, lengths)
    )
    found_s = explained.start_s + tempo.seconds(np.array(ticks))
    inside = (found_s > 0) & (found_s < played.length_s) & _apart(found_s, first.moments_s)
    return np.asarray(found_s[inside])


def _missing(struck: set[tuple[int, int]], lengths: dict[int, int]) -> Iterator[tuple[int, int]]:
    """The bars and places that are not struck, but in most other bars, or beat by beat.

    Only of bars in which the part goes on: at least half of its places are struck there.

    Parameters
    ----------
    struck
        Bar and place in ticks of each stroke.
    lengths
        The length of each bar in ticks.
    """
    of_bars = Counter(place for _, place in struck)
    of_beats = Counter(place % TICKS_PER_QUARTER for _, place in struck)
    beats = sum(lengths.values()) / TICKS_PER_QUARTER
    every = {p for p, count in of_beats.items() if count >= _OF_BEATS * beats}
    of_most = {p for p, count in of_bars.items() if count >= max(2, _OF_BARS * (len(lengths) - 1))}
    for bar, length in lengths.items():
        phases = {start + p for start in range(0, length, TICKS_PER_QUARTER) for p in every}
        usual = sorted(p for p in of_most | phases if p < length)
        missing = [p for p in usual if (bar, p) not in struck]
        if len(missing) <= _GOES_ON * len(usual):
            yield from ((bar, place) for place in missing)


def _late_at(place: int, places: NDArray[np.int64], late: NDArray[np.float64]) -> float:
    """How late strokes are at a place, in ticks; where there are none, those at the same place of other beats."""
    same = places == place
    return float(np.median(late[same if same.any() else places % TICKS_PER_QUARTER == place % TICKS_PER_QUARTER]))


def _apart(found_s: NDArray[np.float64], moments_s: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which moments have no candidate near; `moments_s` ascending, at least one."""
    at = np.searchsorted(moments_s, found_s)
    before, after = moments_s[np.maximum(at - 1, 0)], moments_s[np.minimum(at, len(moments_s) - 1)]
    return np.asarray(np.minimum(np.abs(found_s - before), np.abs(found_s - after)) >= _APART_S)


def _around(sound: Floats, moments_s: NDArray[np.float64]) -> tuple[Floats, NDArray[np.float64]]:
    """What surrounds each moment, and its levels, from no more of the sound than is needed."""
    raw, level_db = [], []
    for moment in moments_s:
        a, b = (round((moment + away_s) * LISTEN_RATE) for away_s in (-_BEFORE_S, _AFTER_S))
        a = max(0, a)
        piece, at = sound[a:b], np.array([moment - a / LISTEN_RATE])
        energy = energies(piece, BANDS)
        raw.append(raw_patches(piece, at, energy))
        level_db.append(levels_db(piece, at, energy))
    return np.concatenate(raw), np.concatenate(level_db)
