"""Ticks, tempo and seconds, and every conversion between them.

20160 ticks to the quarter note (2^6 * 3^2 * 5 * 7) hold 64ths, triplets, quintuplets, septuplets and
nonuplets exactly. A tempo map has steps and ramps; time maps take scalars or arrays.
"""

from bisect import bisect_right
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
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
    """The tempo as a float, quarters per minute, within 10 to 960.

    Raises
    ------
    InputError
        Where it is outside that.
    """
    low, high = TEMPO_LIMITS_BPM
    if not low <= bpm <= high:  # also catches NaN
        raise InputError(f"A tempo of {bpm:g} BPM is outside {low:g} to {high:g} BPM.")
    return float(bpm)


@dataclass(frozen=True)
class TempoMap:
    """How fast the quarters go: from `ticks[i]` on at `bpm[i]`, steadily or on a ramp.

    `to_bpm[i]` is the tempo a ramp has reached when the next part begins (straight in BPM over the quarters); it equals
    `bpm[i]` where the tempo holds. `ticks[0]` is 0 and the last part holds. Before 0 the first tempo holds.

    Raises
    ------
    InputError
        Where the parts do not stand in order, or a tempo is outside 10 to 960 BPM.
    """

    ticks: tuple[int, ...] = (0,)
    bpm: tuple[float, ...] = (120.0,)
    to_bpm: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        if not self.to_bpm:
            object.__setattr__(self, "to_bpm", self.bpm)
        if not self.ticks or not len(self.ticks) == len(self.bpm) == len(self.to_bpm) or self.ticks[0] != 0:
            raise InputError("A tempo map needs one tempo from position 0 on.")
        if any(b <= a for a, b in pairwise(self.ticks)):
            raise InputError("The tempo changes have to stand in ascending order.")
        if self.to_bpm[-1] != self.bpm[-1]:
            raise InputError("A tempo that is on its way has to arrive somewhere: the last part of a tempo map holds.")
        for bpm in (*self.bpm, *self.to_bpm):
            checked_tempo_bpm(bpm)
        self._leave_out_what_changes_nothing()

    def _leave_out_what_changes_nothing(self) -> None:
        rows: list[tuple[int, float, float]] = []
        for row in zip(self.ticks, self.bpm, self.to_bpm, strict=True):
            if not rows or not rows[-1][1] == rows[-1][2] == row[1] == row[2]:
                rows.append(row)
        if len(rows) < len(self.ticks):
            for name, column in zip(("ticks", "bpm", "to_bpm"), zip(*rows, strict=True), strict=True):
                object.__setattr__(self, name, tuple(column))

    @classmethod
    def constant(cls, bpm: float) -> "TempoMap":
        return cls((0,), (float(bpm),))

    @property
    def main_bpm(self) -> float:
        """The tempo at the start, which is the tempo where it never changes."""
        return self.bpm[0]

    @property
    def steady(self) -> bool:
        """Whether there is one tempo from start to end."""
        return len(self.ticks) == 1

    @property
    def parts(self) -> tuple[tuple[int, float, float], ...]:
        """(from tick, tempo there, tempo reached at its end) of every part."""
        return tuple(zip(self.ticks, self.bpm, self.to_bpm, strict=True))

    @cached_property
    def _table(self) -> tuple[Floats, Floats, Floats, Floats]:
        """Ticks, seconds, tempo and slope (BPM a quarter) at the start of each part."""
        ticks, bpm, to = (np.asarray(x, float) for x in (self.ticks, self.bpm, self.to_bpm))
        quarters = np.append(np.diff(ticks), TICKS_PER_QUARTER) / TICKS_PER_QUARTER
        slope = (to - bpm) / quarters
        lengths = _ramp_seconds(quarters, bpm, slope)[:-1]
        return ticks, np.concatenate([[0.0], np.cumsum(lengths)]), bpm, slope

    def seconds(self, ticks: ArrayLike) -> Floats:
        """Seconds from tick 0; ticks may be fractional or negative. Scalars or arrays, shape as given."""
        at = np.asarray(ticks, float)
        starts, seconds, bpm, slope = self._table
        part = np.clip(np.searchsorted(starts, at, side="right") - 1, 0, None)
        quarters = (at - starts[part]) / TICKS_PER_QUARTER
        bend = np.where(quarters < 0, 0.0, slope[part])
        out: Floats = seconds[part] + _ramp_seconds(quarters, bpm[part], bend)
        return out

    def to_ticks(self, seconds: ArrayLike) -> Floats:
        """The inverse of `seconds`, as fractional ticks; shape as given."""
        at = np.asarray(seconds, float)
        ticks, starts, bpm, slope = self._table
        part = np.clip(np.searchsorted(starts, at, side="right") - 1, 0, None)
        rest = at - starts[part]
        bend = np.where(rest < 0, 0.0, slope[part])
        safe = np.where(bend == 0, 1.0, bend)
        quarters = np.where(bend == 0, rest * bpm[part] / 60, bpm[part] / safe * np.expm1(rest * safe / 60))
        out: Floats = ticks[part] + quarters * TICKS_PER_QUARTER
        return out

    def bpm_at(self, tick: float) -> float:
        """The tempo at a position."""
        part = max(0, bisect_right(self.ticks, tick) - 1)
        away = max(tick - self.ticks[part], 0.0)
        if self.to_bpm[part] == self.bpm[part]:
            return self.bpm[part]
        return self.bpm[part] + (self.to_bpm[part] - self.bpm[part]) * away / (self.ticks[part + 1] - self.ticks[part])

    def tick_seconds(self, tick: float) -> float:
        """How long one tick lasts at a position, in seconds."""
        return 60 / TICKS_PER_QUARTER / self.bpm_at(tick)

    @classmethod
    def of(cls, parts: Iterable[tuple[int, float, float]]) -> "TempoMap":
        """From (from tick, tempo, tempo reached) in any order; a later part at one tick stands for an earlier one.

        A ramp that has nothing behind it holds.
        """
        by = {tick: (float(a), float(b)) for tick, a, b in parts}
        rows = [(tick, *by[tick]) for tick in sorted(by)]
        last = rows[-1]
        rows[-1] = (last[0], last[1], last[1])
        return cls(*(tuple(column) for column in zip(*rows, strict=True)))

    def spliced(self, at: int, gone: int, new: int, inside: "TempoMap | None" = None) -> "TempoMap":
        """With `gone` ticks from `at` on taken out and `new` ticks put in there.

        What is put in goes at `inside`'s tempo, counted from its own 0, or at the tempo of the place. What follows
        keeps its tempo; a ramp that is cut keeps the tempi it had at the cuts.
        """
        head = self.cut(0, at)
        tail = [(tick + at + new, a, b) for tick, a, b in self.cut(at + gone, None)]
        here = self.bpm_at(at)
        middle = [] if not new else [(at, here, here)] if inside is None else [
            (tick + at, a, b) for tick, a, b in inside.cut(0, new)
        ]  # fmt: skip
        return TempoMap.of([*head, *middle, *tail])

    def cut(self, low: int, high: int | None) -> list[tuple[int, float, float]]:
        """The parts between two positions, counted from the first."""
        out = []
        ends = (*self.ticks[1:], None)
        for (start, bpm, to), end in zip(self.parts, ends, strict=True):
            a = max(start, low)
            b = end if high is None else high if end is None else min(end, high)
            if b is not None and a >= b:
                continue
            if end is None or bpm == to:
                out.append((a - low, bpm, to))
            else:
                assert b is not None
                last = to if b == end else self.bpm_at(b)
                out.append((a - low, self.bpm_at(a), last))
        return out


def _ramp_seconds(quarters: Floats, bpm: Floats, slope: Floats) -> Floats:
    """Seconds of so many quarters from a tempo on that changes by `slope` BPM a quarter; arrays of one shape.

    t(q) = 60/s ln(1 + s q / b), which is 60 q / b where s is 0: the integral of 60 / (b + s q).
    """
    safe = np.where(slope == 0, 1.0, slope)
    bent = 60 / safe * np.log1p(np.maximum(safe * quarters / bpm, -0.999999))
    out: Floats = np.where(slope == 0, 60 * quarters / bpm, bent)
    return out
