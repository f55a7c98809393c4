"""Where the bars lie: how many steps of the pulse make a beat and a bar, and which step is beat 1.

Each reading is judged as a code for the hits: every (voice, step in the bar) has a chance of being struck, which starts
from what drummers usually do at that place and learns from bar to bar (a Beta-Bernoulli code). A right bar length
repeats, so it codes cheaply; a right bar line fits the usual places of kick and backbeat, so it codes cheaply too. No
separate rules for octave, meter or downbeat are needed.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.meter import Meter
from ghoststep.music.time import TICKS_PER_QUARTER, TICKS_PER_WHOLE

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]
Reals = TypeVar("Reals", Floats, Singles)
_F32 = np.float32
_HALF_LOG_TWO_PI = 0.5 * float(np.log(2 * np.pi))
# What the code tells apart; a loud and a soft snare stand at different places.
CLASSES = ("kick", "snare", "ghost", "cross_stick", "hat", "hat_open", "hat_pedal", "ride", "crash", "tom")
_STRENGTH = 1.6  # how many bars of experience the usual places weigh
_TEMPO_CENTRE_BPM, _COMPOUND_CENTRE_BPM = 108.0, 90.0
_TEMPO_NATS, _SLOW_SPREAD, _FAST_SPREAD = 6.0, 0.42, 0.42
_SIX_EIGHT_BPM = 72.0  # dotted quarters a minute around which 6/8 gives way to 12/8
_SWUNG_ODD = -4.0  # nats
_SLOW_ODD, _SLOW_ODD_BPM = 14.0, 85.0
_OTHER_SPELLING = -14.0  # nats against writing a ternary beat the way people do not
_EDGE_WEIGHT = 0.5  # of empty steps before the first and after the last hit

# Meters that are tried, with a prior in nats.
METERS: tuple[tuple[Meter, float], ...] = (
    (Meter(4, 4), 0.0),
    (Meter(2, 4), -12.0),
    (Meter(3, 4), -4.0),
    (Meter(6, 8), -4.5),
    (Meter(12, 8), -4.5),
    (Meter(5, 4), -6.0),
    (Meter(7, 8), -6.0),
    (Meter(7, 8, (3, 2, 2)), -6.5),
    (Meter(7, 4), -7.5),
    (Meter(9, 8), -8.0),
    (Meter(11, 4, (4, 4, 3)), -8.5),
    (Meter(5, 8, (3, 2)), -9.0),
)


_IN_FOUR = {Meter(2, 4): Meter(4, 4), Meter(6, 8): Meter(12, 8)}
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


@lru_cache(maxsize=64)
def usual_chances(meter: Meter, steps_per_quarter: int) -> Floats:
    """Chance of each class at each step of the bar before anything is heard; shape (classes, steps)."""
    step_ticks = TICKS_PER_QUARTER // steps_per_quarter
    steps = meter.bar_ticks // step_ticks
    table = np.zeros((len(CLASSES), steps))
    for step in range(steps):
        table[:, step] = list(_chances(meter, step * step_ticks).values())
    return np.clip(table, 0.004, 0.9)


def _chances(meter: Meter, tick: int) -> dict[str, float]:
    """By the place in the bar: working assumptions about drumming in general."""
    first = tick == 0
    beat_ticks = 3 * TICKS_PER_WHOLE // 8 if meter.denominator == 8 and meter.numerator % 3 == 0 else TICKS_PER_QUARTER
    pulses = meter.group_starts if meter.denominator == 8 else tuple(range(0, meter.bar_ticks, beat_ticks))
    on_pulse = tick in pulses
    eighth = tick % (TICKS_PER_WHOLE // 8) == 0
    sixteenth = tick % (TICKS_PER_WHOLE // 16) == 0
    if tick % TICKS_PER_QUARTER == 2 * TICKS_PER_QUARTER // 3:
        eighth = sixteenth = True  # the swung eighth of a triplet grid
    back = on_pulse and pulses.index(tick) % 2 == 1
    if meter.numerator == 3 and meter.denominator == 4:
        back = on_pulse and not first
    fine = 1.0 if sixteenth else 0.15
    strong = on_pulse and not back
    return {
        "kick": 0.85 if first else 0.45 if strong else 0.14 if back else (0.24 if eighth else 0.12 * fine),
        "snare": 0.03 if first else 0.82 if back else 0.06 if strong else (0.08 if eighth else 0.05 * fine),
        "ghost": 0.02 if on_pulse else 0.09 if eighth else 0.16 * fine,
        "cross_stick": 0.02 if first else 0.18 if back else 0.05 if on_pulse else 0.05 * fine,
        "hat": 0.72 if on_pulse else 0.62 if eighth else 0.26 * fine,
        "hat_open": 0.04 if on_pulse else 0.10 if eighth else 0.03 * fine,
        "hat_pedal": 0.25 if back else 0.05 if on_pulse else 0.03 * fine,
        "ride": 0.30 if on_pulse else 0.22 if eighth else 0.06 * fine,
        "crash": 0.16 if first else 0.015 * fine,
        "tom": 0.04 * fine if not first else 0.02,
    }


# Where in the bar people strike them, these are like others.
_LIKE = {"cowbell": "ride", "shaker": "hat", "clap": "snare"}


def class_of(voice: str, velocity: int) -> int:
    """Index into CLASSES of a hit."""
    if voice == "snare":
        return CLASSES.index("snare" if velocity >= 50 else "ghost")
    if voice in ("hat_closed", "hat_half"):
        return CLASSES.index("hat")
    if voice in ("ride", "ride_bell"):
        return CLASSES.index("ride")
    if voice in ("crash", "splash", "crash_left", "china", "stack"):
        return CLASSES.index("crash")
    if voice in _LIKE:
        return CLASSES.index(_LIKE[voice])
    return CLASSES.index("tom" if voice.startswith("tom") else voice)


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
    struck = np.zeros((len(CLASSES), int(numbers.max()) - low + 1))
    struck[classes, numbers - low] = 1
    thirds = _thirds_counted(numbers)
    out = []
    for per_quarter in (1, 2, 4, 8, 3, 6):
        bpm = 60 / (step_s * per_quarter)
        if (swung and per_quarter % 2) or not _tempo_fits(bpm, tempo_bpm):
            continue
        for meter, prior in meters:
            if meter.denominator == 8 and per_quarter % 3 == 0:
                continue  # there the eighth is counted, and a third of a quarter is no place
            prior = prior + _thirds_nats(meter, per_quarter, thirds) + _odd_swing_nats(meter, swung)
            step_ticks = TICKS_PER_QUARTER // per_quarter
            if meter.bar_ticks % step_ticks or step_ticks > meter.unit_ticks:
                continue
            usual = prior + _tempo_nats(bpm, meter) + _two_or_four_nats(bpm, meter) + _slow_odd_nats(bpm, meter)
            for first, score in _offsets(struck, meter, per_quarter, low, swung, weight, bar_line):
                out.append(Reading(meter, per_quarter, first, score + usual, usual))
    return sorted(_counted_in_four(out, step_s), key=lambda r: -r.score)


def _counted_in_four(found: list[Reading], step_s: float) -> list[Reading]:
    """Bars of four beats count as much as the bars of two they consist of, and so go first: most people count them.

    Two bars that are alike always code cheaper as bars of half the length, which says nothing about how they are
    counted; but it says a lot about the beat. Slow pairs of dotted quarters stay 6/8.
    """
    out = list(found)
    longer: dict[tuple[Meter, int, int], list[int]] = {}
    for i, r in enumerate(found):
        if r.meter in _IN_FOUR.values():
            longer.setdefault(_half_of(r, r.meter.bar_ticks // 2), []).append(i)
    for r in found:
        four = _IN_FOUR.get(r.meter)
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


def _thirds_counted(numbers: NDArray[np.int64]) -> bool:
    """Whether all three parts of a three-step beat are played: then people count 6/8 or 12/8 and not triplets."""
    played = np.bincount(np.unique(numbers) % 3, minlength=3)
    return bool(played.min() >= 0.6 * played.max())


def _thirds_nats(meter: Meter, per_quarter: int, counted: bool) -> float:
    """A shuffle is written in quarters; a beat whose three parts are all played is written in 6/8 or 12/8."""
    if per_quarter % 3 == 0:
        return _OTHER_SPELLING if counted else 0.0
    compound = meter.denominator == 8 and meter.numerator % 3 == 0
    return _OTHER_SPELLING if compound and per_quarter == 2 and not counted else 0.0


def _odd_swing_nats(meter: Meter, swung: bool) -> float:
    """Hardly anybody swings the sixteenths of an odd number of eighths; late odd steps are swung eighths in four."""
    return _SWUNG_ODD if swung and meter.denominator == 8 and meter.numerator % 3 else 0.0


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
    struck: Floats, meter: Meter, per_quarter: int, low: int, swung: bool, weight: float, bar_line: int | None
) -> list[tuple[int, float]]:
    """Score of each place of the bar line; bars are laid over the hits from the one that holds the first hit."""
    a, b, nothing = _usual(meter, per_quarter)
    steps = a.shape[1]
    by_eighth = max(1, per_quarter // 2) if per_quarter % 3 else per_quarter
    width = struck.shape[1]
    shifts: Sequence[int] = range(0, steps, by_eighth if steps > 16 else 1)
    if bar_line is not None:
        shifts = ((low - bar_line) % steps,)
    # `shift` empty steps stand before the first hit in its bar.
    places = [shift for shift in shifts if not (swung and (low - shift) % 2)]
    if not places:
        return []
    # Hits folded into one bar; another place of the bar line only turns that bar.
    turned = (np.arange(steps) - np.array(places)[:, None]) % steps
    folded = np.zeros((len(CLASSES), -(-width // steps) * steps))
    folded[:, :width] = struck
    hits = folded.reshape(len(CLASSES), -1, steps).sum(axis=1)[:, turned].transpose(1, 0, 2)
    counted = np.bincount(np.arange(width) % steps, minlength=steps)[turned]
    bars = -(-(width + np.array(places)) // steps)
    # Empty steps outside the first and last hit count less, as nobody knows whether they were meant.
    heard = counted + _EDGE_WEIGHT * (bars[:, None] - counted)
    rests = np.maximum(heard[:, None, :] - hits, 0)
    scores = (_betaln(a + _F32(weight) * hits.astype(_F32), b + _F32(weight) * rests.astype(_F32)) - nothing).sum(
        axis=(1, 2), dtype=float
    )
    return [(low - shift, float(score)) for shift, score in zip(places, scores, strict=True)]


@lru_cache(maxsize=256)
def _usual(meter: Meter, per_quarter: int) -> tuple[Singles, Singles, Singles]:
    """What is known before anything is heard: the two weights of each class and step, and the log of their beta."""
    chances = usual_chances(meter, per_quarter)
    # Single precision: a thousandth of a nat in all, and logarithms several times faster.
    a, b = (_STRENGTH * chances).astype(_F32), (_STRENGTH * (1 - chances)).astype(_F32)
    return a, b, _betaln(a, b)


def _betaln(a: Reals, b: Reals) -> Reals:
    """Logarithm of the beta function, for positive numbers."""
    return _gammaln(a) + _gammaln(b) - _gammaln(a + b)


def _gammaln(x: Reals) -> Reals:
    """Logarithm of the gamma function for x > 0: Stirling's series at x + 6, carried down by x! = x (x - 1)!.

    Abramowitz & Stegun (1964), 6.1.41; the error is below 1e-9. SciPy's would take longer to load than to run.
    """
    y = x + 6
    down = x * (x + 1) * (x + 2) * (x + 3) * (x + 4) * (x + 5)
    z = 1 / (y * y)
    series = (1 / 12 - z * (1 / 360 - z * (1 / 1260 - z * (1 / 1680 - z / 1188)))) / y
    return (y - 0.5) * np.log(y) - y + _HALF_LOG_TWO_PI + series - np.log(down)
