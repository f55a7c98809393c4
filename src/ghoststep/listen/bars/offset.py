"""How far a whole performance lies behind or ahead of the grid it states: a delay, found before all else.

Steps: (1) for every offset in question the strokes are put on the cheapest spots of straight, triplet and swung
lattices; (2) what drummers usually strike on those spots of the bar is added, so that an offset as long as a sixteenth
is told from none; (3) small offsets are likelier than large ones; (4) the best is refined to the middle of what is
left. An offset that takes strokes from spots they lie well on is believed only where it makes them far more usual.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bars.usual import class_of, usual_chances
from ghoststep.listen.fit.snap import lattice
from ghoststep.music.feel import Swing
from ghoststep.music.frame import Bars
from ghoststep.music.kit import VOICES
from ghoststep.music.performance import Performance
from ghoststep.music.time import TICKS_PER_QUARTER, TempoMap

Floats = NDArray[np.float64]
MOST_S = 0.21
LEAST_TOLD_S = 0.015  # less than that players do on purpose (working assumption)
_STEP_S = 0.004
_SIGMA_S = 0.008
_FAR_NATS = 6.0  # a stroke that lies on no spot costs no more
_PER_QUARTER = 12
_USUAL_S = 0.08  # how large delays usually are: a Laplace distribution of this scale
_MOST_STROKES, _FEWEST = 128, 6
_ON_GRID, _NEAR_S = 0.7, 0.012  # this share of strokes that near their spots lies on the grid as it is
_LEAVES_NATS = 0.7  # a stroke, that another place in the bar must be more usual by where they do
_OPTIONS: tuple[tuple[Swing, str, float], ...] = (
    (Swing(), "straight", 0.0),
    (Swing(), "triplet", 4.0),
    *((Swing(unit, ratio), "swung", 4.0) for unit in (8, 16) for ratio in (0.55, 0.6, 0.67, 0.75)),
)


def whole_offset_s(
    performance: Performance, ticks: Floats, tempo: TempoMap, bars: Bars, main: Sequence[int] | NDArray[np.int64]
) -> float:
    """How much later than its grid the whole performance is, in seconds (late positive); 0 where it is in time.

    Parameters
    ----------
    ticks
        Where each stroke lies in the stated tempo and bars, shape (n,), in fractional ticks from bar 1.
    main
        The strokes that count: grace notes say nothing of the grid.
    """
    chosen = np.asarray(main, int)[:_MOST_STROKES]
    if len(chosen) < _FEWEST:
        return 0.0
    at_s = tempo.seconds(ticks[chosen])
    classes = np.array([class_of(VOICES[performance.voice[i]].name, int(performance.velocity[i])) for i in chosen])
    offsets = np.arange(-round(MOST_S / _STEP_S), round(MOST_S / _STEP_S) + 1) * _STEP_S
    moved = tempo.to_ticks(at_s[None, :] - offsets[:, None])  # (offsets, strokes)
    quarter_s = 60 / np.array([tempo.bpm_at(float(t)) for t in ticks[chosen]])
    best = np.full(len(offsets), np.inf)
    spots, away_s = np.zeros(moved.shape, np.int64), np.zeros(moved.shape)
    for swing, kind, dearer in _OPTIONS:
        here, away, cost = _nearest(moved, swing, kind, quarter_s, bars)
        total = cost.sum(axis=1) + dearer
        better = total < best
        best = np.where(better, total, best)
        spots[better], away_s[better] = here[better], away[better]
    usual = _usual_nats(spots, classes, bars)
    still = len(offsets) // 2
    score = -best + usual - np.abs(offsets) / _USUAL_S
    winner = int(np.argmax(score))
    offset_s = float(offsets[winner])
    on_grid = float((np.abs(away_s[still]) <= _NEAR_S).mean()) >= _ON_GRID
    if on_grid and usual[winner] - usual[still] < _LEAVES_NATS * len(chosen):
        return 0.0
    if abs(offset_s) < LEAST_TOLD_S:
        return 0.0
    return offset_s + float(np.median(away_s[winner]))


def _nearest(
    ticks: Floats, swing: Swing, kind: str, quarter_s: Floats, bars: Bars
) -> tuple[NDArray[np.int64], Floats, Floats]:
    """The cheapest spot of each position, straight, how much later the position is than it is played there (seconds),
    and what that costs in nats; arrays of one shape (offsets, strokes)."""
    spots = lattice(kind, swing.unit, swing.ratio >= 0.62)
    base = np.floor(ticks / TICKS_PER_QUARTER).astype(np.int64) * TICKS_PER_QUARTER
    options = base[..., None] + np.concatenate([spots.ticks, [TICKS_PER_QUARTER]])
    costs = np.concatenate([spots.cost, spots.cost[:1]])
    played = swing.bend(options.ravel(), bars).reshape(options.shape) if kind == "swung" else options
    away_s = (played - ticks[..., None]) * quarter_s[None, :, None] / TICKS_PER_QUARTER
    total = np.minimum(0.5 * (away_s / _SIGMA_S) ** 2, _FAR_NATS) + costs
    best = np.argmin(total, axis=-1)[..., None]
    spot, early, cost = (np.take_along_axis(x, best, -1)[..., 0] for x in (options, away_s, total))
    return spot, -early, cost


def _usual_nats(spots: NDArray[np.int64], classes: NDArray[np.int64], bars: Bars) -> Floats:
    """How usual the strokes are on their spots, for each offset, in nats; by the school of backbeats that fits best."""
    step = TICKS_PER_QUARTER // _PER_QUARTER
    numbers = bars.bars_of(spots)
    places = (spots - bars.start_of(numbers.ravel()).reshape(spots.shape)) // step
    by_school: list[Floats] = []
    meters = {int(n): bars.meter_of(int(n)) for n in np.unique(numbers)}
    for school in range(2):
        total = np.zeros(spots.shape)
        for number, meter in meters.items():
            tables = usual_chances(meter, _PER_QUARTER)
            table = tables[min(school, len(tables) - 1)]
            here = numbers == number
            rows = np.broadcast_to(classes, spots.shape)[here]
            chance = table[rows, np.minimum(places[here], table.shape[1] - 1)]
            total[here] = np.log(chance / (1 - chance))
        by_school.append(total.sum(axis=1))
    return np.maximum(by_school[0], by_school[1])
