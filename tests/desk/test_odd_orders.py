"""Actions in any order: nothing breaks, and undo leads back to the start."""

import random
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QInputDialog, QMessageBox

from ghoststep.desk.model.tasks import Tasks
from ghoststep.files.demo import demo_recordings
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import Cancelled, InputError
from ghoststep.session.commands import COMMANDS
from ghoststep.session.document.document import Document

EDITS = [
    c.name
    for c in COMMANDS.values()
    # What asks first ("…") waits for an answer.
    if c.menu in ("Edit", "Hit", "Touch", "Hands", "Groove") and not c.text.endswith("…") and c.phrase
]


@pytest.mark.parametrize("seed", [1, 2])
def test_random_edits_in_the_window_are_all_taken_back(placed, seed: int) -> None:
    dice, studio, grid = random.Random(seed), placed.studio, placed.at("place").grid
    start = studio.document
    for _ in range(250):
        g = grid.geometry_now()
        if dice.random() < 0.5:
            grid.put_cursor(dice.randrange(g.groove.pattern.length_ticks) // 5040 * 5040, dice.randrange(len(g.lanes)))
        placed.run(dice.choice(EDITS))
    assert studio.history.undo_words
    while studio.history.undo():
        pass
    assert studio.document is start
    studio.playback.stop()


def test_random_commands_of_every_kind(window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, until) -> None:
    """Opening, exporting, playing and editing over one another, with good and bad files."""
    dice = random.Random(7)
    bad = tmp_path / "bad.wav"
    bad.write_bytes(b"RIFFnothing")
    opens = [*map(str, demo_recordings()), str(bad), str(tmp_path), str(tmp_path / "gone.mid")]
    names = (tmp_path / f"{i}{dice.choice(['.ghoststep', '.mid', '.wav', '.pdf', ''])}" for i in range(10_000))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a, **_k: (dice.choice(opens), ""))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a, **_k: (str(next(names)), ""))
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: (dice.choice(["2a", "zzz", "7/8", ""]), True))
    monkeypatch.setattr(QMessageBox, "about", lambda *_: None)
    monkeypatch.setattr(QDialog, "exec", lambda _self: 0)
    QApplication.clipboard().setText("kick X---x---X---x---")
    commands = [name for name in COMMANDS if name != "file.quit"]
    for _ in range(200):
        window.run(dice.choice(commands))
        if dice.random() < 0.3:
            QApplication.processEvents()
    window.studio.cancel()
    until(lambda: not window.studio.busy and not window.studio.session.fitting)
    window.studio.playback.stop()
    assert window.isVisible()


def test_opening_while_listening_is_refused_in_words(window, until) -> None:
    window.open(demo_recordings()[0])
    window.open(demo_recordings()[1])
    assert "Wait for what is going on to end" in window.message
    until(lambda: not window.studio.busy)
    assert window.studio.document.name == "larch-terrace"


def test_another_document_stops_the_sound_of_the_old_one(placed, until) -> None:
    placed.studio.playback.play()
    until(lambda: placed.studio.playback.player.playing)
    placed.studio.set_document(Document("other", parse_grid("kick X---x---X---x---")), None)
    assert not placed.studio.playback.player.playing


def test_a_shorter_pattern_drops_a_range_beyond_its_end(placed) -> None:
    placed.studio.choice.set_range((80640, 2 * 80640))
    placed.run("groove.bar_less")
    assert placed.studio.choice.range_ticks is None


def test_tasks_report_done_failed_and_cancelled(window, until) -> None:
    owner = object()
    tasks, said = Tasks(lambda: owner), []

    def refused(_progress) -> None:
        raise InputError("this is wrong")

    def faulty(_progress) -> None:
        raise ZeroDivisionError

    def endless(progress) -> None:
        while True:
            progress(0.5)

    for work in (lambda _progress: 42, refused, faulty):
        tasks.start("a", work, done=said.append, failed=said.append)
    until(lambda: len(said) == 3)
    assert 42 in said and "this is wrong" in said and any("our fault" in str(s) for s in said)
    task = tasks.start("b", endless, done=said.append, failed=said.append)
    task.cancel()
    until(lambda: not tasks.running)
    assert len(said) == 3
    with pytest.raises(Cancelled):
        task._progress(0.1)
    tasks.wait()


def test_ten_thousand_hits_are_painted_and_scrolled(placed) -> None:
    lanes = "\n".join(f"{v} {'|'.join(['xxxxxxxxxxxxxxxx'] * 160)}" for v in ("hat_closed", "snare", "kick", "ride"))
    placed.studio.set_document(Document("dense", parse_grid(lanes)), None)
    assert len(placed.studio.groove.pattern.hits) == 10_240
    bar = placed.at("place").grid.horizontalScrollBar()
    seen = set()
    for at in np.linspace(0, bar.maximum(), 5).astype(int):
        bar.setValue(int(at))
        seen.add(placed.at("place").grid.grab().toImage().bits().tobytes()[:200_000])
    assert len(seen) > 1
