import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import tempos

from ghoststep.music.errors import InputError
from ghoststep.music.time import TICKS_PER_QUARTER, TempoMap, checked_tempo_bpm, step_ticks


@pytest.mark.parametrize("grid", [4, 8, 12, 16, 20, 24, 28, 32, 36, 48, 64])
def test_usual_grids_fall_on_whole_ticks(grid: int) -> None:
    assert step_ticks(grid) * grid == 4 * TICKS_PER_QUARTER


@pytest.mark.parametrize("grid", [0, -4, 11, 13])
def test_other_grids_are_refused(grid: int) -> None:
    with pytest.raises(InputError, match="does not fit"):
        step_ticks(grid)


@given(tempos, st.floats(-1e5, 1e6))
def test_seconds_and_back(tempo: TempoMap, ticks: float) -> None:
    assert float(tempo.to_ticks(tempo.seconds(ticks))) == pytest.approx(ticks, abs=1e-5)


def test_a_change_of_tempo_counts_from_its_place() -> None:
    tempo = TempoMap((0, TICKS_PER_QUARTER), (60, 120))
    assert tempo.seconds([0, TICKS_PER_QUARTER, 2 * TICKS_PER_QUARTER]).tolist() == [0, 1, 1.5]
    assert tempo.tick_seconds(0) == 2 * tempo.tick_seconds(TICKS_PER_QUARTER)


@pytest.mark.parametrize("bpm", [0, -3, 9.9, 961, float("nan"), float("inf")])
def test_impossible_tempi_are_refused(bpm: float) -> None:
    with pytest.raises(InputError, match="BPM is outside"):
        checked_tempo_bpm(bpm)


def test_a_tempo_map_has_to_be_in_order() -> None:
    with pytest.raises(InputError, match="ascending"):
        TempoMap((0, 5, 5), (60, 60, 60))
    with pytest.raises(InputError, match="position 0"):
        TempoMap((3,), (60,))
