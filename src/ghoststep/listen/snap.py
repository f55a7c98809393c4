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
from ghoststep.music.time import TICKS_PER_QUARTER

_SIGMA_S = 0.010  # deviation that costs half a nat
GRACE_S = (0.008, 0.055)


@dataclass(frozen=True)
class Lattice:
    """Spots within one quarter: score ticks and cost in nats."""

    ticks: NDArray[np.int64]
    cost: NDArray[np.float64]


@lru_cache(maxsize=8)
def lattice(kind: str) -> Lattice:
    """The spots of a passage: "straight" or "swung" sixteenths with rare 32nds, or "triplet" with rare sextuplets."""
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
    spots = sorted(costs)
    return Lattice(np.array([int(s * TICKS_PER_QUARTER) for s in spots]), np.array([costs[s] for s in spots]))


def snapped(ticks: NDArray[np.float64], swing: Swing, kind: str, *, quarter_s: float) -> NDArray[np.int64]:
    """The spots meant by played positions.

    Parameters
    ----------
    ticks
        Played positions in fractional ticks on the even time line (swing not taken out), shape (n,).
    quarter_s
        Length of a quarter, which says how many ticks a deviation of some milliseconds is.

    Returns
    -------
    Score ticks, shape (n,), possibly negative.
    """
    spots = lattice(kind)
    base = np.floor(ticks / TICKS_PER_QUARTER).astype(np.int64)[:, None] * TICKS_PER_QUARTER
    options = np.concatenate(
        [base - TICKS_PER_QUARTER + spots.ticks, base + spots.ticks, base + TICKS_PER_QUARTER], axis=1
    )
    costs = np.concatenate([spots.cost, spots.cost, spots.cost[:1]])
    away_s = (swing.bend(options) - ticks[:, None]) * quarter_s / TICKS_PER_QUARTER
    total = 0.5 * (away_s / _SIGMA_S) ** 2 + costs
    out: NDArray[np.int64] = options[np.arange(len(ticks)), np.argmin(total, axis=1)]
    return out


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
