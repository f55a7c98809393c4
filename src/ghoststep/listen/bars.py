"""Where the bars lie: how many steps of the pulse make a beat and a bar, and which step is beat 1.

Each reading is judged as a code for the hits (`listen/bar_code.py`). A right bar length repeats, so it codes cheaply; a
right bar line fits the usual places of kick and backbeat, so it codes cheaply too. What is added is how people count
where several readings explain the hits alike (`listen/counted.py`).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bar_code import bar_steps, scores
from ghoststep.listen.counted import (
    TIMEKEEPERS,
    half_time_nats,
    halved_nats,
    kick_on_three_nats,
    offbeat_nats,
    six_after_all_nats,
    slow_odd_nats,
    swing_nats,
    swung_ride_nats,
    tempo_nats,
    thirds_counted,
    thirds_nats,
    two_or_four_nats,
)
from ghoststep.listen.usual import CLASSES
from ghoststep.music.meter import Meter
from ghoststep.music.time import TICKS_PER_QUARTER

_BACKBEATS = [CLASSES.index("snare"), CLASSES.index("cross_stick")]
_KICKS = [CLASSES.index("kick")]
_DRUMS = [*_BACKBEATS, *_KICKS]
_HOPELESS = -30.0  # nats under which a tempo and meter are not tried

# Meters that are tried, with a prior in nats.
METERS: tuple[tuple[Meter, float], ...] = (
    (Meter(4, 4), 0.0),
    (Meter(2, 4), -12.0),
    (Meter(3, 4), -8.0),
    (Meter(6, 8), -4.5),
    (Meter(12, 8), -4.5),
    (Meter(5, 4), -6.0),
    (Meter(7, 8), -9.0),
    (Meter(7, 8, (3, 2, 2)), -9.5),
    (Meter(7, 4), -9.0),
    (Meter(9, 8), -8.0),
    (Meter(11, 4, (4, 4, 3)), -8.5),
    (Meter(5, 8, (3, 2)), -13.0),
)
# Bars that are two of others, as most people count them.
IN_FOUR = {Meter(2, 4): Meter(4, 4), Meter(6, 8): Meter(12, 8)}
_IN_FOUR_NATS, _IN_TWO_NATS = 1.0, 2.0


@dataclass(frozen=True)
class Reading:
    """One way to hear the bars: `steps_per_quarter` pulse steps a quarter; step `first` is a bar line."""

    meter: Meter
    steps_per_quarter: int
    first: int
    score: float
    usual: float = 0.0  # the part of the score that says how usual this tempo and meter are


def readings(
    numbers: NDArray[np.int64],
    classes: NDArray[np.int64],
    *,
    step_s: float,
    swung: bool,
    meters: Sequence[tuple[Meter, float]] = METERS,
    tempo_bpm: float | None = None,
    weight: float = 1.0,
    bar_line: int | None = None,
) -> list[Reading]:
    """Every plausible reading of one pulse, best first.

    Parameters
    ----------
    numbers, classes
        Pulse step and class of each hit, shape (n,).
    swung
        Odd steps are late: then a beat has an even number of steps and bar lines fall on even steps.
    tempo_bpm
        Only readings within 6 % of this tempo, where given.
    weight
        How much each bar counts, 0 to 1.
    bar_line
        A pulse step that is a bar line, where given.
    """
    low = int(numbers.min())
    struck = np.zeros((len(CLASSES), int(numbers.max()) - low + 1), bool)
    struck[classes, numbers - low] = True
    loud, time, kick = (np.flatnonzero(struck[which].any(axis=0)) for which in (_BACKBEATS, TIMEKEEPERS, _KICKS))
    thirds = thirds_counted(numbers, classes)
    out = []
    for per_quarter in (1, 2, 4, 8, 3, 6):
        bpm = 60 / (step_s * per_quarter)
        if (swung and per_quarter % 2) or not _tempo_fits(bpm, tempo_bpm):
            continue
        for meter, prior in meters:
            if meter.denominator == 8 and per_quarter % 3 == 0:
                continue  # there the eighth is counted, and a third of a quarter is no place
            prior = prior + thirds_nats(meter, per_quarter, thirds) + swing_nats(meter, per_quarter, swung)
            step_ticks = TICKS_PER_QUARTER // per_quarter
            if meter.bar_ticks % step_ticks or step_ticks > meter.unit_ticks:
                continue
            usual = prior + tempo_nats(bpm, meter) + two_or_four_nats(bpm, meter) + slow_odd_nats(bpm, meter)
            if usual < _HOPELESS and tempo_bpm is None and len(meters) > 1:
                continue
            places = [
                (first, score + kick_on_three_nats(kick, loud, meter, per_quarter, low - first))
                for first, score in _offsets(struck, meter, per_quarter, low, swung, weight, bar_line)
            ]
            # By the best place of the bar line, for all of them: it says nothing about where that is.
            best = max(places, key=lambda place: place[1], default=(low, 0.0))[0]
            usual += half_time_nats(loud, meter, per_quarter, low - best, bpm)
            usual += offbeat_nats(loud, kick, meter, per_quarter, low - best, bpm)
            usual += swung_ride_nats(time, per_quarter, swung, low - best, bpm)
            usual += halved_nats(time, meter, per_quarter, low - best)
            out += [Reading(meter, per_quarter, first, score + usual, usual) for first, score in places]
    return sorted(_counted_in_four(out, step_s), key=lambda r: -r.score)


def _counted_in_four(found: list[Reading], step_s: float) -> list[Reading]:
    """Bars of four beats count as much as the bars of two they consist of, and so go first: most people count them.

    Two bars that are alike always code cheaper as bars of half the length, which says nothing about how they are
    counted; but it says a lot about the beat. Slow pairs of dotted quarters stay 6/8, and win against their 12/8.
    """
    out = list(found)
    longer: dict[tuple[Meter, int, int], list[int]] = {}
    for i, r in enumerate(found):
        if r.meter in IN_FOUR.values():
            longer.setdefault(_half_of(r, r.meter.bar_ticks // 2), []).append(i)
    for n, r in enumerate(found):
        four = IN_FOUR.get(r.meter)
        if four is None:
            continue
        both = longer.get(_half_of(replace(r, meter=four), r.meter.bar_ticks), [])
        bpm = 60 / (step_s * r.steps_per_quarter)
        if four == Meter(12, 8):
            # Against the 12/8 alone, and so no further: against quarters, 6/8 is no likelier for it.
            most = max((found[i].score for i in both), default=-np.inf) + _IN_TWO_NATS
            out[n] = replace(r, score=max(r.score, min(r.score + six_after_all_nats(bpm), most)))
            continue
        ahead = r.score + _IN_FOUR_NATS - max((found[i].score for i in both), default=0.0)
        for i in both:  # beginning with the one bar or with the other: what tells them apart stays
            out[i] = replace(out[i], score=max(out[i].score, found[i].score + ahead))
    return out


def _half_of(r: Reading, half_ticks: int) -> tuple[Meter, int, int]:
    """What readings share whose bars begin with one half of a bar or with the other."""
    return r.meter, r.steps_per_quarter, r.first % (half_ticks * r.steps_per_quarter // TICKS_PER_QUARTER)


def _tempo_fits(bpm: float, wanted: float | None) -> bool:
    if wanted is not None:
        return abs(bpm / wanted - 1) < 0.06
    return 38 < bpm < 330


def _offsets(
    struck: NDArray[np.bool_],
    meter: Meter,
    per_quarter: int,
    low: int,
    swung: bool,
    weight: float,
    bar_line: int | None,
) -> list[tuple[int, float]]:
    """Score of each place of the bar line; bars are laid over the hits from the one that holds the first hit."""
    steps = bar_steps(meter, per_quarter)
    shifts: Sequence[int] = range(steps)
    if steps > 16:  # those that are likely at all
        apart = max(1, per_quarter // 2) if per_quarter % 3 else per_quarter
        # As many steps from the first hit, and, where that comes between the beats, as from where drums are struck.
        drums = np.flatnonzero(struck[_DRUMS].any(axis=0)) % apart
        ahead = -int(np.bincount(drums, minlength=apart).argmax()) % apart
        shifts = sorted({*range(0, steps, apart), *range(ahead, steps, apart)})
    if bar_line is not None:
        shifts = ((low - bar_line) % steps,)
    # `shift` empty steps stand before the first hit in its bar.
    places = [shift for shift in shifts if not (swung and (low - shift) % 2)]
    if not places:
        return []
    found = scores(struck, meter, per_quarter, places, weight)
    return [(low - shift, float(score)) for shift, score in zip(places, found, strict=True)]
