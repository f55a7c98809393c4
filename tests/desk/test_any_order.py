"""Commands and the pointer in any order, on any document: nothing raises, and the groove stays one that can be kept."""

import random
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QInputDialog, QMessageBox
from pytestqt.qtbot import QtBot

from ghoststep.desk.app.window import Window
from ghoststep.files.project import load_project, save_project
from ghoststep.files.textgrid import parse_grid
from ghoststep.session.commands import COMMANDS
from ghoststep.session.document.document import Document

TEXTS = (
    "kick X---------------",
    """
    tempo 96
    bar 2 meter 7/8 2+2+3
    bar 3 meter 4/4
    bar 2 tempo 96 -> 120 over 2
    crash      X--------------- | -------------- | ----------------
    hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
    snare      ----X--o-o--X--o | ----X---X--o-- | ----X--o-o--X--o
    """,
)
LEFT_OUT = ("file.quit", "file.open", "file.save", "help.keys")


def pointed(window: Window, dice: random.Random) -> None:
    """A drag from somewhere to somewhere on the place's picture."""
    widget = window.at(window.place)
    view = getattr(widget, {"listen": "view", "form": "map"}.get(window.place, "grid")).viewport()
    a, b = (QPoint(dice.randrange(view.width()), dice.randrange(view.height())) for _ in range(2))
    held = dice.choice((Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier))
    QTest.mousePress(view, Qt.MouseButton.LeftButton, held, a)
    QTest.mouseMove(view, b)
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, held, b)


@pytest.mark.parametrize("seed", [1, 2])
def test_nothing_raises_whatever_is_done(
    window: Window, qtbot: QtBot, heard: Document, monkeypatch: pytest.MonkeyPatch, tmp_path: Path, seed: int
) -> None:
    monkeypatch.setattr(QMessageBox, "exec", lambda _box: QMessageBox.StandardButton.Cancel)
    monkeypatch.setattr(QMessageBox, "about", lambda *_a: None)
    monkeypatch.setattr(QDialog, "exec", lambda _dialog: 0)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("bar 2 2a", True))
    for name in ("getSaveFileName", "getOpenFileName"):
        monkeypatch.setattr(QFileDialog, name, lambda *_a, **_k: ("", ""))
    dice = random.Random(seed)
    documents = [heard, *(Document("any", parse_grid(text)) for text in TEXTS)]
    names = [n for n in COMMANDS if n not in LEFT_OUT]
    with qtbot.captureExceptions() as raised:
        for _ in range(350):
            what = dice.random()
            if what < 0.04:
                window.studio.set_document(dice.choice(documents), None)
            elif what < 0.1:
                window.go(dice.choice(("listen", "place", "form", "check")))
            elif what < 0.25:
                pointed(window, dice)
            else:
                window.run(dice.choice(names))
            QApplication.processEvents()
    assert raised == []
    spots = [(h.position_ticks, h.voice) for h in window.studio.groove.pattern.hits if not h.grace and not h.origin]
    assert len(spots) == len(set(spots))
    save_project(tmp_path / "a.ghoststep", window.studio.document)
    assert load_project(tmp_path / "a.ghoststep").groove == window.studio.groove
