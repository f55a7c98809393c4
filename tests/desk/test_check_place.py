"""The place Check by its keys: findings, mends heard before they are taken, terms, tempo, and what is meant so."""

from collections.abc import Callable

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from ghoststep.desk.app.window import Window
from ghoststep.desk.check.check_place import CheckPlace
from ghoststep.files.textgrid import parse_grid
from ghoststep.session.document.document import Document

TEXT = """tempo 132
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
crash ---------------- | X--------------- | ----------------
snare ----X-------X--- | X---X-------X--- | ----X-------X---
kick X-------X------- | X-------X------- | xxxxxxxxxxxxxxxx
"""
Until = Callable[[Callable[[], bool]], None]


@pytest.fixture
def place(window: Window, until: Until) -> CheckPlace:
    window.studio.set_document(Document("depot", parse_grid(TEXT)), None)
    QTest.keyClick(window, Qt.Key.Key_F4)
    found: CheckPlace = window.at("check")
    until(lambda: found.report is not None and found.report.played.groove is window.studio.groove)
    return found


def key(window: Window, which: Qt.Key, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    QTest.keyClick(window.focusWidget() or window, which, held)


def go_to(window: Window, place: CheckPlace, name: str) -> None:
    """Step through the findings until one of a name is chosen."""
    for _ in range(place.findings.list.count()):
        finding = place.findings.finding
        if finding is not None and finding.name == name:
            return
        key(window, Qt.Key.Key_N)
    raise AssertionError(f"no finding '{name}'")


def checked_again(window: Window, place: CheckPlace) -> bool:
    return place.report is not None and place.report.played.groove is window.studio.groove


def test_a_finding_is_mended_by_keys_and_undone(window: Window, place: CheckPlace, until: Until) -> None:
    go_to(window, place, "three hands")
    before = window.studio.groove
    key(window, Qt.Key.Key_M)
    until(lambda: place._at == 0)
    assert "Heard now: remove hat_closed" in place.findings._mend.text()
    assert window.studio.groove is before and len(place.grid.groove.pattern.hits) == len(before.pattern.hits) - 1
    key(window, Qt.Key.Key_Return)
    until(lambda: checked_again(window, place))
    assert len(window.studio.groove.pattern.hits) == len(before.pattern.hits) - 1
    assert "three hands" not in {f.name for f in place.report.findings}
    window.run("edit.undo")
    assert window.studio.groove.pattern == before.pattern


def test_a_mend_is_left_and_the_next_one_heard(window: Window, place: CheckPlace, until: Until) -> None:
    go_to(window, place, "three hands")
    key(window, Qt.Key.Key_M)
    until(lambda: place._at == 0)
    first = place.findings._mend.text()
    key(window, Qt.Key.Key_M)
    assert place._at == 1 and place.findings._mend.text() != first
    key(window, Qt.Key.Key_Escape)
    assert place._at == -1 and len(place.grid.groove.pattern.hits) == len(window.studio.groove.pattern.hits)
    key(window, Qt.Key.Key_M)
    assert place._at == 0
    window.run("check.leave")
    assert place._at == -1


def test_what_is_meant_so_stays_quiet_until_it_is_minded(window: Window, place: CheckPlace, until: Until) -> None:
    go_to(window, place, "through the crash")
    key(window, Qt.Key.Key_A)
    until(lambda: checked_again(window, place) and "1 meant so" in place.findings.head.text())
    assert "through the crash" not in {f.name for f in place.report.findings}
    key(window, Qt.Key.Key_A, Qt.KeyboardModifier.ShiftModifier)
    until(lambda: "through the crash" in {f.name for f in place.report.findings})


def test_the_tempo_asked_about_shows_what_breaks_and_is_made_playable(
    window: Window, place: CheckPlace, until: Until
) -> None:
    place._typed.setValue(60)
    assert place._breaks.text() == "In reach of every limb." and place._tempo.value() == 60
    place._typed.setValue(172)
    assert "bar" in place._breaks.text() and "3" in place._breaks.text()
    key(window, Qt.Key.Key_Period)
    assert place._tempo.value() == 174
    key(window, Qt.Key.Key_P)
    until(lambda: bool(place._offer))
    assert "Playable at 174 BPM by" in place.findings._mend.text()
    key(window, Qt.Key.Key_Return)
    until(lambda: checked_again(window, place))
    assert not [f for f in place.report.findings if f.kind == "impossible"]
    assert window.studio.groove.tempo.main_bpm == 132


def test_terms_are_said_to_the_document(window: Window, place: CheckPlace, until: Until) -> None:
    place.terms._who.setCurrentIndex(2)
    place.terms._who.activated.emit(2)
    assert window.studio.document.judged.player == "virtuoso"
    place.terms._pedals.activated.emit(1)
    until(lambda: place.report.played.limbs and "H" in place.report.limbs.values())
    QTest.mouseClick(place.terms._styles["machine"], Qt.MouseButton.LeftButton)
    until(lambda: not [f for f in place.report.findings if f.kind == "mechanical"])
    window.run("edit.undo")
    until(lambda: bool([f for f in place.report.findings if f.kind == "mechanical"]))
    assert not place.terms._styles["machine"].isChecked()


def test_pages_tell_likeness_and_words_and_the_strip_goes_to_a_bar(
    window: Window, place: CheckPlace, until: Until
) -> None:
    window.run("check.page")
    assert place._stack.currentIndex() == 1 and place.likeness._score.text().endswith("%")
    window.run("check.page")
    until(lambda: "Snare accents on 2 and 4; snare accents on 1 in bar 2." in place.words._said.text())
    place.strip.bar_wanted.emit(3)
    assert place.findings.finding.bar == 3
    assert place.strip._bar_at(place.strip.width() - 12) == 3 and place.strip._bar_at(40) == 1
    names = {b.text() for b in place.findChildren(QPushButton)}
    assert {"Hear a mend  (M)", "Take it  (Enter)", "It is meant so  (A)"} <= names


def test_an_empty_groove_has_nothing_to_mend(window: Window, place: CheckPlace, until: Until) -> None:
    window.studio.set_document(Document("empty"), None)
    until(lambda: checked_again(window, place))
    assert place.findings.head.text().startswith("Nothing found")
    for name in ("check.next", "check.mend", "check.take", "check.meant", "check.leave", "check.playable"):
        window.run(name)
    until(lambda: "Nothing is struck." in place.words._said.text())


def test_three_stickings_are_proposed_drawn_and_taken(placed: Window, until: Until) -> None:
    place = placed.at("place")
    placed.run("hands.ways")
    until(lambda: place.proposal_page.waiting)
    rows = [place.proposal_page.choices.item(i).text() for i in range(place.proposal_page.choices.count())]
    assert len(rows) >= 2 and rows[0].startswith("The easiest: costs")
    place.proposal_page.choices.setCurrentRow(1)
    shown = [h.limb for h in place.grid.groove.pattern.hits]
    place.proposal_page.take()
    assert [h.limb for h in placed.studio.groove.pattern.hits] == shown and "Sticking" in placed.message
