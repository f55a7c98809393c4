"""Ticks, tempo and seconds, and every conversion between them.

20160 ticks to the quarter note (2^6 * 3^2 * 5 * 7) hold 64ths, triplets, quintuplets, septuplets and
nonuplets exactly. A tempo map is piecewise constant; time maps take scalars or arrays.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ghoststep.music.errors import InputError

TICKS_PER_QUARTER = 20160
TICKS_PER_WHOLE = 4 * TICKS_PER_QUARTER
TEMPO_LIMITS_BPM = (10.0, 960.0)

Floats = NDArray[np.float64]


def step_ticks(grid: int) -> int:
    """Ticks of one step of a grid given as notes to a whole (16, 12 = eighth triplets ...).

    Raises
    ------
    InputError
        Where the whole note does not divide into that many equal whole ticks.
    """
    if grid < 1 or TICKS_PER_WHOLE % grid:
        raise InputError(
            f"A grid of {grid} notes to a whole does not fit: use a number that divides"
            f" {TICKS_PER_WHOLE}, such as 8, 12, 16, 20, 24, 28 or 32."
        )
    return TICKS_PER_WHOLE // grid


def checked_tempo_bpm(bpm: float) -> float:
    """The tempo as a float, quarters per minute, within 10 to 960."""
    low, high = TEMPO_LIMITS_BPM
    if not low <= bpm <= high:  # also catches NaN
        raise InputError(f"A tempo of {bpm:g} BPM is outside {low:g} to {high:g} BPM.")
    return float(bpm)


@dataclass(frozen=True)
class TempoMap:
    """Where the quarter goes how fast: `bpm[i]` holds from `ticks[i]` on; `ticks[0]` is 0."""

    ticks: tuple[int, ...] = (0,)
    bpm: tuple[float, ...] = (120.0,)

    def __post_init__(self) -> None:
        if not self.ticks or len(self.ticks) != len(self.bpm) or self.ticks[0] != 0:
            raise InputError("A tempo map needs one tempo from position 0 on.")
        if any(b <= a for a, b in pairwise(self.ticks)):
            raise InputError("The tempo changes have to stand in ascending order.")
        for bpm in self.bpm:
            checked_tempo_bpm(bpm)

    @classmethod
    def constant(cls, bpm: float) -> "TempoMap":
        return cls((0,), (float(bpm),))

    @property
    def main_bpm(self) -> float:
        """The tempo at the start, which is the tempo where it never changes."""
        return self.bpm[0]

    def _starts_s(self) -> Floats:
        lengths = np.diff(np.asarray(self.ticks, float)) * 60 / TICKS_PER_QUARTER
        return np.concatenate([[0.0], np.cumsum(lengths / np.asarray(self.bpm[:-1]))])

    def seconds(self, ticks: ArrayLike) -> Floats:
        """Seconds from tick 0; ticks may be fractional or negative (the first tempo holds there)."""
        at = np.asarray(ticks, float)
        part = np.clip(np.searchsorted(self.ticks, at, side="right") - 1, 0, None)
        rest = at - np.asarray(self.ticks, float)[part]
        out: Floats = self._starts_s()[part] + rest * 60 / TICKS_PER_QUARTER / np.asarray(self.bpm)[part]
        return out

    def to_ticks(self, seconds: ArrayLike) -> Floats:
        """The inverse of `seconds`, as fractional ticks."""
        at = np.asarray(seconds, float)
        starts = self._starts_s()
        part = np.clip(np.searchsorted(starts, at, side="right") - 1, 0, None)
        rest = (at - starts[part]) * np.asarray(self.bpm)[part] * TICKS_PER_QUARTER / 60
        out: Floats = np.asarray(self.ticks, float)[part] + rest
        return out

    def tick_seconds(self, tick: float) -> float:
        """How long one tick lasts at a position, in seconds."""
        part = max(0, int(np.searchsorted(self.ticks, tick, side="right")) - 1)
        return 60 / TICKS_PER_QUARTER / self.bpm[part]
