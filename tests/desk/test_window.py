"""The real window, driven as its users drive it."""

import json
import os
import subprocess
import sys
from pathlib import Path
from threading import Semaphore

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QTimer, QUrl
from PySide6.QtGui import QDropEvent, QKeySequence
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QMessageBox
from tests.desk import pointer
from tests.listen.scoring import matched

from ghoststep.desk.app.places import PLACES
from ghoststep.desk.app.sheet import ShortcutSheet
from ghoststep.desk.model import memory
from ghoststep.files import project
from ghoststep.files.demo import demo_recordings
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.midi_in import groove_of, read_midi
from ghoststep.files.project import load_project
from ghoststep.music.kit import voice
from ghoststep.music.meter import Meter
from ghoststep.music.touch import Role
from ghoststep.session.commands import COMMANDS, MENUS
from ghoststep.session.document.document import Document
from ghoststep.sound.program import Source
from ghoststep.work.corrections import reading

KEYS = general_midi_keys()


def press(widget, key: str) -> None:
    """Press a key or combination given in Qt's notation."""
    combination = QKeySequence(key)[0]
    QTest.keyClick(widget, combination.key(), combination.keyboardModifiers())


def drop(window, path: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    buttons, modifiers = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    window.dropEvent(QDropEvent(QPointF(300, 300), Qt.DropAction.CopyAction, data, buttons, modifiers))


def test_from_a_dropped_recording_to_midi(window, until, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Drop, listen, go to the grid, hear it, change a hit, undo, save, reopen, export, compare with the truth."""
    recording = demo_recordings()[0]
    drop(window, recording)
    assert window.studio.busy
    until(lambda: not window.studio.busy)
    assert window.place == "listen" and window.studio.document.listening is not None
    press(window, "F2")
    assert window.place == "place"
    window.studio.playback.set_wish(source=Source.IN_TURN)
    press(window.at("place").grid, "Space")
    until(lambda: window.studio.playback.player.position_ticks() is not None)
    press(window.at("place").grid, "Space")
    assert not window.studio.playback.player.playing

    before = window.studio.document
    window.at("place").grid.put_cursor(0, window.at("place").grid.geometry_now().row_of("kick"))
    press(window.at("place").grid, "G")
    assert window.studio.groove.pattern.at(0, "kick").role is Role.GHOST and "Kick 1: ghost" in window.message
    press(window.at("place").grid, "Ctrl+Z")
    assert window.studio.document is before

    project, midi = tmp_path / "night.ghoststep", tmp_path / "night.mid"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **_k: (str(project), ""))
    press(window, "Ctrl+S")
    until(lambda: window.studio.file.path is not None)
    assert not window.studio.history.unsaved
    assert window.windowTitle().startswith("night.ghoststep -")
    window.open(project)
    until(lambda: not window.studio.busy)
    assert window.studio.groove == before.groove
    assert window.studio.document.recording.data == recording.read_bytes()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **_k: (str(midi), ""))
    press(window, "Ctrl+E")
    until(lambda: not window.studio.tasks.running)
    assert "night.mid written, 76 notes" in window.message

    truth = json.loads(recording.with_suffix(".json").read_text())
    take = read_midi(midi, KEYS)
    onset = take.tempo.seconds(take.ticks) + window.studio.document.listening.explained.start_s
    assert take.tempo.main_bpm == pytest.approx(truth["tempo_bpm"], rel=0.005)
    for group in ("kick", "snare", "hat"):
        meant = [h["time_s"] for h in truth["hits"] if voice(h["voice"]).group == group]
        found = [float(t) for t, v in zip(onset, take.voice, strict=True) if voice_group(v) == group]
        assert matched(meant, found) >= 0.8 * len(meant)
    assert groove_of(take).pattern.bars == truth["bars"]


def voice_group(index: int) -> str:
    from ghoststep.music.kit import VOICES

    return VOICES[index].group


def test_a_bar_by_keyboard_alone(placed) -> None:
    grid, studio = placed.at("place").grid, placed.studio
    for key in ("Ctrl+A", "Delete"):
        press(grid, key)
    assert not studio.groove.pattern.hits
    grid.put_cursor(0, 0)
    for _ in range(8):
        press(grid, "Return")
        press(grid, "Right")
        press(grid, "Right")
    press(grid, "Down")
    grid.put_cursor(20160, 1)
    press(grid, "A")
    press(grid, "Shift+Up")
    press(grid, "Alt+Right")
    press(grid, "Alt+Right")
    press(grid, "Right")
    press(grid, "G")
    press(grid, "Down")
    press(grid, "N")
    press(grid, "Shift+Left")
    hits = [(h.voice, h.position_ticks // 5040, h.velocity, h.offset_ms) for h in studio.groove.pattern.hits]
    hats = [h for h in hits if h[0] == "hat_closed"]
    assert [h[1] for h in hats] == list(range(0, 16, 2))
    assert ("snare", 4, 112, 2.0) in hits and ("snare", 5, 32, 0.0) in hits and ("kick", 4, 72, 0.0) in hits
    while studio.history.undo():
        pass
    assert len(studio.groove.pattern.hits) == 32


def test_the_mouse_drags_height_and_side(placed, qtbot) -> None:
    grid = placed.at("place").grid
    g = grid.geometry_now()
    hit = placed.studio.groove.pattern.at(20160, "snare")
    row = g.row_of("snare")
    start = QPoint(round(g.stem_x(hit)), round(g.head_y(row, hit.velocity)))
    end = start + QPoint(round(12 * g.ms_px(0)), round(0.25 * g.full_stem))
    view = grid.viewport()
    pointer.press(view, start)
    pointer.drag(view, start + QPoint(3, 8))
    pointer.drag(view, end)
    assert placed.studio.groove.pattern.at(20160, "snare") is hit  # not a step yet
    pointer.release(view, end)
    moved = placed.studio.groove.pattern.at(20160, "snare")
    assert moved.velocity == pytest.approx(108 - 0.25 * 127, abs=2) and moved.offset_ms == pytest.approx(12, abs=1.5)
    placed.studio.undo()
    assert placed.studio.groove.pattern.at(20160, "snare") == hit


def test_double_click_places_and_the_card_edits(placed) -> None:
    grid = placed.at("place").grid
    g = grid.geometry_now()
    row = g.row_of("kick")
    QTest.mouseDClick(
        grid.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(round(g.line_x(5040)), round(g.lane_top(row) + 20))
    )
    assert placed.studio.groove.pattern.at(5040, "kick").velocity == 72
    card = placed.at("place").hit_page
    card._velocity.setValue(31)
    assert placed.studio.groove.pattern.at(5040, "kick").role is Role.GHOST
    card._offset.setValue(-8.0)
    placed.at("place").groove_page._tempo.setValue(120.0)
    placed.at("place").time_page._ratio.setValue(58.0)
    groove = placed.studio.groove
    assert groove.pattern.at(5040, "kick").offset_ms == -8
    assert groove.tempo.main_bpm == 120 and groove.feel.swing.ratio == 0.58


def test_a_rubber_band_and_the_ruler_choose(placed) -> None:
    grid, view = placed.at("place").grid, placed.at("place").grid.viewport()
    g = grid.geometry_now()
    a = QPoint(round(g.x_of(0)) - 8, round(g.lane_top(2)) + 3)
    b = QPoint(round(g.x_of(4 * 20160)) - 8, round(g.lane_top(2) + g.lane_h) - 3)
    pointer.press(view, a)
    pointer.drag(view, a + QPoint(20, 10))
    pointer.drag(view, b)
    pointer.release(view, b)
    assert {h.voice for h in grid.chosen_hits()} == {"kick"} and len(grid.chosen_hits()) == 3
    pointer.press(view, QPoint(round(g.x_of(0)) + 5, 20))
    pointer.drag(view, QPoint(round(g.x_of(20160)), 20))
    pointer.drag(view, QPoint(round(g.x_of(2 * 20160)) - 5, 20))
    pointer.release(view, QPoint(round(g.x_of(2 * 20160)) - 5, 20))
    assert placed.studio.choice.range_ticks == (0, 2 * 20160)


def test_an_edit_while_playing_goes_on_playing(placed, until) -> None:
    studio = placed.studio
    studio.playback.play()
    until(lambda: studio.playback.player.playing)
    first = studio.playback.player.program
    placed.run("edit.select_all")
    placed.run("hit.softer")
    until(lambda: studio.playback.player.program is not first)
    assert studio.playback.player.playing
    studio.playback.stop()


def test_listening_can_be_cancelled_and_errors_are_said(window, until, tmp_path: Path) -> None:
    document = window.studio.document
    window.open(demo_recordings()[1])
    press(window, "Esc")
    until(lambda: not window.studio.busy)
    assert window.studio.document is document
    broken = tmp_path / "broken.wav"
    broken.write_bytes(b"nothing")
    drop(window, broken)
    until(lambda: not window.studio.busy)
    assert "broken.wav could not be read as sound" in window.message and window.studio.document is document


def test_another_reading_is_one_step_and_can_be_taken_back(window, until) -> None:
    window.open(demo_recordings()[0])
    until(lambda: not window.studio.busy)
    heard = window.studio.document
    window.studio.session.correct(lambda d: reading(d, 184, Meter()))
    until(lambda: not window.studio.session.fitting)
    assert window.studio.groove.tempo.main_bpm == pytest.approx(184, rel=0.01)
    window.studio.undo()
    assert window.studio.document is heard


def test_a_failed_save_keeps_the_work(placed, tmp_path: Path, saves) -> None:
    placed.run("hit.toggle")
    assert not saves(lambda then: placed.studio.file.save(tmp_path / "nowhere" / "a.ghoststep", then))
    assert "could not be written" in placed.message and placed.studio.history.unsaved


def test_leaving_asks_about_unsaved_work(placed, monkeypatch: pytest.MonkeyPatch) -> None:
    placed.run("hit.toggle")
    monkeypatch.setattr(QMessageBox, "question", lambda *_a, **_k: QMessageBox.StandardButton.Cancel)
    assert not placed.close() and placed.isVisible()
    monkeypatch.setattr(QMessageBox, "question", lambda *_a, **_k: QMessageBox.StandardButton.Discard)


CRASH = """
import os, sys
os.environ["QT_QPA_PLATFORM"] = "offscreen"
from ghoststep.desk.model import memory
from ghoststep.files import project
from ghoststep.files.project import load_project
from pathlib import Path
memory.Copy().keep(load_project(Path(sys.argv[1])))
os.kill(os.getpid(), 9)
"""


def test_work_is_recovered_after_a_kill(placed, until, tmp_path: Path, grid_text: str, saves) -> None:
    placed.run("hit.toggle")
    document = placed.studio.document
    path = tmp_path / "a.ghoststep"
    assert saves(lambda then: placed.studio.file.save(path, then))
    done = subprocess.run([sys.executable, "-c", CRASH, str(path)], env={**os.environ, "PYTHONPATH": "src"})
    assert done.returncode == -9
    found = memory.leftovers()
    assert len(found) == 1 and found[0].age_words == "just now"
    placed.studio.set_document(Document(), None)
    placed.offer_recovery()
    buttons = [b for b in placed._banner.children() if hasattr(b, "click")]
    buttons[0].click()
    assert placed.studio.groove == document.groove and placed.studio.history.unsaved
    until(lambda: not placed.studio.tasks.running)
    assert not memory.leftovers() and not found[0].file.exists()  # this document has a copy of its own by now


def copies() -> list[Path]:
    return sorted(memory.autosave_folder().glob("*.ghoststep"))


def test_autosave_keeps_a_copy_until_a_clean_end(placed, until) -> None:
    placed.run("hit.toggle")
    placed.studio.autosave.keep()
    until(lambda: bool(copies()) and not placed.studio.tasks.running)
    assert load_project(copies()[0]) == placed.studio.document
    assert copies()[0].stat().st_mode & 0o777 == 0o600 and memory.autosave_folder().stat().st_mode & 0o777 == 0o700
    assert not memory.leftovers()  # a program that runs holds it
    placed.studio.close()
    assert not copies()


def test_recent_files_are_kept_and_gone_ones_left_out(window, tmp_path: Path, until) -> None:
    grid = tmp_path / "x.grid.txt"
    grid.write_text("kick X---x---X---x---")
    window.open(grid)
    until(lambda: not window.studio.busy)
    assert memory.recent_files() == [grid]
    grid.unlink()
    assert memory.recent_files() == []
    (memory.state_folder() / "recent.json").write_text("{broken")
    assert memory.recent_files() == []


def test_every_command_has_its_place_in_the_menus_and_no_key_is_used_twice() -> None:
    for place in PLACES:  # a key may mean one thing in one place and another elsewhere
        keys = [k for c in COMMANDS.values() if c.place in ("", place) for k in c.keys]
        assert len(keys) == len(set(keys))
    for command in COMMANDS.values():
        assert command.menu in MENUS and command.text
        assert all(QKeySequence(k).toString() for k in command.keys), command.name
        assert command.place in ("", *PLACES)


# What opens a dialog ("…") waits for an answer, but for the line in which commands are typed.
SKIPPED = {
    *(c.name for c in COMMANDS.values() if c.text.endswith("…") and c.name not in ("edit.say", "edit.find")),
    "file.quit",
    "file.save",
    "help.keys",
    "help.say",
    "help.about",
}


@pytest.mark.parametrize("menu", MENUS)
def test_every_command_runs_on_an_empty_and_on_a_full_document(window, grid_text: str, menu: str) -> None:
    from ghoststep.files.textgrid import parse_grid

    rows = [c for c in COMMANDS.values() if c.menu == menu and c.name not in SKIPPED]
    for row in rows:
        for document in (Document(), Document("x", parse_grid(grid_text))):
            window.studio.set_document(document, None)
            for place in [row.place] if row.place else PLACES:  # elsewhere the row of a place does nothing
                window.go(place)
                window.run(row.name)
    window.studio.playback.stop()


def test_the_shortcut_sheet_holds_every_key(window) -> None:
    sheets = [ShortcutSheet(place, window) for place in PLACES.values()]
    texts = {w.text() for s in sheets for w in s.findChildren(type(window.transport._where))}
    assert all(c.text in texts for c in COMMANDS.values() if c.keys)


def test_pictures_are_not_blank(placed, until) -> None:
    image = placed.grab().toImage()
    colors = {image.pixelColor(x, y).name() for x in range(160, 980, 3) for y in range(120, 700, 7)}
    assert len(colors) > 20
    placed.run("view.theme")
    assert placed.grab().toImage().pixelColor(500, 130) != image.pixelColor(500, 130)
    placed.run("view.theme")


def test_the_waveform_shows_the_loudest_samples() -> None:
    from ghoststep.desk.listen.wave_view import peaks
    from ghoststep.session.document.document import Recording

    samples = np.zeros((1000, 1), np.float32)
    samples[500], samples[700] = 1, -1
    low, high = peaks(Recording("x", b"", samples, 1000), 50, 0.0, 2.0)
    assert high[12] == 1 and low[17] == -1 and high.sum() == 1 and not high[25:].any()


def test_qt_does_not_lose_references_to_none(qapp) -> None:
    """Some releases of the bindings lose one reference to None at each void call and die after some thousands."""
    from PySide6.QtCore import QObject

    thing = QObject()
    before = sys.getrefcount(None)
    for _ in range(10_000):
        thing.setObjectName("x")
    assert abs(sys.getrefcount(None) - before) < 5_000


def test_the_window_is_up_while_a_slow_job_runs(window, until) -> None:
    beats = Semaphore(0)

    def slow(progress) -> Document:
        for i in range(20):  # each step waits for the window to have drawn breath
            assert beats.acquire(timeout=60)
            progress(i / 20)
        return Document("slow")

    window.studio.tasks.start("listen", slow, done=lambda d: window.studio.set_document(d, None), words="Slow work")
    timer = QTimer()
    timer.timeout.connect(beats.release)
    timer.start(1)
    until(lambda: not window.studio.busy)
    assert window.studio.document.name == "slow"


@pytest.mark.parametrize("place", ["listen", "place", "form", "check"])
def test_the_shortcut_sheet_fits_a_small_screen(window, place: str) -> None:
    sheet = ShortcutSheet(PLACES[place], window)
    assert sheet.sizeHint().width() <= 1280 and sheet.sizeHint().height() <= 780


def test_what_was_said_of_one_file_does_not_stand_over_the_next(window, until, tmp_path) -> None:
    window.open(tmp_path / "missing.wav")
    until(lambda: not window.studio.tasks.running)
    assert "missing.wav" in window.message
    window.open(demo_recordings()[0])
    assert "missing.wav" not in window.message
    until(lambda: not window.studio.tasks.running)
    assert "missing.wav" not in window.message and window.studio.document.recording is not None


def test_what_could_not_be_kept_of_the_old_file_is_said(placed, tmp_path: Path, saves) -> None:
    path, other = tmp_path / "a.ghoststep", tmp_path / "b.ghoststep"
    assert saves(lambda then: placed.studio.file.save(path, then))
    assert placed.message == f"Saved as {path.name}."
    os.link(path, other)
    placed.studio.call("name", name="depot two")
    assert saves(lambda then: placed.studio.file.save(path, then))
    assert "had other names (hard links): those keep the old content" in placed.message


def test_a_window_that_saves_first_closes_by_itself(placed, until, tmp_path: Path, monkeypatch) -> None:
    placed.run("hit.toggle")
    path = tmp_path / "last.ghoststep"
    monkeypatch.setattr(QMessageBox, "question", lambda *_a, **_k: QMessageBox.StandardButton.Save)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a, **_k: (str(path), ""))
    placed.close()
    until(lambda: not placed.isVisible())
    assert load_project(path).groove == placed.studio.groove


def test_what_is_done_while_it_is_saved_is_asked_about_again(placed, until, tmp_path: Path, monkeypatch) -> None:
    placed.run("hit.toggle")
    asked: list[str] = []
    gate = Semaphore(0)
    whole = project.save_project

    def slowly(*args, **more) -> str:
        gate.acquire()
        return whole(*args, **more)

    def answer(*_a, **_k) -> QMessageBox.StandardButton:
        asked.append("save first?")
        return QMessageBox.StandardButton.Save if len(asked) == 1 else QMessageBox.StandardButton.Cancel

    monkeypatch.setattr(project, "save_project", slowly)
    monkeypatch.setattr(QMessageBox, "question", answer)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a, **_k: (str(tmp_path / "a.ghoststep"), ""))
    gone: list[bool] = []
    placed.leave(lambda: gone.append(True))
    assert placed.studio.say("place kick 2e")  # while the file is being written
    gate.release()
    until(lambda: len(asked) == 2)
    assert not gone and placed.studio.history.unsaved


def test_what_was_worked_out_for_another_state_is_dropped(placed, until) -> None:
    gate, shown = Semaphore(0), []

    def work(document: Document, _progress) -> str:
        gate.acquire()
        return document.name

    placed.studio.compute("craft", work, shown.append)
    assert placed.studio.say("place kick 2e")
    gate.release()
    until(lambda: not placed.studio.tasks.running)
    assert shown == []
    placed.studio.compute("craft", work, shown.append)
    gate.release()
    until(lambda: not placed.studio.tasks.running)
    assert shown == [placed.studio.document.name]
