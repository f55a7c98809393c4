"""What the mouse tells and marks: tooltips of spots and hits, choosing with keys held, what is drawn of it."""

from itertools import pairwise

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QToolTip
from tests.desk import pointer

from ghoststep.desk.grid.geometry import GUTTER_W
from ghoststep.desk.grid.grid_view import GridView
from ghoststep.desk.look.stems import Placed, draw_end, draw_stems
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.ornaments import ORNAMENTS
from ghoststep.music.pattern import Hit
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document

LEFT, SHIFT, CONTROL = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


def head_of(grid: GridView, index: int) -> QPoint:
    """Where the head of a hit stands in the viewport."""
    g, h = grid.geometry_now(), grid.groove.pattern.hits[index]
    row = g.row_of(h.voice)
    assert row is not None
    return QPoint(round(g.stem_x(h)), round(g.head_y(row, h.velocity)))


def index_of(grid: GridView, position_ticks: int, voice: str) -> int:
    return next(
        i for i, h in enumerate(grid.groove.pattern.hits) if (h.position_ticks, h.voice) == (position_ticks, voice)
    )


def hover(grid: GridView, at: QPoint) -> None:
    pointer.hover(grid.viewport(), at)


@pytest.fixture
def told(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The words of every tooltip that was shown."""
    words: list[str] = []
    monkeypatch.setattr(QToolTip, "showText", lambda _where, text, *_a: words.append(text))
    return words


def test_hovering_tells_every_name_of_the_spot_and_the_figures_of_a_hit(placed, told: list[str]) -> None:
    grid = placed.at("place").grid
    index = index_of(grid, TICKS_PER_QUARTER, "snare")
    placed.at("place").do("nudge 6 on snare at 2 bar 1")
    head = head_of(grid, index)
    hover(grid, head)
    assert told and "Snare, velocity" in told[-1] and "6.0 ms late" in told[-1]
    assert told[-1].startswith("2 = ") and "step 5" in told[-1]
    g = grid.geometry_now()
    beside = QPoint(round(g.x_of(1.5 * TICKS_PER_QUARTER)), round(g.lane_top(0) + 4))
    hover(grid, beside)
    assert told[-1].startswith("2& = ") and "velocity" not in told[-1]
    # The head of a lane is no spot.
    told.clear()
    hover(grid, QPoint(GUTTER_W // 2, beside.y()))
    assert not told


def test_hits_are_added_and_taken_out_of_the_choice_with_shift(placed) -> None:
    grid = placed.at("place").grid
    first, second = index_of(grid, 0, "kick"), index_of(grid, TICKS_PER_QUARTER, "snare")
    QTest.mouseClick(grid.viewport(), LEFT, pos=head_of(grid, first))
    assert grid.chosen == {first} and grid.cursor_ticks == 0
    QTest.mouseClick(grid.viewport(), LEFT, SHIFT, head_of(grid, second))
    assert grid.chosen == {first, second}
    QTest.mouseClick(grid.viewport(), LEFT, CONTROL, head_of(grid, first))
    assert grid.chosen == {second}
    # The other buttons of the mouse choose nothing.
    QTest.mouseClick(grid.viewport(), Qt.MouseButton.RightButton, pos=head_of(grid, first))
    assert grid.chosen == {second}


def test_the_choice_follows_its_hits_into_another_version(placed) -> None:
    grid = placed.at("place").grid
    placed.at("place").do("remove on kick")
    snares = {i for i, h in enumerate(grid.groove.pattern.hits) if h.voice == "snare"}
    grid.choose(snares)
    placed.run("edit.undo")
    kept = {grid.groove.pattern.hits[i].voice for i in grid.chosen}
    assert kept == {"snare"} and len(grid.chosen) == len(snares)


def drawn(paint) -> QImage:
    image = QImage(160, 160, QImage.Format.Format_ARGB32)
    image.fill(QColor("black"))
    painter = QPainter(image)
    paint(painter)
    painter.end()
    return image


def lit(image: QImage, of: QImage) -> int:
    """How many pixels differ between two pictures."""
    a, b = (bytes(i.constBits()) for i in (image, of))
    return sum(x != y for x, y in zip(a[1::4], b[1::4], strict=True))


@pytest.mark.parametrize("size", ["full", "small"])
def test_every_ornament_is_seen_and_no_two_look_alike(window, size: str) -> None:
    def picture(name: str) -> QImage:
        hit = Hit(0, "snare", 90, Role.NORMAL, ornament=name)
        stem = Placed(hit, 80.0, 80.0, 140.0, 60.0, False)
        return drawn(lambda painter: draw_stems(painter, [stem], size=size, ratio=1.0))

    plain = picture("")
    pictures = {o.name: picture(o.name) for o in ORNAMENTS if o.name}
    assert all(lit(image, plain) > 8 for image in pictures.values())
    assert len({bytes(image.constBits()) for image in pictures.values()}) == len(pictures)


def test_what_ends_a_sound_is_told_apart(window) -> None:
    hit = Hit(0, "hat_open", 90, Role.NORMAL)
    ends = [drawn(lambda painter, by=by: draw_end(painter, hit, 30, 100, 80, by)) for by in ("foot", "hand", "stroke")]
    assert all(lit(a, b) > 4 for a, b in pairwise([*ends, ends[0]]))


def test_a_rubber_band_is_seen_while_it_is_drawn(placed) -> None:
    grid = placed.at("place").grid
    g = grid.geometry_now()
    start = QPoint(GUTTER_W + 12, round(g.lane_top(0)) + 3)
    before = grid.viewport().grab().toImage()
    pointer.press(grid.viewport(), start)
    for step in (40, 120, 200):
        pointer.drag(grid.viewport(), start + QPoint(step, step))
    during = grid.viewport().grab().toImage()
    pointer.release(grid.viewport(), start + QPoint(200, 200))
    assert QPointF(start).x() > GUTTER_W and during != before
    inside = [h for h in (grid.groove.pattern.hits[i] for i in grid.chosen) if h.position_ticks < 2 * TICKS_PER_QUARTER]
    assert inside and grid.viewport().grab().toImage() != during


def test_a_long_title_and_an_odd_name_harm_nothing(window, grid_text: str) -> None:
    window.studio.set_document(Document("<b>" + "very " * 60 + "long & odd</b>", parse_grid(grid_text)), None)
    window.go("place")
    assert window.width() <= 1300 and "long & odd" in window.windowTitle()
