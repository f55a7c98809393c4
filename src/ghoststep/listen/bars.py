"""Where the bars lie: how many steps of the pulse make a beat and a bar, and which step is beat 1.

Each reading is judged as a code for the hits (`listen/bar_code.py`). A right bar length repeats, so it codes cheaply; a
right bar line fits the usual places of kick and backbeat, so it codes cheaply too. What is added here is how usual a
tempo and a meter are, and how people count where several readings explain the hits alike.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bar_code import bar_steps, scores
from ghoststep.listen.usual import CLASSES
from ghoststep.music.meter import Meter
from ghoststep.music.time import TICKS_PER_QUARTER

_TEMPO_CENTRE_BPM, _COMPOUND_CENTRE_BPM = 108.0, 90.0
_TEMPO_NATS, _SLOW_SPREAD, _FAST_SPREAD = 6.0, 0.42, 0.42
_SIX_EIGHT_BPM = 80.0  # dotted quarters a minute around which 6/8 gives way to 12/8
_SWUNG_ODD = -4.0  # nats
_SWUNG_SIXTEENTHS = -2.0
_HALF_TIME, _HALF_TIME_BPM = -5.0, 110.0
_OFFBEATS, _OFFBEAT_SHARE, _OFFBEAT_BPM = -8.0, 0.7, 100.0
_SWUNG_RIDE, _RIDE_BPM, _RIDE_SHARE, _RIDE_NEVER = -12.0, 70.0, 0.35, 0.1
_HALVED, _HALVED_SHARE = -8.0, 0.6
_SLOW_ODD, _SLOW_ODD_BPM = 14.0, 85.0
_OTHER_SPELLING = -14.0  # nats against writing a ternary beat the way people do not
# The least played third against the most played: up to the first it is a shuffle, from the second on all are counted.
_THIRDS = (0.2, 0.5)

_BACKBEATS = [CLASSES.index("snare"), CLASSES.index("cross_stick")]
_KICKS = [CLASSES.index("kick")]
_TIMEKEEPERS = [CLASSES.index(c) for c in ("hat", "hat_open", "ride")]
_KEEPS_TIME = 0.35  # share of all hits
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
    (Meter(7, 4), -7.5),
    (Meter(9, 8), -8.0),
    (Meter(11, 4, (4, 4, 3)), -8.5),
    (Meter(5, 8, (3, 2)), -13.0),
)
# Bars that are two of others, as most people count them.
IN_FOUR = {Meter(2, 4): Meter(4, 4), Meter(6, 8): Meter(12, 8)}
_IN_FOUR_NATS = 1.0
_SLOW_SIX_BPM = 100.0  # dotted quarters a minute up to which 6/8 is counted in two


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
    loud, time, kick = (np.flatnonzero(struck[which].any(axis=0)) for which in (_BACKBEATS, _TIMEKEEPERS, _KICKS))
    thirds = _thirds_counted(numbers, classes)
    out = []
    for per_quarter in (1, 2, 4, 8, 3, 6):
        bpm = 60 / (step_s * per_quarter)
        if (swung and per_quarter % 2) or not _tempo_fits(bpm, tempo_bpm):
            continue
        for meter, prior in meters:
            if meter.denominator == 8 and per_quarter % 3 == 0:
                continue  # there the eighth is counted, and a third of a quarter is no place
            prior = prior + _thirds_nats(meter, per_quarter, thirds) + _swing_nats(meter, per_quarter, swung)
            step_ticks = TICKS_PER_QUARTER // per_quarter
            if meter.bar_ticks % step_ticks or step_ticks > meter.unit_ticks:
                continue
            usual = prior + _tempo_nats(bpm, meter) + _two_or_four_nats(bpm, meter) + _slow_odd_nats(bpm, meter)
            if usual < _HOPELESS and tempo_bpm is None and len(meters) > 1:
                continue
            places = _offsets(struck, meter, per_quarter, low, swung, weight, bar_line)
            # By the best place of the bar line, for all of them: it says nothing about where that is.
            best = max(places, key=lambda place: place[1], default=(low, 0.0))[0]
            usual += _half_time_nats(loud, meter, per_quarter, low - best, bpm)
            usual += _offbeat_nats(loud, kick, meter, per_quarter, low - best, bpm)
            usual += _swung_ride_nats(time, per_quarter, swung, low - best, bpm)
            usual += _halved_nats(time, meter, per_quarter, low - best)
            out += [Reading(meter, per_quarter, first, score + usual, usual) for first, score in places]
    return sorted(_counted_in_four(out, step_s), key=lambda r: -r.score)


def _counted_in_four(found: list[Reading], step_s: float) -> list[Reading]:
    """Bars of four beats count as much as the bars of two they consist of, and so go first: most people count them.

    Two bars that are alike always code cheaper as bars of half the length, which says nothing about how they are
    counted; but it says a lot about the beat. Slow pairs of dotted quarters stay 6/8.
    """
    out = list(found)
    longer: dict[tuple[Meter, int, int], list[int]] = {}
    for i, r in enumerate(found):
        if r.meter in IN_FOUR.values():
            longer.setdefault(_half_of(r, r.meter.bar_ticks // 2), []).append(i)
    for r in found:
        four = IN_FOUR.get(r.meter)
        dotted_bpm = 60 / (step_s * r.steps_per_quarter) / 1.5
        if four is None or (four == Meter(12, 8) and dotted_bpm < _SLOW_SIX_BPM):
            continue
        both = longer.get(_half_of(replace(r, meter=four), r.meter.bar_ticks), [])
        ahead = r.score + _IN_FOUR_NATS - max((found[i].score for i in both), default=0.0)
        for i in both:  # beginning with the one bar or with the other: what tells them apart stays
            out[i] = replace(out[i], score=max(out[i].score, found[i].score + ahead))
    return out


def _half_of(r: Reading, half_ticks: int) -> tuple[Meter, int, int]:
    """What readings share whose bars begin with one half of a bar or with the other."""
    return r.meter, r.steps_per_quarter, r.first % (half_ticks * r.steps_per_quarter // TICKS_PER_QUARTER)


def _thirds_counted(numbers: NDArray[np.int64], classes: NDArray[np.int64]) -> float:
    """How far all three parts of a three-step beat are played, 0 to 1: then people count 6/8 or 12/8 and not triplets.

    By the hand that keeps time, where one does: a shuffle whose middle triplets are ghosts is still a shuffle.
    """
    time = np.isin(classes, _TIMEKEEPERS)
    kept = numbers[time] if time.mean() >= _KEEPS_TIME else numbers
    played = np.bincount(np.unique(kept) % 3, minlength=3)
    low, high = _THIRDS
    return float(np.clip((played.min() / max(int(played.max()), 1) - low) / (high - low), 0, 1))


def _thirds_nats(meter: Meter, per_quarter: int, counted: float) -> float:
    """A shuffle is written in quarters; a beat whose three parts are all played is written in 6/8 or 12/8."""
    if per_quarter % 3 == 0:
        return _OTHER_SPELLING * counted
    compound = meter.denominator == 8 and meter.numerator % 3 == 0
    return _OTHER_SPELLING * (1 - counted) if compound and per_quarter in (2, 4) else 0.0


def _swing_nats(meter: Meter, per_quarter: int, swung: bool) -> float:
    """Hardly anybody swings the sixteenths of an odd number of eighths; late odd steps are swung eighths in four."""
    if not swung:
        return 0.0
    return (_SWUNG_ODD if meter.denominator == 8 and meter.numerator % 3 else 0.0) + _SWUNG_SIXTEENTHS * (
        per_quarter == 4
    )


def _half_time_nats(loud: NDArray[np.int64], meter: Meter, per_quarter: int, shift: int, bpm: float) -> float:
    """Fast bars of four with a backbeat on one beat only are half of slower bars with two, which people count.

    `loud` are the steps of snare and cross stick, counted from the first hit, which stands `shift` steps into its bar.
    """
    if (meter.numerator, meter.denominator) != (4, 4) or bpm < _HALF_TIME_BPM or not len(loud):
        return 0.0
    beat, off = np.divmod((loud + shift) % (4 * per_quarter), per_quarter)
    on_beat = np.bincount(beat[off == 0], minlength=4)
    most = int(on_beat.max())
    return _HALF_TIME if most > 2 * (int(on_beat.sum()) - most) else 0.0


def _offbeat_nats(
    loud: NDArray[np.int64], low: NDArray[np.int64], meter: Meter, per_quarter: int, shift: int, bpm: float
) -> float:
    """Slow bars with a backbeat in each beat and kicks half a beat from it are fast ones, with backbeats on 2 and 4.

    `loud` and `shift` as in `_half_time_nats`; `low` are the steps of the kick.
    """
    if meter.denominator != 4 or per_quarter % 2 or bpm > _OFFBEAT_BPM or not len(loud):
        return 0.0
    beats = (int(max(loud.max(), low.max(initial=0))) + shift) // per_quarter + 1
    backbeats, kicks = (
        [len(np.unique(s[(s + shift) % per_quarter == at])) for at in (0, per_quarter // 2)] for s in (loud, low)
    )
    at = int(np.argmax(backbeats))
    often, seldom = backbeats[at], len(np.unique(loud)) - backbeats[at]
    apart = often >= _OFFBEAT_SHARE * beats and often > 2 * seldom and kicks[1 - at] > kicks[at]
    return _OFFBEATS if apart else 0.0


def _swung_ride_nats(time: NDArray[np.int64], per_quarter: int, swung: bool, shift: int, bpm: float) -> float:
    """A hand that swings one sixteenth of each pair of eighths and never the other plays swung eighths, twice as fast.

    `time` are the steps of the hand that keeps time, counted as in `_half_time_nats`.
    """
    pair = {4: (1, 3) if swung else None, 6: (2, 5)}.get(per_quarter)
    if pair is None or bpm < _RIDE_BPM or not len(time):
        return 0.0
    beat, place = np.divmod(time + shift, per_quarter)
    beats = len(np.unique(beat))
    less, more = sorted(len(np.unique(beat[place == p])) for p in pair)
    return _SWUNG_RIDE if more >= _RIDE_SHARE * beats and less <= _RIDE_NEVER * beats else 0.0


def _halved_nats(time: NDArray[np.int64], meter: Meter, per_quarter: int, shift: int) -> float:
    """Dotted quarters whose halves are played and not their thirds are quarters of shuffled sixteenths.

    `time` and `shift` as in `_swung_ride_nats`.
    """
    if meter.denominator != 8 or meter.numerator % 3 or per_quarter != 4 or not len(time):
        return 0.0
    beat, place = np.divmod(time + shift, 6)
    played = np.bincount(place, minlength=6)
    thirds = int(min(played[2], played[4]))
    halved = played[3] >= _HALVED_SHARE * len(np.unique(beat)) and played[3] > 2 * thirds
    return _HALVED if halved else 0.0


def _two_or_four_nats(bpm: float, meter: Meter) -> float:
    """Slow pairs of dotted quarters may be 6/8 or half a 12/8; faster ones are counted in four."""
    if (meter.numerator, meter.denominator) != (6, 8):
        return 0.0
    return -min(max((bpm / 1.5 - _SIX_EIGHT_BPM) / 10, 0.0) * 3.0, 12.0)


def _slow_odd_nats(bpm: float, meter: Meter) -> float:
    """Odd numbers of slow eighths are counted in quarters: 5/8 at 56 is 5/4 at 112."""
    if meter.denominator != 8 or meter.numerator % 3 == 0:
        return 0.0
    return -_SLOW_ODD * float(np.clip((_SLOW_ODD_BPM - bpm) / 25, 0, 1))


def _tempo_fits(bpm: float, wanted: float | None) -> bool:
    if wanted is not None:
        return abs(bpm / wanted - 1) < 0.06
    return 38 < bpm < 330


def _tempo_nats(bpm: float, meter: Meter) -> float:
    """Prior of a tempo, by the beat people tap: the dotted quarter in compound time, which is slower.

    Fast beats are rarer than slow ones: a ballad at 60 is common, a beat of 250 hardly ever counted.
    """
    compound = meter.denominator == 8 and meter.numerator % 3 == 0
    beat, centre = (bpm / 1.5, _COMPOUND_CENTRE_BPM) if compound else (bpm, _TEMPO_CENTRE_BPM)
    away = np.log(beat / centre) / (_SLOW_SPREAD if beat < centre else _FAST_SPREAD)
    return float(-_TEMPO_NATS * away * away)


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
    by_eighth = max(1, per_quarter // 2) if per_quarter % 3 else per_quarter
    shifts: Sequence[int] = range(0, steps, by_eighth if steps > 16 else 1)
    if bar_line is not None:
        shifts = ((low - bar_line) % steps,)
    # `shift` empty steps stand before the first hit in its bar.
    places = [shift for shift in shifts if not (swung and (low - shift) % 2)]
    if not places:
        return []
    found = scores(struck, meter, per_quarter, places, weight)
    return [(low - shift, float(score)) for shift, score in zip(places, found, strict=True)]
