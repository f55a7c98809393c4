"""The two halves of finding time: even pulses, and bars on them."""

import numpy as np
import pytest

from ghoststep.listen.bars.bars import METERS, Reading, _counted_in_four, readings
from ghoststep.listen.bars.pulse import _numbered, coherent_hz, find_pulses, log_density
from ghoststep.listen.bars.usual import CLASSES, class_of, usual_chances
from ghoststep.music.kit import VOICE_NAMES
from ghoststep.music.meter import Meter

KICK, SNARE, GHOST, HAT, RIDE = (CLASSES.index(n) for n in ("kick", "snare", "ghost", "hat", "ride"))
RNG = np.random.default_rng(3)


def steps(count: int, step_s: float, *, odd_s: float = 0.0, loose_s: float = 0.0, start_s: float = 0.4) -> np.ndarray:
    n = np.arange(count)
    return start_s + n * step_s + odd_s * (n % 2) + loose_s * RNG.standard_normal(count)


@pytest.mark.parametrize("step_s", [0.09, 0.125, 0.17, 0.31, 0.44])
def test_the_frequency_of_an_even_row_is_among_the_strongest(step_s: float) -> None:
    times = steps(40, step_s, loose_s=0.004)
    found = coherent_hz(times, np.ones(40), count=6)
    assert np.abs(found * step_s - np.rint(found * step_s)).min() < 0.02


@pytest.mark.parametrize("step_s", [0.1, 0.17, 0.3])
@pytest.mark.parametrize("odd", [0.0, 0.15, 0.3])
def test_step_and_lateness_of_the_odd_steps_are_found(step_s: float, odd: float) -> None:
    times = steps(48, step_s, odd_s=odd * step_s, loose_s=0.002)
    best = find_pulses(times, np.ones(48))[0]
    factor = round(best.step_s / step_s * 2) / 2 or 1
    assert best.step_s == pytest.approx(factor * step_s, rel=0.004)
    if factor == 1:
        assert best.odd_s == pytest.approx(odd * step_s, abs=0.003)
        assert np.array_equal(np.diff(best.numbers), np.ones(47))


def test_a_drifting_tempo_is_followed() -> None:
    n = np.arange(64)
    times = 0.3 + 0.15 * n + 0.00008 * n * n
    best = next(p for p in find_pulses(times, np.ones(64)) if abs(p.step_s / 0.15 - 1) < 0.1)
    assert np.array_equal(np.diff(best.numbers), np.ones(63))
    assert np.abs(best.step_times_s(best.numbers) + best.odd_s * (best.numbers % 2) - times).max() < 0.005


def test_holes_in_a_row_do_no_harm() -> None:
    times = np.delete(steps(64, 0.14, loose_s=0.003), RNG.permutation(64)[:25])
    assert any(p.step_s == pytest.approx(0.14, rel=0.003) for p in find_pulses(times, np.ones(39))[:3])


def test_only_given_steps_are_tried_when_given() -> None:
    times = steps(40, 0.125)
    for pulse in find_pulses(times, np.ones(40), near_step_s=(0.25, 0.5)):
        assert min(abs(pulse.step_s / s - 1) for s in (0.25, 0.5)) < 0.1


def test_density_falls_with_distance() -> None:
    values = log_density(np.array([0.0, 0.005, 0.02, 0.08, 0.3]))
    assert (np.diff(values) <= 1e-9).all() and np.isfinite(values).all()


def grid(meter_steps: int, bars: int, **voices: list[int]) -> tuple[np.ndarray, np.ndarray]:
    """Numbers and classes of hits from places in the bar."""
    index = {"kick": KICK, "snare": SNARE, "ghost": GHOST, "hat": HAT, "ride": RIDE}
    rows = [(b * meter_steps + p, index[v]) for b in range(bars) for v, places in voices.items() for p in places]
    rows.sort()
    return np.array([r[0] for r in rows]), np.array([r[1] for r in rows])


BEATS = {
    "rock": (16, {"kick": [0, 7, 8], "snare": [4, 12], "hat": list(range(0, 16, 2))}, Meter(4, 4), 4),
    "ghosts": (16, {"kick": [0, 3, 10], "snare": [4, 12], "ghost": [7, 9, 15], "hat": list(range(16))}, Meter(4, 4), 4),
    "waltz": (12, {"kick": [0], "snare": [4, 8], "hat": list(range(0, 12, 2))}, Meter(3, 4), 4),
    "seven": (14, {"kick": [0, 8], "snare": [4, 10], "hat": list(range(0, 14, 2))}, Meter(7, 8), 4),
    "six": (6, {"kick": [0], "snare": [3], "hat": list(range(6))}, Meter(6, 8), 2),
}


@pytest.mark.parametrize("name", BEATS)
@pytest.mark.parametrize("turned", [0, 3])
def test_bars_are_found_wherever_counting_began(name: str, turned: int) -> None:
    length, voices, meter, per_quarter = BEATS[name]
    numbers, classes = grid(length, 4, **voices)
    step_s = 60 / (120 if per_quarter == 4 else 96) / per_quarter
    best = readings(numbers + turned, classes, step_s=step_s, swung=False)[0]
    assert (best.meter, best.steps_per_quarter) == (meter, per_quarter)
    assert (best.first - turned) % length == 0


def test_odd_meters_are_tried_where_their_bars_are_as_alike_as_others_or_they_are_asked_for() -> None:
    numbers, classes = grid(16, 4, **BEATS["ghosts"][1])
    found = readings(numbers, classes, step_s=0.125, swung=False)
    tried = {(r.meter, r.steps_per_quarter) for r in found}
    assert (Meter(3, 4), 4) in tried and (Meter(7, 8), 4) not in tried
    asked = readings(numbers, classes, step_s=0.125, swung=False, meters=((Meter(7, 8), 0.0),))
    assert asked and {r.meter for r in asked} == {Meter(7, 8)}
    even = readings(np.arange(64), np.full(64, HAT), step_s=0.125, swung=False)  # alike in every meter
    assert Meter(7, 8) in {r.meter for r in even}


def test_an_odd_meter_is_tried_where_only_its_pairs_of_bars_are_alike() -> None:
    numbers, classes = grid(28, 6, kick=[0, 12, 24])  # twice 7/8, of which threes of quarters are half alike
    assert Meter(7, 8) in {r.meter for r in readings(numbers, classes, step_s=0.125, swung=False)}


@pytest.mark.parametrize(("twelve", "expected"), [(-5.0, -3.0), (4.0, -1.0), (None, -10.0), (-20.0, -10.0)])
def test_six_eight_gains_against_its_own_twelve_eight_and_no_further(twelve: float | None, expected: float) -> None:
    six, four = Meter(6, 8), Meter(12, 8)
    found = {(six, 2): [Reading(six, 2, 0, -10.0)]}
    if twelve is not None:
        found[four, 2] = [Reading(four, 2, 6, twelve), Reading(four, 2, 3, 50.0)]  # the second has other bar lines
    counted = _counted_in_four(found, 60 / (165 * 2))  # 110 dotted quarters a minute: a gain of nine
    assert [r.score for r in counted[six, 2]] == [pytest.approx(expected)]


def test_a_pickup_does_not_move_the_bar_line() -> None:
    numbers, classes = grid(16, 4, kick=[0, 10], snare=[4, 12], hat=list(range(0, 16, 2)))
    early = np.concatenate([[-2, -1], numbers]), np.concatenate([[SNARE, SNARE], classes])
    best = readings(early[0], early[1], step_s=0.125, swung=False)[0]
    assert best.first % 16 == 0 and best.meter == Meter(4, 4)


def test_three_even_parts_of_a_beat_are_not_called_triplets() -> None:
    numbers, classes = grid(12, 4, kick=[0, 6], snare=[3, 9], ride=list(range(12)))
    best = readings(numbers, classes, step_s=0.17, swung=False)[0]
    assert best.meter.denominator == 8 and best.meter.numerator in (6, 12)


def test_a_shuffle_is_in_four() -> None:
    numbers, classes = grid(12, 4, kick=[0, 6], snare=[3, 9], ride=[0, 2, 3, 5, 6, 8, 9, 11])
    best = readings(numbers, classes, step_s=0.16, swung=False)[0]
    assert (best.meter, best.steps_per_quarter) == (Meter(4, 4), 3)


def test_late_odd_steps_never_carry_a_bar_line() -> None:
    numbers, classes = grid(16, 4, kick=[0, 7, 8], snare=[4, 12], hat=list(range(16)))
    assert all(r.first % 2 == 0 for r in readings(numbers, classes, step_s=0.15, swung=True))


def test_a_given_tempo_leaves_only_readings_near_it() -> None:
    numbers, classes = grid(16, 4, kick=[0, 7, 8], snare=[4, 12], hat=list(range(0, 16, 2)))
    assert {r.steps_per_quarter for r in readings(numbers, classes, step_s=0.125, swung=False, tempo_bpm=240)} == {2}
    assert not readings(numbers, classes, step_s=0.125, swung=False, tempo_bpm=333)


@pytest.mark.parametrize("meter", [m for m, _ in METERS], ids=str)
def test_usual_places_make_sense_in_every_meter(meter: Meter) -> None:
    for chances in usual_chances(meter, 4):
        assert chances.shape == (len(CLASSES), meter.bar_ticks // 5040) and (chances > 0).all() and (chances < 1).all()
        assert chances[KICK].argmax() == 0 and chances[SNARE, 0] < 0.05 and chances[SNARE].max() > 0.5


@pytest.mark.parametrize("voice", VOICE_NAMES)
def test_every_voice_has_a_class(voice: str) -> None:
    assert 0 <= class_of(voice, 90) < len(CLASSES)
    assert class_of("snare", 30) == GHOST


def test_late_odd_steps_are_numbered_by_where_they_lie() -> None:
    curve, odd_s = np.array([[0.0, 0.2, 0.0]] * 2), np.array([0.08, 0.0])
    times = np.array([0.0, 0.33, 0.4, 0.68])  # a moment between two steps is the late odd one
    assert _numbered(times, curve, odd_s).tolist() == [[0, 1, 2, 3], [0, 2, 2, 3]]
