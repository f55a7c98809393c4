"""Place by the keyboard alone, the strips the grid is painted in, pages, versions and drawn lines."""

import random
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QInputDialog, QListWidget
from tests.desk import pointer
from tests.desk.test_window import press

from ghoststep.desk.dialogs.blind_dialog import BlindDialog
from ghoststep.desk.dialogs.compare_dialog import CompareDialog
from ghoststep.desk.grid.geometry import GUTTER_W
from ghoststep.desk.grid.grid_tiles import TILE_W
from ghoststep.files.project import load_project
from ghoststep.files.textgrid import parse_grid
from ghoststep.files.textgrid_out import grid_text as as_text
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Pattern
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document


def keys(window, text: str) -> None:
    """Press keys in turn, written with spaces between."""
    for key in text.split():
        press(window.at("place").grid, key)


def lanes(window) -> dict[str, str]:
    rows = [line.split(None, 1) for line in as_text(window.studio.groove).splitlines() if line[:1].isalpha()]
    return {name.split("/")[0]: steps for name, steps in rows if name not in ("name", "tempo", "meter", "grid", "hit")}


def test_a_whole_bar_is_made_by_keyboard_alone(window) -> None:
    window.studio.set_document(Document("new", Groove(Pattern())), None)
    window.go("place")
    # The hats: eighths with accents on the beat, the last one open.
    for step in range(8):
        keys(window, "A" if step % 2 == 0 else "N")
        if step == 7:
            keys(window, "V V")
        keys(window, "Right Right")
    assert lanes(window)["hat_closed"] == "X-x-X-x-X-x-X---" and lanes(window)["hat_open"] == "--------------x-"
    # The snare: backbeats, the second a flam, ghosts around them, one of them late.
    keys(window, "Down")
    window.at("place").grid.put_cursor(0, window.at("place").grid.cursor_row)
    keys(
        window, "Right Right Right Right A Right Right Right G Alt+Right Alt+Right Right Right G Right Right Right A 1"
    )
    assert lanes(window)["snare"] == "----X--o-o--X---"
    # The kick: the first one harder in steps, a double before 3.
    keys(window, "Down")
    window.at("place").grid.put_cursor(0, window.at("place").grid.cursor_row)
    keys(
        window,
        "Return Shift+Up Shift+Up Alt+Up Right Right Right Right Right Right Right Return Right Return Shift+Right",
    )
    assert lanes(window)["kick"] == "X------x-x------"
    pattern = window.studio.groove.pattern
    assert [h.ornament for h in pattern.hits if h.voice == "snare" and h.role is Role.ACCENT] == ["", "flam"]
    assert [h.offset_ms for h in pattern.hits if h.role is Role.GHOST] == [2.0, 0.0]
    # Choose the ghosts, make them softer, take it all back and do it again.
    keys(window, "Ctrl+G Shift+Down Ctrl+Z Ctrl+Shift+Z D")
    assert window.studio.groove.pattern.bars == 2 and lanes(window)["snare"].endswith("----X--o-o--X---")
    keys(window, "Ctrl+A Ctrl+C PgDown Ctrl+V")
    assert len(window.studio.history.words) > 25
    while window.studio.history.undo():
        pass
    assert not window.studio.groove.pattern.hits


def test_a_phrase_is_typed_explained_and_done(placed, until) -> None:
    press(placed, "Ctrl+K")
    bar = placed._say_bar
    assert bar.isVisible() and bar.edit.hasFocus()
    QTest.keyClicks(bar.edit, "velocity 55 on snare ghosts")
    QTest.keyClick(bar.edit, Qt.Key.Key_Return)
    until(lambda: not bar.isVisible())
    assert not bar.isVisible() and placed.at("place").grid.hasFocus() and "5 hits" in placed.message
    assert {h.velocity for h in placed.at("place").grid.chosen_hits()} == {55}
    placed.run("edit.find")
    assert bar.edit.text() == "replace "
    bar.edit.setText("replace gong with snare")
    QTest.keyClick(bar.edit, Qt.Key.Key_Return)
    until(lambda: "›gong‹" in bar._rows[0].text())
    assert bar.isVisible()
    QTest.keyClick(bar.edit, Qt.Key.Key_Up)
    assert bar.edit.text() == "velocity 55 on snare ghosts"
    QTest.keyClick(bar.edit, Qt.Key.Key_Escape)
    assert not bar.isVisible()


def test_keys_typed_into_fields_stay_there(placed) -> None:
    """Return in a number does not remove the hit, letters in the spot are no commands."""
    placed.at("place").grid.put_cursor(0, placed.at("place").grid.geometry_now().row_of("kick"))
    card = placed.at("place").hit_page
    before = len(placed.studio.groove.pattern.hits)
    card._velocity.setFocus()
    card._velocity.lineEdit().selectAll()
    QTest.keyClicks(card._velocity, "33")
    QTest.keyClick(card._velocity, Qt.Key.Key_Return)
    assert (
        len(placed.studio.groove.pattern.hits) == before and placed.studio.groove.pattern.at(0, "kick").velocity == 33
    )
    card._spot.setFocus()
    card._spot.selectAll()
    QTest.keyClicks(card._spot, "1a")
    QTest.keyClick(card._spot, Qt.Key.Key_Return)
    assert placed.studio.groove.pattern.at(15120, "kick").velocity == 33


def test_the_card_edits_everything(placed) -> None:
    placed.at("place").grid.put_cursor(20160, placed.at("place").grid.geometry_now().row_of("snare"))
    card = placed.at("place").hit_page
    card._level.setValue(-12.0)
    assert placed.at("place").grid.chosen_hits()[0].velocity == 64
    for box, value in ((card._stroke, "rim"), (card._ornament, "roll5"), (card._limb, "R")):
        box.activated.emit(box.findData(value))
    hit = placed.at("place").grid.chosen_hits()[0]
    assert (hit.stroke, hit.ornament, hit.limb) == ("rim", "roll5", "R") and "lands on 2&" in card._end.text()
    card._voice.activated.emit(card._voice.findData("crash"))
    assert placed.at("place").grid.chosen_hits()[0].ornament == "" and not card._ornament.isEnabled()
    card._length.activated.emit(card._length.findData("1/8"))
    assert "choked by hand" in card._end.text()
    card._roles.button(3).click()
    assert placed.at("place").grid.chosen_hits()[0].velocity == 124


def test_pages_set_what_they_say(placed) -> None:
    place = placed.at("place")
    for _ in place.pages:
        placed.run("view.next_page")
    assert place._stack.currentWidget().widget() is place.hit_page
    place.show_page(1)
    place.touch_page._levels[Role.GHOST].setValue(25)
    assert {h.velocity for h in placed.studio.groove.pattern.hits if h.role is Role.GHOST} == {25}
    place.touch_page._balance.button(2).click()
    assert placed.studio.groove.feel.balance_db and "hat" in place.touch_page._moved.text()
    placed.at("place").grid.put_cursor(0, placed.at("place").grid.geometry_now().row_of("hat_closed"))
    place.touch_page._shape.setCurrentIndex(1)
    place.touch_page._accents("accents")
    assert lanes(placed)["hat_closed"].startswith("x-X-x-X-")
    place.show_page(3)
    place.hands_page._linear.click()
    assert placed.studio.groove.pattern.rules.linear and place.hands_page._clashes.isVisible()
    place.hands_page._typed.setText("RLRRLRLL")
    place.do("remove on snare")
    place.do("select hat_closed")
    place.hands_page._type()
    assert place.hands_page._list.count() and place.hands_page._typed.text() == ""
    place.show_page(4)
    place.groove_page._meter.setText("2/4")
    place.groove_page._meter.editingFinished.emit()
    assert placed.studio.groove.pattern.bars == 4
    place.groove_page._cycle.setValue(3)
    assert placed.studio.groove.pattern.rules.cycles
    place.groove_page._lane_grid.activated.emit(place.groove_page._lane_grid.findData(12))
    assert dict(placed.studio.groove.pattern.lane_grids)


def test_an_edit_paints_few_strips(placed) -> None:
    full = "xxxxxxxxxxxxxxxx"
    text = "\n".join(f"{n} {'|'.join([full] * 16)}" for n in ("hat_closed", "snare", "kick", "ride"))
    placed.studio.set_document(Document("full", parse_grid(text)), None)
    grid = placed.at("place").grid
    grid.viewport().repaint()
    whole = -(-grid.viewport().width() // TILE_W)
    before = grid.tiles.painted
    grid.put_cursor(20160, 0)
    grid.viewport().repaint()
    placed.run("hit.louder")
    grid.viewport().repaint()
    assert 1 <= grid.tiles.painted - before <= 6 < whole
    picture = grid.grab().toImage()
    grid.tiles._tiles.clear()
    assert grid.grab().toImage() == picture


def test_the_cursor_stays_in_view_to_both_sides(placed) -> None:
    text = "\n".join(f"{n} {'|'.join(['x---x---x---x---'] * 300)}" for n in ("hat_closed", "snare"))
    placed.studio.set_document(Document("long", parse_grid(text)), None)
    grid, length = placed.at("place").grid, placed.studio.groove.pattern.length_ticks
    for ticks in (length // 2, length // 2 + 40320, length - 5040, length // 3, 0):
        grid.put_cursor(ticks, 0)
        g = grid.geometry_now()
        assert GUTTER_W < g.x_of(ticks) < g.width, ticks


def test_scrolling_is_made_up_for(placed, until) -> None:
    text = "\n".join(f"{n} {'|'.join(['xxxxxxxxxxxxxxxx'] * 300)}" for n in ("hat_closed", "snare", "kick"))
    placed.studio.set_document(Document("long", parse_grid(text)), None)
    bar = placed.at("place").grid.horizontalScrollBar()
    for value in (5000, 20000, 70000):
        bar.setValue(value)
        QApplication.processEvents()
    until(lambda: not placed.at("place").grid._scrolling)
    picture = placed.at("place").grid.grab().toImage()
    placed.at("place").grid.tiles._tiles.clear()
    assert placed.at("place").grid.grab().toImage() == picture
    placed.studio.playback.stop()


def test_a_line_of_velocities_is_drawn(placed) -> None:
    grid, g = placed.at("place").grid, placed.at("place").grid.geometry_now()
    row = g.row_of("hat_closed")
    start = QPoint(round(g.x_of(-4000)), round(g.head_y(row, 30)))
    end = QPoint(round(g.x_of(75000)), round(g.head_y(row, 120)))
    shift = Qt.KeyboardModifier.ShiftModifier
    pointer.press(grid.viewport(), start, shift)
    pointer.drag(grid.viewport(), (start + end) / 2)
    pointer.drag(grid.viewport(), end)
    pointer.release(grid.viewport(), end, shift)
    drawn = [h.velocity for h in placed.studio.groove.pattern.hits if h.voice == "hat_closed"][:8]
    assert drawn == sorted(drawn) and drawn[0] < 45 and drawn[-1] > 100 and "drawn from" in placed.message


def test_versions_are_kept_compared_and_chosen_blind(
    placed, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, saves
) -> None:
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("plain", True))
    with_trouble = []
    placed.studio.said.connect(lambda words, trouble: with_trouble.append(words) if trouble else None)
    placed.run("versions.compare")
    assert "keep a version first" in placed.message
    placed.run("versions.keep")
    placed.at("place").do("remove on kick bars 2")
    seen: list[QDialog] = []

    def decide(dialog: QDialog) -> int:
        seen.append(dialog)
        if isinstance(dialog, BlindDialog):
            dialog._decide()
            assert "Hear one first" in dialog._told.text()
            dialog._letters.button(1).click()
            dialog._decide()
        return 1

    monkeypatch.setattr(QDialog, "exec", decide)
    placed.run("versions.compare")
    placed.run("versions.blind")
    compared, blind = seen
    assert isinstance(compared, CompareDialog) and isinstance(blind, BlindDialog)
    told = [compared.told.item(i).text() for i in range(compared.told.count())]
    assert any("kick" in words and "added" in words for words in told)  # from now to what was kept
    assert compared._grids[0].chosen and not compared._grids[1].chosen
    verdict = placed.studio.document.verdicts[-1]
    assert set(verdict.among) == {"now", "plain"} and verdict.chosen == blind._versions[1][0]
    assert f"'{verdict.chosen}'" in blind._told.text()
    page = placed.at("place").versions_page
    placed.at("place").show_page(5)
    assert isinstance(page._kept, QListWidget) and page._kept.item(0).text() == "plain"
    page._on_kept("back-to")
    assert len([h for h in placed.studio.groove.pattern.hits if h.voice == "kick"]) == 7
    page._go(1)
    assert placed.message.startswith("At: ")
    path = tmp_path / "versions.ghoststep"
    saves(lambda then: placed.studio.file.save(path, then))
    again = load_project(path)
    assert [s.name for s in again.snapshots] == ["plain"] and again.verdicts == placed.studio.document.verdicts


def test_blind_versions_are_shuffled() -> None:
    versions = [(str(i), Groove()) for i in range(6)]
    orders = {
        tuple(n for n, _ in BlindDialog(versions, lambda _g: None, None, random.Random(i))._versions) for i in range(8)
    }
    assert len(orders) > 4


def test_a_soft_kick_goes_between_two_steps(placed) -> None:
    grid = placed.at("place").grid
    grid.put_cursor(0, grid.geometry_now().row_of("kick"))
    press(grid, "Right")
    press(grid, "Alt+Shift+Right")
    press(grid, "G")
    assert placed.studio.groove.pattern.at(5040 + 1260, "kick").role is Role.GHOST
    # With the mouse: zoomed in, quarters of a step are drawn and hit.
    grid.choice.quarter_px = 500.0
    grid.refresh()
    g = grid.geometry_now()
    row = g.row_of("kick")
    spot = QPoint(round(g.line_x(10080 + 2520)), round(g.foot_y(row) - 40))
    QTest.mouseDClick(grid.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot)
    assert placed.studio.groove.pattern.at(10080 + 2520, "kick") is not None
    placed.at("place").do("to 12000 ticks")
    assert placed.studio.groove.pattern.at(12000, "kick") is not None
    placed.at("place").do("to 625 ms")
    assert placed.studio.groove.pattern.at(20160, "kick") is not None


def test_a_range_drawn_past_the_end_is_none(placed) -> None:
    grid, g = placed.at("place").grid, placed.at("place").grid.geometry_now()
    y, end = 30, round(g.x_of(g.groove.pattern.length_ticks))
    for a, b in ((end + 4, end + 20), (end + 20, end + 4)):
        pointer.press(grid.viewport(), QPoint(a, y))
        pointer.drag(grid.viewport(), QPoint(b, y))
        pointer.release(grid.viewport(), QPoint(b, y))
        assert placed.studio.choice.range_ticks is None


def test_a_very_long_groove_is_played_in_stretches(placed, until) -> None:
    text = f"kick {'|'.join(['X---------------'] * 200)}"
    placed.studio.set_document(Document("long", parse_grid(text)), None)
    until(lambda: not placed.studio.tasks.running)
    bar = placed.studio.groove.pattern.meter.bar_ticks
    placed.studio.playback.play(150.0 * bar)
    until(lambda: placed.studio.playback.player.position_ticks() is not None)
    assert placed.studio.playback.player.program.region_ticks == (150 * bar, 200 * bar)
    assert 150 * bar <= placed.studio.playback.player.position_ticks() < 152 * bar
    placed.studio.playback.stop()


def test_a_drag_too_far_is_said(placed) -> None:
    placed.at("place").do("offset -1990 on snare")
    placed.run("edit.select_all")
    before = placed.studio.document
    placed.at("place")._drag(0, -1500)
    assert "outside" in placed.message
    placed.at("place")._drop(0, -1500)
    assert placed.studio.document is before and placed.at("place").grid.groove is before.groove
