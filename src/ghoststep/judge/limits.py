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
Ints = NDArray[np.int64]
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
        return int(self.bpm + 1e-4)


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
    bars, share, first, number, mean = _runs(
        strikes.second[mine], strikes.voice[mine], strikes.bar[mine], letter, player, setup
    )
    order = np.lexsort((number, share, bars))
    best = order[np.flatnonzero(np.diff(bars[order], prepend=-1))]
    out = []
    for k in best[np.isfinite(share[best])].tolist():
        start, gaps = int(first[k]), int(number[k])
        now = tempo.main_bpm
        if not tempo.steady:
            now = tempo.bpm_at(played.hits[strikes.index[mine[start + gaps // 2]]].position_ticks)
        bpm = now * float(share[k])
        if bpm < _FASTEST_BPM:
            at = int(strikes.index[mine[start + gaps]])
            out.append(Limit(int(bars[k]), letter, bpm, now, at, gaps + 1, float(mean[k])))
    return out


def _runs(
    second: Floats, voice: Ints, bar: Ints, letter: str, player: Player, setup: KitSetup
) -> tuple[Ints, Floats, Ints, Ints, Floats]:
    """Every run of two to nine strokes of a limb: its bar, the share by which it could be faster, its first stroke, how
    many gaps it has, and their mean (seconds). A run that goes over a bar line belongs to the bar that has most of it.
    """
    gaps = np.diff(second)
    needed = _needed_s(gaps, voice, letter, player, setup)
    total = np.concatenate([[0.0], np.cumsum(gaps)])
    rows = []
    for number in range(1, min(HELD_STROKES - 1, len(gaps)) + 1):
        sums = total[number:] - total[:-number]
        allowed = needed if number == 1 else np.full(len(sums), player.gap_s(letter, number + 1) * number)
        # Rounded, so that of runs alike the first is told.
        share = np.where(sums > _TOGETHER_S, np.round(sums / allowed, 9), np.inf)
        start = np.arange(len(sums))
        rows.append((bar[start + number // 2], share, start, np.full(len(sums), number), sums / number))
    bars, share, first, numbers, mean = (np.concatenate(column) for column in zip(*rows, strict=True))
    return bars, share, first, numbers, mean


def _needed_s(gaps: Floats, voice: NDArray[np.int64], letter: str, player: Player, setup: KitSetup) -> Floats:
    """The least distance of each two strokes in a row (seconds): a bounce on one drum, the way between two."""
    burst = player.gap_s(letter, 2)
    same = burst / BOUNCE if letter in "RL" else min(player.foot_double_s, burst)
    pairs = np.stack([voice[:-1], voice[1:]], axis=1)
    out = np.full(len(gaps), same)
    for a, b in np.unique(pairs[voice[:-1] != voice[1:]], axis=0):
        one, other = VOICE_NAMES[a], VOICE_NAMES[b]
        away = setup.distance(one, other) if letter in "RL" else 0.0
        here = (pairs[:, 0] == a) & (pairs[:, 1] == b)
        out[here] = max(player.reach_s(away), burst) if away else burst
    return out


def playable_to(rows: list[Limit], bars: range | None = None) -> int | None:
    """The tempo up to which all limbs can play these bars; None where nothing limits it."""
    chosen = [row for row in rows if bars is None or row.bar in bars]
    return min((row.whole_bpm for row in chosen), default=None)
