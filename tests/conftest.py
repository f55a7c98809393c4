"""Every run has folders of its own, and a real X server of its own where Xvfb is installed."""

import ctypes
import logging
import os
import shutil
import signal
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import Phase, settings

# For `make mutants`: one failing example is enough, and no time goes into finding the smallest.
settings.register_profile("mutants", phases=(Phase.explicit, Phase.generate), deadline=None)
# A busy machine is no fault: nothing here may fail by the time it takes.
settings.register_profile("unhurried", deadline=None, max_examples=40)
settings.load_profile("unhurried")
_xvfb: subprocess.Popen[bytes] | None = None


def _die_with_parent() -> None:
    ctypes.CDLL("libc.so.6").prctl(1, signal.SIGTERM)  # PR_SET_PDEATHSIG: a killed run leaves no server behind


def pytest_configure(config: pytest.Config) -> None:
    global _xvfb
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        os.environ.pop(name, None)
    if shutil.which("Xvfb") is None:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        return
    read, write = os.pipe()
    command = ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24", "-nolisten", "tcp", "-noreset"]
    _xvfb = subprocess.Popen(command, pass_fds=[write], stderr=subprocess.DEVNULL, preexec_fn=_die_with_parent)
    os.close(write)
    with os.fdopen(read) as answer:
        os.environ["DISPLAY"] = f":{answer.readline().strip()}"
    os.environ["QT_QPA_PLATFORM"] = "xcb"


def pytest_unconfigure(config: pytest.Config) -> None:
    if _xvfb is not None:
        _xvfb.terminate()
        _xvfb.wait()


@pytest.fixture(autouse=True)
def own_folders(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Settings, state and cache of the program, empty and only for this test."""
    home = tmp_path / "home"
    for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME"):
        monkeypatch.setenv(name, str(home / name.lower()))
    return home


@pytest.fixture(autouse=True)
def close_log() -> Iterator[None]:
    """The log file of a test is closed with it."""
    yield
    logger = logging.getLogger("ghoststep")
    for handler in logger.handlers[:]:
        logger.removeHandler(handler)
        handler.close()


@pytest.fixture(autouse=True)
def no_window_left() -> Iterator[None]:
    """Windows are taken away with their test: one left over is dressed anew and painted in all later tests."""
    yield
    if "PySide6.QtWidgets" not in sys.modules:
        return
    from PySide6.QtCore import QCoreApplication, QEvent, QObject
    from PySide6.QtWidgets import QApplication

    if QApplication.instance() is None:
        return
    for left in QApplication.topLevelWidgets():
        if left.parent() is None:
            left.hide()
            if isinstance(studio := getattr(left, "studio", None), QObject):
                studio.deleteLater()
            left.deleteLater()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.fixture
def grid_text() -> str:
    return """
    tempo 96
    meter 4/4
    grid 16
    hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
    snare       ----X--o-o--X--o | ----X--o-o--X---
    kick        X------x--X----- | X------x--X---x-
    """
