"""Meters, groupings and the first downbeat, proposed for clear grooves in each of them."""

from dataclasses import replace

import numpy as np
import pytest

from ghoststep.feel.perform import perform
from ghoststep.listen.bars import reading
from ghoststep.listen.bars.explain import Hints, explain
from ghoststep.listen.bars.pulse import find_pulses
from ghoststep.listen.bars.usual import CLASSES
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit, Pattern, hit
from ghoststep.music.performance import Performance
from ghoststep.music.time import TICKS_PER_QUARTER, TempoMap

BARS = 4
CASES = [
    ("4/4", 108),
    ("3/4", 132),
    ("6/8", 90),
    ("12/8", 165),
    ("5/4", 120),
    ("7/8 2+2+3", 140),
    ("7/8 3+2+2", 132),
    ("7/4", 126),
    ("9/8", 120),
    ("11/4 4+4+3", 120),
]


def clear_groove(meter: Meter, bpm: float, *, bars: int = BARS) -> Groove:
    """Hats on eighths, the backbeat on every second pulse, kicks on 1 and around the middle, a change at the end."""
    eighth = TICKS_PER_QUARTER // 2
    pulses = meter.group_starts if meter.denominator == 8 else tuple(range(0, meter.bar_ticks, TICKS_PER_QUARTER))
    hits: list[Hit] = []
    for bar in range(bars):
        at = bar * meter.bar_ticks
        hits += [hit(at + t, "hat_closed", 84 if t in pulses else 60) for t in range(0, meter.bar_ticks, eighth)]
        hits += [hit(at + t, "snare", 104) for t in pulses[1::2]]
        hits.append(hit(at, "kick", 110))
        if len(pulses) > 2:
            hits.append(hit(at + pulses[2] + eighth, "kick", 92))
        hits.append(hit(at + meter.bar_ticks - eighth, "kick" if bar % 2 else "snare", 80 if bar % 2 else 30))
    hits.append(hit(0, "crash", 112))
    return Groove(Pattern(tuple(hits), meter, bars), Feel(), TempoMap.constant(bpm))


def heard(groove: Groove, *, start_s: float = 0.37, seed: int = 3, drop: tuple[int, ...] = ()) -> Performance:
    p = perform(groove)
    keep = np.setdiff1d(np.arange(len(p)), drop)
    noise = np.random.default_rng(seed).normal(0, 0.004, len(keep))
    return Performance.of(p.onset_s[keep] + start_s + noise, p.voice[keep], p.velocity[keep], length_s=p.length_s + 1)


def bars_off(groove: Groove, start_s: float) -> float:
    """How far the found bar line is from a true one, in bars."""
    away = (start_s - 0.37) / (groove.length_s / groove.pattern.bars)
    return abs(away - round(away))


@pytest.mark.parametrize(("name", "bpm"), CASES)
def test_a_clear_groove_is_read_in_its_meter(name: str, bpm: float) -> None:
    groove = clear_groove(Meter.parse(name), bpm)
    explained = explain(heard(groove))
    found = explained.groove.pattern.meter
    assert (found.numerator, found.denominator) == (groove.pattern.meter.numerator, groove.pattern.meter.denominator)
    assert (
        explained.groove.tempo.main_bpm == pytest.approx(bpm, rel=0.01) and bars_off(groove, explained.start_s) < 0.02
    )


@pytest.mark.parametrize("name", ["7/8 2+2+3", "7/8 3+2+2"])
def test_the_grouping_is_proposed_with_the_meter(name: str) -> None:
    explained = explain(heard(clear_groove(Meter.parse(name), 136)))
    assert explained.groove.pattern.meter == Meter.parse(name)


def test_a_silent_beat_one_is_still_beat_one() -> None:
    groove = clear_groove(Meter(), 104)
    first = tuple(i for i, h in enumerate(groove.pattern.hits) if h.position_ticks == 0)
    explained = explain(heard(groove, drop=first))
    assert explained.groove.pattern.meter == Meter() and bars_off(groove, explained.start_s) < 0.02
    assert explained.groove.pattern.hits[0].position_ticks > 0


def test_a_pickup_stands_before_the_bar_line() -> None:
    groove = clear_groove(Meter(), 104)
    most_of_bar_1 = tuple(i for i, h in enumerate(groove.pattern.hits) if h.position_ticks < 3 * TICKS_PER_QUARTER)
    explained = explain(heard(groove, drop=most_of_bar_1))
    assert bars_off(groove, explained.start_s) < 0.02 and explained.groove.pattern.bars == BARS


@pytest.mark.parametrize("ratio", [0.54, 0.57, 0.60, 0.62])
def test_the_wide_middle_of_swing_is_measured_with_its_error(ratio: float) -> None:
    straight = clear_groove(Meter(), 92)
    sixteenths = [hit(b * 80640 + t, "hat_closed", 50) for b in range(BARS) for t in (5040, 25200, 45360, 65520)]
    groove = straight.changed(hits=(*straight.pattern.hits, *sixteenths), feel=Feel(Swing(16, ratio)))
    explained = explain(heard(groove))
    assert explained.swing.unit == 16 and explained.swing.ratio == pytest.approx(ratio, abs=0.01)
    assert 0 < explained.swing_error < 0.01


SIXTEENTH = TICKS_PER_QUARTER // 4


@pytest.mark.parametrize("name", ["7/8 2+2+3", "4/4"])
def test_sixteenths_that_come_early_are_off_steps_all_the_same(name: str) -> None:
    """Late even steps would else be swing, with all hats between the beats."""
    groove = clear_groove(Meter.parse(name), 114)
    bar = groove.pattern.meter.bar_ticks
    early = [
        replace(hit(b * bar + t, "snare", 30), offset_ms=-13)
        for b in range(BARS)
        for t in (3 * SIXTEENTH, bar - SIXTEENTH)
    ]
    explained = explain(heard(groove.changed(hits=(*groove.pattern.hits, *early))))
    assert explained.groove.pattern.meter == groove.pattern.meter
    assert bars_off(groove, explained.start_s) < 0.02


def test_thirds_of_which_some_are_missed_are_still_compound() -> None:
    groove = clear_groove(Meter(12, 8), 153)
    eighth = TICKS_PER_QUARTER // 2
    missed = tuple(
        i
        for i, h in enumerate(groove.pattern.hits)
        if h.voice == "hat_closed" and (h.position_ticks // eighth) % 3 == 1 and h.position_ticks // eighth % 6 > 1
    )
    explained = explain(heard(groove, drop=missed))
    assert explained.groove.pattern.meter == Meter(12, 8)


@pytest.mark.parametrize(
    ("late", "hints", "parities"),
    [(0.10, Hints(), {0, 1}), (0.28, Hints(), {0}), (0.10, Hints(straight=False), {0})],
)
def test_only_what_is_nearly_even_and_not_said_to_swing_may_have_early_off_steps(
    late: float, hints: Hints, parities: set[int]
) -> None:
    steps = np.arange(64)
    times = 0.2 + 0.25 * (steps + late * (steps % 2)) + np.random.default_rng(2).normal(0, 0.002, len(steps))
    classes = np.full(len(steps), CLASSES.index("hat"))
    classes[2::8] = CLASSES.index("snare")
    pulse = next(p for p in find_pulses(times, np.ones(len(steps))) if abs(p.step_s / 0.25 - 1) < 0.01)
    found = reading._read(reading._whole(pulse), classes, hints, 0.0)
    assert {r.reading.first % 2 for r in found} == parities
