"""The real window on the test's own screen, with the simulated sound output."""

import gc
from collections.abc import Callable, Iterator

import pytest
from PySide6.QtWidgets import QMessageBox
from pytestqt.qtbot import QtBot

from ghoststep.desk.app.start import make_app, make_window
from ghoststep.desk.app.window import Window
from ghoststep.desk.model.studio import Studio
from ghoststep.devices.output import SimulatedOutput
from ghoststep.files.demo import demo_recordings
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.reading import Hints
from ghoststep.session.document.document import Document
from ghoststep.work.grooves import hear_file


@pytest.fixture(scope="session")
def qapp() -> object:
    return make_app()


@pytest.fixture(autouse=True)
def garbage() -> Iterator[None]:
    """As in the program: what is left of windows goes on this thread, and not on one of background work."""
    gc.disable()
    yield
    gc.collect()
    gc.enable()


@pytest.fixture
def window(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Iterator[Window]:
    """A window whose question about unsaved work is answered with "discard"."""
    monkeypatch.setattr(QMessageBox, "question", lambda *_a, **_k: QMessageBox.StandardButton.Discard)
    made = make_window(Studio(SimulatedOutput()))
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    # Without a window manager nobody hands out the focus, and keys only reach an active window.
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow)
    yield made
    made.close()


@pytest.fixture(autouse=True)
def _application(qapp) -> None:
    """Every test here may make a widget, whichever is the first of its process."""


@pytest.fixture
def until(qtbot: QtBot) -> Callable[[Callable[[], bool]], None]:
    """Wait for something to become true."""
    return lambda true: qtbot.waitUntil(true, timeout=20_000)


@pytest.fixture
def saves(until: Callable[[Callable[[], bool]], None]) -> Callable[[Callable[[Callable[[bool], None]], None]], bool]:
    """Whether something that saves, given what is told the outcome, did save."""

    def outcome(save: Callable[[Callable[[bool], None]], None]) -> bool:
        told: list[bool] = []
        save(told.append)
        until(lambda: bool(told))
        return told == [True]

    return outcome


@pytest.fixture
def placed(window: Window, grid_text: str) -> Window:
    """The window in Place with a two-bar groove."""
    window.studio.set_document(Document("depot", parse_grid(grid_text)), None)
    window.go("place")
    return window


@pytest.fixture(scope="session")
def heard() -> Document:
    """The first demo recording, listened to once."""
    return hear_file(demo_recordings()[0], general_midi_keys(), Hints())


@pytest.fixture
def listening(window: Window, heard: Document) -> Window:
    """The window in Listen with the demo heard."""
    window.studio.set_document(heard, None)
    window.go("listen")
    return window
