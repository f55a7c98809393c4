"""Human looseness: one slow inner clock shared by all limbs, and a small part of each limb.

Deviations of players are correlated over many hits, with a spectrum near 1/f (Hennig et al. 2011; Räsänen et
al. 2015), and one drummer has one clock. Independent dice per note would sound like neither. The clock is a function
of time, so that a hit put in or taken out moves no other.
"""

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.kit import LIMB_LETTERS

SHARED_PART = 0.8  # of the standard deviation; the rest, in quadrature, belongs to each limb (working assumption)
_SPANS_S = (0.4, 1.6, 6.4, 25.6)


def drift(times_s: NDArray[np.float64], seed: list[int]) -> NDArray[np.float64]:
    """Values of unit variance at given times, correlated like 1/f noise. Shape in: (n,) seconds; out: (n,).

    Waves of four lengths, spread evenly in octaves, add up to a spectrum close to 1/f between them (van der Ziel 1950
    for first-order processes). Each is drawn on marks of its length and blended between them at constant variance.
    """
    total = np.zeros(len(times_s))
    for number, span in enumerate(_SPANS_S):
        marks = np.clip(times_s, -span, None) / span + 1
        low = np.floor(marks).astype(int)
        dice = np.random.default_rng([*seed, number]).standard_normal(int(low.max(initial=0)) + 2)
        angle = (marks - low) * np.pi / 2
        total += np.cos(angle) * dice[low] + np.sin(angle) * dice[low + 1]
    out: NDArray[np.float64] = total / np.sqrt(len(_SPANS_S))
    return out


def deviations_ms(times_s: NDArray[np.float64], limbs: list[str], *, loose_ms: float, take: int) -> NDArray[np.float64]:
    """Deviation of each hit in ms; the same take gives the same deviations.

    Hits of all limbs at one instant share the inner clock exactly.
    """
    if not loose_ms or not len(times_s):
        return np.zeros(len(times_s))
    shared = drift(times_s, [take, 0])
    own = np.zeros(len(times_s))
    letters = np.asarray(limbs)
    for number, letter in enumerate(LIMB_LETTERS):
        mine = letters == letter
        own[mine] = drift(times_s[mine], [take, number + 1])
    out: NDArray[np.float64] = loose_ms * (SHARED_PART * shared + np.sqrt(1 - SHARED_PART**2) * own)
    return out
