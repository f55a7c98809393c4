"""Each hit to the spot it is meant for.

A spot costs more the finer it is, so a hit a few milliseconds beside an eighth is a late eighth and no 64th. The
remainder is kept by the caller, so nothing is lost by a coarse choice.
"""

from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.feel import Swing
from ghoststep.music.frame import Bars
from ghoststep.music.time import TICKS_PER_QUARTER

_SIGMA_S = 0.010  # deviation that costs half a nat
_SWITCH_NATS = 3.0  # against another kind of lattice from one beat to the next
_SHUFFLED = 0.62  # swing from which on it is thirds
GRACE_S = (0.008, 0.055)


@dataclass(frozen=True)
class Lattice:
    """Spots within one quarter: score ticks and cost in nats."""

    ticks: NDArray[np.int64]
    cost: NDArray[np.float64]


@lru_cache(maxsize=8)
def lattice(kind: str, unit: int = 16, shuffled: bool = False) -> Lattice:
    """The spots of a passage: "straight" or "swung" sixteenths with rare 32nds, or "triplet" with rare sextuplets.

    Where eighths swing (`unit` 8), or sixteenths swing as far as thirds (`shuffled`), the middle third of a pair is a
    spot of its own: a shuffle with some stays a shuffle.
    """
    costs: dict[Fraction, float] = {Fraction(0): 0.0, Fraction(1, 2): 0.3}
    if kind == "triplet":
        costs |= {Fraction(1, 3): 0.4, Fraction(2, 3): 0.4, Fraction(1, 2): 4.0}
        costs |= {Fraction(i, 6): 3.0 for i in (1, 5)}
        costs |= {Fraction(1, 4): 5.0, Fraction(3, 4): 5.0}
    else:
        costs |= {Fraction(1, 4): 0.8, Fraction(3, 4): 0.8}
        costs |= {Fraction(i, 8): 4.0 for i in (1, 3, 5, 7)}
        if kind == "straight":
            costs |= {Fraction(1, 3): 5.0, Fraction(2, 3): 5.0}
        elif unit == 8:  # the last third is the swung eighth
            costs |= {Fraction(1, 3): 0.6}
        elif shuffled:
            # A swung 32nd and the middle third of an eighth are one moment there, and people write the third.
            costs |= {Fraction(1, 6): 1.2, Fraction(2, 3): 1.2}
    spots = sorted(costs)
    return Lattice(np.array([int(s * TICKS_PER_QUARTER) for s in spots]), np.array([costs[s] for s in spots]))


@dataclass(frozen=True, eq=False)
class Snapped:
    """Score ticks of each hit, shape (n,), possibly negative, and the kind of lattice of each beat that has hits.

    `cost` is what it all costs, in nats: deviations, rare spots, and changes of lattice.
    """

    ticks: NDArray[np.int64]
    kinds: dict[int, str]  # by the number of the quarter
    cost: float


def snapped(
    ticks: NDArray[np.float64], swing: Swing, kind: str, *, quarter_s: float | NDArray[np.float64], bars: Bars
) -> Snapped:
    """The spots meant by played positions; a beat or passage may leave the usual lattice for the other one.

    Which beats do is a shortest path over the beats: the cost of the hits on either lattice, and of each change.

    Parameters
    ----------
    ticks
        Played positions in fractional ticks on the even time line (swing not taken out), shape (n,).
    kind
        The usual lattice of the piece: "straight", "swung" or "triplet".
    quarter_s
        Length of a quarter, which says how many ticks a deviation of some milliseconds is; one figure or one a hit.
    bars
        Where bars and groups begin, from which swung pairs are counted.
    """
    kinds = (kind, "straight" if kind == "triplet" else "triplet")
    near = [_nearest(ticks, swing, k, quarter_s, bars) for k in kinds]
    beats = np.rint((ticks - 0.02 * TICKS_PER_QUARTER) // TICKS_PER_QUARTER).astype(np.int64)
    present, index = np.unique(beats, return_inverse=True)
    by_beat = np.stack([np.bincount(index, cost, minlength=len(present)).astype(float) for _, cost in near])
    choice = _path(by_beat)
    ways = np.concatenate([[0], choice, [0]])
    cost = float(by_beat[choice, np.arange(len(present))].sum()) + _SWITCH_NATS * int(np.abs(np.diff(ways)).sum())
    chosen = choice[index]
    out = np.where(chosen == 0, near[0][0], near[1][0])
    return Snapped(out, {int(b): kinds[c] for b, c in zip(present, choice, strict=True)}, cost)


def _path(costs: NDArray[np.float64]) -> NDArray[np.int64]:
    """The cheaper of two states for each beat, changes paid for (Viterbi 1967); costs of shape (2, beats)."""
    best = costs[:, 0] + np.array([0.0, _SWITCH_NATS])
    came = np.zeros(costs.shape, np.int64)
    for i in range(1, costs.shape[1]):
        options = best[:, None] + _SWITCH_NATS * (1 - np.eye(2))  # [from, to]
        came[:, i] = options.argmin(axis=0)
        best = options.min(axis=0) + costs[:, i]
    best = best + np.array([0.0, _SWITCH_NATS])
    out = np.zeros(costs.shape[1], np.int64)
    out[-1] = best.argmin()
    for i in range(costs.shape[1] - 1, 0, -1):
        out[i - 1] = came[out[i], i]
    return out


def _nearest(
    ticks: NDArray[np.float64], swing: Swing, kind: str, quarter_s: float | NDArray[np.float64], bars: Bars
) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """The cheapest spot of one lattice for each position, and its cost in nats."""
    spots = lattice(kind, swing.unit, swing.ratio >= _SHUFFLED)
    base = np.floor(ticks / TICKS_PER_QUARTER).astype(np.int64)[:, None] * TICKS_PER_QUARTER
    options = np.concatenate(
        [base - TICKS_PER_QUARTER + spots.ticks, base + spots.ticks, base + TICKS_PER_QUARTER], axis=1
    )
    costs = np.concatenate([spots.cost, spots.cost, spots.cost[:1]])
    bent = swing.bend(options, bars) if kind == "swung" else options
    away_s = (bent - ticks[:, None]) * np.reshape(quarter_s, (-1, 1)) / TICKS_PER_QUARTER
    # A far stray costs no more than some: it says nothing about the lattice.
    total = np.minimum(0.5 * (away_s / _SIGMA_S) ** 2, 12 + np.abs(away_s)) + costs
    best = np.argmin(total, axis=1)
    rows = np.arange(len(ticks))
    return options[rows, best], total[rows, best]


def grace_notes(onset_s: NDArray[np.float64], group: list[str], velocity: NDArray[np.int16]) -> dict[int, int]:
    """Soft strokes just ahead of a louder one of the same drum: {index of the grace note: index of its main note}."""
    out: dict[int, int] = {}
    order = np.argsort(onset_s, kind="stable")
    for name in ("snare", "toms"):
        mine = [int(i) for i in order if group[i] == name]
        for i, j in reversed(list(pairwise(mine))):
            main = out.get(j, j)  # the first stroke of a drag leads, by way of the second, to the same main note
            if GRACE_S[0] <= onset_s[j] - onset_s[i] <= GRACE_S[1] and velocity[i] < 0.8 * velocity[main]:
                out[i] = main
    return out
