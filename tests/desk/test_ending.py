"""An end signal closes the window as closing does: nobody is asked, and work that was not saved is kept."""

import os
import signal
import subprocess
import sys
from pathlib import Path

from PySide6.QtWidgets import QApplication

from ghoststep.desk.app.start import make_window
from ghoststep.desk.app.window import lettered
from ghoststep.desk.model import memory
from ghoststep.session.commands import COMMANDS, MENUS
from ghoststep.session.language.verb import all_verbs

assert all_verbs()
SCRIPT = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from ghoststep.desk.app import running
from ghoststep.desk.model.studio import Studio
if sys.argv[1] == "changed":
    whole = running.make_window
    def changed(studio=None):
        window = whole(studio)
        window.studio.say("place crash 1")
        assert window.studio.history.unsaved
        return window
    running.make_window = changed
QTimer.singleShot(0, lambda: print("up", flush=True))
raise SystemExit(running.run(None, demo=False))
"""


def ended(folder: Path, state: str) -> int:
    """The exit code of a window that was told to end."""
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_STATE_HOME": str(folder), "XDG_CONFIG_HOME": str(folder)}
    with subprocess.Popen(
        [sys.executable, "-c", SCRIPT, state], env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    ) as process:
        assert process.stdout is not None
        assert process.stdout.readline().strip() == "up"
        process.send_signal(signal.SIGTERM)
        out, _ = process.communicate(timeout=30)
    assert not out.strip(), out
    return process.returncode


def test_an_end_signal_keeps_work_that_is_not_saved(tmp_path: Path) -> None:
    assert ended(tmp_path, "changed") == 0
    kept = list((tmp_path / "ghost-step" / "autosave").glob("*.ghoststep"))
    assert [memory.Leftover(p, 0.0).ended for p in kept] == [True]


def test_an_end_signal_with_nothing_to_keep_leaves_nothing(tmp_path: Path) -> None:
    assert ended(tmp_path, "empty") == 0
    assert not list(tmp_path.rglob("*.ghoststep"))


def test_every_menu_that_can_has_a_letter_of_its_own(qapp: QApplication) -> None:
    letters = [x for x in lettered(MENUS, COMMANDS.values()).values() if x]
    assert len(letters) == len({x.lower() for x in letters}) >= len(MENUS) - 2
    window = make_window()
    titles = [a.text() for a in window.menuBar().actions()]
    assert sum("&" in t for t in titles) == len(letters) and [t.replace("&", "") for t in titles] == list(MENUS)
    window.studio.close()
