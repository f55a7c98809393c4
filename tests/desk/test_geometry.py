import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import grooves

from ghoststep.desk.grid.geometry import GUTTER_W, Geometry, shown_lanes
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.kit import LANES


def geometry(groove, **fields: float) -> Geometry:
    base = {"quarter_px": 100.0, "scroll_px": 0.0, "width": 1000, "height": 600, "magnify": 4}
    return Geometry(groove, shown_lanes(groove.pattern, everything=False), **{**base, **fields})


@given(grooves, st.floats(10, 800), st.floats(0, 500))
def test_x_and_back(groove, quarter_px: float, scroll: float) -> None:
    g = geometry(groove, quarter_px=quarter_px, scroll_px=scroll)
    assert g.ticks_at(g.x_of(12345)) == pytest.approx(12345, abs=1e-3)


@given(grooves)
def test_every_hit_is_found_under_its_head(groove) -> None:
    g = geometry(groove, quarter_px=400.0, height=3000)
    for h in groove.pattern.hits:
        row = g.row_of(h.voice)
        found = g.hit_at(g.stem_x(h), g.head_y(row, h.velocity))
        assert found is not None and abs(g.stem_x(found) - g.stem_x(h)) <= 1e-9


@given(grooves)
def test_steps_are_found_where_their_lines_stand(groove) -> None:
    g = geometry(groove)
    for row in range(len(g.lanes)):
        step = g.step_of(row)
        for ticks in range(0, groove.pattern.length_ticks, step):
            assert g.spot_at(row, g.line_x(ticks)) == ticks


def test_heights_are_velocities_and_sides_are_deviations() -> None:
    groove = parse_grid("snare X---x---o-------").changed(feel=Feel(Swing(16, 0.6), {"snare": 10.0}))
    g = geometry(groove)
    row = g.row_of("snare")
    heads = [g.head_y(row, h.velocity) for h in groove.pattern.hits]
    assert heads == sorted(heads)
    h = groove.pattern.hits[0]
    assert g.stem_x(h) - g.line_x(0) == pytest.approx(4 * 10 / 500 * 100)
    assert g.line_x(5040) - g.x_of(5040) == pytest.approx(0.2 * 25)


def test_the_usual_lanes_are_always_there_and_others_when_used() -> None:
    lanes = [LANES[i].label for i in shown_lanes(parse_grid("tom_low x---x---x---x---").pattern, everything=False)]
    assert lanes == ["Hi-hat", "Snare", "Tom low", "Kick"]
    assert len(shown_lanes(parse_grid("kick X---x---x---x---").pattern, everything=True)) == len(LANES)
    g = geometry(parse_grid("kick X---x---x---x---"))
    assert g.row_at(0) is None and g.row_at(10_000) is None and g.hit_at(GUTTER_W, 5) is None
