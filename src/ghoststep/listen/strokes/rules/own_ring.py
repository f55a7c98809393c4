"""What metal does while it rings is no stroke: checks by exactness beside the network.

The ring of some recorded hats jumps, as the two halves meet again or the stand sways. One sample, or one pair of hats
left to itself, does so at the same moments after each stroke, to the millisecond, and softer than the stroke; how far
it is to the *next* stroke is left to the player. A soft stroke of a hand stands as loosely to the stroke before as to
the one after it, and one of a machine as exactly, be the next stroke near or far.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.strokes.evidence import CYMBALS, HAT, NOTHING, SNARE, TOMS, Evidence, Shift
from ghoststep.listen.strokes.network import likeliest_voices
from ghoststep.listen.strokes.rules.rule import Idea, Rule
from ghoststep.music.kit import HEARD_VOICES

_RINGING = [v for v, voice in enumerate(HEARD_VOICES) if voice.name in ("hat_open", "hat_half")]
_SWELLING = [
    v for v, voice in enumerate(HEARD_VOICES) if voice.name in ("hat_open", "hat_half", "crash", "ride", "splash")
]
_ABOUT_S = 0.015  # two distances that are about one
_EXACT_S = 0.0015  # and that are one
_LOOSE = 0.5  # of those that are about one may be one, where the player and not a machine sets the distance


@dataclass(frozen=True)
class OwnRing(Rule):
    """No hats and cymbals that are the ring of the open hat before.

    Pairs at the same distance from the stroke before count in excess of `looser` for each such pair to the stroke after
    it: eight rows of soft strokes by players lie under 11, three rings that jump over 81.
    """

    name = "own ring"
    why = "A jump that comes at the same moment after each open hat is its ring."
    idea = Idea.EXPLAINED
    once = False
    ring_s: tuple[float, float] = (0.06, 0.6)  # after the stroke
    softer: float = 0.75  # of the velocity of the stroke that rings
    others: int = 3  # at the same distance, at least
    others_share: float = 0.1  # and of all strokes that ring
    looser: float = 2.0
    fewest_pairs: int = 30

    def shift(self, e: Evidence) -> Shift:
        follower, main, strokes = self._following(e)
        if len(follower) <= self.others:
            return NOTHING
        at_s, next_stroke = e.moments_s[follower], np.searchsorted(strokes, follower)
        to_next_s = np.append(e.moments_s[strokes], np.inf)[next_stroke] - at_s
        near, behind = same_distance(at_s - e.moments_s[main]), same_distance(to_next_s)
        by_machine = behind.sum() >= _LOOSE * same_distance(to_next_s, _ABOUT_S).sum()
        if by_machine or near.sum() < self.looser * behind.sum() + self.fewest_pairs:
            return NOTHING
        ringing = len(np.unique(main))
        # Where a ring jumps, what is told at less than even odds within it is a jump as well.
        unlikely = (e.heard.group_odds[follower][:, (HAT, CYMBALS)] < 0).all(axis=1)
        rung = follower[(near >= max(self.others, self.others_share * ringing)) | unlikely]
        where = np.zeros_like(e.told)
        where[rung, HAT] = where[rung, CYMBALS] = True
        return e.taken_back(where)

    def _following(self, e: Evidence) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
        """Metal alone in the ring of an open hat and softer, the hat each is in the ring of, and all other metal.

        Softer metal in the ring that sounds with a drum is in none of these: it may be either.
        """
        told, (voice, loud) = e.told, e.metal
        others = np.asarray(np.delete(told, (HAT, CYMBALS), axis=1).any(axis=1))
        follower: list[int] = []
        main: list[int] = []
        strokes: list[int] = []
        for i in np.flatnonzero(told[:, HAT] | told[:, CYMBALS]).tolist():
            last = strokes[-1] if strokes else i
            in_ring = voice[last] in _RINGING and (
                self.ring_s[0] <= e.moments_s[i] - e.moments_s[last] <= self.ring_s[1]
            )
            if not in_ring or loud[i] >= self.softer * loud[last]:
                strokes.append(i)
            elif not others[i]:
                follower.append(i)
                main.append(last)
        return np.array(follower, np.int64), np.array(main, np.int64), np.array(strokes, np.int64)


@dataclass(frozen=True)
class SecondSwell(Rule):
    """No soft drums that are the second swell of the metal before.

    Some recorded hats and cymbals swell once more some 90 ms after each stroke, which is told as a soft snare or tom.
    Where one drum follows more than half of a voice's strokes at one delay, as exactly as only a ring does, it is that
    voice's own: players' strokes stray by 4 to 15 ms.
    """

    name = "second swell"
    why = "A soft drum that follows most strokes of a cymbal at one delay is the cymbal's own swell."
    idea = Idea.EXPLAINED
    once = False
    after_s: tuple[float, float] = (0.04, 0.25)
    softer: float = 0.6  # of the velocity of the metal
    spread_s: float = 0.012  # all in all
    exact_s: float = 0.002  # half of them, from the middle
    fewest: int = 6  # strokes of the metal

    def shift(self, e: Evidence) -> Shift:
        told, (voice, loud) = e.told, e.metal
        metal = told[:, HAT] | told[:, CYMBALS]
        where = np.zeros_like(told)
        for main in np.unique(voice[metal & np.isin(voice, _SWELLING)]).tolist():
            mains = np.flatnonzero(metal & (voice == main))
            if len(mains) < self.fewest:
                continue
            for group in (SNARE, TOMS):
                rung = self._rung(e, group, mains, loud)
                if not self._by_machine(rung, told, e.moments_s):
                    where[rung, group] = True
        return e.taken_back(where) if where.any() else NOTHING

    def _rung(self, e: Evidence, group: int, mains: NDArray[np.int64], loud: NDArray[np.floating]) -> NDArray[np.int64]:
        """Candidates at which a drum alone follows most of some strokes at one delay."""
        alone = np.flatnonzero(e.told[:, group] & (e.told.sum(axis=1) == 1))
        own = e.heard.velocity[alone, likeliest_voices(e.heard, NET_GROUPS[group])[alone]]
        before = np.searchsorted(mains, alone) - 1
        after_s = np.where(before >= 0, e.moments_s[alone] - e.moments_s[mains[before]], np.inf)
        softer = own < self.softer * loud[mains[before]]
        near = np.flatnonzero(softer & (after_s >= self.after_s[0]) & (after_s <= self.after_s[1]))
        return np.asarray(alone[near[self._at_one_delay(after_s[near], len(mains))]])

    def _by_machine(
        self, followers: NDArray[np.int64], told: NDArray[np.bool_], moments_s: NDArray[np.float64]
    ) -> bool:
        """Whether the next strokes stand as exactly to these as these to the strokes before: a machine plays it all."""
        strokes = np.setdiff1d(np.flatnonzero(told.any(axis=1)), followers)
        to_next_s = np.append(moments_s[strokes], np.inf)[np.searchsorted(strokes, followers)] - moments_s[followers]
        return bool(same_distance(to_next_s).sum() >= _LOOSE * same_distance(to_next_s, _ABOUT_S).sum())

    def _at_one_delay(self, after_s: NDArray[np.float64], mains: int) -> NDArray[np.bool_]:
        """Which of these delays are one, where more than half of the strokes have it; shape as given."""
        out = np.zeros(len(after_s), bool)
        if len(after_s) <= mains / 2:
            return out
        counts = np.abs(after_s[:, None] - after_s[None, :]) <= self.spread_s / 2
        middle = after_s[int(counts.sum(axis=1).argmax())]
        at_it = np.abs(after_s - middle) <= self.spread_s / 2
        exact = float(np.median(np.abs(after_s[at_it] - np.median(after_s[at_it])))) <= self.exact_s
        return at_it if at_it.sum() > mains / 2 and exact else out


def same_distance(distances_s: NDArray[np.float64], within_s: float = _EXACT_S) -> NDArray[np.int64]:
    """How many others have the same distance; shape as given. Infinite ones have none."""
    known = np.sort(distances_s[np.isfinite(distances_s)])
    first, end = (np.searchsorted(known, distances_s + sign * within_s) for sign in (-1, 1))
    return np.asarray(np.where(np.isfinite(distances_s), end - first - 1, 0))
