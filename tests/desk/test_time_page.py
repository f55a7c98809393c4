"""The page Time and its pictures, in the real window: placement, swing, looseness, players, takes."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog

from ghoststep.desk.dialogs import compare
from ghoststep.desk.place.time_page import TimePage
from ghoststep.feel.perform import perform
from ghoststep.files import feels
from ghoststep.files.feels import shelf
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.player import Wander
from ghoststep.session.document.document import Document


@pytest.fixture
def page(placed) -> TimePage:
    place = placed.at("place")
    place.show_page(place.pages.index(place.time_page))
    return place.time_page


def feel(window) -> Feel:
    return window.studio.groove.feel


def press(page: TimePage, text: str) -> None:
    from PySide6.QtWidgets import QPushButton

    found = next(b for b in page.findChildren(QPushButton) if b.text() == text or b.text().startswith(f"{text} "))
    QTest.mouseClick(found, Qt.MouseButton.LeftButton)


def test_ahead_on_and_behind_by_one_press(placed, page: TimePage) -> None:
    press(page, "Behind")
    assert feel(placed).lean_of("snare") == 12 == feel(placed).lean_of("kick")
    page._whose.setCurrentIndex(page._whose.findData("snare"))
    press(page, "Ahead")
    assert feel(placed).lean_of("snare") == -10 and feel(placed).lean_of("kick") == 12
    assert page._placement.checkedId() == 0
    press(page, "On")
    assert feel(placed).lean_of("snare") == 0 and "on the pulse" in placed.message


def test_the_swing_is_dragged_on_its_scale(placed, page: TimePage) -> None:
    scale = page._scale
    start, end = (QPoint(round(scale.x_of(r)), 26) for r in (0.5, 2 / 3))
    QTest.mousePress(scale, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(scale, end)
    assert feel(placed).swing.straight  # not before it is let go
    QTest.mouseRelease(scale, Qt.MouseButton.LeftButton, pos=end)
    assert feel(placed).swing.ratio == pytest.approx(2 / 3, abs=0.004)
    QTest.keyClick(scale, Qt.Key.Key_Left)
    QTest.keyClick(scale, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert feel(placed).swing.ratio == pytest.approx(scale.ratio)
    page._swings.setCurrentIndex(page._swings.findData("hat"))
    page._ratio.setValue(60.0)
    assert feel(placed).swing_of("hat_closed").ratio == 0.6 != feel(placed).swing.ratio


def test_looseness_take_and_freezing(placed, page: TimePage) -> None:
    page._loose.setValue(6.0)
    page._take.setValue(4)
    assert (feel(placed).loose_ms, feel(placed).take) == (6.0, 4)
    page._frozen.click()
    assert feel(placed).frozen and "frozen" in placed.message
    page._frozen.click()
    assert not feel(placed).frozen


def test_pulling_towards_the_grid(placed, page: TimePage) -> None:
    placed.at("place").do("lean snare 10")
    placed.at("place").do("loose 4")
    press(page, "Pull towards the grid")
    assert feel(placed).loose_ms == 2 and feel(placed).lean_of("snare") == 10
    page._lean_too.click()
    placed.at("place").do("go 1")  # the hit under the cursor is no choice
    page._pull_button.click()
    assert feel(placed).loose_ms == 1 and feel(placed).lean_of("snare") == 5
    page._lean_too.click()
    placed.at("place").do("select snare")
    page.show_now()
    assert page._pull_button.text().endswith("hits to the grid")
    placed.at("place").do("nudge 8 ms")
    page._pull_button.click()
    assert {h.offset_ms for h in placed.studio.groove.pattern.hits if h.voice == "snare"} == {4.0}


def test_a_player_is_laid_on_printed_and_taken_off(placed, page: TimePage) -> None:
    assert page.shelf.count() == 7
    page.shelf.setCurrentRow(1)
    press(page, "Lay on")
    assert feel(placed).lean_of("snare") == 14 and "Laid-back laid on" in placed.message
    before = perform(placed.studio.groove).onset_s
    press(page, "Print")
    assert not feel(placed).lean_ms and np.allclose(perform(placed.studio.groove).onset_s, before)
    press(page, "Take off")
    assert feel(placed).lean_of("snare") == pytest.approx(14, abs=8)  # a mean over all its spots
    assert np.allclose(perform(placed.studio.groove).onset_s, before)
    placed.studio.undo()
    placed.studio.undo()
    assert feel(placed).lean_of("snare") == 14


def test_the_three_placements_are_heard_in_turn_with_the_click(placed, page: TimePage) -> None:
    place = placed.at("place")
    placed.run("time.placements")
    choices = place.proposal_page.choices
    assert [choices.item(i).text() for i in range(3)] == ["Ahead of the pulse", "On the pulse", "Behind the pulse"]
    assert placed.studio.playback.wish.click
    assert place.grid.groove.feel.lean_of("snare") == -10  # drawn as it is heard
    QTest.keyClick(choices, Qt.Key.Key_Down)
    QTest.keyClick(choices, Qt.Key.Key_Down)
    assert place.grid.groove.feel.lean_of("snare") == 12 and not feel(placed).lean_ms
    QTest.keyClick(choices, Qt.Key.Key_Return)
    assert feel(placed).lean_of("snare") == 12 and place.grid.groove is placed.studio.groove


def test_a_take_is_chosen_and_frozen(placed, page: TimePage) -> None:
    placed.run("time.takes")
    assert "all takes are alike" in placed.message
    page._loose.setValue(5.0)
    placed.run("time.takes")
    choices = placed.at("place").proposal_page.choices
    assert choices.count() == 8
    choices.setCurrentRow(3)
    placed.at("place").proposal_page.take()
    assert feel(placed).take == 4 and feel(placed).frozen and "Take 4 is frozen" in placed.message
    placed.studio.undo()  # one step
    assert feel(placed).take == 1 and not feel(placed).frozen


def test_a_player_is_tried_before_he_is_taken(placed, page: TimePage) -> None:
    page.shelf.setCurrentRow(2)
    page._touch.setValue(50)
    placed.run("time.try")
    choices = placed.at("place").proposal_page.choices
    assert choices.item(1).text() == "As it is now" and not feel(placed).lean_ms
    placed.at("place").proposal_page.leave()
    assert placed.at("place").grid.groove is placed.studio.groove
    placed.run("time.try")
    choices.setCurrentRow(0)
    placed.at("place").proposal_page.take()
    assert feel(placed).lean_of("hat_closed") == -9 and feel(placed).touch.share == 0.5


def test_a_feel_is_put_on_the_shelf(placed, page: TimePage, monkeypatch, tmp_path) -> None:
    monkeypatch.setattr(feels, "settings_folder", lambda: tmp_path)
    placed.at("place").do("lean snare 17")
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Mill bridge", True))
    placed.run("time.keep")
    assert page.shelf.item(7).text() == "Mill bridge" and "on the shelf" in placed.message
    assert shelf()[0][-1].feel.lean_of("snare") == pytest.approx(17)
    placed.run("time.keep")
    assert "already" in placed.message


def test_the_pictures_come_and_go_under_the_grid(placed, page: TimePage) -> None:
    place = placed.at("place")
    placed.studio.edit(lambda d: ("swung", d.with_groove(feel=Feel(Swing(16, 0.58), {"snare": 9}, 3.0))))
    words = []
    for name in ("pocket", "swing", "touch"):
        placed.run(f"time.view_{name}")
        assert place.views.isVisible()
        words.append(place.views._words.text())
    assert "Snare +9" in words[0] and "58" in words[1] and words[2].startswith("Mean velocities")
    height = place.grid.height()
    placed.run("time.view_touch")
    assert not place.views.isVisible() and place.grid.height() <= height + place.views.height()
    placed.run("time.view_pocket")
    placed.at("place").do("lean snare -20")
    assert "Snare -20" in place.views._words.text()


def test_what_was_heard_lies_behind_what_is_played(listening) -> None:
    listening.go("place")
    place = listening.at("place")
    listening.run("time.view_pocket")
    count = len(place.views.plot.getPlotItem().items)
    place.views.over.setCurrentIndex(1)
    place.views.over.activated.emit(1)
    assert len(place.views.plot.getPlotItem().items) > count
    groove = listening.studio.groove
    listening.studio.edit(lambda d: ("x", d.with_groove(feel=replace(groove.feel, lean_ms={}))))
    assert place.views.behind is listening.studio.document.listening.explained.groove
    place.do("keep before")
    place.do("feel laid-back")
    assert [place.views.over.itemText(i) for i in range(3)] == ["alone", "over what was heard", "over before"]
    place.views.over.setCurrentIndex(2)
    place.views.over.activated.emit(2)
    assert place.views.behind is listening.studio.document.snapshots[-1].groove


def test_the_pictures_follow_the_theme(placed, page: TimePage) -> None:
    placed.run("time.view_pocket")
    before = placed.at("place").views.plot.backgroundBrush().color().name()
    placed.switch_theme()
    assert placed.at("place").views.plot.backgroundBrush().color().name() != before
    placed.switch_theme()


def test_an_off_note_dragged_with_alt_swings_them_all(placed) -> None:
    place, grid = placed.at("place"), placed.at("place").grid
    place.do("place snare 1e")
    place.do("swing 16ths 50%")
    place.zoom(2)
    g = grid.geometry_now()
    hit = placed.studio.groove.pattern.at(5040, "snare")
    row = g.row_of("snare")
    start = QPoint(round(g.stem_x(hit)), round(g.head_y(row, hit.velocity)))
    end = QPoint(start.x() + round(0.2 * 5040 / 20160 * g.quarter_px), start.y())
    view, alt = grid.viewport(), Qt.KeyboardModifier.AltModifier
    QTest.mousePress(view, Qt.MouseButton.LeftButton, alt, start)
    QTest.mouseMove(view, QPoint((start.x() + end.x()) // 2, start.y()))
    QTest.mouseMove(view, end)
    assert "Swing" in placed.message and feel(placed).swing.straight
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, alt, end)
    assert feel(placed).swing.ratio == pytest.approx(0.6, abs=0.012) and feel(placed).swing.unit == 16
    # A note on the beat is none that swings: it is moved as ever.
    beat = next(h for h in placed.studio.groove.pattern.hits if h.position_ticks == 0)
    g = grid.geometry_now()
    at = QPoint(round(g.stem_x(beat)), round(g.head_y(g.row_of(beat.voice), beat.velocity)))
    QTest.mousePress(view, Qt.MouseButton.LeftButton, alt, at)
    QTest.mouseMove(view, at + QPoint(12, 0))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, alt, at + QPoint(12, 0))
    assert feel(placed).swing.ratio == pytest.approx(0.6, abs=0.012)


def test_the_tempo_is_tapped(placed) -> None:
    place = placed.at("place")
    times = iter([0.0, 0.5, 1.0, 1.51, 2.0, 9.0, 9.4, 9.8])
    place.tap_tempo._clock = lambda: next(times)
    for _ in range(5):
        placed.run("time.tap_tempo")
    assert "BPM, taken when you stop" in placed.message and placed.studio.groove.tempo.main_bpm == 96
    place.tap_tempo.finish()
    assert placed.studio.groove.tempo.main_bpm == pytest.approx(120, abs=1)
    for _ in range(3):  # after a pause it begins anew
        placed.run("time.tap_tempo")
    assert "Tap 3" in placed.message
    place.tap_tempo.finish()
    assert "3 taps tell no beat" in placed.message
    assert placed.studio.groove.tempo.main_bpm == pytest.approx(120, abs=1)


def test_what_touch_makes_of_a_hit_is_drawn_on_its_stem(placed) -> None:
    place, grid = placed.at("place"), placed.at("place").grid
    assert grid.geometry_now().played is None
    place.do("feel laid-back time 0%")
    g = grid.geometry_now()
    assert g.played is not None
    still = replace(feel(placed), wander=Wander())
    played = perform(placed.studio.groove.changed(feel=still))
    assert list(g.played) == played.velocity.tolist() != [h.velocity for h in placed.studio.groove.pattern.hits]
    assert grid.geometry_now().played is g.played  # worked out once


def test_player_take_and_dice_are_judged_blind(listening, monkeypatch) -> None:
    shown = []
    monkeypatch.setattr(compare, "BlindDialog", lambda among, hear, parent: shown.append(among) or _Chose())
    listening.go("place")
    listening.run("time.blind")
    assert [name for name, _ in shown[0]] == ["the player", "a take of ours", "straight dice"]
    assert listening.studio.document.verdicts[-1].chosen == "a take of ours"


class _Chose:
    verdict = ("a take of ours", ("the player", "a take of ours", "straight dice"))

    def exec(self) -> int:
        return 1

    def deleteLater(self) -> None:
        """As a dialog does."""


def test_of_a_long_groove_the_first_bars_are_drawn(placed) -> None:
    bars = " | ".join(["xxxxxxxxxxxxxxxx"] * 400)
    placed.studio.set_document(Document("long", parse_grid(f"tempo 120\nloose 3\nhat_closed {bars}")), None)
    placed.run("time.view_pocket")
    words = placed.at("place").views._words.text()
    assert words.startswith("The first 187 bars. Hat closed +0")


def test_a_feel_goes_towards_another_and_is_laid_on_some_voices(placed, page: TimePage) -> None:
    page.shelf.setCurrentRow(1)
    page._between.setCurrentIndex(3)
    page._whose_feel.setCurrentIndex(page._whose_feel.findData("snare"))
    press(page, "Lay on")
    assert "50 % of" in placed.message
    found = feel(placed)
    assert any(s.voice == "snare" and s.late_ms for s in found.spots) or found.lean_of("snare")
    assert found.lean_of("kick") == 0 and not any(s.voice == "kick" and s.late_ms for s in found.spots)


def test_a_loop_is_played_anew_each_time_as_long_as_it_goes_round(placed, until) -> None:  # type: ignore[no-untyped-def]
    studio = placed.studio
    studio.say("loose 6")
    studio.playback.play()
    until(lambda: studio.playback.player.program is not None and studio.playback.player.program.vary)
    heard = [studio.playback.player.program]
    for _ in range(3):
        until(lambda: (studio.playback.prepare_passes(), studio.playback.player.waits_for_passes is None)[1])
        studio.playback.player._followed()  # the loop comes round
        heard.append(studio.playback.player.program)
    counts = [len(p.passes) for p in heard]
    assert [p.first_pass for p in heard] == [sum(counts[:k]) for k in range(4)]
    times = [p.performance.onset_s[:40].tolist() for p in heard]
    assert len({tuple(t) for t in times}) == 4
    studio.say("loose 7")  # an edit keeps the take that is heard
    until(lambda: studio.playback.player._next is not None or studio.playback.player.program is not heard[-1])
    changed = studio.playback.player._next or studio.playback.player.program
    assert changed.first_pass == heard[-1].first_pass
    studio.say("freeze on")
    studio.playback.stop()


def test_two_feels_of_the_shelf_lie_over_each_other(placed) -> None:  # type: ignore[no-untyped-def]
    placed.run("time.view_pocket")
    views = placed.at("place").views
    alone = views._words.text()
    fronts = [views.front.itemText(k) for k in range(views.front.count())]
    assert fronts[0] == "now" and len(fronts) == 8
    views.front.setCurrentIndex(2)
    views.front.activated.emit(2)
    assert views._words.text() != alone and "Snare +15" in views._words.text()
    count = len(views.plot.getPlotItem().items)
    views.over.setCurrentIndex(views.over.findText("over Pushing"))
    views.over.activated.emit(views.over.currentIndex())
    assert views.behind is not None and views.behind.feel != placed.studio.groove.feel
    assert len(views.plot.getPlotItem().items) > count
    placed.studio.say("loose 3")
    assert views.front.currentIndex() == 2 and views.over.currentText() == "over Pushing"
