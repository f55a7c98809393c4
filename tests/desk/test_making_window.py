"""What is made in the window: other voices, layers, a style to start from, changes taken over from another version."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog, QFileDialog

from ghoststep.desk.app.window import Window
from ghoststep.desk.dialogs.compare_dialog import CompareDialog
from ghoststep.desk.dialogs.new_dialog import NewDialog
from ghoststep.files.demo import demo_recordings
from ghoststep.files.textgrid import parse_grid, parse_text
from ghoststep.session.document.document import Document

Until = Callable[[Callable[[], bool]], None]
GROOVE = """tempo 100
hat_closed x-x-x-x-x-x-x-x-
snare      ----X--o----X---
kick       X-----x---x-----
"""
SONG = """tempo 100
part A
hat_closed x-x-x-x-x-x-x-x-
snare      ----X-------X---
kick       X-----x---x-----
part B = A
  move kick 3& to 3
  place snare 4a as ghost
section verse = A B A B
"""


def words(page) -> list[str]:  # type: ignore[no-untyped-def]
    return [page.choices.item(k).text() for k in range(page.choices.count())]


@pytest.mark.parametrize(
    ("command", "wanted", "voice"),
    [
        ("groove.voices", "The right hand on the ride", "ride"),
        ("groove.layers", "The hat pedal on 2 and 4", "hat_pedal"),
    ],
)
def test_other_voices_and_layers_are_drawn_heard_and_taken(
    window: Window, until: Until, command: str, wanted: str, voice: str
) -> None:
    window.studio.set_document(Document("x", parse_grid(GROOVE)), None)
    window.go("place")
    window.run(command)
    page = window.at("place").proposal_page
    until(lambda: page.waiting)
    told = words(page)
    assert wanted in told and len(told) > 5
    page.choices.setCurrentRow(told.index(wanted))
    shown = {h.voice for h in window.at("place").grid.groove.pattern.hits}
    assert voice in shown and all(h.voice != voice for h in window.studio.groove.pattern.hits)
    QTest.keyClick(page.choices, Qt.Key.Key_Return)
    assert any(h.voice == voice for h in window.studio.groove.pattern.hits)
    window.run("edit.undo")
    assert window.studio.groove.pattern.hits == parse_grid(GROOVE).pattern.hits


def test_a_style_is_started_from_in_layers(window: Window) -> None:
    dialog = NewDialog(window)
    assert dialog.meter.isEnabled() and not dialog.layers.isEnabled()
    dialog.style_name.setCurrentIndex(dialog.style_name.findData("bossa"))
    dialog.style_name.activated.emit(dialog.style_name.currentIndex())
    assert dialog.tempo.value() == 129 and not dialog.meter.isEnabled()
    dialog.layers.setCurrentIndex(2)
    dialog.tempo.setValue(120)
    dialog.make()
    groove = dialog.document.groove
    assert set(groove.pattern.voices) == {"kick", "hat_pedal"} and groove.tempo.main_bpm == 120
    dialog.first.setCurrentIndex(1)
    dialog.make()
    assert set(dialog.document.groove.pattern.voices) == {"hat_closed", "cross_stick"}


def test_single_changes_are_taken_over_from_part_to_part_and_undone(window: Window) -> None:
    form, groove = parse_text(SONG)
    window.studio.set_document(Document("song", groove, form=form), None)
    window.go("form")
    dialog = CompareDialog(window.studio, window, "part B", "part A")
    assert [dialog.told.item(k).text() for k in range(2)] == [
        "Bar 1: kick on 3& moves to 3", "Bar 1: ghost on 4a added",
    ]  # fmt: skip
    dialog.take()
    assert "Choose a change" in dialog._trouble.text()
    dialog.told.setCurrentRow(1)
    assert len(dialog._grids[0].chosen) == 1 and not dialog._grids[1].chosen
    dialog.take()
    ghosts = [h.position_ticks // 80640 for h in window.studio.groove.pattern.hits if h.role == "ghost"]
    assert ghosts == [0, 1, 2, 3] and "in part A" in window.message
    assert [dialog.told.item(k).text() for k in range(dialog.told.count())] == ["Bar 1: kick on 3& moves to 3"]
    dialog._undo()
    assert dialog.told.count() == 2
    dialog._fill_boxes("part B", "now")
    dialog._show()
    dialog.take_all()
    assert window.studio.document.form.part("A").pattern != form.part("A").pattern


def test_a_version_that_was_kept_is_compared_and_not_changed(window: Window) -> None:
    window.studio.set_document(Document("x", parse_grid(GROOVE)), None)
    window.studio.say("keep first")
    window.studio.say("remove snare ghosts")
    dialog = CompareDialog(window.studio, window, "now", "first")
    before = window.studio.document
    assert not dialog._take.isEnabled()
    dialog.take_all()
    assert window.studio.document is before


def test_another_file_stands_beside(
    window: Window, until: Until, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "live.grid.txt").write_text(GROOVE.replace("X--o----X---", "X-------X--o"))
    window.studio.set_document(Document("studio", parse_grid(GROOVE)), None)
    window.go("place")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a, **_k: (str(tmp_path / "live.grid.txt"), ""))
    seen: list[str] = []

    def takes_all(dialog: CompareDialog) -> int:
        seen.append(dialog._theirs.currentData())
        dialog.take_all()
        return 0

    monkeypatch.setattr(QDialog, "exec", takes_all)
    window.run("versions.file")
    until(lambda: seen == ["live"])
    ghosts = [h.position_ticks // 5040 for h in window.studio.groove.pattern.hits if h.role == "ghost"]
    assert ghosts == [15]


def test_a_recording_is_heard_and_stands_beside(window: Window, until: Until, monkeypatch: pytest.MonkeyPatch) -> None:
    window.studio.set_document(Document("studio", parse_grid(GROOVE)), None)
    window.go("place")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a, **_k: (str(demo_recordings()[0]), ""))
    seen: list[tuple[str, int]] = []

    def looks(dialog: CompareDialog) -> int:
        seen.append((dialog._theirs.currentData(), dialog.told.count()))
        return 0

    monkeypatch.setattr(QDialog, "exec", looks)
    window.run("versions.file")
    until(lambda: bool(seen))
    assert seen[0][0] == "larch-terrace" and seen[0][1] > 5
    # A comparison that is over goes, and does not stay with the place for good.
    until(lambda: not window.at("place").findChildren(CompareDialog))
