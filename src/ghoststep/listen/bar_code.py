"""How many nats it takes to write hits down in bars: the code by which readings of bars are judged.

Every (class, step) has a chance of being struck that starts from the usual one (`listen/usual.py`). It is learnt from
beat to beat or from bar to bar (Beta-Bernoulli codes), or bars are copies of earlier ones but for some changes. Nobody
knows beforehand which of these a drummer's hand or foot does, so each class is written with the even mixture of all:
the hats may go by the beat while the kick goes by two bars. Classes that are never struck say nothing.
"""

from collections.abc import Sequence
from functools import lru_cache
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.usual import CLASSES, usual_chances
from ghoststep.music.meter import Meter
from ghoststep.music.time import TICKS_PER_QUARTER

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]
Counts = NDArray[np.int64]
Reals = TypeVar("Reals", Floats, Singles)
Prior = tuple[Meter, int, int]  # meter, steps of a quarter, number of the school of backbeats
_HALF_LOG_TWO_PI = 0.5 * float(np.log(2 * np.pi))
_STRENGTH = np.float32(1.6)  # how many bars (or beats) of experience the usual places weigh
_COPIED, _KEPT = 0.85, 0.92  # chances of a bar to be a copy, and of a place in it to be kept
_ALIKE = 0.6  # share of hits that come again, from which on bars may be copies
_TRIED = 4  # places of the bar line, the best by what is learnt, at which copies are looked for
_TOGETHER = (1, 2)  # bars after which hits may repeat
_TABLED, _LEAST_TABLED = 2048, 48  # how many counts are tabled: so many shared by the steps, and at least so many


def scores(
    struck: NDArray[np.bool_], meter: Meter, per_quarter: int, shifts: Sequence[int], weight: float = 1.0
) -> Floats:
    """The score of each place of the bar line, in nats; shape (shifts,).

    Parameters
    ----------
    struck
        Whether each class is struck at each step, shape (classes, steps), from the first hit to the last.
    shifts
        How many steps stand before the first hit in its bar.
    weight
        How much each bar counts, 0 to 1.
    """
    at = np.asarray(shifts, np.int64)
    used = np.flatnonzero(struck.any(axis=1))
    mine = struck[used]
    priors = [(meter, per_quarter, school) for school in range(len(usual_chances(meter, per_quarter)))]
    codes = [_by_beat(mine, used, prior, at, weight) for prior in priors]
    codes += [_by_bar(mine, used, prior, at, weight) for prior in priors]
    best = np.argsort(-np.logaddexp.reduce(codes, axis=0).sum(axis=0), kind="stable")[:_TRIED]
    for period in _TOGETHER:
        if _likeness(mine, period * bar_steps(meter, per_quarter)) >= _ALIKE:
            for prior in priors:
                copied = np.full(codes[0].shape, -np.inf)
                copied[:, best] = _copied(mine, used, prior, at[best], period, weight)
                codes.append(copied)
    # Divided by as many as there may be, so that no reading is better off for having fewer.
    count = len(priors) * (2 + len(_TOGETHER))
    return np.asarray((np.logaddexp.reduce(codes, axis=0) - np.log(count)).sum(axis=0))


def bar_steps(meter: Meter, per_quarter: int) -> int:
    """Steps of the pulse in a bar."""
    return meter.bar_ticks * per_quarter // TICKS_PER_QUARTER


def _beat_steps(meter: Meter, per_quarter: int) -> int:
    """Steps after which a steady hand repeats: a quarter, a dotted quarter in compound time, an eighth in odd ones."""
    ticks = meter.unit_ticks * (3 if meter.denominator == 8 and meter.numerator % 3 == 0 else 1)
    return max(ticks * per_quarter // TICKS_PER_QUARTER, 1)


def _likeness(struck: NDArray[np.bool_], lag: int) -> float:
    """The share of hits that come again after so many steps, 0 to 1."""
    now, before = struck[:, lag:], struck[:, :-lag]
    return float(2 * (now & before).sum() / max(int(now.sum()) + int(before.sum()), 1)) if now.size else 0.0


def _by_bar(struck: NDArray[np.bool_], used: Counts, prior: Prior, shifts: Counts, weight: float) -> Floats:
    """Nats of each class that is used, its chances learnt from bar to bar; shape (used, shifts)."""
    steps = bar_steps(*prior[:2])
    return _learnt(struck, used, (*prior, False), shifts, _bars(struck, steps, shifts), weight)


def _by_beat(struck: NDArray[np.bool_], used: Counts, prior: Prior, shifts: Counts, weight: float) -> Floats:
    """Nats of each class that is used, its chances learnt from beat to beat; shape (used, shifts)."""
    beat, steps = _beat_steps(*prior[:2]), bar_steps(*prior[:2])
    bars = _bars(struck, steps, shifts)
    # Only the place in the beat and the number of beats count: few places differ in them.
    kinds, which = np.unique(bars * beat + shifts % beat, return_inverse=True)
    beats = kinds // beat * (steps // beat)
    return _learnt(struck, used, (*prior, True), kinds % beat, beats, weight)[:, which]


def _bars(struck: NDArray[np.bool_], steps: int, shifts: Counts) -> Counts:
    """How many bars the hits take at each place of the bar line."""
    return -(-(struck.shape[1] + shifts) // steps)


def _learnt(
    struck: NDArray[np.bool_],
    used: Counts,
    prior: tuple[Meter, int, int, bool],
    shifts: Counts,
    rounds: Counts,
    weight: float,
) -> Floats:
    """Nats of each class that is used, learnt from round to round of bar or beat; shape (used, shifts)."""
    hit, rest, every = _tables(*prior)
    width, steps, size = struck.shape[1], hit.shape[1], len(every)
    folded = np.zeros((len(used), -(-width // steps) * steps), np.int32)
    folded[:, :width] = struck
    hits = folded.reshape(len(used), -1, steps).sum(axis=1)[:, None, :]
    # Another place of the bar line only turns the rounds that are laid over the hits.
    step = (np.arange(steps) + shifts[:, None]) % steps
    # Counted in halves of a round: empty steps before the first and after the last hit count half, as nobody knows
    # whether they were meant.
    heard = np.bincount(np.arange(width) % steps, minlength=steps) + rounds[:, None]
    rests = np.maximum(heard - 2 * hits, 0)
    if weight == 1.0 and heard.max() < size:
        row = (used[:, None, None] * steps + step) * size
        nats = hit.take(row + 2 * hits) + rest.take(row + rests) - every.take(heard)
    else:
        before = _weights(*prior)
        half = np.float32(weight / 2)
        at = used[:, None, None], step
        counts = [half * np.broadcast_to(n, rests.shape).astype(np.float32) for n in (2 * hits, rests, heard)]
        nats = _gained(before[0][at], counts[0]) + _gained(before[1][at], counts[1])
        nats -= _gained(np.full((1, 1, 1), _STRENGTH), counts[2])
    return np.asarray(nats.sum(axis=2, dtype=float))


def _copied(
    struck: NDArray[np.bool_], used: Counts, prior: Prior, shifts: Counts, period: int, weight: float
) -> Floats:
    """Nats of each class that is used, where each bar is a copy of the one `period` bars before, but for some changes,
    or a fresh one, such as a fill; shape (used, shifts).
    """
    new, same = _copy_tables(prior)
    steps, width = new.shape[2], struck.shape[1]
    bars = -(-(width + shifts) // steps)
    cells = np.zeros((len(shifts), len(used), int(bars.max()) * steps), np.int64)
    sure = np.full((len(shifts), 1, cells.shape[2]), weight / 2, np.float32)  # beyond the hits half, as in `_learnt`
    for row, shift in enumerate(shifts):
        cells[row, :, shift : shift + width] = struck
        sure[row, :, shift : shift + width] = weight
        sure[row, :, bars[row] * steps :] = 0
    cells = cells.reshape(len(shifts), len(used), -1, steps)
    sure = sure.reshape(len(shifts), 1, -1, steps)
    at = used[:, None, None], np.arange(steps)
    nats = (new[(cells, *at)] * sure).sum(axis=3)
    changed = cells[:, :, period:] + 2 * cells[:, :, :-period]
    kept = (same[(changed, *at)] * sure[:, :, period:]).sum(axis=3)
    nats[:, :, period:] = np.logaddexp(kept + np.log(_COPIED), nats[:, :, period:] + np.log(1 - _COPIED))
    return np.asarray(nats.sum(axis=2, dtype=float).T)


@lru_cache(maxsize=256)
def _copy_tables(prior: Prior) -> tuple[Singles, Singles]:
    """Nats of a rest and a hit, by the usual chances; and of rest and hit after a rest, then after a hit, as copies."""
    meter, per_quarter, school = prior
    chances = usual_chances(meter, per_quarter)[school].astype(np.float32)
    new = np.log(np.stack([1 - chances, chances]))
    kept = np.array([1, 0, 0, 1], np.float32)[:, None, None] * _KEPT
    same = np.log(kept + (1 - _KEPT) * np.stack([1 - chances, chances] * 2))
    return new, same.astype(np.float32)


@lru_cache(maxsize=256)
def _weights(meter: Meter, per_quarter: int, school: int, beat: bool) -> tuple[Singles, Singles]:
    """What is known before anything is heard: weights of a hit and of a rest, each (classes, steps)."""
    chances = usual_chances(meter, per_quarter)[school].astype(np.float32)
    if beat:
        chances = chances.reshape(len(CLASSES), -1, _beat_steps(meter, per_quarter)).mean(axis=1)
    # Single precision: a thousandth of a nat in all, and logarithms several times faster.
    return _STRENGTH * chances, _STRENGTH * (1 - chances)


@lru_cache(maxsize=256)
def _tables(meter: Meter, per_quarter: int, school: int, beat: bool) -> tuple[Singles, Singles, Singles]:
    """What counts of 0, 1, 2 ... halves add: of hits, of rests, each (classes, steps, counts), and of both."""
    weights = _weights(meter, per_quarter, school, beat)
    counts = (np.arange(max(_TABLED // weights[0].shape[1], _LEAST_TABLED)) / 2).astype(np.float32)
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
