import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import meters

from ghoststep.music.errors import InputError
from ghoststep.music.frame import Bars, Spot
from ghoststep.music.meter import Meter
from ghoststep.music.spots import all_names, count_name, parse_spot
from ghoststep.music.time import TICKS_PER_QUARTER, step_ticks

Q = TICKS_PER_QUARTER


@pytest.mark.parametrize(
    ("text", "groups"),
    [
        ("4/4", (1, 1, 1, 1)),
        ("7/8 2+2+3", (2, 2, 3)),
        ("7/8 3 + 2 + 2", (3, 2, 2)),
        ("11/4 (4+4+3)", (4, 4, 3)),
        ("12/8", (3, 3, 3, 3)),
        ("7/8", (2, 2, 3)),
        ("5/8", (2, 3)),
        ("2/4", (1, 1)),
        ("8/8", (2, 2, 2, 2)),
    ],
)
def test_meters_are_read_with_their_grouping(text: str, groups: tuple[int, ...]) -> None:
    meter = Meter.parse(text)
    assert meter.groups == groups
    assert sum(groups) == meter.numerator


@pytest.mark.parametrize("text", ["", "4", "4/5", "0/4", "7/8 2+2", "7/8 2+2+4", "99/4", "4/4 x"])
def test_bad_meters_are_refused(text: str) -> None:
    with pytest.raises(InputError, match=r"meter|grouping"):
        Meter.parse(text)


@given(meters)
def test_a_meter_prints_what_it_reads(meter: Meter) -> None:
    assert Meter.parse(meter.full_name) == meter


@pytest.mark.parametrize(
    ("text", "tick"),
    [
        ("2a", 1.75),
        ("the a of 2", 1.75),
        ("a of 2", 1.75),
        ("2.75", 1.75),
        ("step 8", 1.75),
        ("3&", 2.5),
        ("the & of 3", 2.5),
        ("3 and", 2.5),
        ("4", 3),
        ("1trip", 1 / 3),
        ("1let", 2 / 3),
        ("2E", 1.25),
        ("  2A ", 1.75),
    ],
)
def test_the_many_names_of_a_spot_are_read(text: str, tick: float) -> None:
    assert parse_spot(text, Bars(), 16) == Spot(1, round(tick * Q))


def test_a_bar_can_be_named() -> None:
    assert parse_spot("bar 3 step 11", Bars(), 16) == Spot(3, 10 * Q // 4)
    assert parse_spot("bar 2", Bars()) == Spot(2, 0)
    assert parse_spot("2a", Bars(), bar=4).bar == 4


@pytest.mark.parametrize("text", ["", "5", "0", "9.5", "step 17", "step 0", "x", "2b", "bar 0 1"])
def test_what_is_no_spot_is_refused(text: str) -> None:
    with pytest.raises(InputError, match=r"spot|outside a bar"):
        parse_spot(text, Bars(), 16)


@given(meters, st.sampled_from([8, 16, 32, 12, 24]), st.integers(0, 200))
def test_every_printed_name_is_read_back(meter: Meter, grid: int, number: int) -> None:
    position = number * step_ticks(grid)
    bars = Bars(meter)
    spot = bars.spot_at(position)
    assert bars.ticks_of(spot) == position
    for name in all_names(position, bars, grid)[:-1]:
        found = parse_spot(name, bars, grid if not name.endswith("a") else 16, bar=spot.bar)
        assert abs(found.tick - spot.tick) <= meter.unit_ticks * 5e-5, name


def test_sevens_count_to_seven() -> None:
    meter = Meter(7, 8)
    assert [count_name(i * Q // 4, meter) for i in range(4)] == ["1", "1&", "2", "2&"]
    assert count_name(6 * Q // 2, meter) == "7"


@pytest.mark.parametrize("parts", [2, 3, 4, 5, 6, 7, 8, 12, 16, 24])
def test_counted_names_of_parts_of_a_beat_read_back_as_exactly_that(parts: int) -> None:
    meter = Meter(4, 4)
    bars = Bars(meter)
    for i in range(4 * parts):
        tick = i * Q // parts
        name = count_name(tick, meter)
        assert parse_spot(name, bars).tick == tick, name
    assert count_name(Q // 6, meter) == "1+1/6"
