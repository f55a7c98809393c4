"""Garbage goes on the GUI thread, and what was freed is given back."""

import gc
import os
import subprocess
import sys
import weakref
from pathlib import Path
from threading import Thread, current_thread, main_thread

from pytestqt.qtbot import QtBot

from ghoststep.desk.app import tidying
from ghoststep.desk.app.tidying import Tidying, tidy


class Knot:
    """Refers to itself, as widgets and their closures do."""

    def __init__(self, gone: list[bool]) -> None:
        self.me = self
        weakref.finalize(self, lambda: gone.append(current_thread() is main_thread()))


def test_knots_made_by_a_worker_go_on_the_gui_thread(qtbot: QtBot) -> None:
    tidy_up, gone = Tidying(), list[bool]()
    try:
        worker = Thread(target=lambda: [Knot(gone) for _ in range(5000)])
        worker.start()
        worker.join()
        assert gone == []  # Python would have collected them on the worker's thread
        tidy()
        assert len(gone) > 4000 and all(gone)
    finally:
        tidy_up.close()
    assert gc.isenabled()


def test_freed_memory_is_given_back_where_the_system_can_take_it() -> None:
    trim = tidying._trim()
    assert trim is not None and trim(0) in (0, 1)


HOLES = """
import sys
import numpy as np
from bench.using import resident_mb
from ghoststep.desk.app.tidying import without_holes

if sys.argv[1] == "kept in one piece":
    assert without_holes()
dice, before_mb, kept = np.random.default_rng(1), resident_mb(), []
for _ in range(400):
    blocks = [np.ones(int(size)) for size in dice.integers(30_000, 400_000, 6)]
    kept.append(np.ones(20_000))
    del blocks
del kept[::2]
print(resident_mb() - before_mb - sum(k.nbytes for k in kept) / 1e6)
"""


def test_sounds_and_pictures_of_changing_sizes_leave_no_holes() -> None:
    root = Path(__file__).parents[2]
    env = {**os.environ, "PYTHONPATH": f"{root}:{root / 'src'}"}
    left_mb = [
        float(subprocess.run([sys.executable, "-c", HOLES, how], env=env, capture_output=True, check=True).stdout)
        for how in ("as it comes", "kept in one piece")
    ]
    assert left_mb[1] < 10 < left_mb[0]
