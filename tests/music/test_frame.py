"""Bars whose meter changes, and tempi that move: one answer for single positions and for arrays."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import frames, tempos

from ghoststep.music.errors import InputError
from ghoststep.music.feel import Swing
from ghoststep.music.frame import Bars, Spot
from ghoststep.music.meter import Meter
from ghoststep.music.time import TICKS_PER_QUARTER, TempoMap

Q = TICKS_PER_QUARTER
MIXED = Bars(Meter(4, 4), ((2, Meter(7, 8, (2, 2, 3))), (4, Meter(3, 4))))


def test_bars_begin_where_those_before_end() -> None:
    assert [MIXED.start_of(b) for b in range(1, 7)] == [0, 4 * Q, 7.5 * Q, 11 * Q, 14 * Q, 17 * Q]
    assert MIXED.spot_at(4 * Q) == Spot(2, 0) and MIXED.spot_at(4 * Q - 1) == Spot(1, 4 * Q - 1)
    assert MIXED.start_of(0) == -4 * Q and MIXED.spot_at(-1) == Spot(0, 4 * Q - 1)
    assert [str(MIXED.meter_of(b)) for b in (1, 2, 3, 4, 99)] == ["4/4", "7/8", "7/8", "3/4", "3/4"]
    assert MIXED.beat_at(4 * Q + Q // 2) == 2 and MIXED.beat_at(Q // 2) == 1
    assert MIXED.group_at(5 * Q) == (5 * Q, 6 * Q) and MIXED.group_at(6 * Q) == (6 * Q, 7.5 * Q)


@given(frames(8), st.lists(st.integers(-200_000, 900_000), min_size=1, max_size=30))
def test_arrays_say_what_single_positions_say(frame: Bars, ticks: list[int]) -> None:
    assert frame.bars_of(ticks).tolist() == [frame.spot_at(t).bar for t in ticks]
    assert [frame.ticks_of(frame.spot_at(t)) for t in ticks] == ticks
    bars = [frame.spot_at(t).bar for t in ticks]
    assert frame.start_of(bars).tolist() == [frame.start_of(b) for b in bars]
    starts, ends = frame.groups_of(ticks)
    assert list(zip(starts.tolist(), ends.tolist(), strict=True)) == [frame.group_at(t) for t in ticks]
    places = frame.places_of(ticks)
    assert np.floor(places + 1e-9).astype(int).tolist() == [b - 1 for b in bars]


@given(frames(8), st.integers(1, 8), st.integers(0, 3))
def test_bars_put_in_and_taken_out_leave_the_rest_as_it_was(frame: Bars, bar: int, more: int) -> None:
    meters = [Meter(5, 16), Meter(3, 4), Meter(7, 8, (3, 2, 2))][:more]
    longer = frame.inserted(bar, meters)
    assert [longer.meter_of(bar + i) for i in range(more)] == meters
    assert [longer.meter_of(b + more) for b in range(bar, 12)] == [frame.meter_of(b) for b in range(bar, 12)]
    if more:
        assert longer.deleted(bar, bar + more - 1) == frame


@given(frames(8), st.integers(1, 8), st.integers(0, 3))
def test_a_meter_for_some_bars_is_theirs_alone(frame: Bars, first: int, more: int) -> None:
    changed = frame.with_meter(Meter(5, 8), first, first + more)
    for bar in range(1, 14):
        inside = first <= bar <= first + more
        assert changed.meter_of(bar) == (Meter(5, 8) if inside else frame.meter_of(bar))


def test_changes_have_to_stand_in_order() -> None:
    for changes in (((1, Meter(3, 4)),), ((3, Meter(3, 4)), (3, Meter(2, 4))), ((4, Meter(3, 4)), (2, Meter(2, 4)))):
        with pytest.raises(InputError, match="stand in order"):
            Bars(Meter(), changes)


# -- tempo ------------------------------------------------------------------------------------------------------


def test_a_ramp_is_straight_over_the_quarters() -> None:
    ramp = TempoMap((0, 8 * Q), (96, 120), (120, 120))
    # The closed form: 60 L / (b - a) ln(b / a) seconds for L quarters from a to b BPM.
    assert float(ramp.seconds(8 * Q)) == pytest.approx(60 * 8 / 24 * np.log(120 / 96))
    assert ramp.bpm_at(4 * Q) == pytest.approx(108) and ramp.bpm_at(9 * Q) == 120 and ramp.bpm_at(-Q) == 96
    steps = np.linspace(0, 8 * Q, 80_001)
    middles = (steps[1:] + steps[:-1]) / 2
    by_hand = np.sum(np.diff(steps) / Q * 60 / np.array([ramp.bpm_at(t) for t in middles]))
    assert float(ramp.seconds(8 * Q)) == pytest.approx(by_hand, rel=1e-8)


@given(tempos, st.lists(st.floats(-1e5, 2e6), min_size=2, max_size=20))
def test_time_goes_forward_and_back(tempo: TempoMap, ticks: list[float]) -> None:
    ordered = np.sort(ticks)
    seconds = tempo.seconds(ordered)
    assert (np.diff(seconds) >= 0).all()
    assert tempo.to_ticks(seconds) == pytest.approx(ordered, abs=1e-3)


@given(tempos, st.integers(0, 400_000), st.integers(0, 200_000))
def test_time_cut_out_leaves_the_rest_as_fast_as_it_was(tempo: TempoMap, at: int, gone: int) -> None:
    rest = tempo.spliced(at, gone, 0)
    for ticks in (0, at // 2, max(at - 1, 0)):
        assert float(rest.seconds(ticks)) == pytest.approx(float(tempo.seconds(ticks)), abs=1e-9)
    for ticks in (at, at + 5000, at + 300_000):
        behind = float(rest.seconds(ticks) - rest.seconds(at))
        assert behind == pytest.approx(float(tempo.seconds(ticks + gone) - tempo.seconds(at + gone)), abs=1e-9)


def test_what_changes_nothing_is_left_out() -> None:
    assert TempoMap((0, Q, 2 * Q), (96, 96, 96)) == TempoMap.constant(96)
    with pytest.raises(InputError, match="the last part of a tempo map holds"):
        TempoMap((0, Q), (96, 96), (96, 120))


# -- swing ------------------------------------------------------------------------------------------------------


def test_swing_moves_its_lattice_and_leaves_the_rest() -> None:
    swing, four = Swing(16, 0.6), Bars()
    thirds = np.array([0, Q // 3, 2 * Q // 3, Q])
    assert swing.bend(thirds, four).tolist() == thirds.tolist()
    fifths = np.arange(6) * Q // 5
    assert swing.bend(fifths, four).tolist() == fifths.tolist()
    assert swing.bend(np.array([Q // 4, Q // 2, 3 * Q // 4]), four) == pytest.approx([0.3 * Q, 0.5 * Q, 0.8 * Q])


def test_pairs_are_counted_from_each_group() -> None:
    seven = Bars(Meter(7, 8, (2, 2, 3)))
    eighths = np.arange(14) * Q // 2  # two bars
    bent = Swing(8, 2 / 3).bend(eighths, seven)
    downbeats = [0, 2, 4, 7, 9, 11]
    assert bent[downbeats].tolist() == eighths[downbeats].tolist()
    late = (bent - eighths)[[1, 3, 5, 8, 10, 12]]
    assert late == pytest.approx(np.full(6, Q / 6))
    # What is left over at the end of a group of three stands alone.
    assert bent[6] == eighths[6] and bent[13] == eighths[13]
