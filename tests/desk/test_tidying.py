"""Garbage goes on the GUI thread, and what was freed is given back."""

import gc
import weakref
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
