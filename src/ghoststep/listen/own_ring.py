"""What an open hat does while it rings is no stroke: a check by exactness beside the network.

The ring of some recorded hats jumps, as the two halves meet again or the stand sways. One sample, or one pair of hats
left to itself, does so at the same moments after each stroke, to the millisecond, and softer than the stroke; how far
it is to the *next* stroke is left to the player. A soft stroke of a hand stands as loosely to the stroke before as to
the one after it, and one of a machine as exactly, be the next stroke near or far. A jump may be told as a hat, or as a
cymbal beside the hats.
"""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.voicenet import NET_GROUPS, NO, Heard, likeliest_voices, told_groups
from ghoststep.music.kit import HEARD_VOICES

_HAT, _CYMBALS = (NET_GROUPS.index(group) for group in ("hat", "cymbals"))
_RINGS = [v for v, voice in enumerate(HEARD_VOICES) if voice.name in ("hat_open", "hat_half")]
_RING_S = (0.06, 0.6)  # after the stroke
_SOFTER = 0.75  # of the velocity of the stroke that rings
_EXACT_S, _ABOUT_S = 0.0015, 0.015  # two distances that are one, and that are about one
_LOOSE = 0.5  # of those that are about one may be one, where the player and not a machine sets the distance
_MATES, _MATES_SHARE = 3, 0.1  # others at the same distance, at least, and of all strokes that ring
# A swell: on which voices, which drums it is told as, when it comes, how soft it is, and how exactly it comes: within
# so much all in all, half of them within so much of the middle (players' strokes stray by 4 to 15 ms).
_SWELL = [
    v for v, voice in enumerate(HEARD_VOICES) if voice.name in ("hat_open", "hat_half", "crash", "ride", "splash")
]
_DRUMS = tuple(NET_GROUPS.index(group) for group in ("snare", "toms"))
_SWELL_S, _SWELL_SOFTER, _SWELL_SPREAD_S, _SWELL_EXACT_S, _FEWEST_MAINS = (0.04, 0.25), 0.6, 0.012, 0.002, 6
# Pairs at the same distance from the stroke before, in excess of so many for each such pair to the stroke after it:
# eight rows of soft strokes by players lie under 11, three rings that jump over 81 (docs/figures.md).
_LOOSER, _FEWEST_PAIRS = 2.0, 30


def without_own_ring(heard: Heard, moments_s: NDArray[np.float64], least: Mapping[str, float]) -> Heard:
    """What was heard, without hats and cymbals that are the ring of the open hat before.

    Parameters
    ----------
    moments_s
        The candidates in seconds, ascending, shape (n,).
    least
        The odds (0 to 1) by group from which on a stroke is told.
    """
    follower, main, strokes = _following(heard, moments_s, least)
    if len(follower) <= _MATES:
        return heard
    at_s, next_stroke = moments_s[follower], np.searchsorted(strokes, follower)
    to_next_s = np.append(moments_s[strokes], np.inf)[next_stroke] - at_s
    near, after, about = _mates(at_s - moments_s[main]), _mates(to_next_s), _mates(to_next_s, _ABOUT_S)
    by_machine = after.sum() >= _LOOSE * about.sum()
    if by_machine or near.sum() < _LOOSER * after.sum() + _FEWEST_PAIRS:
        return heard
    ringing = len(np.unique(main))
    # Where a ring jumps, what is told at less than even odds within it is a jump as well.
    unlikely = (heard.group_odds[follower][:, (_HAT, _CYMBALS)] < 0).all(axis=1)
    rung = follower[(near >= max(_MATES, _MATES_SHARE * ringing)) | unlikely]
    odds = heard.group_odds.copy()
    odds[rung, _HAT] = odds[rung, _CYMBALS] = NO
    return replace(heard, group_odds=odds)


def without_swells(heard: Heard, moments_s: NDArray[np.float64], least: Mapping[str, float]) -> Heard:
    """What was heard, without soft drums that are the second swell of the metal before.

    Some recorded hats and cymbals swell once more some 90 ms after each stroke, which is told as a soft snare or tom.
    Where one drum follows more than half of a voice's strokes at one delay, as exactly as only a ring does, it is that
    voice's own. A ghost that a player puts behind an open hat strays by more.

    Parameters
    ----------
    moments_s, least
        As for `without_own_ring`.
    """
    told = told_groups(heard.group_odds, least)
    voice = np.where(told[:, _HAT], likeliest_voices(heard, "hat"), likeliest_voices(heard, "cymbals"))
    metal = told[:, _HAT] | told[:, _CYMBALS]
    loud = heard.velocity[np.arange(len(voice)), voice]
    odds = heard.group_odds.copy()
    for main in np.unique(voice[metal & np.isin(voice, _SWELL)]).tolist():
        mains = np.flatnonzero(metal & (voice == main))
        if len(mains) < _FEWEST_MAINS:
            continue
        for group in _DRUMS:
            alone = np.flatnonzero(told[:, group] & (told.sum(axis=1) == 1))
            own = heard.velocity[alone, likeliest_voices(heard, NET_GROUPS[group])[alone]]
            before = np.searchsorted(mains, alone) - 1
            after_s = np.where(before >= 0, moments_s[alone] - moments_s[mains[before]], np.inf)
            softer = own < _SWELL_SOFTER * loud[mains[before]]
            near = np.flatnonzero(softer & (after_s >= _SWELL_S[0]) & (after_s <= _SWELL_S[1]))
            rung = alone[near[_at_one_delay(after_s[near], len(mains))]]
            if not _by_machine(rung, told, moments_s):
                odds[rung, group] = NO
    return heard if np.array_equal(odds, heard.group_odds) else replace(heard, group_odds=odds)


def _by_machine(followers: NDArray[np.int64], told: NDArray[np.bool_], moments_s: NDArray[np.float64]) -> bool:
    """Whether the next strokes stand as exactly to these as these to the strokes before: a machine plays all of it."""
    strokes = np.setdiff1d(np.flatnonzero(told.any(axis=1)), followers)
    to_next_s = np.append(moments_s[strokes], np.inf)[np.searchsorted(strokes, followers)] - moments_s[followers]
    return bool(_mates(to_next_s).sum() >= _LOOSE * _mates(to_next_s, _ABOUT_S).sum())


def _at_one_delay(after_s: NDArray[np.float64], mains: int) -> NDArray[np.bool_]:
    """Which of these delays are one, where more than half of the strokes have it; shape as given."""
    out = np.zeros(len(after_s), bool)
    if len(after_s) <= mains / 2:
        return out
    counts = np.abs(after_s[:, None] - after_s[None, :]) <= _SWELL_SPREAD_S / 2
    middle = after_s[int(counts.sum(axis=1).argmax())]
    at_it = np.abs(after_s - middle) <= _SWELL_SPREAD_S / 2
    exact = float(np.median(np.abs(after_s[at_it] - np.median(after_s[at_it])))) <= _SWELL_EXACT_S
    return at_it if at_it.sum() > mains / 2 and exact else out


def _following(
    heard: Heard, moments_s: NDArray[np.float64], least: Mapping[str, float]
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """Metal alone in the ring of an open hat and softer, the hat each is in the ring of, and all other metal.

    Softer metal in the ring that sounds with a drum is in none of these: it may be either.
    """
    told = told_groups(heard.group_odds, least)
    voice = np.where(told[:, _HAT], likeliest_voices(heard, "hat"), likeliest_voices(heard, "cymbals"))
    loud = heard.velocity[np.arange(len(voice)), voice]
    others = np.asarray(np.delete(told, (_HAT, _CYMBALS), axis=1).any(axis=1))
    follower: list[int] = []
    main: list[int] = []
    strokes: list[int] = []
    for i in np.flatnonzero(told[:, _HAT] | told[:, _CYMBALS]).tolist():
        last = strokes[-1] if strokes else i
        in_ring = voice[last] in _RINGS and _RING_S[0] <= moments_s[i] - moments_s[last] <= _RING_S[1]
        if not in_ring or loud[i] >= _SOFTER * loud[last]:
            strokes.append(i)
        elif not others[i]:
            follower.append(i)
            main.append(last)
    return np.array(follower, np.int64), np.array(main, np.int64), np.array(strokes, np.int64)


def _mates(distances_s: NDArray[np.float64], within_s: float = _EXACT_S) -> NDArray[np.int64]:
    """How many others have the same distance; shape as given. Infinite ones have none."""
    known = np.sort(distances_s[np.isfinite(distances_s)])
    first, end = (np.searchsorted(known, distances_s + sign * within_s) for sign in (-1, 1))
    return np.asarray(np.where(np.isfinite(distances_s), end - first - 1, 0))
