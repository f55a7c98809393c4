"""How many nats it takes to write hits down in bars: the code by which readings of bars are judged.

Chances are learnt from beat to beat or from bar to bar (`bars/learnt_code.py`), or bars are copies of earlier ones
but for some changes. Nobody knows beforehand which of these a drummer's hand or foot does, so each class is written
with the even mixture of all: the hats may go by the beat while the kick goes by two bars. Classes that are never struck
say nothing.
"""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from ghoststep.listen.bars.learnt_code import Floats, Prior, Rounds, Singles, learnt
from ghoststep.listen.bars.struck import Counts, Struck, bar_steps
from ghoststep.listen.bars.usual import usual_chances
from ghoststep.music.meter import Meter

_COPIED, _KEPT = 0.85, 0.92  # chances of a bar to be a copy, and of a place in it to be kept
_LOG_COPIED, _LOG_FRESH = np.log(_COPIED), np.log(1 - _COPIED)
_ALIKE = 0.6  # share of hits that come again, from which on bars may be copies
_TRIED = 4  # places of the bar line, the best by what is learnt, at which copies are looked for
_TOGETHER = (1, 2)  # bars after which hits may repeat
Bars = tuple[Meter, int, Counts]  # meter, steps of a quarter, places of the bar line as steps before the first hit


def scores(struck: Struck, asked: Sequence[Bars], weight: float = 1.0) -> list[Floats]:
    """The score in nats of each place of the bar line, for each of those asked; shapes (places,).

    Parameters
    ----------
    weight
        How much each bar counts, 0 to 1.
    """
    rounds, counts = [], []
    for meter, per_quarter, shifts in asked:
        mine = _rounds(struck, meter, per_quarter, shifts)
        rounds += mine
        counts.append(len(mine))
    nats = iter(learnt(struck, rounds, weight))
    codes = [[next(nats) for _ in range(count)] for count in counts]
    return [_with_copies(struck, bars, mine, weight) for bars, mine in zip(asked, codes, strict=True)]


def _priors(meter: Meter, per_quarter: int) -> list[Prior]:
    return [(meter, per_quarter, school) for school in range(len(usual_chances(meter, per_quarter)))]


def _rounds(struck: Struck, meter: Meter, per_quarter: int, shifts: Counts) -> list[Rounds]:
    """The hits learnt by the beat and by the bar, each with every school of backbeats."""
    priors = _priors(meter, per_quarter)
    return [Rounds.of(struck, prior, shifts, by_beat=by_beat) for by_beat in (True, False) for prior in priors]


def _with_copies(struck: Struck, bars: Bars, codes: list[Floats], weight: float) -> Floats:
    """The scores of what was learnt, in the mixture with bars that are copies; shape (places,)."""
    meter, per_quarter, shifts = bars
    priors = _priors(meter, per_quarter)
    mixed = np.logaddexp.reduce(codes, axis=0)
    best = np.argsort(-mixed.sum(axis=0), kind="stable")[:_TRIED]
    periods = [p for p in _TOGETHER if struck.likeness(p * bar_steps(meter, per_quarter)) >= _ALIKE]
    if periods:
        copied = [nats for prior in priors for nats in _copied(struck, prior, shifts[best], periods, weight)]
        mixed[:, best] = np.logaddexp.reduce([mixed[:, best], *copied], axis=0)
    # Divided by as many as there may be, so that no reading is better off for having fewer.
    return np.asarray((mixed - np.log(len(priors) * (2 + len(_TOGETHER)))).sum(axis=0))


def _copied(struck: Struck, prior: Prior, shifts: Counts, periods: Sequence[int], weight: float) -> list[Floats]:
    """Nats of each class that is used, where each bar is a copy of the one so many bars before, but for some changes,
    or a fresh one, such as a fill; of shape (used, shifts) for each of the periods.
    """
    new, same = _copy_tables(prior)
    classes, steps = new.shape[1:]
    bars = struck.bars(steps, shifts)
    cells = np.zeros((len(shifts), len(struck.used), int(bars.max()) * steps), np.int64)
    sure = np.full((len(shifts), 1, cells.shape[2]), weight / 2, np.float32)  # beyond the hits half, as learnt codes
    for row, shift in enumerate(shifts):
        cells[row, :, shift : shift + struck.width] = struck.cells
        sure[row, :, shift : shift + struck.width] = weight
        sure[row, :, bars[row] * steps :] = 0
    cells = cells.reshape(len(shifts), len(struck.used), -1, steps)
    sure = sure.reshape(len(shifts), 1, -1, steps)
    at = struck.used[:, None, None] * steps + np.arange(steps)
    size = classes * steps
    fresh = (new.take(cells * size + at) * sure).sum(axis=3)
    out = []
    for period in periods:
        changed = cells[:, :, period:] + 2 * cells[:, :, :-period]
        kept = (same.take(changed * size + at) * sure[:, :, period:]).sum(axis=3)
        either = np.logaddexp(kept + _LOG_COPIED, fresh[:, :, period:] + _LOG_FRESH)
        out.append((fresh[:, :, :period].sum(axis=2, dtype=float) + either.sum(axis=2, dtype=float)).T)
    return out


@lru_cache(maxsize=256)
def _copy_tables(prior: Prior) -> tuple[Singles, Singles]:
    """Nats of a rest and a hit, by the usual chances; and of rest and hit after a rest, then after a hit, as copies."""
    meter, per_quarter, school = prior
    chances = usual_chances(meter, per_quarter)[school].astype(np.float32)
    new = np.log(np.stack([1 - chances, chances]))
    kept = np.array([1, 0, 0, 1], np.float32)[:, None, None] * _KEPT
    same = np.log(kept + (1 - _KEPT) * np.stack([1 - chances, chances] * 2))
    return new, same.astype(np.float32)
