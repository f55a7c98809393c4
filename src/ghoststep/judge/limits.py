"""Up to which tempo each limb can play each bar.

A limb has to make two to nine strokes in a row; the closest of such runs against the least mean distance its player
holds gives the share by which the tempo may still rise. Two strokes on one drum may be a bounced double, which is
faster than two strokes of the wrist; a way to another drum takes its time whatever the tempo.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ghoststep.judge.kit_setup import KitSetup
from ghoststep.judge.played import Played
from ghoststep.judge.players import HELD_STROKES, Player
from ghoststep.music.kit import LIMB_LETTERS, VOICE_NAMES

Floats = NDArray[np.float64]
BOUNCE = 1.6  # how much faster than a burst the second stroke of a bounced double comes (working assumption)
_FASTEST_BPM = 400.0  # what goes faster than any tempo is no limit
_TOGETHER_S = 1e-3  # strokes of one limb that are nearer are a clash, and no matter of tempo


class Limit(NamedTuple):
    """One limb in one bar: the tempo up to which it can be played, and the tempo there is.

    hit: index of the one at which it is closest; strokes: how many in a row are closest, and gap_s how far apart on
    average.
    """

    bar: int
    limb: str
    bpm: float
    now_bpm: float
    hit: int
    strokes: int
    gap_s: float

    @property
    def whole_bpm(self) -> int:
        """The limit as it is told: the last whole BPM that can be played."""
        return int(self.bpm + 1e-6)


def limits(played: Played, player: Player, setup: KitSetup) -> list[Limit]:
    """The limits of every bar and limb that plays two strokes near each other, in the order of bars and limbs."""
    out = [row for letter in LIMB_LETTERS for row in _of_limb(played, letter, player, setup)]
    return sorted(out, key=lambda row: (row.bar, LIMB_LETTERS.index(row.limb)))


def _of_limb(played: Played, letter: str, player: Player, setup: KitSetup) -> list[Limit]:
    strikes, tempo = played.strikes, played.groove.tempo
    mine = strikes.of_limb(letter)
    if letter in "RL" and len(strikes.crowded):  # where three hands are asked for, two of them tell nothing of rates
        mine = mine[~np.isin(strikes.index[mine], strikes.crowded)]
    if len(mine) < 2:
        return []
    second, voice = strikes.second[mine], strikes.voice[mine]
    bar = strikes.bar[mine]
    closest: dict[int, Limit] = {}
    bpm_now = tempo.main_bpm if tempo.steady else 0.0
    gaps = np.diff(second)
    needed = _needed_s(gaps, voice, letter, player, setup)
    for strokes in range(2, HELD_STROKES + 1):
        number = strokes - 1
        if len(gaps) < number:
            break
        sums = np.convolve(gaps, np.ones(number), "valid")
        least = np.convolve(needed, np.ones(number), "valid") if strokes == 2 else None
        allowed = least if least is not None else np.full(len(sums), player.gap_s(letter, strokes) * number)
        share = np.where(sums > _TOGETHER_S, np.round(sums / allowed, 9), np.inf)  # alike runs: the first of them
        middle = number // 2  # a run that goes over a bar line belongs to the bar that has most of it
        for b, k in _least_of_bars(bar[middle : middle + len(share)], share):
            now = bpm_now
            if not now:
                now = tempo.bpm_at(played.hits[strikes.index[mine[k + middle]]].position_ticks)
            bpm = now * float(share[k])
            if bpm < _FASTEST_BPM and (b not in closest or bpm < closest[b].bpm):
                at = int(strikes.index[mine[k + number]])
                closest[b] = Limit(b, letter, bpm, now, at, strokes, float(sums[k] / number))
    return list(closest.values())


def _needed_s(gaps: Floats, voice: NDArray[np.int64], letter: str, player: Player, setup: KitSetup) -> Floats:
    """The least distance of each two strokes in a row (seconds): a bounce on one drum, the way between two."""
    burst = player.gap_s(letter, 2)
    same = burst / BOUNCE if letter in "RL" else burst
    pairs = np.stack([voice[:-1], voice[1:]], axis=1)
    out = np.full(len(gaps), same)
    for a, b in np.unique(pairs[voice[:-1] != voice[1:]], axis=0):
        one, other = VOICE_NAMES[a], VOICE_NAMES[b]
        away = setup.distance(one, other) if letter in "RL" else 0.0
        here = (pairs[:, 0] == a) & (pairs[:, 1] == b)
        out[here] = max(player.reach_s(away), burst) if away else burst
    return out


def _least_of_bars(bars: NDArray[np.int64], share: Floats) -> list[tuple[int, int]]:
    """(bar, place of the least share in it) for every bar."""
    if not len(bars):
        return []
    order = np.lexsort((share, bars))
    first = np.flatnonzero(np.diff(bars[order], prepend=-1))
    return [(int(bars[order[k]]), int(order[k])) for k in first]


def playable_to(rows: list[Limit], bars: range | None = None) -> int | None:
    """The tempo up to which all limbs can play these bars; None where nothing limits it."""
    chosen = [row for row in rows if bars is None or row.bar in bars]
    return min((row.whole_bpm for row in chosen), default=None)
