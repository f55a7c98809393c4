"""Human looseness: one slow inner clock shared by all limbs, and a small part of each limb.

Deviations of players are correlated over many hits, with a spectrum near 1/f (Hennig et al. 2011; Räsänen et
al. 2015), and one drummer has one clock. Independent dice per note would sound like neither.
"""

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.kit import LIMB_LETTERS

SHARED_PART = 0.8  # of the standard deviation; the rest, in quadrature, belongs to each limb (working assumption)
_TIME_CONSTANTS_S = (0.4, 1.6, 6.4, 25.6)


def drift(times_s: NDArray[np.float64], rng: np.random.Generator) -> NDArray[np.float64]:
    """Values of unit variance at ascending times, correlated like 1/f noise.

    The sum of first-order processes with time constants spread evenly in octaves has a spectrum close to 1/f
    between them (van der Ziel 1950). Shape in: (n,) seconds; out: (n,).
    """
    gaps = np.diff(times_s, prepend=times_s[0] if len(times_s) else 0.0)
    total = np.zeros(len(times_s))
    for constant in _TIME_CONSTANTS_S:
        keep = np.exp(-np.abs(gaps) / constant)
        dice = rng.standard_normal(len(times_s))
        value = rng.standard_normal()
        for i, (k, die) in enumerate(zip(keep, dice, strict=True)):
            value = k * value + np.sqrt(1 - k * k) * die
            total[i] += value
    return total / np.sqrt(len(_TIME_CONSTANTS_S))


def deviations_ms(times_s: NDArray[np.float64], limbs: list[str], *, loose_ms: float, take: int) -> NDArray[np.float64]:
    """Deviation of each hit in ms; the same take gives the same deviations.

    Hits of all limbs at one instant share the inner clock exactly.
    """
    if not loose_ms or not len(times_s):
        return np.zeros(len(times_s))
    instants, which = np.unique(times_s, return_inverse=True)
    shared = drift(instants, np.random.default_rng([take, 0]))[which]
    own = np.zeros(len(times_s))
    letters = np.asarray(limbs)
    for number, letter in enumerate(LIMB_LETTERS):
        mine = np.flatnonzero(letters == letter)
        order = mine[np.argsort(times_s[mine], kind="stable")]
        if len(order):
            own[order] = drift(times_s[order], np.random.default_rng([take, number + 1]))
    out: NDArray[np.float64] = loose_ms * (SHARED_PART * shared + np.sqrt(1 - SHARED_PART**2) * own)
    return out
