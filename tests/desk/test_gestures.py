"""What the pointer does on the grid, without a window."""

import pytest

from ghoststep.desk.grid.geometry import Geometry, shown_lanes
from ghoststep.desk.grid.gestures import BandDrag, HitDrag, LineDrag, RangeDrag, SwingDrag
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.pattern import Hit
from ghoststep.music.time import TICKS_PER_QUARTER


@pytest.fixture
def g(grid_text: str) -> Geometry:
    groove = parse_grid(grid_text)
    return Geometry(groove, shown_lanes(groove.pattern, everything=False), 120.0, 0, 1200, 600, 4, None, ())


def spot(g: Geometry, hit: Hit) -> tuple[float, float]:
    row = g.row_of(hit.voice)
    assert row is not None
    return g.stem_x(hit), g.head_y(row, hit.velocity)


def test_a_range_is_whole_beats_and_a_click_takes_it_away(g: Geometry) -> None:
    wanted: list[object] = []
    drag = RangeDrag(g, g.x_of(TICKS_PER_QUARTER) + 30, 5, wanted.append)
    drag.moved(g, g.x_of(3 * TICKS_PER_QUARTER) - 10, 5)
    assert drag.range_ticks == (TICKS_PER_QUARTER, 3 * TICKS_PER_QUARTER)
    drag.ended(g, g.x_of(3 * TICKS_PER_QUARTER) - 10, 5, dragged=True)
    RangeDrag(g, 300, 5, wanted.append).ended(g, 300, 5, dragged=False)
    assert wanted == [(TICKS_PER_QUARTER, 3 * TICKS_PER_QUARTER), None]


def test_a_range_that_ends_on_a_beat_ends_there(g: Geometry) -> None:
    wanted: list[object] = []
    end = g.x_of(3 * TICKS_PER_QUARTER)
    drag = RangeDrag(g, g.x_of(TICKS_PER_QUARTER), 5, wanted.append)
    drag.moved(g, end + 1e-6, 5)
    drag.ended(g, end + 1e-6, 5, dragged=True)
    assert wanted == [(TICKS_PER_QUARTER, 3 * TICKS_PER_QUARTER)]


def test_a_range_past_the_end_is_none(g: Geometry) -> None:
    wanted: list[object] = []
    beyond = g.x_of(g.groove.pattern.length_ticks) + 40
    drag = RangeDrag(g, beyond, 5, wanted.append)
    drag.moved(g, beyond + 200, 5)
    drag.ended(g, beyond + 200, 5, dragged=True)
    assert wanted == [None]


def test_a_hit_moves_only_the_way_it_is_dragged(g: Geometry) -> None:
    hit = g.groove.pattern.hits[0]
    told: list[tuple[int, float]] = []
    x, y = spot(g, hit)
    drag = HitDrag(x, y, hit, lambda *v: told.append(v), lambda *v: told.append(v))
    drag.moved(g, x + 3, y - 20)
    drag.moved(g, x + 20, y - 3)
    drag.ended(g, x, y - 100_000, dragged=True)
    up, aside, most = told
    assert up[0] > 0 and up[1] == 0.0
    assert aside[0] == 0 and aside[1] == pytest.approx(20 / g.ms_px(hit.position_ticks), abs=0.06)
    assert hit.velocity + most[0] == 127
    drag.ended(g, x, y, dragged=False)  # a click alone changes nothing
    assert len(told) == 3


def test_a_box_chooses_the_heads_inside_it(g: Geometry) -> None:
    chosen: list[set[int]] = []
    hits = g.groove.pattern.hits
    x, y = spot(g, hits[0])
    drag = BandDrag(x + 6, y + 6, chosen.append)
    drag.moved(g, x - 6, y - 6)
    assert 0 in chosen[-1] and drag.band_px == (x - 6, y - 6, x + 6, y + 6)
    drag.moved(g, x + 7, y + 7)
    assert chosen[-1] == set()


def test_a_line_is_told_in_ticks_and_velocities(g: Geometry) -> None:
    drawn: list[tuple[int, object]] = []
    line = LineDrag(g.x_of(0), g.head_y(0, 40), 0, lambda row, points: drawn.append((row, points)))
    line.ended(g, 0, 0, dragged=False)
    assert drawn == []  # pressed and let go
    end = (g.x_of(2 * TICKS_PER_QUARTER), g.head_y(0, 110))
    line.moved(g, *end)
    line.ended(g, *end, dragged=True)
    [(row, points)] = drawn
    assert row == 0 and [v for _, v in points] == [40, 110]  # type: ignore[attr-defined]
    assert [t for t, _ in points] == pytest.approx([0, 2 * TICKS_PER_QUARTER], abs=1)  # type: ignore[attr-defined]


def test_only_an_off_note_is_gripped_for_swing(g: Geometry) -> None:
    told: list[tuple[object, str]] = []
    pattern, unit = g.groove.pattern, g.groove.feel.swing.unit
    step = TICKS_PER_QUARTER * 4 // unit
    on = pattern.hits[0]
    off = on.moved(step)
    x, y = g.line_x(step, off.voice), 100.0
    tell = lambda swing, voice: told.append((swing, voice))  # noqa: E731
    assert SwingDrag.begun(g, x, y, on, tell, tell) is None
    drag = SwingDrag.begun(g, x, y, off, tell, tell)
    assert drag is not None
    drag.ended(g, x, y, dragged=False)
    assert not told
    now = g.groove.feel.swing.ratio
    assert drag.swing_at(g, x).ratio == pytest.approx(now, abs=0.01)
    assert drag.swing_at(g, x + 8).ratio > now
    assert drag.swing_at(g, x + 10_000).ratio <= 0.8
