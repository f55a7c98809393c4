"""Hits laid on the steps of a pulse, as the codes by which readings of bars are judged need them."""

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.meter import Meter
from ghoststep.music.time import TICKS_PER_QUARTER

Counts = NDArray[np.int64]


class Struck:
    """Which classes are struck at which steps, from the first hit to the last; what is counted of them is kept.

    Parameters
    ----------
    struck
        Shape (classes, steps); classes that are never struck are left out.
    """

    def __init__(self, struck: NDArray[np.bool_]) -> None:
        self.used = np.flatnonzero(struck.any(axis=1))
        self.cells = struck[self.used]
        self.width = struck.shape[1]
        self._folded: dict[int, tuple[Counts, Counts]] = {}
        self._likeness: dict[int, float] = {}

    def folded(self, steps: int) -> tuple[Counts, Counts]:
        """The hits at each step of a round of so many, shape (used, steps), and how often each step comes, (steps,)."""
        if steps not in self._folded:
            rounds = np.zeros((len(self.used), -(-self.width // steps) * steps), np.int64)
            rounds[:, : self.width] = self.cells
            whole, rest = divmod(self.width, steps)
            times = np.where(np.arange(steps) < rest, whole + 1, whole)
            self._folded[steps] = rounds.reshape(len(self.used), -1, steps).sum(axis=1, dtype=np.int64), times
        return self._folded[steps]

    def likeness(self, lag: int) -> float:
        """The share of hits that come again after so many steps, 0 to 1."""
        if lag not in self._likeness:
            now, before = self.cells[:, lag:], self.cells[:, :-lag]
            hits, again = (int(np.count_nonzero(some)) for some in (np.stack([now, before]), now & before))
            self._likeness[lag] = 2 * again / max(hits, 1)
        return self._likeness[lag]

    def bars(self, steps: int, shifts: Counts) -> Counts:
        """How many bars of so many steps the hits take, where so many empty steps stand before the first."""
        return -(-(self.width + shifts) // steps)


def bar_steps(meter: Meter, per_quarter: int) -> int:
    """Steps of the pulse in a bar."""
    return meter.bar_ticks * per_quarter // TICKS_PER_QUARTER


def beat_steps(meter: Meter, per_quarter: int) -> int:
    """Steps after which a steady hand repeats: a quarter, a dotted quarter in compound time, an eighth in odd ones."""
    ticks = meter.unit_ticks * (3 if meter.denominator == 8 and meter.numerator % 3 == 0 else 1)
    return max(ticks * per_quarter // TICKS_PER_QUARTER, 1)
