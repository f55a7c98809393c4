"""The line in which one says what to do: understood while typing, shown, heard, and only then done."""

from collections.abc import Callable

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from ghoststep.desk.app.window import Window
from ghoststep.desk.dialogs import told as told_dialog
from ghoststep.desk.dialogs.sayable import SayableDialog
from ghoststep.desk.parts.transport import muted_words
from ghoststep.session.say.topics import TOPICS
from ghoststep.sound.click import Click
from ghoststep.sound.program import Plays

Until = Callable[[Callable[[], bool]], None]


def typed(window: Window, text: str, until: Until) -> None:
    window.run("edit.say")
    bar = window._say_bar
    bar.edit.setText(text)
    until(lambda: bar._found is not None and bar._found.text == text)


def test_what_would_change_is_seen_before_it_is_done(placed: Window, until: Until) -> None:
    before = placed.studio.document
    typed(placed, "ghost before the backbeat", until)
    grid, bar = placed.at("place").grid, placed._say_bar
    assert len(grid.proposed) == 4 and placed.studio.document is before
    assert "Snare ghosts on 1a, 3a" in bar._rows[0].text()
    QTest.keyClick(bar.edit, Qt.Key.Key_Escape)
    assert not grid.proposed and placed.studio.document is before and not bar.isVisible()
    typed(placed, "no ghosts", until)
    assert grid.leaving and not grid.proposed
    QTest.keyClick(bar.edit, Qt.Key.Key_Return)
    assert not any(h.role == "ghost" for h in placed.studio.groove.pattern.hits) and not grid.leaving
    assert placed.studio.history.undo() and placed.studio.groove == before.groove


def test_a_drum_that_is_not_there_yet_shows_its_lane(placed: Window, until: Until) -> None:
    grid = placed.at("place").grid
    lanes = grid.geometry_now().lanes
    typed(placed, "floor tom on 4", until)
    assert len(grid.geometry_now().lanes) == len(lanes) + 1
    QTest.keyClick(placed._say_bar.edit, Qt.Key.Key_Escape)
    assert grid.geometry_now().lanes == lanes


def test_enter_pressed_at_once_does_what_is_understood_then(placed: Window, until: Until) -> None:
    placed.run("edit.say")
    bar = placed._say_bar
    bar.edit.setText("a bit faster")
    tempo = placed.studio.groove.tempo.main_bpm
    QTest.keyClick(bar.edit, Qt.Key.Key_Return)
    until(lambda: not bar.isVisible())
    assert placed.studio.groove.tempo.main_bpm > tempo


def test_of_near_readings_one_is_chosen_first(placed: Window, until: Until) -> None:
    before, bar = placed.studio.document, placed._say_bar
    typed(placed, "half time", until)
    QTest.keyClick(bar.edit, Qt.Key.Key_Return)
    assert bar.isVisible() and placed.studio.document is before and "choose one" in bar._help.text()
    QTest.keyClick(bar.edit, Qt.Key.Key_Down)
    QTest.keyClick(bar.edit, Qt.Key.Key_Down)
    assert bar._rows[1].text().startswith("▸")
    QTest.keyClick(bar.edit, Qt.Key.Key_Return)
    assert placed.studio.groove.tempo.main_bpm == before.groove.tempo.main_bpm / 2


def test_it_can_be_heard_before_it_is_taken(placed: Window, until: Until) -> None:
    typed(placed, "kick on every beat", until)
    QTest.keyClick(placed._say_bar.edit, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    until(lambda: placed.studio.playback.player.what is Plays.PREVIEW)
    QTest.keyClick(placed._say_bar.edit, Qt.Key.Key_Escape)
    assert not placed.studio.playback.player.playing


def test_what_was_said_is_gone_on_from(placed: Window, until: Until) -> None:
    for text in ("snare louder", "a bit more", "and the kick"):
        typed(placed, text, until)
        QTest.keyClick(placed._say_bar.edit, Qt.Key.Key_Return)
    assert len(placed.studio.history.words) == 4
    placed.run("edit.say")
    QTest.keyClick(placed._say_bar.edit, Qt.Key.Key_Up)
    assert placed._say_bar.edit.text() == "and the kick"


def test_suggestions_do_something_here_and_tab_completes(placed: Window, until: Until) -> None:
    placed.run("edit.say")
    bar = placed._say_bar
    until(lambda: bool(bar._offered))
    QTest.keyClick(bar.edit, Qt.Key.Key_Down)
    until(lambda: bar.marked is not None)
    bar.edit.setText("ghost before the backb")
    QTest.keyClick(bar.edit, Qt.Key.Key_Tab)
    assert bar.edit.text() == "ghost before the backbeat "


def test_it_is_there_in_every_place(placed: Window, until: Until) -> None:
    for place in ("listen", "form", "check"):
        placed.go(place)
        typed(placed, "kick on 4", until)
        assert placed._say_bar.marked is not None
        QTest.keyClick(placed._say_bar.edit, Qt.Key.Key_Escape)


def test_voices_are_muted_and_heard_again(placed: Window, until: Until) -> None:
    typed(placed, "solo the snare", until)
    QTest.keyClick(placed._say_bar.edit, Qt.Key.Key_Return)
    assert placed.transport._muted.text() == "Only snare heard" and "kick" in placed.studio.playback.wish.muted
    placed.transport._muted.click()
    assert not placed.studio.playback.wish.muted and not placed.transport._muted.isVisible()
    assert muted_words({"kick"}, {"kick", "snare", "ride"}) == "Muted: kick"


def test_asking_plays_undoes_and_tells(placed: Window, until: Until, monkeypatch: pytest.MonkeyPatch) -> None:
    shown: list[str] = []

    def read(dialog: told_dialog.ToldDialog) -> int:
        shown.append(dialog.text.toPlainText())
        return 0

    monkeypatch.setattr(told_dialog.ToldDialog, "exec", read)
    for text in ("kick on 4", "undo", "play bar 2", "what is in bar 1"):
        typed(placed, text, until)
        QTest.keyClick(placed._say_bar.edit, Qt.Key.Key_Return)
    assert placed.studio.history.at == 0
    until(lambda: placed.studio.playback.player.playing)
    assert placed.studio.choice.range_ticks == (80640, 161280)
    until(lambda: bool(shown))
    assert "in bar 1" in shown[0]
    placed.studio.playback.stop()


def test_examples_of_the_page_are_put_into_the_line(qapp: object) -> None:
    said: list[str] = []
    dialog = SayableDialog(said.append)
    example = TOPICS["Bars"][0]
    next(b for b in dialog.findChildren(QPushButton) if b.text() == example).click()
    assert said == [example]


def test_in_form_the_chosen_part_is_meant(placed: Window, until: Until) -> None:
    for phrase in ("part A bars 1", "part B bars 2", "section verse = A B", "form verse"):
        assert placed.studio.say(phrase)
    placed.go("form")
    placed.at("form").map.choose(1)
    bars = placed.at("form").meant_bars()
    typed(placed, "crash on 1", until)
    marked = placed._say_bar.marked
    assert bars == {2} and marked is not None and marked.phrase == "place crash 1 bars 2"
    QTest.keyClick(placed._say_bar.edit, Qt.Key.Key_Escape)


def test_what_is_asked_of_the_click_and_of_limbs_is_done(placed: Window, until: Until) -> None:
    playback, before = placed.studio.playback, placed.studio.document
    for text, field, wanted in (
        ("play-click backbeat bars 3 silent 1 level -6 dB", "click_kind", Click("backbeat", -6.0, 3, 1)),
        ("rest-limb L", "resting", frozenset("L")),
        ("unmute", "resting", frozenset()),
        ("build-up feet-first passes 3", "build_up", ("K", "H", "L", "R")),
        ("build-up off", "build_up", ()),
        ("play-click off", "click", False),
    ):
        typed(placed, text, until)
        QTest.keyClick(placed._say_bar.edit, Qt.Key.Key_Return)
        until(lambda field=field, wanted=wanted: getattr(playback.wish, field) == wanted)
    assert placed.studio.document is before
