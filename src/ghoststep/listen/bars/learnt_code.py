"""How many nats hits cost whose chances are learnt as they come, from beat to beat or from bar to bar.

Every (class, step) has a chance of being struck that starts from the usual one (`bars/usual.py`) and is learnt with
each round of beat or bar (Beta-Bernoulli codes; Krichevsky & Trofimov 1981). Each reading of the bars is a sum over few
steps, and there are dozens of readings: they are added up together, as each would take longer to begin than to do.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bars.struck import Counts, Struck, bar_steps, beat_steps
from ghoststep.listen.bars.usual import CLASSES, usual_chances
from ghoststep.music.meter import Meter

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]
Reals = TypeVar("Reals", Floats, Singles)
Prior = tuple[Meter, int, int]  # meter, steps of a quarter, number of the school of backbeats
_HALF_LOG_TWO_PI = 0.5 * float(np.log(2 * np.pi))
_STRENGTH = np.float32(1.6)  # how many bars (or beats) of experience the usual places weigh
_TABLED, _LEAST_TABLED = 2048, 48  # how many counts are tabled: so many shared by the steps, and at least so many
_FEW = 24  # short files need no more of them, and are read that much sooner


@dataclass(frozen=True)
class Rounds:
    """Hits to be learnt in rounds of a beat or a bar, from several places of the bar line on, shape (shifts,)."""

    prior: Prior
    by_beat: bool
    shifts: Counts  # empty steps before the first hit in its round
    rounds: Counts  # how many rounds there are

    @classmethod
    def of(cls, struck: Struck, prior: Prior, shifts: Counts, *, by_beat: bool) -> "Rounds":
        steps = bar_steps(*prior[:2])
        bars = struck.bars(steps, shifts)
        if not by_beat:
            return cls(prior, False, shifts, bars)
        beat = beat_steps(*prior[:2])
        return cls(prior, True, shifts % beat, bars * (steps // beat))


def learnt(struck: Struck, asked: Sequence[Rounds], weight: float = 1.0) -> list[Floats]:
    """Nats of each class that is used, for each of those asked; shapes (used, shifts).

    Parameters
    ----------
    weight
        How much each round counts, 0 to 1.
    """
    if not asked:
        return []
    parts, hits, times = [], [], []
    for one in asked:
        steps = _steps(one)
        there, comes = struck.folded(steps)
        # Another place of the bar line only turns the rounds that are laid over the hits.
        parts.append(_turned(steps, tuple(one.shifts.tolist())))
        hits.append(np.tile(there, len(one.shifts)))
        # Counted in halves of a round: empty steps before the first and after the last hit count half, as nobody
        # knows whether they were meant.
        times.append((comes + one.rounds[:, None]).ravel())
    step, hit = np.concatenate(parts), 2 * np.concatenate(hits, axis=1)
    heard = np.concatenate(times)
    rest = np.maximum(heard - hit, 0)
    ends = np.cumsum([len(part) for part in parts]).tolist()
    nats = np.empty(hit.shape, np.float32)
    for one, a, b in zip(asked, [0, *ends], ends, strict=False):
        at = slice(a, b)
        nats[:, at] = _gained_in(one, struck.used, step[at], hit[:, at], rest[:, at], heard[at], weight)
    starts = np.concatenate([np.arange(a, b, _steps(one)) for one, a, b in zip(asked, [0, *ends], ends, strict=False)])
    sums = np.add.reduceat(nats, starts, axis=1, dtype=float)
    return np.split(sums, np.cumsum([len(one.shifts) for one in asked])[:-1], axis=1)


def _steps(one: Rounds) -> int:
    return (beat_steps if one.by_beat else bar_steps)(*one.prior[:2])


@lru_cache(maxsize=1024)
def _turned(steps: int, shifts: tuple[int, ...]) -> Counts:
    """Which step of the round comes first, second ... after the first hit, one place of the bar line after another."""
    return ((np.arange(steps) + np.array(shifts)[:, None]) % steps).ravel()


def _gained_in(
    one: Rounds, used: Counts, step: Counts, hit: Counts, rest: Counts, heard: Counts, weight: float
) -> Singles:
    """What hits and rests at some steps of a round gain, shape (used, n), both in halves of a round."""
    most = int(heard.max())
    hits, rests, every = _tables(*one.prior, one.by_beat, few=most < _FEW)
    steps, size = hits.shape[1], len(every)
    if weight == 1.0 and most < size:
        row = used[:, None] * (steps * size) + step * size
        return np.asarray(hits.take(row + hit) + rests.take(row + rest) - every.take(heard))
    before = _weights(*one.prior, one.by_beat)
    half = np.float32(weight / 2)
    at = used[:, None], step
    counts = [half * count.astype(np.float32) for count in (hit, rest, heard)]
    nats = _gained(before[0][at], counts[0]) + _gained(before[1][at], counts[1])
    return np.asarray(nats - _gained(np.full(1, _STRENGTH), counts[2]))


@lru_cache(maxsize=256)
def _weights(meter: Meter, per_quarter: int, school: int, beat: bool) -> tuple[Singles, Singles]:
    """What is known before anything is heard: weights of a hit and of a rest, each (classes, steps)."""
    chances = usual_chances(meter, per_quarter)[school].astype(np.float32)
    if beat:
        chances = chances.reshape(len(CLASSES), -1, beat_steps(meter, per_quarter)).mean(axis=1)
    # Single precision: a thousandth of a nat in all, and logarithms several times faster.
    return _STRENGTH * chances, _STRENGTH * (1 - chances)


@lru_cache(maxsize=256)
def _tables(meter: Meter, per_quarter: int, school: int, beat: bool, *, few: bool) -> tuple[Singles, Singles, Singles]:
    """What counts of 0, 1, 2 ... halves add: of hits, of rests, each (classes, steps, counts), and of both."""
    weights = _weights(meter, per_quarter, school, beat)
    size = _FEW if few else max(_TABLED // weights[0].shape[1], _LEAST_TABLED)
    counts = (np.arange(size) / 2).astype(np.float32)
    hit, rest = (_gained(w[..., None], counts) for w in weights)
    return hit, rest, _gained(np.asarray(_STRENGTH), counts)


def _gained(weight: Singles, count: Singles) -> Singles:
    """log gamma(weight + count) - log gamma(weight), what a count adds to the logarithm of a beta function."""
    return _gammaln(weight + count) - _gammaln(weight)


def _gammaln(x: Reals) -> Reals:
    """Logarithm of the gamma function for x > 0: Stirling's series at x + 6, carried down by x! = x (x - 1)!.

    Abramowitz & Stegun (1964), 6.1.41; the error is below 1e-9. SciPy's would take longer to load than to run.
    """
    y = x + 6
    down = x * (x + 1) * (x + 2) * (x + 3) * (x + 4) * (x + 5)
    z = 1 / (y * y)
    series = (1 / 12 - z * (1 / 360 - z * (1 / 1260 - z * (1 / 1680 - z / 1188)))) / y
    return (y - 0.5) * np.log(y) - y + _HALF_LOG_TWO_PI + series - np.log(down)
