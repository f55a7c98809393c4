"""The program always starts, says what it ignored, and no fault of ours is invisible."""

import logging
import os
import sys
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtWidgets import QMessageBox
from pytestqt.qtbot import QtBot

from ghoststep.desk.app.faults import Faults
from ghoststep.desk.app.start import make_window
from ghoststep.desk.model.studio import Studio
from ghoststep.devices.output import SimulatedOutput
from ghoststep.files.places import keys_file, log_file, settings_folder, start_log, state_folder


def a_pipe(path: Path) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    os.mkfifo(path)


def a_folder(path: Path) -> None:
    path.mkdir(parents=True)


def rubbish(path: Path) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(b"\xff\xfe[[[=\x00geometry=@Variant(rubbish)\n" * 40)


ODD = [
    (lambda: settings_folder() / "window.ini", a_pipe, "usual ones, and are not kept"),
    (lambda: settings_folder() / "window.ini", a_folder, "usual ones, and are not kept"),
    (lambda: settings_folder() / "window.ini", rubbish, ""),
    (keys_file, a_pipe, "built-in key map"),
    (keys_file, a_folder, "built-in key map"),
    (keys_file, rubbish, "built-in key map"),
    (lambda: state_folder() / "recent.json", a_pipe, ""),
    (lambda: state_folder() / "recent.json", rubbish, ""),
    (lambda: state_folder() / "autosave", rubbish, ""),
    (lambda: settings_folder(), rubbish, ""),
    (log_file, a_pipe, ""),
]


@pytest.mark.parametrize(("where", "made", "says"), ODD)
def test_the_program_always_starts(
    qtbot: QtBot,
    monkeypatch: pytest.MonkeyPatch,
    where: Callable[[], Path],
    made: Callable[[Path], None],
    says: str,
) -> None:
    monkeypatch.setattr(QMessageBox, "question", lambda *_a, **_k: QMessageBox.StandardButton.Discard)
    made(where())
    start_log()
    window = make_window(Studio(SimulatedOutput()))
    qtbot.addWidget(window)  # taken away at the end: a window left over is dressed anew with every later one
    try:
        assert says in window.message
        assert window.studio.say("place kick 2")
        window.offer_recovery()
        window._fill_recent()
        window.studio.autosave.keep()
    finally:
        window.close()
        for handler in logging.getLogger("ghoststep").handlers[:]:
            logging.getLogger("ghoststep").removeHandler(handler)
            handler.close()


def test_what_nobody_caught_is_logged_and_said(caplog: pytest.LogCaptureFixture) -> None:
    faults, said = Faults(), []
    faults.met.connect(said.append)

    def broken() -> None:
        raise ValueError("a wrong number")

    for _ in range(5):
        try:
            broken()
        except ValueError:
            faults.caught(*sys.exc_info())  # type: ignore[arg-type]
    assert len(said) == 1 and "our fault, nothing was lost" in said[0] and str(log_file()) in said[0]
    logged = [r for r in caplog.records if r.exc_info]
    assert 1 <= len(logged) < 5 and "a wrong number" in caplog.text


def test_what_a_slot_raises_reaches_the_user(qtbot, window, monkeypatch: pytest.MonkeyPatch) -> None:
    faults = Faults()
    faults.met.connect(lambda words: window.say(words, True))
    with qtbot.captureExceptions() as caught:
        monkeypatch.setattr(sys, "excepthook", faults.caught)
        window.studio.said.connect(lambda *_: 1 // 0)
        window.studio.said.emit("anything", False)
        monkeypatch.undo()
    assert not caught and "our fault" in window.message
