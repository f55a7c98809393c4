"""The place Form by keys alone: from an empty form to a piece that is exported and read back."""

from collections.abc import Callable
from pathlib import Path

import mido
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog, QLabel

from ghoststep.desk.app.window import Window
from ghoststep.desk.dialogs.exports import export
from ghoststep.desk.form.form_place import FormPlace
from ghoststep.files.textgrid import parse_grid, parse_text
from ghoststep.session.document.document import Document

SONG = """tempo 100
part A
hat_closed x-x-x-x-x-x-x-x-
snare      ----X-------X---
kick       X-----x---x-----
part B = A
  move kick 3& to 3
section verse = A B A B
section end = A | ending B
form = verse end
"""
Until = Callable[[Callable[[], bool]], None]


@pytest.fixture
def place(window: Window) -> FormPlace:
    form, groove = parse_text(SONG)
    window.studio.set_document(Document("song", groove, form=form), None)
    QTest.keyClick(window, Qt.Key.Key_F3)
    found: FormPlace = window.at("form")
    return found


def key(window: Window, which: Qt.Key, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    QTest.keyClick(window.focusWidget() or window, which, held)


def row(window: Window) -> list[str]:
    return [s.part for s in window.studio.document.form.stretches()]


def test_cells_are_walked_and_told(window: Window, place: FormPlace) -> None:
    assert place.map.cell.part == "A" and len(place.map.road.cells) == 6
    key(window, Qt.Key.Key_Right)
    assert place.map.cell.part == "B" and "a variation of A" in place.panel._title.text()
    assert "move kick 3& to 3" in place.panel._told.text() and "in bars 2, 4, 6" in place.panel._told.text()
    key(window, Qt.Key.Key_Down)
    assert place.map.cell.section == 1
    key(window, Qt.Key.Key_Up)
    cell = place.map.road.cells[2]
    QTest.mouseClick(place.map.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(round(cell.x + 5), round(cell.y + 5)))
    assert place.map.chosen == 2
    assert place.map.road.cells[1].apart > 0 == place.map.road.cells[0].apart


def test_bars_with_hits_of_their_own_are_marked_and_told(window: Window) -> None:
    form, groove = parse_text(f"{SONG}  hit crash bar 3 1\n  hit crash bar 3 3\n")
    window.studio.set_document(Document("song", groove, form=form), None)
    QTest.keyClick(window, Qt.Key.Key_F3)
    place = window.at("form")
    assert [c.first_bar for c in place.map.road.cells if c.other] == [3]
    assert any("Bar 3: 2 spots of its own" in w.text() for w in place.panel.findChildren(QLabel))


def test_parts_are_repeated_moved_and_left_out(window: Window, place: FormPlace) -> None:
    key(window, Qt.Key.Key_D)
    assert row(window)[:5] == list("AABAB") and place.map.chosen == 1
    key(window, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    assert row(window)[:5] == list("ABAAB") and place.map.chosen == 2
    key(window, Qt.Key.Key_Delete)
    assert row(window)[:4] == list("ABAB")
    window.run("edit.undo")
    window.run("edit.undo")
    window.run("edit.undo")
    assert row(window) == list("ABABAB")
    place.map.choose(4)  # in the body of endings
    key(window, Qt.Key.Key_D)
    assert row(window) == list("ABABAAB")


def test_an_answer_is_heard_and_taken_as_a_new_part(window: Window, place: FormPlace, until: Until) -> None:
    place.map.choose(2)
    key(window, Qt.Key.Key_A)
    until(lambda: bool(place._offers))
    assert place.panel.offers.list.count() >= 5
    key(window, Qt.Key.Key_Down)
    assert place.panel.offers.list.currentRow() == 1
    key(window, Qt.Key.Key_Return)
    assert row(window)[:4] == list("ABCB") and window.studio.document.form.part("C").base == "A"
    assert not place._offers and place.map.cell.part == "C"
    key(window, Qt.Key.Key_U)
    assert window.studio.document.form.part("C").base == ""


def offered(place: FormPlace, until: Until, kind: str) -> list[str]:
    until(lambda: bool(place._offers) and place.panel.offers.kind == kind and not place.studio.tasks.running)
    return [place.panel.offers.list.item(k).text() for k in range(place.panel.offers.list.count())]


def test_phrases_of_four_bars_are_heard_with_their_strictness_and_may_stay_a_loop(
    window: Window, place: FormPlace, until: Until
) -> None:
    place.map.choose(2)
    key(window, Qt.Key.Key_A)
    offered(place, until, "answers")
    asked = place.panel.offers
    asked.length.setCurrentIndex(2)
    asked.strictness.setCurrentIndex(1)
    asked.length.activated.emit(2)
    until(lambda: asked.list.count() > 0 and asked.list.item(0).text().startswith("Keep it a loop"))
    assert place._offers[0].groove.pattern.bars == 4 and not place._offers[0].phrases
    key(window, Qt.Key.Key_Return)
    assert row(window) == list("ABABAB")
    key(window, Qt.Key.Key_A)
    until(lambda: bool(place._offers))
    key(window, Qt.Key.Key_Down)
    key(window, Qt.Key.Key_Return)
    assert row(window) == list("ABACADBAB") and place.map.cell.part == "A"
    window.run("edit.undo")
    assert row(window) == list("ABABAB")


def test_fills_are_offered_and_kept_in_their_bar_or_as_a_cue(window: Window, place: FormPlace, until: Until) -> None:
    place.map.choose(3)
    key(window, Qt.Key.Key_F, Qt.KeyboardModifier.ShiftModifier)
    assert len(offered(place, until, "fills")) >= 4
    key(window, Qt.Key.Key_Down)
    key(window, Qt.Key.Key_Return)
    ((at, phrase),) = window.studio.document.form.section("verse").exceptions
    assert at == 4 and phrase.startswith("fill-in 2 cell ") and place.map.road.cells[3].other
    assert f"Bar 4 of it: {phrase}" in place.panel._section_told.text()
    window.run("edit.undo")
    key(window, Qt.Key.Key_F, Qt.KeyboardModifier.ShiftModifier)
    offered(place, until, "fills")
    place.panel.offers.where.setCurrentIndex(1)
    place.panel.offers.where.activated.emit(1)
    until(lambda: bool(place._offers) and place._offers[0].phrases[0].startswith("cue "))
    key(window, Qt.Key.Key_Return)
    assert window.studio.document.form.section("verse").cues[0][0] == ""
    place.map.choose(1)
    window.run("form.fills")
    until(lambda: "last bar of a section" in window.message)
    key(window, Qt.Key.Key_Escape)
    assert place.panel.offers.isHidden() and not place.panel.section.isHidden()


def test_sections_are_repeated_moved_left_out_and_led_into(window: Window, place: FormPlace) -> None:
    alt, shift = Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ShiftModifier
    key(window, Qt.Key.Key_D, shift)
    assert window.studio.document.form.order == ("verse", "verse", "end")
    place.map.choose_section(2)
    key(window, Qt.Key.Key_Up, alt)
    assert window.studio.document.form.order == ("verse", "end", "verse") and place.map.cell.section == 1
    key(window, Qt.Key.Key_C)
    assert row(window)[4:6] == ["count", "A"] and place.map.cell.nth == 0
    assert place.panel._lead.currentText() == "1 bar counted in"
    place.map.choose(place.map.chosen - 1)  # what leads in is no part of the row
    key(window, Qt.Key.Key_D)
    assert "Before it" in window.message and row(window).count("count") == 1
    place.panel.lead_wanted.emit("B")
    assert row(window)[4:6] == ["B", "A"] and place.panel._lead.currentText() == "part B"
    key(window, Qt.Key.Key_Delete, shift)
    assert window.studio.document.form.order == ("verse", "verse")


def test_parts_are_copied_put_in_and_dragged(window: Window, place: FormPlace, monkeypatch: pytest.MonkeyPatch) -> None:
    ctrl = Qt.KeyboardModifier.ControlModifier
    key(window, Qt.Key.Key_V, ctrl)
    assert "Nothing is copied" in window.message
    key(window, Qt.Key.Key_C, ctrl)
    place.map.choose(1)
    key(window, Qt.Key.Key_V, ctrl)
    assert row(window)[:5] == list("ABAAB") and place.map.chosen == 2
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("B", True))
    key(window, Qt.Key.Key_I)
    assert row(window)[:6] == list("ABABAB")
    drag(place, 1, 0, behind=False)
    assert row(window)[:6] == list("BAABAB") and place.map.chosen == 0
    drag(place, 0, 2, behind=True, held=ctrl)
    assert row(window)[:7] == list("BAABBAB")
    before = row(window)
    drag(place, 0, 0, behind=True)
    assert row(window) == before  # where it was


def drag(
    place: FormPlace, cell: int, beside: int, *, behind: bool,
    held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
) -> None:  # fmt: skip
    one, other = place.map.road.cells[cell], place.map.road.cells[beside]
    view = place.map.viewport()
    start = QPoint(round(one.x + 20), round(one.y + 30))
    end = QPoint(round(other.x + (other.w - 6 if behind else 6)), round(other.y + 30))
    left = Qt.MouseButton.LeftButton
    QTest.mousePress(view, left, held, start)
    for at in (start + (end - start) / 2, end):
        QTest.mouseMove(view, at)
        event = QMouseEvent(
            QEvent.Type.MouseMove, QPointF(at), QPointF(view.mapToGlobal(at)), Qt.MouseButton.NoButton, left, held
        )
        QApplication.sendEvent(view, event)
    QTest.mouseRelease(view, left, held, end)


def test_the_part_opens_in_place_and_an_edit_there_goes_to_all_its_bars(window: Window, place: FormPlace) -> None:
    place.map.choose(1)
    key(window, Qt.Key.Key_O)
    assert window.place == "place" and window.at("place").grid.cursor_ticks == 80640
    window.studio.say("place hat_open 4& bars 2")
    frame = window.studio.groove.pattern.frame
    bars = [frame.spot_at(h.position_ticks).bar for h in window.studio.groove.pattern.hits if h.voice == "hat_open"]
    assert bars == [2, 4, 6]
    window.go("form")
    assert "place hat_open 4&" in place.panel._told.text()


def test_from_an_empty_form_to_a_piece_of_32_bars(
    window: Window, until: Until, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    bar = {"hat_closed": "x-x-x-x-x-x-x-x-", "snare": "----X-------X---", "kick": "X-------x-------"}
    other = bar | {"kick": "X-------x-x-----"}
    rows = {v: "|".join((bar, other)[b % 2][v] for b in range(4)) for v in bar}
    window.studio.set_document(Document("piece", parse_grid("\n".join(f"{v} {r}" for v, r in rows.items()))), None)
    window.go("form")
    place: FormPlace = window.at("form")
    assert place.panel._title.text() == "No parts yet"
    for name in ("form.open", "form.again", "form.answers", "form.free", "form.loop"):
        window.run(name)
    key(window, Qt.Key.Key_L, Qt.KeyboardModifier.ShiftModifier)
    until(lambda: window.studio.document.form is not None)
    assert row(window) == list("ABAB")
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("", False))
    for phrase in ("section verse = A B A B", "section chorus = A A B x2", "form verse verse chorus verse chorus x4"):
        assert window.studio.say(phrase)
    assert window.studio.groove.pattern.bars == 32 and len(place.map.road.heads) == 8
    export(window.studio, tmp_path / "piece.mid", "midi")
    until(lambda: (tmp_path / "piece.mid").exists() and not window.studio.busy)
    file = mido.MidiFile(tmp_path / "piece.mid")
    marks = [m.text for t in file.tracks for m in t if m.type == "marker"]
    assert marks == ["verse", "verse", "chorus", "verse", "chorus", "chorus", "chorus", "chorus"]
    notes = sum(m.type == "note_on" for t in file.tracks for m in t)
    assert notes == len(window.studio.groove.pattern.hits)


def test_what_changed_is_seen_on_the_bar_and_told_with_how_near_it_is(window: Window, place: FormPlace) -> None:
    pictures, pattern = place.map._pictures, window.studio.groove.pattern
    cell = place.map.road.cells[1]
    base = window.studio.document.form.part("A").pattern
    plain, marked = (pictures.of(cell, pattern, other, playing=False, ratio=1.0).toImage() for other in (None, base))
    assert plain != marked
    start = pattern.frame.start_of(2)
    step = (cell.w - 22) / pattern.frame.length_of(2)
    box = 16 + int(8 * 5040 * step)  # the kick that moved to 3, and the place it left
    ringed = {x for x in range(plain.width()) for y in range(plain.height()) if plain.pixel(x, y) != marked.pixel(x, y)}
    assert min(ringed) >= box - 6 and max(ringed) <= 16 + int(10 * 5040 * step) + 6 and start == 80640
    place.map.choose(1)
    told = place.panel._told.text()
    assert "% alike, but:" in told and "kick: 2 of 4 strokes shared" in told


def test_a_part_becomes_a_variation_of_another_by_a_key(
    window: Window, place: FormPlace, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.studio.say("free B")
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("A", True))
    place.map.choose(1)
    key(window, Qt.Key.Key_V)
    assert window.studio.document.form.part("B").changes == ("move kick 3& to 3",)


def test_playing_goes_round_the_part_or_the_section(window: Window, place: FormPlace) -> None:
    place.map.choose(3)
    key(window, Qt.Key.Key_P)
    assert window.studio.choice.range_ticks == (3 * 80640, 4 * 80640)
    window.run("form.loop_section")
    assert window.studio.choice.range_ticks == (0, 4 * 80640)
    window.studio.playback.stop()
    place.set_playhead(5 * 80640.0)
    assert place.map._playing == 5


def test_what_was_found_is_corrected_by_keys(window: Window, place: FormPlace, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("bridge", True))
    place.map.choose(2)
    key(window, Qt.Key.Key_X)
    assert row(window)[:4] == list("ABCB") and window.studio.document.form.part("C").base == ""
    place.map.choose(2)
    key(window, Qt.Key.Key_N)
    assert window.studio.document.form.order == ("verse", "bridge", "end")
    place.map.choose(1)
    key(window, Qt.Key.Key_S)
    assert row(window)[:2] == list("AA") and all(p.name != "B" for p in window.studio.document.form.parts)
