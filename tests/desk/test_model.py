"""The model behind the places: one choice, tasks that know whose they are, one player, locks, and the registry."""

import gc
import weakref
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from threading import Event

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QFileDialog, QInputDialog, QLabel, QMessageBox
from pytestqt.qtbot import QtBot
from shiboken6 import delete
from tests.desk import pointer
from tests.desk.doubting import doubting
from tests.desk.test_pointing import head_of

from ghoststep.desk.app.places import PLACES
from ghoststep.desk.app.window import Window, bound
from ghoststep.desk.dialogs.new_dialog import NewDialog
from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.choice import Choice
from ghoststep.desk.model.studio import Studio
from ghoststep.desk.model.tasks import Task, Tasks
from ghoststep.desk.parts.place_widget import PlaceWidget
from ghoststep.devices.output import SimulatedOutput
from ghoststep.files import project
from ghoststep.files.project import load_project, save_project
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICES
from ghoststep.session.commands import COMMANDS, MENUS
from ghoststep.session.document.document import Document
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.edits.commit import opened
from ghoststep.sound.program import Plays
from ghoststep.work import corrections

Until = Callable[[Callable[[], bool]], None]
Saves = Callable[[Callable[[Callable[[bool], None]], None]], bool]


@pytest.fixture
def studio(qapp: object) -> Iterator[Studio]:
    made = Studio(SimulatedOutput())
    yield made
    made.close()


@pytest.fixture
def document(grid_text: str) -> Document:
    return opened(Document("depot", parse_grid(grid_text)))


# -- choice -----------------------------------------------------------------------------------------------------


def test_a_choice_holds_through_edits(studio: Studio, document: Document) -> None:
    studio.set_document(document, None)
    assert not studio.choice.keys  # nothing is chosen of what was just opened
    kick = document.groove.pattern.at(0, "kick")
    studio.choice.put(keys=[kick.key])
    assert studio.say("velocity 50") and studio.say("move 1 step")
    [same] = studio.choice.hits(studio.groove.pattern)
    assert (same.key, same.velocity, same.position_ticks) == (kick.key, 50, 5040)
    studio.undo()
    studio.undo()
    assert studio.choice.hits(studio.groove.pattern) == [kick]
    assert studio.say("remove") and studio.choice.hits(studio.groove.pattern) == []


def test_a_range_is_given_up_where_the_groove_gets_shorter(studio: Studio, document: Document) -> None:
    studio.set_document(document, None)
    studio.choice.set_range((80640, 2 * 80640))
    studio.choice.put(cursor_ticks=100_000)
    assert studio.say("bars 1")
    assert studio.choice.range_ticks is None and studio.choice.cursor_ticks == 80639
    choice = Choice()
    choice.set_range((5, 5))
    assert choice.range_ticks is None


# -- tasks ------------------------------------------------------------------------------------------------------


def test_tasks_tell_honestly_what_is_going_on(qtbot: QtBot, qapp: object) -> None:
    tasks, go, told = Tasks(lambda: 1), Event(), []
    tasks.busy_changed.connect(lambda words, share: told.append(words))
    ends: list[str] = []
    tasks.start("a", lambda _p: go.wait(20), words="long", done=lambda _r: ends.append("long"))
    tasks.start("b", lambda _p: None, words="short", done=lambda _r: ends.append("short"))
    qtbot.waitUntil(lambda: ends == ["short"], timeout=20_000)
    assert tasks.busy and told[-1] == "long"  # the first that ends does not end the other
    go.set()
    qtbot.waitUntil(lambda: ends == ["short", "long"], timeout=20_000)
    assert not tasks.busy and told[-1] == ""


def test_what_is_cancelled_stops_at_its_next_report(qtbot: QtBot, qapp: object) -> None:
    tasks, inside, ended = Tasks(lambda: 1), Event(), []

    def work(progress: Callable[[float], None]) -> None:
        while True:
            inside.set()
            progress(0.5)

    tasks.start("a", work, words="for ever", done=lambda _r: ended.append("done"), failed=ended.append)
    assert inside.wait(20)
    assert tasks.cancel_shown() and not tasks.busy
    qtbot.waitUntil(lambda: tasks.running == 0, timeout=20_000)
    assert ended == []


def test_what_ends_for_another_document_is_not_laid_over_it(qtbot: QtBot, qapp: object) -> None:
    owner = [1]
    tasks, go = Tasks(lambda: owner[0]), Event()
    got: list[str] = []
    tasks.start("a", lambda _p: go.wait(20), done=lambda _r: got.append("done"))
    tasks.start("b", lambda _p: go.wait(20), done=lambda _r: got.append("done"), late=lambda _r: got.append("late"))
    tasks.start("c", lambda _p: go.wait(20), done=lambda _r: got.append("whatever"), always=True)
    owner[0] = 2
    go.set()
    qtbot.waitUntil(lambda: tasks.running == 0, timeout=20_000)
    assert sorted(got) == ["late", "whatever"]


def test_a_fault_in_the_background_is_said(qtbot: QtBot, qapp: object) -> None:
    tasks, said = Tasks(lambda: 1), []

    def refuse(_progress: object) -> None:
        raise InputError("No such groove.")

    tasks.start("a", lambda _p: {}["nothing"], failed=said.append)
    tasks.start("a", refuse, failed=said.append)
    qtbot.waitUntil(lambda: len(said) == 2, timeout=20_000)
    assert "our fault" in said[0] and said[1] == "No such groove."


def test_a_waiting_correction_does_not_land_in_another_document(
    studio: Studio, heard: Document, document: Document, until: Until
) -> None:
    studio.set_document(heard, None)
    hit = studio.groove.pattern.hits[0]
    for name in ("ride", "crash"):
        studio.session.correct(lambda d, n=name: corrections.correct_voice(d, [hit], n))
    studio.set_document(document, None)
    until(lambda: studio.tasks.running == 0)
    assert studio.document.groove == document.groove and not studio.history.unsaved and not studio.session.fitting


def test_a_correction_waits_for_what_was_edited_meanwhile(studio: Studio, heard: Document, until: Until) -> None:
    studio.set_document(heard, None)
    hit, other = studio.groove.pattern.hits[0], studio.groove.pattern.hits[5]
    studio.session.correct(lambda d: corrections.correct_voice(d, [hit], "crash"))
    assert studio.edit(lambda d: edits.set_velocity(d, [other], 33))
    until(lambda: not studio.session.fitting)
    after = {h.key: h for h in studio.groove.pattern.hits}
    assert after[hit.key].voice == "crash" and after[other.key].velocity == 33


# -- playing ----------------------------------------------------------------------------------------------------


def test_an_edit_leaves_what_else_is_playing_alone(studio: Studio, document: Document, until: Until) -> None:
    studio.set_document(document, None)
    studio.playback.try_out(document.groove.changed(hits=document.groove.pattern.hits[:3]))
    until(lambda: studio.playback.player.playing)
    assert studio.playback.player.what is Plays.PREVIEW
    assert studio.say("place kick 2e")
    until(lambda: studio.tasks.running == 0)
    assert studio.playback.player.what is Plays.PREVIEW
    studio.playback.stop()
    studio.playback.play_click(90)
    until(lambda: studio.playback.player.playing)
    assert studio.playback.player.what is Plays.CLICK and studio.playback.player.position_ticks() is None
    studio.playback.stop()


# -- files ------------------------------------------------------------------------------------------------------


def test_a_second_window_gets_a_copy(studio: Studio, document: Document, tmp_path: Path, saves: Saves) -> None:
    path = tmp_path / "a.ghoststep"
    save_project(path, document)
    studio.set_document(load_project(path), path)
    second, said = Studio(SimulatedOutput()), []
    second.said.connect(lambda words, _trouble: said.append(words))
    second.set_document(load_project(path), path)
    assert second.file.path is None and "open in another window" in said[-1]
    assert saves(lambda then: second.file.save(path, then)) is False and "open in another window" in said[-1]
    second.close()
    assert studio.file.path == path and saves(lambda then: studio.file.save(path, then))


def test_a_file_changed_outside_is_noticed(studio: Studio, document: Document, tmp_path: Path, saves: Saves) -> None:
    path = tmp_path / "a.ghoststep"
    save_project(path, document)
    studio.set_document(load_project(path), path)
    assert not studio.file.changed_outside
    save_project(path, replace(document, name="other"))
    assert studio.file.changed_outside
    assert saves(lambda then: studio.file.save(path, then)) and not studio.file.changed_outside


def test_a_suffix_is_added_before_the_question(
    placed: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, document: Document
) -> None:
    """Typing `song` where `song.ghoststep` stands asks about that file, and no is no."""
    there = tmp_path / "song.ghoststep"
    save_project(there, document)
    before = there.read_bytes()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a, **_k: (str(tmp_path / "song"), ""))
    asked: list[str] = []

    def no(box: QMessageBox) -> QMessageBox.StandardButton:
        asked.append(box.text())
        return QMessageBox.StandardButton.Cancel

    monkeypatch.setattr(QMessageBox, "exec", no)
    placed.run("file.save_as")
    assert asked == ["song.ghoststep is there already. Write over it?"]
    assert there.read_bytes() == before and not (tmp_path / "song").exists()


def test_a_failed_copy_is_tried_again(
    studio: Studio, document: Document, until: Until, monkeypatch: pytest.MonkeyPatch
) -> None:
    studio.set_document(document, None)
    assert studio.say("place kick 2e")
    said: list[str] = []
    studio.said.connect(lambda words, _trouble: said.append(words))
    with monkeypatch.context() as full:

        def fails(*_: object, **__: object) -> None:
            raise InputError("The copy could not be written: the disk is full.")

        full.setattr(project, "save_project", fails)
        studio.autosave.keep()
        until(lambda: studio.tasks.running == 0)
    assert "the disk is full" in said[-1] and studio.autosave.copied is None
    studio.autosave.keep()
    until(lambda: studio.tasks.running == 0)
    assert studio.autosave.copied is studio.document and studio.autosave.copy.file.exists()


# -- the window -------------------------------------------------------------------------------------------------


def test_new_grooves_begin_empty_or_with_lanes(placed: Window) -> None:
    dialog = NewDialog(placed)
    dialog.meter.setText("7/9")
    dialog.make()
    assert dialog.document is None and "7/9" in dialog._trouble.text()
    dialog.meter.setText("7/8 2+2+3")
    dialog.tempo.setValue(132)
    dialog.bars.setValue(3)
    dialog.make()
    assert dialog.document is not None
    groove = dialog.document.groove
    assert (str(groove.pattern.meter), groove.pattern.bars, groove.tempo.main_bpm) == ("7/8", 3, 132)
    assert not groove.pattern.hits
    dialog.text.setPlainText("tempo 90\nsnare ----X---X-----")
    dialog.make()
    assert [h.position_ticks for h in dialog.document.groove.pattern.hits] == [4 * 5040, 8 * 5040]
    assert dialog.document.groove.tempo.main_bpm == 90
    dialog.text.setPlainText("snare X")
    dialog.make()
    assert "14" in dialog._trouble.text()


def test_a_groove_can_be_called_something_else(placed: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("<b>Fog</b> viaduct", True))
    placed.run("file.rename")
    assert placed.studio.document.name == "<b>Fog</b> viaduct" and placed._title.text().startswith("<b>Fog</b>")
    placed.run("edit.undo")
    assert placed.studio.document.name == "depot"


def test_names_from_files_are_plain_text_everywhere(placed: Window) -> None:
    for label in placed.findChildren(QLabel):
        assert label.textFormat() is Qt.TextFormat.PlainText, label.text()


def test_dragging_one_of_several_stems_sideways_keeps_their_velocities(placed: Window) -> None:
    grid = placed.at("place").grid
    hits = [h for h in placed.studio.groove.pattern.hits if h.voice == "snare"][:2]
    for h, velocity in zip(hits, (40, 110), strict=True):
        placed.studio.choice.put(keys=[h.key])
        placed.studio.say(f"velocity {velocity}")
    placed.studio.choice.put(keys=[h.key for h in hits])
    index = next(i for i, h in enumerate(placed.studio.groove.pattern.hits) if h.key == hits[0].key)
    here = head_of(grid, index)
    pointer.press(grid.viewport(), here)
    for away in (4, 8, 12):
        pointer.drag(grid.viewport(), here + QPoint(away, 0))
    pointer.release(grid.viewport(), here + QPoint(12, 0))
    after = {h.key: h for h in placed.studio.groove.pattern.hits}
    assert [after[h.key].velocity for h in hits] == [40, 110]
    assert all(after[h.key].offset_ms > 0 or after[h.key].position_ticks > h.position_ticks for h in hits)


# -- places -----------------------------------------------------------------------------------------------------


def test_every_place_declares_itself(window: Window) -> None:
    assert list(PLACES) == ["listen", "place", "form", "check"]
    keys = [key for row in COMMANDS.values() for key in row.keys if row.place == ""]
    assert len(keys) == len(set(keys))
    for name, place in PLACES.items():
        widget = window.at(name)
        assert isinstance(widget, PlaceWidget) and place.title and place.key
        window.go(name)
        assert window.place == name and widget.isVisible()
        assert all(menu in MENUS for column in place.sheet for menu in column)
        mine = [k for row in COMMANDS.values() if row.place in ("", name) for k in row.keys]
        assert len(mine) == len(set(mine)), name


def test_the_pictures_of_every_place_can_be_taken(
    window: Window, heard: Document, until: Until, monkeypatch: pytest.MonkeyPatch
) -> None:
    doubted = doubting(heard, {5: 0.5})
    monkeypatch.setattr(window, "open", lambda _path: window.studio.set_document(doubted, None))
    trouble: list[str] = []
    window.studio.said.connect(lambda words, bad: trouble.append(words) if bad else None)
    for place in PLACES.values():
        assert place.pictures()
        for picture in place.pictures():
            for step in picture.steps:
                step(window)
                until(lambda: not window.studio.tasks.running)
                assert not trouble, picture.name
            assert window.place == place.name, picture.name
            if picture.dialog is not None:
                picture.dialog(window).close()


def test_hidden_places_do_not_paint(placed: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    painted: list[str] = []
    for name in PLACES:
        widget = placed.at(name)
        monkeypatch.setattr(widget, "show_document", lambda n=name: painted.append(n))
    painted.clear()
    assert placed.studio.say("place kick 2e") and placed.studio.say("place kick 3e")
    assert painted == ["place", "place"]
    placed.go("listen")
    assert painted == ["place", "place", "listen"]  # once, with the newest state


def test_the_frame_is_drawn_played_and_looped(placed: Window, until: Until) -> None:
    text = """
    tempo 96
    bar 2 meter 7/8 2+2+3
    bar 3 meter 4/4
    bar 2 tempo 96 -> 120 over 2
    hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
    kick       X---------X----- | X-----X------- | X-------X-------
    """
    studio = placed.studio
    studio.set_document(Document("frame", parse_grid(text)), None)
    placed.go("place")
    frame = studio.groove.pattern.frame
    geometry = placed.at("place").grid.geometry_now()
    bars = [geometry.x_of(frame.start_of(b)) for b in (1, 2, 3, 4)]
    assert bars[2] - bars[1] == pytest.approx(7 / 8 * (bars[1] - bars[0]), abs=1)
    studio.choice.set_range((frame.start_of(2), frame.start_of(3)))
    studio.playback.play()
    until(lambda: studio.playback.player.playing)
    program = studio.playback.player.program
    assert program is not None
    lasts = float(np.diff(studio.groove.tempo.seconds([frame.start_of(2), frame.start_of(3)]))[0])
    assert len(program.samples) == pytest.approx(lasts * program.rate, abs=1)
    assert program.position_ticks(0) == frame.start_of(2)
    studio.playback.stop()


@pytest.mark.parametrize("over", [True, False])
def test_what_somebody_else_wrote_is_asked_about(
    placed: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, over: bool, until: Until
) -> None:
    path, beside = tmp_path / "a.ghoststep", tmp_path / "b.ghoststep"
    save_project(path, placed.studio.document)
    placed.studio.set_document(load_project(path), path)
    assert placed.studio.say("place kick 2e")
    save_project(path, Document("theirs"))
    asked: list[str] = []

    def answered(box: QMessageBox) -> int:
        asked.append(box.text())
        button = next(b for b in box.buttons() if ("over" in b.text()) is over)
        button.click()
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answered)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a, **_k: (str(beside), ""))
    placed.run("file.save")
    until(lambda: not placed.studio.history.unsaved)
    assert len(asked) == 1 and asked[0].startswith("a.ghoststep was changed by something else")
    assert beside.exists() is not over
    assert load_project(path if over else beside).groove == placed.studio.groove
    assert over or load_project(path).name == "theirs"


def test_long_menus_have_groups_that_stand_together(window: Window) -> None:
    for action in window.menuBar().actions():
        entries = action.menu().actions()
        lengths = [len(part.split()) for part in " ".join("|" if e.isSeparator() else "x" for e in entries).split("|")]
        assert max(lengths) <= len(VOICES) and min(lengths) >= 1, action.text()
        assert len(lengths) > 1 or len(entries) <= 7, action.text()


def test_what_a_task_worked_on_goes_when_it_has_ended(qtbot: QtBot, qapp: object) -> None:
    class Large:
        pass

    tasks, held = Tasks(lambda: 1), []
    for _ in range(5):
        large = Large()
        held.append(weakref.ref(large))
        tasks.start("a", lambda _p, large=large: large, done=lambda _r, large=large: None)
        del large
    qtbot.waitUntil(lambda: not tasks.running)
    gc.collect()
    assert [ref() for ref in held] == [None] * 5


def test_work_that_ends_after_the_window_is_gone_tells_nobody(caplog: pytest.LogCaptureFixture) -> None:
    task = Task(lambda progress: progress(0.5))
    delete(task.signals)
    task.run()
    done = Task(lambda _progress: delete(done.signals))
    done.run()
    assert not caplog.records


def test_every_command_says_a_phrase_or_is_bound_to_something_the_desk_does() -> None:
    assert all(callable(bound(name)) for name, row in COMMANDS.items() if not row.phrase)
    for place in PLACES.values():
        assert all(COMMANDS[name].place == place.name for name in place.does())
    with pytest.raises(LookupError, match="sing"):
        Bound().runs("sing")
    with pytest.raises(LookupError, match=r"hit\.ghost"):
        Bound().runs("hit.ghost")


def test_what_the_end_of_the_program_cuts_off_is_no_fault(
    caplog: pytest.LogCaptureFixture, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Once Python is shut down, nothing can be loaded any more: who was still loading something has lost nothing."""

    class Gone:
        def is_alive(self) -> bool:
            return False

    def load(_progress: object) -> None:
        task.cancel()  # closing cancels everything, and waits only so long
        raise RuntimeError("can't register atexit after shutdown")

    task = Task(load)
    task.run()
    assert "a fault of ours" in caplog.text  # while the program runs it is one
    caplog.clear()
    monkeypatch.setattr("ghoststep.desk.model.tasks.main_thread", Gone)
    task = Task(load)
    task.run()
    assert "a fault of ours" not in caplog.text
