"""The exponent of a fluctuation, by detrended fluctuation analysis (Peng et al. 1994)."""

import numpy as np
from numpy.typing import NDArray

LEAST_STROKES = 500  # below this the exponent hangs on chance
_SCALES, _SHORTEST = 16, 8


def exponent(values: NDArray[np.float64]) -> float:
    """b of a spectrum 1/f^b in a row of evenly spaced values; shape (n,), n of at least LEAST_STROKES.

    The row is summed up; in windows of several lengths a straight line is taken off, and the root mean square of what
    is left grows with the length to the power of alpha = (b + 1) / 2.

    Raises
    ------
    ValueError
        Where there are too few values.
    """
    if len(values) < LEAST_STROKES:
        raise ValueError(f"{len(values)} values are too few for an exponent: at least {LEAST_STROKES}.")
    profile = np.cumsum(values - values.mean())
    sizes = np.unique(np.geomspace(_SHORTEST, len(values) / 8, _SCALES).astype(int))
    alpha = np.polyfit(np.log(sizes), np.log([_left(profile, s) for s in sizes]), 1)[0]
    return float(2 * alpha - 1)


def _left(profile: NDArray[np.float64], size: int) -> float:
    """Root mean square around a straight line in windows of a size."""
    windows = profile[: len(profile) // size * size].reshape(-1, size)
    at = np.arange(size) - (size - 1) / 2
    slope = windows @ at / (at @ at)
    left = windows - windows.mean(axis=1, keepdims=True) - slope[:, None] * at
    return float(np.sqrt((left**2).mean())) or 1e-12
