"""Bars, beats and spots: where the bar lines lie, in meters that may change from bar to bar.

Bars are numbered from 1, as people count them, and go on past both ends: before bar 1 in the first meter, after the
last bar in the last one. Positions are ticks from the first bar line. Every question takes one position or an array.
No other module divides by the length of a bar; seconds are answered by `music.time.TempoMap`.
"""

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import overload

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ghoststep.music.errors import InputError
from ghoststep.music.meter import Meter

Ints = NDArray[np.int64]
MeterChanges = tuple[tuple[int, Meter], ...]  # (bar from which on, meter), ascending, from bar 2 on
LAST_BAR = 1_000_000


@dataclass(frozen=True)
class Spot:
    """A bar (from 1) and a position in it (ticks from the bar line)."""

    bar: int
    tick: int


@dataclass(frozen=True)
class Bars:
    """The meter of bar 1 and the bars from which on another one holds.

    Raises
    ------
    InputError
        Where the changes do not stand in ascending order from bar 2 on.
    """

    first: Meter = field(default_factory=Meter)
    changes: MeterChanges = ()
    _bars: tuple[int, ...] = field(init=False, repr=False, compare=False)
    _ticks: tuple[int, ...] = field(init=False, repr=False, compare=False)
    _meters: tuple[Meter, ...] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        bars, ticks, meters = [1], [0], [self.first]
        for bar, meter in self.changes:
            if not bars[-1] < bar <= LAST_BAR:
                raise InputError(f"A change of meter at bar {bar} does not fit: they stand in order, from bar 2 on.")
            ticks.append(ticks[-1] + (bar - bars[-1]) * meters[-1].bar_ticks)
            bars.append(bar)
            meters.append(meter)
        for name, row in (("_bars", bars), ("_ticks", ticks), ("_meters", meters)):
            object.__setattr__(self, name, tuple(row))

    # -- single answers ------------------------------------------------------------------------------------------

    def _part_of_bar(self, bar: int) -> int:
        return max(bisect_right(self._bars, bar) - 1, 0)

    def _part_at(self, ticks: float) -> int:
        return max(bisect_right(self._ticks, ticks) - 1, 0)

    def meter_of(self, bar: int) -> Meter:
        """The meter of a bar."""
        return self._meters[self._part_of_bar(bar)]

    def meter_at(self, ticks: float) -> Meter:
        """The meter at a position."""
        return self._meters[self._part_at(ticks)]

    def length_of(self, bar: int) -> int:
        """Ticks of a bar."""
        return self.meter_of(bar).bar_ticks

    def spot_at(self, ticks: int) -> Spot:
        """Bar and place in it of a position."""
        part = self._part_at(ticks)
        bar, rest = divmod(ticks - self._ticks[part], self._meters[part].bar_ticks)
        return Spot(self._bars[part] + int(bar), int(rest))

    def ticks_of(self, spot: Spot) -> int:
        """The position of a spot."""
        return self.start_of(spot.bar) + spot.tick

    def bar_start_at(self, ticks: int) -> int:
        """The bar line a position stands behind, in ticks."""
        return ticks - self.spot_at(ticks).tick

    def beat_at(self, ticks: int) -> int:
        """The counted beat a position stands in, from 1 (denominator notes)."""
        return self.spot_at(ticks).tick // self.meter_at(ticks).unit_ticks + 1

    def beat_start_at(self, ticks: int) -> int:
        """The counted beat a position stands on or behind, in ticks."""
        return ticks - self.spot_at(ticks).tick % self.meter_at(ticks).unit_ticks

    def group_at(self, ticks: int) -> tuple[int, int]:
        """Start and end (ticks) of the group of beats a position stands in."""
        meter, place = self.meter_at(ticks), self.spot_at(ticks).tick
        line = ticks - place
        starts = meter.group_starts
        at = bisect_right(starts, place) - 1
        return line + starts[at], line + (starts[at + 1] if at + 1 < len(starts) else meter.bar_ticks)

    def count_up_to(self, ticks: int) -> int:
        """How many bars hold everything before a position."""
        spot = self.spot_at(ticks)
        return spot.bar if spot.tick else spot.bar - 1

    # -- single answers or arrays --------------------------------------------------------------------------------

    @overload
    def start_of(self, bar: int) -> int: ...
    @overload
    def start_of(self, bar: Sequence[int] | Ints) -> Ints: ...
    def start_of(self, bar: int | Sequence[int] | Ints) -> int | Ints:
        """The position at which a bar begins; also of bars before the first and after the last."""
        if isinstance(bar, int):
            part = self._part_of_bar(bar)
            return self._ticks[part] + (bar - self._bars[part]) * self._meters[part].bar_ticks
        at = np.asarray(bar, np.int64)
        parts = np.clip(np.searchsorted(self._bars, at, side="right") - 1, 0, None)
        out: Ints = np.asarray(self._ticks)[parts] + (at - np.asarray(self._bars)[parts]) * self._lengths()[parts]
        return out

    def _lengths(self) -> Ints:
        return np.array([m.bar_ticks for m in self._meters], np.int64)

    def bars_of(self, ticks: ArrayLike) -> Ints:
        """The bars of many positions; shape as given."""
        at = np.asarray(ticks)
        parts = np.clip(np.searchsorted(self._ticks, at, side="right") - 1, 0, None)
        inside = np.floor_divide(at - np.asarray(self._ticks)[parts], self._lengths()[parts])
        out: Ints = np.asarray(self._bars)[parts] + inside.astype(np.int64)
        return out

    def places_of(self, ticks: ArrayLike) -> NDArray[np.float64]:
        """Positions counted in bars with a fraction, 0.0 at the first bar line; shape as given."""
        at = np.asarray(ticks, float)
        bars = self.bars_of(at)
        lengths = self._lengths()[np.clip(np.searchsorted(self._bars, bars, side="right") - 1, 0, None)]
        out: NDArray[np.float64] = bars - 1 + (at - self.start_of(bars)) / lengths
        return out

    def groups_of(self, ticks: ArrayLike) -> tuple[Ints, Ints]:
        """Start and end (ticks) of the group of beats each position stands in; shapes as given."""
        at = np.asarray(ticks, np.int64)
        parts = np.clip(np.searchsorted(self._ticks, at, side="right") - 1, 0, None)
        starts, ends = np.empty_like(at), np.empty_like(at)
        for part in np.unique(parts):
            meter, mine = self._meters[part], parts == part
            place = (at[mine] - self._ticks[part]) % meter.bar_ticks
            edges = np.array([*meter.group_starts, meter.bar_ticks])
            group = np.searchsorted(edges, place, side="right") - 1
            starts[mine], ends[mine] = at[mine] - place + edges[group], at[mine] - place + edges[group + 1]
        return starts, ends

    # -- rows of lines -------------------------------------------------------------------------------------------

    def between(self, low: float, high: float) -> Iterator[tuple[int, int, Meter]]:
        """(bar, start in ticks, meter) of every bar that begins before `high` and ends behind `low`."""
        bar = self.spot_at(int(low)).bar
        at = self.start_of(bar)
        while at < high:
            meter = self.meter_of(bar)
            yield bar, at, meter
            at += meter.bar_ticks
            bar += 1

    def beats(self, low: float, high: float) -> Iterator[tuple[int, bool]]:
        """(position, whether it is a bar line) of the counted beats from `low` up to (without) `high`."""
        for _, start, meter in self.between(low, high):
            for tick in range(start, start + meter.bar_ticks, meter.unit_ticks):
                if low <= tick < high:
                    yield tick, tick == start

    # -- changes of the frame itself -----------------------------------------------------------------------------

    def _rows(self) -> dict[int, Meter]:
        return dict(zip(self._bars, self._meters, strict=True))

    def with_meter(self, meter: Meter, first: int, last: int) -> "Bars":
        """The same bars with another meter from bar `first` to bar `last`; what follows keeps its own."""
        rows = {bar: m for bar, m in self._rows().items() if not first <= bar <= last}
        return Bars.of({last + 1: self.meter_of(last + 1), **rows, first: meter})

    def inserted(self, bar: int, meters: Sequence[Meter]) -> "Bars":
        """Bars with these meters put in before a bar."""
        count = len(meters)
        rows = {b + count if b >= bar else b: m for b, m in self._rows().items()}
        rows |= {bar + i: meter for i, meter in enumerate(meters)}
        return Bars.of(rows | {bar + count: self.meter_of(bar)})

    def deleted(self, first: int, last: int) -> "Bars":
        """Without the bars from `first` to `last`."""
        count = last - first + 1
        rows = {b - count if b > last else b: m for b, m in self._rows().items() if not first <= b <= last}
        return Bars.of(rows | {first: self.meter_of(last + 1)})

    @classmethod
    def of(cls, meters: dict[int, Meter]) -> "Bars":
        """From {bar: meter that holds from it on}; bar 1 has to be in it, and what changes nothing is left out."""
        changes: list[tuple[int, Meter]] = []
        last = meters[1]
        for bar in sorted(b for b in meters if b > 1):
            if meters[bar] != last:
                last = meters[bar]
                changes.append((bar, last))
        return cls(meters[1], tuple(changes))

    def up_to(self, bars: int) -> "Bars":
        """Without changes behind the last of so many bars."""
        return Bars(self.first, tuple(c for c in self.changes if c[0] <= bars))
