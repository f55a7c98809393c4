"""Where the bars lie: how many steps of the pulse make a beat and a bar, and which step is beat 1.

Each reading is judged as a code for the hits (`bars/bar_code.py`). A right bar length repeats, so it codes cheaply; a
right bar line fits the usual places of kick and backbeat, so it codes cheaply too. What is added is how people count
where several readings explain the hits alike (`bars/counted.py`).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import chain, product

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bars.bar_code import Bars, scores
from ghoststep.listen.bars.counted import (
    TIMEKEEPERS,
    half_time_nats,
    halved_nats,
    in_threes,
    in_threes_nats,
    kick_on_three_nats,
    off_dotted_nats,
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
from ghoststep.listen.bars.struck import Struck, bar_steps
from ghoststep.listen.bars.usual import CLASSES
from ghoststep.music.meter import Meter
from ghoststep.music.time import TICKS_PER_QUARTER

_BACKBEATS = [CLASSES.index("snare"), CLASSES.index("cross_stick")]
_KICKS = [CLASSES.index("kick")]
_DRUMS = [*_BACKBEATS, *_KICKS]
_HOPELESS = -26.0  # nats under which a tempo and meter are not tried; those that won lay over -24.3

# Meters that are tried, with a prior in nats.
METERS: tuple[tuple[Meter, float], ...] = (
    (Meter(4, 4), 0.0),
    (Meter(2, 4), -12.0),
    (Meter(3, 4), -6.5),
    (Meter(6, 8), -4.5),
    (Meter(12, 8), -5.3),
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
_COMMON = {Meter(3, 4), *IN_FOUR, *IN_FOUR.values()}
_LESS_ALIKE = 0.2  # of 0 to 1; the right odd meter lies over .05 more than common ones
_IN_FOUR_NATS, _IN_TWO_NATS = 1.0, 2.0
Steps = NDArray[np.int64]


@dataclass(frozen=True)
class Reading:
    """One way to hear the bars: `steps_per_quarter` pulse steps a quarter; step `first` is a bar line."""

    meter: Meter
    steps_per_quarter: int
    first: int
    score: float
    usual: float = 0.0  # the part of the score that says how usual this tempo and meter are

    def scored(self, score: float) -> "Reading":
        """The same with another score."""
        if score == self.score:
            return self
        return Reading(self.meter, self.steps_per_quarter, self.first, score, self.usual)


def readings(
    numbers: Steps,
    classes: Steps,
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
    hits, played = Struck(struck), _Played.of(struck)
    threes = in_threes(numbers, classes)
    thirds, known = thirds_counted(numbers, classes), tempo_bpm is not None or len(meters) == 1
    tried: list[tuple[float, Bars]] = []
    for per_quarter, (meter, prior) in product((1, 2, 4, 8, 3, 6), meters):
        bpm = 60 / (step_s * per_quarter)
        if (swung and per_quarter % 2) or not _tempo_fits(bpm, tempo_bpm) or not _has_steps(meter, per_quarter):
            continue
        usual = prior + _usual_nats(meter, per_quarter, bpm, thirds=thirds, swung=swung)
        usual += in_threes_nats(meter, per_quarter) * threes
        shifts = _shifts(meter, per_quarter, low, played.drums, swung=swung, bar_line=bar_line)
        if len(shifts) and (known or usual >= _HOPELESS):
            tried.append((usual, (meter, per_quarter, shifts)))
    out: dict[tuple[Meter, int], list[Reading]] = {}
    tried = _without_unlike(tried, hits)
    codes = scores(hits, [bars for _, bars in tried], weight)
    for (usual, (meter, per_quarter, shifts)), code in zip(tried, codes, strict=True):
        nats = code + kick_on_three_nats(played.kick, played.loud, meter, per_quarter, shifts)
        # By the best place of the bar line, for all of them: it says nothing about where that is.
        best = int(shifts[np.argmax(nats)])
        usual += played.nats(meter, per_quarter, best, 60 / (step_s * per_quarter), swung=swung)
        firsts, totals = (low - shifts).tolist(), (nats + usual).tolist()
        places = zip(firsts, totals, strict=True)
        out[meter, per_quarter] = [Reading(meter, per_quarter, first, score, usual) for first, score in places]
    counted = chain.from_iterable(_counted_in_four(out, step_s).values())
    return sorted(counted, key=lambda r: r.score, reverse=True)


def _usual_nats(meter: Meter, per_quarter: int, bpm: float, *, thirds: float, swung: bool) -> float:
    """How usual a tempo is in a meter, and its steps with notes such as were played."""
    tempo = tempo_nats(bpm, meter) + two_or_four_nats(bpm, meter) + slow_odd_nats(bpm, meter)
    return thirds_nats(meter, per_quarter, thirds) + swing_nats(meter, per_quarter, swung) + tempo


@dataclass(frozen=True)
class _Played:
    """The steps at which backbeats, the hand that keeps time, the kick, and either drum are struck, from the first."""

    loud: Steps
    time: Steps
    kick: Steps
    drums: Steps

    @classmethod
    def of(cls, struck: NDArray[np.bool_]) -> "_Played":
        """From what is struck, shape (classes, steps)."""
        return cls(*(np.flatnonzero(struck[which].any(axis=0)) for which in (_BACKBEATS, TIMEKEEPERS, _KICKS, _DRUMS)))

    def nats(self, meter: Meter, per_quarter: int, shift: int, bpm: float, *, swung: bool) -> float:
        """What those who count would say to this beat, the bar line `shift` steps before the first hit."""
        return (
            half_time_nats(self.loud, meter, per_quarter, shift, bpm)
            + offbeat_nats(self.loud, self.kick, meter, per_quarter, shift, bpm)
            + swung_ride_nats(self.time, per_quarter, swung, shift, bpm)
            + halved_nats(self.time, meter, per_quarter, shift)
            + off_dotted_nats(self.loud, meter, per_quarter, shift)
        )


def _without_unlike(tried: list[tuple[float, Bars]], struck: Struck) -> list[tuple[float, Bars]]:
    """What is tried, without odd meters whose bars are much less alike than those of a common meter.

    An odd meter is unusual, and wins by its bars that come again or not at all; to judge them all takes half the time.
    """
    alike = [
        max(struck.likeness(bars * bar_steps(meter, per_quarter)) for bars in (1, 2))
        for _, (meter, per_quarter, _) in tried
    ]
    common = [meter in _COMMON for _, (meter, _, _) in tried]
    most = max((a for a, usual in zip(alike, common, strict=True) if usual), default=0.0)
    return [one for one, a, usual in zip(tried, alike, common, strict=True) if usual or a >= most - _LESS_ALIKE]


def _has_steps(meter: Meter, per_quarter: int) -> bool:
    """Whether the steps of a pulse are places of a meter, and its counted notes steps."""
    if meter.denominator == 8 and per_quarter % 3 == 0:
        return False  # there the eighth is counted, and a third of a quarter is no place
    step_ticks = TICKS_PER_QUARTER // per_quarter
    return meter.bar_ticks % step_ticks == 0 and step_ticks <= meter.unit_ticks


def _counted_in_four(
    found: dict[tuple[Meter, int], list[Reading]], step_s: float
) -> dict[tuple[Meter, int], list[Reading]]:
    """Bars of four beats count as much as the bars of two they consist of, and so go first: most people count them.

    Two bars that are alike always code cheaper as bars of half the length, which says nothing about how they are
    counted; but it says a lot about the beat. Pairs of dotted quarters stay 6/8, and win against their 12/8.

    Parameters
    ----------
    found
        Readings by meter and steps of a quarter; those returned are in the same order.
    """
    out = dict(found)
    for (meter, per_quarter), twos in found.items():
        four = IN_FOUR.get(meter)
        if four is None:
            continue
        fours, half = found.get((four, per_quarter), []), bar_steps(meter, per_quarter)
        most: dict[int, float] = {}  # of the two that begin with the one bar or with the other
        for r in fours:
            most[r.first % half] = max(r.score, most.get(r.first % half, -np.inf))
        if four == Meter(12, 8):
            # Against the 12/8 alone, and so no further: against quarters, 6/8 is no likelier for it.
            gain = six_after_all_nats(60 / (step_s * per_quarter))
            ends = [most.get(r.first % half, -np.inf) + _IN_TWO_NATS for r in twos]
            out[meter, per_quarter] = [
                r.scored(max(r.score, min(r.score + gain, end))) for r, end in zip(twos, ends, strict=True)
            ]
        elif fours:  # what tells the one bar from the other stays
            by_first = {r.first % half: r.score for r in twos}
            out[four, per_quarter] = [
                r.scored(max(r.score, r.score + by_first.get(at, -np.inf) + _IN_FOUR_NATS - most[at]))
                for r, at in ((r, r.first % half) for r in fours)
            ]
    return out


def _tempo_fits(bpm: float, wanted: float | None) -> bool:
    if wanted is not None:
        return abs(bpm / wanted - 1) < 0.06
    return 38 < bpm < 330


def _shifts(meter: Meter, per_quarter: int, low: int, drums: Steps, *, swung: bool, bar_line: int | None) -> Steps:
    """The places of the bar line that are tried, by how many empty steps stand before the first hit in its bar.

    `low` is the step of the first hit, `drums` are the steps at which drums are struck, from there on.
    """
    steps = bar_steps(meter, per_quarter)
    if bar_line is not None:
        shifts = np.array([(low - bar_line) % steps])
    elif steps > 16:  # those that are likely at all
        apart = max(1, per_quarter // 2) if per_quarter % 3 else per_quarter
        # As many steps from the first hit, and, where that comes between the beats, as from where drums are struck.
        ahead = -int(np.bincount(drums % apart, minlength=apart).argmax()) % apart
        shifts = np.unique(np.concatenate([np.arange(0, steps, apart), np.arange(ahead, steps, apart)]))
    else:
        shifts = np.arange(steps)
    return shifts[(low - shifts) % 2 == 0] if swung else shifts
