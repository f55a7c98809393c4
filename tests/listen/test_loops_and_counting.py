"""The bars people would count: loops by their length, bars of two in four, shuffles with triplets, usual tempi."""

import numpy as np
import pytest
from tools.idioms import IDIOMS, chosen, played
from tools.measure_fit import spoiled
from tools.training.kept_back import random_groove

from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars import reading
from ghoststep.listen.bars.bars import readings
from ghoststep.listen.bars.counted import (
    half_time_nats,
    halved_nats,
    in_threes,
    in_threes_nats,
    kick_on_three_nats,
    off_dotted_nats,
    offbeat_nats,
    swung_ride_nats,
    thirds_counted,
)
from ghoststep.listen.bars.explain import Explained, Hints, explain
from ghoststep.listen.bars.usual import CLASSES
from ghoststep.listen.signal.spectrum import LISTEN_RATE
from ghoststep.listen.strokes.hearing import cut_to_loop
from ghoststep.music.kit import VOICE_INDEX
from ghoststep.music.meter import Meter
from ghoststep.music.performance import Performance
from ghoststep.music.time import TICKS_PER_QUARTER

BEAT_S = 60 / 97


def idiom(name: str, seed: int = 3) -> tuple[float, Explained]:
    """The true tempo of a common groove, and how it is explained."""
    groove = played(next(i for i in IDIOMS if i.name == name), np.random.default_rng(seed))
    return groove.tempo.main_bpm, explain(perform(groove))


def one_bar(pace_s: float, *, cut: bool, length_s: float = 4 * BEAT_S) -> Performance:
    """Eighths on the hat, kick and snare, a little faster or slower than the file is long."""
    n = np.arange(8)
    onset = np.concatenate([n * pace_s / 2, [0, 2 * pace_s], [pace_s, 3 * pace_s]])
    voices = ["hat_closed"] * 8 + ["kick"] * 2 + ["snare"] * 2
    order = np.argsort(onset, kind="stable")
    return Performance.of(
        onset[order], [VOICE_INDEX[voices[i]] for i in order], [100] * len(onset), length_s=length_s, cut=cut
    )


# -- loops ------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("share", [0.988, 1.0, 1.012])
def test_a_loop_has_the_tempo_by_which_it_is_whole(share: float) -> None:
    found = explain(one_bar(BEAT_S * share, cut=True))
    assert found.groove.tempo.main_bpm == pytest.approx(97, rel=1e-6)
    assert abs(found.start_s) < 0.02 and found.groove.pattern.bars == 1
    assert "exactly 4 quarters" in found.readings[0].why


@pytest.mark.parametrize("bpm", [70, 74])
def test_a_loop_of_odd_bars_may_be_as_much_too_long_as_one_of_quarters(bpm: int) -> None:
    """Cut where the last hat has rung out: four bars of 7/8 are no fewer whole bars than two of 7/4."""
    bars = ("x-x-x-x-x-x-x-", "----X---------", "X-------x---x-")
    lines = [f"{v} {b}|{b}|{b}|{b}" for v, b in zip(("hat_closed", "snare", "kick"), bars, strict=True)]
    played = perform(parse_grid("\n".join([f"tempo {bpm}", "meter 7/8", *lines])))
    loop = Performance.of(played.onset_s, played.voice, played.velocity, length_s=14 * 60 / bpm + 0.1214, cut=True)
    found = explain(loop)
    assert found.groove.pattern.meter == Meter(7, 8) and found.groove.tempo.main_bpm == pytest.approx(bpm, rel=0.01)
    assert "no whole number" not in " ".join(r.why for r in found.readings if r.meter == Meter(7, 8))


def test_what_was_not_cut_keeps_the_tempo_of_its_hits() -> None:
    found = explain(one_bar(BEAT_S * 0.988, cut=False))
    assert found.groove.tempo.main_bpm == pytest.approx(97 / 0.988, rel=2e-3)


def test_a_length_that_is_no_whole_number_of_beats_says_nothing() -> None:
    found = explain(one_bar(BEAT_S, cut=True, length_s=4.4 * BEAT_S))
    assert found.groove.tempo.main_bpm == pytest.approx(97, rel=2e-3)


def test_hits_that_clearly_keep_another_tempo_are_not_stretched_to_the_length_of_the_file() -> None:
    """A file may begin with a stroke and end in sound without being a loop."""
    bar = one_bar(BEAT_S, cut=True)
    onset = np.concatenate([bar.onset_s + 4 * BEAT_S * n for n in range(5)])
    length_s = 20 * BEAT_S * 1.013
    played_on = Performance.of(onset, np.tile(bar.voice, 5), np.tile(bar.velocity, 5), length_s=length_s, cut=True)
    assert explain(played_on).groove.tempo.main_bpm == pytest.approx(97, rel=0.001)


def test_a_ring_that_ends_near_some_beat_is_no_loop() -> None:
    """Four bars that ring out for half a bar more, 50 ms short of it: the hits know the tempo."""
    bar = one_bar(BEAT_S, cut=True)
    onset = np.concatenate([bar.onset_s + 4 * BEAT_S * n for n in range(4)])
    length_s = 18 * BEAT_S - 0.05
    rung = Performance.of(onset, np.tile(bar.voice, 4), np.tile(bar.velocity, 4), length_s=length_s, cut=True)
    assert explain(rung).groove.tempo.main_bpm == pytest.approx(97, rel=0.0005)


def sounding(length_s: float, *, first_s: float, end: float) -> np.ndarray:
    sound = np.zeros(round(length_s * LISTEN_RATE), np.float32)
    sound[round(first_s * LISTEN_RATE)] = 0.5
    sound[-3000:] += np.float32(end)
    return sound


def test_a_cut_begins_with_a_stroke_and_ends_in_sound() -> None:
    at = np.array([0.01])
    assert cut_to_loop(sounding(2.0, first_s=0.01, end=0.01), at)
    assert not cut_to_loop(sounding(2.0, first_s=0.01, end=0.0), at)  # rang out
    assert not cut_to_loop(sounding(2.0, first_s=0.2, end=0.01), np.array([0.2]))  # a silence ahead
    assert not cut_to_loop(sounding(0.3, first_s=0.01, end=0.01), at)  # one stroke
    assert not cut_to_loop(sounding(2.0, first_s=0.01, end=0.01), np.zeros(0))


# -- two and four -----------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["train", "march", "samba"])
def test_what_repeats_by_halves_keeps_its_beat_and_is_counted_in_four(name: str) -> None:
    bpm, found = idiom(name)
    assert found.groove.tempo.main_bpm == pytest.approx(bpm, rel=0.01)
    assert found.groove.pattern.meter == Meter(4, 4)
    assert any(r.meter == Meter(2, 4) and r.tempo_bpm == pytest.approx(bpm, rel=0.01) for r in found.readings)


def test_either_half_of_a_bar_may_begin_it_and_what_tells_them_apart_stays() -> None:
    """A crash every four beats says where bars of four begin, however much alike their halves are."""
    kick, snare, crash = (CLASSES.index(n) for n in ("kick", "snare", "crash"))
    numbers = np.array([4 * i + j for i in range(16) for j in range(1)] + [16 * i for i in range(4)])
    classes = np.array([kick if i % 2 == 0 else snare for i in range(16)] + [crash] * 4)
    best = readings(numbers, classes, step_s=0.14, swung=False)[0]
    assert (best.meter, best.steps_per_quarter) == (Meter(4, 4), 4) and best.first % 16 == 0


def test_two_four_is_taken_where_it_is_said() -> None:
    groove = played(next(i for i in IDIOMS if i.name == "polka"), np.random.default_rng(1))
    found = explain(perform(groove), Hints(meter=Meter(2, 4)))
    assert found.groove.pattern.meter == Meter(2, 4)


@pytest.mark.parametrize(
    ("bpm", "meter"), [(96, Meter(6, 8)), (138, Meter(6, 8)), (168, Meter(6, 8)), (234, Meter(12, 8))]
)
def test_pairs_of_dotted_quarters_stay_six_and_very_fast_ones_are_counted_in_four(bpm: int, meter: Meter) -> None:
    text = "meter 6/8\ngrid 8\nhat_closed xxxxxx | xxxxxx | xxxxxx | xxxxxx\nsnare ---X-- | ---X-- | ---X-- | ---X--\n"
    found = explain(perform(parse_grid(f"tempo {bpm}\n{text}kick X----x | X----- | X----x | X-----")))
    assert found.groove.pattern.meter == meter and found.groove.tempo.main_bpm == pytest.approx(bpm, rel=0.01)


@pytest.mark.parametrize("number", [898, 1295])
def test_pairs_that_nearly_differ_are_not_counted_in_four_for_little(number: int) -> None:
    """Hits of random 6/8 of which some were lost and some put in, so that its bars are a little unlike."""
    rng = np.random.default_rng([501, number])
    groove = random_groove(rng)
    found = explain(spoiled(perform(groove).ordered(), rng, dropped=0.05, added=0.04)[0]).groove
    assert found.pattern.meter == groove.pattern.meter == Meter(6, 8)


# -- shuffles and tempi -----------------------------------------------------------------------------------------


def test_a_shuffle_with_some_middle_triplets_is_a_shuffle_with_true_thirds() -> None:
    bpm, found = idiom("shuffle with middle triplets")
    swing = found.groove.feel.swing
    assert swing.unit == 8 and swing.ratio == pytest.approx(2 / 3, abs=0.02)
    places = {h.position_ticks % TICKS_PER_QUARTER for h in found.groove.pattern.hits}
    assert places == {0, TICKS_PER_QUARTER // 2, TICKS_PER_QUARTER // 3}
    assert found.groove.tempo.main_bpm == pytest.approx(bpm, rel=0.01)


def test_a_half_time_shuffle_is_one_of_sixteenths_with_true_thirds() -> None:
    bpm, found = idiom("half-time shuffle")
    swing, eighth = found.groove.feel.swing, TICKS_PER_QUARTER // 2
    assert swing.unit == 16 and swing.ratio == pytest.approx(2 / 3, abs=0.02)
    assert {h.position_ticks % eighth for h in found.groove.pattern.hits} == {0, eighth // 2, eighth // 3}
    assert found.groove.tempo.main_bpm == pytest.approx(bpm, rel=0.01)


@pytest.mark.parametrize(("name", "seed"), [("half-time shuffle", (71, 37)), ("sixteenth hats with ghosts", (72, 2))])
def test_hits_lost_and_put_in_leave_the_tempo_people_count(name: str, seed: tuple[int, int]) -> None:
    rng = np.random.default_rng(seed)
    groove = played(next(i for i in IDIOMS if i.name == name), rng)
    found = explain(spoiled(perform(groove), rng, dropped=0.06, added=0.05)[0]).groove
    assert found.tempo.main_bpm == pytest.approx(groove.tempo.main_bpm, rel=0.01)
    assert found.pattern.meter == Meter(4, 4)


def test_thirds_throughout_are_triplets() -> None:
    text = "tempo 100\nmeter 4/4\ngrid 12\nhat_closed xxxxxxxxxxxx | xxxxxxxxxxxx\nsnare ---X-----X-- | ---X-----X--\n"
    found = explain(perform(parse_grid(text + "kick X-----X----- | X-----X--x--")))
    assert found.groove.feel.swing.straight


@pytest.mark.parametrize("seed", range(3))
def test_most_common_grooves_get_the_tempo_people_count(seed: int) -> None:
    right = []
    for number, one in enumerate(chosen("used")):
        groove = played(one, np.random.default_rng([seed, number]))
        right.append(abs(explain(perform(groove)).groove.tempo.main_bpm / groove.tempo.main_bpm - 1) < 0.01)
    assert np.mean(right) >= 0.87


# -- why --------------------------------------------------------------------------------------------------------


def test_every_reading_says_where_it_begins_and_why() -> None:
    groove = played(IDIOMS[2], np.random.default_rng(1))
    found = explain(perform(groove))
    assert len(found.readings) > 2 and all(r.why and r.downbeat_s is not None for r in found.readings)
    assert found.readings[0].downbeat_s == pytest.approx(found.start_s, abs=0.02)
    first, second = found.readings[:2]
    assert first.why != second.why
    assert explain(perform(groove), Hints(tempo_bpm=groove.tempo.main_bpm)).readings[0].why == "you said so"


# -- what is added to the code --------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("beats", "bpm", "meter", "less"),
    [((2,), 150, Meter(4, 4), True), ((1, 3), 150, Meter(4, 4), False), ((2,), 90, Meter(4, 4), False),
     ((2,), 150, Meter(7, 4), False), ((1, 2, 3), 150, Meter(4, 4), False), ((1,), 150, Meter(4, 4), True),
     ((0,), 150, Meter(4, 4), True)],
)  # fmt: skip
def test_a_fast_bar_with_one_backbeat_is_half_of_a_slow_one(
    beats: tuple[int, ...], bpm: float, meter: Meter, less: bool
) -> None:
    steps = meter.numerator * 4
    loud = np.array([bar * steps + 4 * beat for bar in range(4) for beat in beats]) - 3  # from a first hit on step 3
    assert (half_time_nats(loud, meter, 4, 3, bpm) < 0) == less
    assert half_time_nats(loud[:0], meter, 4, 3, bpm) == 0


@pytest.mark.parametrize(
    ("kicks", "backbeats", "meter", "less"),
    [((8,), (4, 12), Meter(4, 4), True), ((0,), (4, 12), Meter(4, 4), False), ((0, 8), (4, 12), Meter(4, 4), False),
     ((8,), (8,), Meter(4, 4), False),  # a one drop
     ((6,), (4, 12), Meter(4, 4), False), ((8,), (4, 12), Meter(7, 4), False), ((8,), (), Meter(4, 4), True)],
)  # fmt: skip
def test_a_kick_on_three_and_never_on_one_is_on_one(
    kicks: tuple[int, ...], backbeats: tuple[int, ...], meter: Meter, less: bool
) -> None:
    steps = meter.numerator * 4
    kick, loud = (
        np.array([steps * bar + p for bar in range(4) for p in at], np.int64) - 3 for at in (kicks, backbeats)
    )
    shifts = np.array([3])
    assert (kick_on_three_nats(kick, loud, meter, 4, shifts)[0] < 0) == less
    assert kick_on_three_nats(kick[:0], loud, meter, 4, shifts)[0] == 0
    assert not len(loud) or kick_on_three_nats(kick[::4], loud, meter, 4, shifts)[0] == 0  # in one bar of four


def test_two_unlike_bars_of_seven_eighths_are_no_bar_of_seven_quarters() -> None:
    text = """tempo 72\nmeter 7/8\ngrid 16
hat_closed x-x-x-X-x-x--- | x-x-x-x-x-x--- | x-x-x-x-x-x-X- | x-x-xox-x-X---
hat_open ------------X- | ------------x- | -------------- | ------------X-
snare -xo-o-Xoo---xx | ---o-oX----x-- | -ox-o-Xoo---xo | ---o-xX----x--
kick X---------x--- | X---------X--- | X---------x--- | X---------X---
"""
    heard = spoiled(perform(parse_grid(text)), np.random.default_rng(1), dropped=0, added=0)[0]
    assert explain(heard).groove.pattern.meter.full_name.startswith("7/8")


def test_what_begins_in_the_middle_of_a_bar_has_its_kick_on_one() -> None:
    text = """tempo 102\nmeter 4/4\ngrid 16
hat_closed --------X---X-x- | x-x-X-x-X-x-X-x- | x-x-X-x-X---X-x- | x-x-X-x-X-X-----
hat_half ----------x----- | ---------------- | ----------x----- | ----------------
snare ------------X--- | ----X-------X--- | ----X-------X--- | ----X-----X-----
kick ---------------- | X--------------- | X--------------- | X---------------
tom_high ---------------- | ---------------- | ---------------- | -----------X----
tom_mid ---------------- | ---------------- | ---------------- | -------------x--
tom_low ---------------- | ---------------- | ---------------- | --------------X-
"""
    heard = spoiled(perform(parse_grid(text)), np.random.default_rng(1), dropped=0, added=0)[0]  # 0.4 s later
    bars = (explain(heard).start_s - 0.4) / (4 * 60 / 102)
    assert bars == pytest.approx(round(bars), abs=0.03)


@pytest.mark.parametrize(
    ("kick", "high", "low"),
    [
        ("--------X-------|X-------X-------|X-------X-------|X---------------", "------------X---", "--------------X-"),
        ("--------X-----X-|X-----X-X-----X-|X-----X-X-----X-|X-----X---------", "------------XX--", "--------------XX"),
        ("--------X-----x-|--x---x-X-----x-|X-x---x-X-------|X-----x---------", "------------X---", "--------------X-"),
    ],
)
def test_a_fill_leads_into_the_next_bar(kick: str, high: str, low: str) -> None:
    """Where a recording begins in the middle of a bar, and either half of the bars may be the first."""
    rest = "-" * 16 + "|"
    grid = [
        "tempo 104", "meter 4/4", f"kick {kick}", f"tom_high {3 * rest}{high}", f"tom_low {3 * rest}{low}",
        "hat_closed --------x-x-x-x-|x-x-x-x-x-x-x-x-|x-x-x-x-x-x-x-x-|x-x-x-x---------",
        "snare ------------X---|----X-------X---|----X-------X---|----X-----------",
    ]  # fmt: skip
    found = explain(perform(parse_grid("\n".join(grid)))).groove.pattern
    assert found.meter == Meter(4, 4)
    assert min(h.position_ticks for h in found.hits) == 2 * TICKS_PER_QUARTER


def test_a_groove_on_the_toms_begins_where_it_begins() -> None:
    grid = ["tempo 112", "meter 4/4", "kick X-------X-X-----", "snare ----X-------X---", "tom_low x-xxx-x-x-x-x-x-"]
    bars = [f"{line}|{line.split()[1]}|{line.split()[1]}" if "-" in line else line for line in grid]
    found = explain(perform(parse_grid("\n".join(bars)))).groove.pattern
    assert found.meter == Meter(4, 4) and min(h.position_ticks for h in found.hits) == 0


def test_a_bar_of_many_steps_may_begin_a_step_before_its_first_hit() -> None:
    text = """tempo 139\nmeter 5/4\ngrid 16
hat_closed -xxxxxxxxxxxxx-xxxxx | xxxxxxxxxxxxxx-xxxxx | xxxxxxxxxxxxxx-xxxxx | xxxxxxxxxxxxxx-xxxxx
kick --X-----X----------- | X-------------X----- | X-X-----X----------- | X-------------X-----
snare ----X-o-----X------- | ----X-------X------- | ----X-o-----X------- | ----X-------X-------
"""
    found = explain(perform(parse_grid(text)))
    assert found.groove.pattern.meter == Meter(5, 4) and abs(found.start_s) < 0.03


@pytest.mark.parametrize(
    ("places", "meter", "per_quarter", "less"),
    [((0, 2, 3, 5), Meter(12, 8), 4, True),  # halves of each beat, shuffled
     ((0, 3), Meter(6, 8), 4, True), ((0, 2, 4), Meter(12, 8), 4, False), ((0, 2, 3, 4), Meter(12, 8), 4, False),
     ((0, 2, 3, 5), Meter(4, 4), 4, False), ((0, 2, 3, 5), Meter(12, 8), 2, False), ((0,), Meter(12, 8), 4, False)],
)  # fmt: skip
def test_dotted_quarters_in_halves_are_quarters_that_shuffle(
    places: tuple[int, ...], meter: Meter, per_quarter: int, less: bool
) -> None:
    time = np.array([6 * beat + place for beat in range(16) for place in places]) - 3
    assert (halved_nats(time, meter, per_quarter, 3) < 0) == less
    assert halved_nats(time[:0], meter, per_quarter, 3) == 0


@pytest.mark.parametrize(
    ("backbeats", "kicks", "bpm", "meter", "less"),
    [((2,), (0,), 85, Meter(4, 4), True),  # backbeats between the beats, kicks on them
     ((0,), (2,), 85, Meter(4, 4), True),  # the same with the bar line half a beat away
     ((2,), (0,), 120, Meter(4, 4), False),  # as a polka is counted
     ((2,), (2,), 85, Meter(4, 4), False), ((0, 2), (0,), 85, Meter(4, 4), False),
     ((1,), (0,), 85, Meter(4, 4), False), ((2,), (0,), 85, Meter(6, 8), False), ((2,), (), 85, Meter(4, 4), False)],
)  # fmt: skip
def test_a_backbeat_in_each_slow_beat_is_on_two_and_four_of_fast_ones(
    backbeats: tuple[int, ...], kicks: tuple[int, ...], bpm: float, meter: Meter, less: bool
) -> None:
    loud, low = (np.array([4 * beat + p for beat in range(16) for p in at], np.int64) - 3 for at in (backbeats, kicks))
    assert (offbeat_nats(loud, low, meter, 4, 3, bpm) < 0) == less
    assert offbeat_nats(loud[:0], low, meter, 4, 3, bpm) == offbeat_nats(loud[::2], low, meter, 4, 3, bpm) == 0


def test_a_fast_beat_with_its_backbeats_on_two_and_four_is_not_half_as_fast() -> None:
    bar = "hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-\nsnare ----X-------X--- | ----X-------X---\n"
    text = f"tempo 172\nmeter 4/4\ngrid 16\n{bar}kick X---------X----- | X-----X---X-----\n"
    assert explain(perform(parse_grid(text))).groove.tempo.main_bpm == pytest.approx(172, rel=0.01)


@pytest.mark.parametrize(("bpm", "told"), [(178, 178), (186, 186), (92, 92), (214, 107)])
def test_fast_bars_of_three_in_pairs_are_no_bars_half_as_fast(bpm: float, told: float) -> None:
    """Up to where nobody taps so fast; slow ones stay."""
    one, other = ("x-x-x-x-x-x-", "X-----x-----", "--------X---"), ("x-x-x-x-x-x-", "X-----------", "----X---X---")
    lines = zip(("hat_closed", "kick", "snare"), one, other, strict=True)
    grid = [f"{voice} {a}|{b}|{a}|{b}" for voice, a, b in lines]
    found = explain(perform(parse_grid("\n".join([f"tempo {bpm}", "meter 3/4", *grid])))).groove
    assert found.tempo.main_bpm == pytest.approx(told, rel=0.01) and found.pattern.meter == Meter(3, 4)


@pytest.mark.parametrize(
    ("bpm", "bars"),
    [
        (108, ("x-x-x-x-x-x-", "X---X-----X-", "--------X---", "x-x-x-x-x-x-", "X-----------", "------------")),
        (132, ("x-x-x-x-x-x-", "X---X-----X-", "--------X---", "x-x-x-x-x-x-", "X-----------", "------------")),
        (78, ("xxxxxxxxxxxx", "XX---------X", "----X---X---", "xxxxxxxxxxxx", "XXX-X-------", "------------")),
        (78, ("xxxxxxxxxxxx", "Xxx------X--", "--o--o--X---", "xxxxxxxxxxxx", "X-----------", "--------Xooo")),
        (68, ("x-x-x-x---x-", "X-x-------x-", "--------X---", "x-x-x-x---x-", "x----x----xx", "--------X---")),
    ],
)
def test_bars_of_three_may_have_their_backbeat_on_three_alone(bpm: float, bars: tuple[str, ...]) -> None:
    lines = zip(("hat_closed", "kick", "snare"), bars[:3], bars[3:], strict=True)
    grid = [f"{voice} {one}|{other}|{one}|{other}" for voice, one, other in lines]
    found = explain(perform(parse_grid("\n".join([f"tempo {bpm}", "meter 3/4", *grid])))).groove
    assert found.tempo.main_bpm == pytest.approx(bpm, rel=0.01) and found.pattern.meter == Meter(3, 4)


def test_backbeats_off_the_dotted_quarters_speak_against_them() -> None:
    """In bars of twelve sixteenths, the first of which is step 5."""
    bars = 12 * np.arange(4) - 5
    on, off = np.concatenate([bars + 6, bars + 8]), np.concatenate([bars + 4, bars + 8])
    for loud, meter, per_quarter, less in [
        (off, Meter(6, 8), 4, True), (off, Meter(12, 8), 4, True), (on, Meter(6, 8), 4, False),
        (off, Meter(3, 4), 4, False), (off, Meter(7, 8), 4, False), (off[:3], Meter(6, 8), 4, False),
        (np.append(off, bars + 6), Meter(6, 8), 4, False), (off[:0], Meter(6, 8), 4, False),
    ]:  # fmt: skip
        assert (off_dotted_nats(loud, meter, per_quarter, 5) < 0) == less


def test_pairs_of_dotted_quarters_stay_so_with_a_hat_at_each_eighth() -> None:
    grid = ["hat_closed x-x-x-x-x-x-", "snare ------X-----", "kick X---------x-"]
    bars = [f"{line}|{line.split()[1]}|{line.split()[1]}|{line.split()[1]}" for line in grid]
    found = explain(perform(parse_grid("\n".join(["tempo 150", "meter 6/8", *bars])))).groove
    assert found.tempo.main_bpm == pytest.approx(150, rel=0.01) and found.pattern.meter == Meter(6, 8)


@pytest.mark.parametrize(
    ("bpm", "meter", "told", "bars"),
    [
        (70, "7/8", 70, ("x-x-x-x-x-x-x-", "----X---------", "X-------x---x-")),
        (74, "7/8", 74, ("x-x-x-x-x-x-x-", "----X--o------", "X--x----x-----")),
        (64, "7/8", 128, ("x-x-x-x-x-x-x-", "----X---------", "X-------x---x-")),
        (56, "5/8", 112, ("x-x-x-x-x-", "------X---", "X---x-----")),
    ],
)
def test_only_very_slow_odd_eighths_are_counted_in_quarters(
    bpm: float, meter: str, told: float, bars: tuple[str, ...]
) -> None:
    lines = [f"{v} {b}|{b}|{b}|{b}" for v, b in zip(("hat_closed", "snare", "kick"), bars, strict=True)]
    found = explain(perform(parse_grid("\n".join([f"tempo {bpm}", f"meter {meter}", *lines])))).groove
    assert found.tempo.main_bpm == pytest.approx(told, rel=0.01)
    assert found.pattern.meter.numerator == int(meter[0])


def test_a_hand_that_plays_two_of_three_steps_is_no_hand_of_even_beats() -> None:
    hat, kick = CLASSES.index("hat"), CLASSES.index("kick")
    shuffle = np.array([n for n in range(-6, 24) if n % 3 != 1])
    eighths, few, seldom = np.arange(0, 24, 2), shuffle[:6], np.append(np.arange(0, 90, 3), np.arange(2, 26, 3))
    for numbers, by, threes in [
        (shuffle, hat, True), (shuffle, kick, False), (eighths, hat, False), (few, hat, False), (seldom, hat, False)
    ]:  # fmt: skip
        assert in_threes(numbers, np.full(len(numbers), by)) == threes
    for meter, per_quarter, less in [
        (Meter(4, 4), 4, True), (Meter(3, 4), 2, True), (Meter(4, 4), 3, False), (Meter(4, 4), 6, False),
        (Meter(12, 8), 2, False), (Meter(6, 8), 4, False), (Meter(7, 8), 2, True), (Meter(12, 8), 8, False),
    ]:  # fmt: skip
        assert (in_threes_nats(meter, per_quarter) < 0) == less


@pytest.mark.parametrize(("seed", "number"), [(130, 133), (131, 133)])
def test_a_half_time_shuffle_with_strokes_missed_is_no_waltz(seed: int, number: int) -> None:
    rng = np.random.default_rng([seed, number])
    groove = played(next(i for i in chosen("all") if i.name == "half-time shuffle"), rng)
    heard, _ = spoiled(perform(groove), rng, dropped=0.06, added=0.05)
    assert explain(heard).groove.pattern.meter == Meter(4, 4)


def test_the_hand_that_keeps_time_says_whether_thirds_are_counted() -> None:
    hat, ghost = CLASSES.index("hat"), CLASSES.index("ghost")
    shuffle, ghosts = np.array([n for n in range(24) if n % 3 != 1]), np.arange(1, 24, 3)
    numbers = np.concatenate([shuffle, ghosts])
    classes = np.array([hat] * len(shuffle) + [ghost] * len(ghosts))
    assert not thirds_counted(numbers, classes)
    assert thirds_counted(numbers, np.full(len(numbers), hat))
    assert thirds_counted(numbers, np.full(len(numbers), ghost))  # nobody keeps time: all of it counts


def test_bars_of_two_are_offered_beside_four_however_few_are_told(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(reading, "_OFFERED", 2)
    bpm, found = idiom("samba")
    assert [r.meter for r in found.readings] == [Meter(4, 4), Meter(2, 4)]
    assert all(r.tempo_bpm == pytest.approx(bpm, rel=0.01) for r in found.readings)


def test_a_tempo_that_is_given_keeps_its_bar_line_though_the_backbeat_is_on_three() -> None:
    text = "tempo 96\nmeter 4/4\ngrid 8\nhat_closed xxxxxxxx | xxxxxxxx\nsnare --X---X- | --X---X-\n"
    found = explain(perform(parse_grid(text + "kick X---X--- | X---XX--")), Hints(tempo_bpm=192))
    assert found.groove.tempo.main_bpm == pytest.approx(192, rel=0.01)
    kicks = [h.position_ticks for h in found.groove.pattern.hits if h.voice == "kick"]
    assert kicks[0] % found.groove.pattern.meter.bar_ticks == 0


def test_a_fast_swung_ride_is_not_half_as_fast_with_swung_sixteenths() -> None:
    bpm, found = idiom("swing ride", seed=0)
    assert found.groove.tempo.main_bpm == pytest.approx(bpm, rel=0.01) and bpm > 180


@pytest.mark.parametrize(
    ("places", "per_quarter", "swung", "less"),
    [((0, 2, 3), 4, True, True), ((0, 2, 3), 4, False, False), ((0, 1, 2, 3), 4, True, False), ((0, 2), 4, True, False),
     ((0, 3, 5), 6, False, True), ((0, 2, 3, 5), 6, False, False), ((0, 2, 3), 8, True, False)],
)  # fmt: skip
def test_a_hand_that_swings_one_of_two_sixteenths_plays_eighths(
    places: tuple[int, ...], per_quarter: int, swung: bool, less: bool
) -> None:
    time = np.array([beat * per_quarter + p for beat in range(8) for p in places]) - 2  # from a first hit on step 2
    assert (swung_ride_nats(time, per_quarter, swung, 2, 100) < 0) == less
    assert swung_ride_nats(time, per_quarter, swung, 2, 60) == swung_ride_nats(time[:0], 4, True, 2, 100) == 0
