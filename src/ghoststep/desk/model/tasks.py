"""Long work off the GUI thread: whose it is, how far it is, and how to stop it.

Every task carries the owner it was started for (the document that was open then). What ends after another document was
opened is dropped, or handed to `late` where that is given; nothing is laid over a document it does not belong to. Tasks
of one lane follow one another; lanes run beside each other. What the user waits for has words, and the newest of these
is what the window shows as busy and what Cancel stops.
"""

import logging
from collections import deque
from collections.abc import Callable
from threading import Event, main_thread
from time import monotonic
from typing import Any

from PySide6.QtCore import QObject, QThreadPool, Signal
from shiboken6 import isValid

from ghoststep.music.errors import Cancelled, InputError

log = logging.getLogger(__name__)
Progress = Callable[[float], None]
Work = Callable[[Progress], Any]
# A task that has ended is kept for so many seconds: its thread may not be out of it, and only the GUI's may destroy it.
_ON_ITS_WAY_OUT_S = 2.0
OUR_FAULT = "That was our fault, nothing was lost. The details are in the log (Help menu)."


def _nothing(_progress: Progress) -> None:
    """Work that was let go of."""


class _Signals(QObject):
    progress = Signal(float)
    done = Signal(object)
    failed = Signal(str)
    cancelled = Signal()


class Task:
    """One piece of work; its signals arrive on the thread that made it. `work` gets a function to report progress."""

    def __init__(self, work: Work, words: str = "", owner: object = None, *, stops: bool = True) -> None:
        self.signals = _Signals()
        self.words, self.owner, self.stops = words, owner, stops
        self.share = 0.0
        self._work = work
        self._stop = Event()

    def cancel(self) -> None:
        """Stop at the next report of progress; what must not be left half done goes on to its end."""
        if self.stops:
            self._stop.set()

    @property
    def cancelled(self) -> bool:
        return self._stop.is_set()

    def release(self) -> None:
        """Let go of the work and of whoever listens: Qt keeps what is connected for as long as the signals live, and
        that holds the task itself, with all its work refers to."""
        self._work = _nothing
        for signal in (self.signals.done, self.signals.failed, self.signals.cancelled, self.signals.progress):
            signal.disconnect()

    def _progress(self, share: float) -> None:
        if self._stop.is_set() or not isValid(self.signals):
            raise Cancelled("stopped")
        self.signals.progress.emit(share)

    def run(self) -> None:
        outcome, value = self._outcome()
        if isValid(self.signals):  # else the program is ending, and nobody is left to be told
            signal = getattr(self.signals, outcome)
            signal.emit(*value)

    def _outcome(self) -> tuple[str, tuple[Any, ...]]:
        """The signal that says how the work ended, and what goes with it."""
        try:
            if self._stop.is_set():
                raise Cancelled("stopped")
            result = self._work(self._progress)
        except Cancelled:
            return "cancelled", ()
        except InputError as error:
            return "failed", (str(error),)
        except MemoryError:
            return "failed", ("There is not enough memory for that.",)
        except Exception:
            if self._stop.is_set() and not main_thread().is_alive():  # Python is shut down round it: nothing is lost
                log.info("background work was cut off by the end of the program", exc_info=True)
                return "cancelled", ()
            log.exception("a fault of ours in background work")
            return "failed", (OUR_FAULT,)
        return ("cancelled", ()) if self._stop.is_set() else ("done", (result,))


class Tasks(QObject):
    """Starts tasks and keeps them alive until they end."""

    busy_changed = Signal(str, float)  # words ("" for nothing to wait for) and how far, 0 to 1

    def __init__(self, owner: Callable[[], object]) -> None:
        super().__init__()
        self._owner = owner
        self._lanes: dict[str, QThreadPool] = {}
        self._running: list[Task] = []
        self._closed = False
        self._over: deque[tuple[float, Task]] = deque()  # when each ended; its thread may still be on its way out

    def start(
        self,
        lane: str,
        work: Work,
        *,
        done: Callable[[Any], None] = lambda _result: None,
        failed: Callable[[str], None] = lambda _words: None,
        late: Callable[[Any], None] | None = None,
        always: bool = False,
        words: str = "",
        stops: bool = True,
    ) -> Task:
        """Start work in a lane.

        Parameters
        ----------
        done, failed
            Called on the GUI thread, if the document is still the one it was started for.
        late
            Called instead of `done` where it is another one.
        always
            Call `done` whatever document is open: the work belongs to none (writing a file).
        words
            What the user is told meanwhile; "" for work nobody waits for.
        stops
            Whether it may be cancelled.
        """
        task = Task(work, words, self._owner(), stops=stops)

        def ended() -> None:
            if task in self._running:
                self._running.remove(task)
                task.release()
                self._over.append((monotonic(), task))
            self._tell()

        def succeeded(result: object) -> None:
            ended()
            if self._closed and not always:
                return  # whoever asked for it is gone
            if always or task.owner is self._owner():
                done(result)
            elif late is not None:
                late(result)

        def broke(said: str) -> None:
            ended()
            if always or (task.owner is self._owner() and not self._closed):
                failed(said)

        def moved(share: float) -> None:
            task.share = share
            self._tell()

        task.signals.done.connect(succeeded)
        task.signals.failed.connect(broke)
        task.signals.cancelled.connect(ended)
        task.signals.progress.connect(moved)
        self._running.append(task)
        while self._over and monotonic() - self._over[0][0] > _ON_ITS_WAY_OUT_S:
            self._over.popleft()
        self._tell()
        pool = self._lanes.get(lane)
        if pool is None:
            pool = self._lanes[lane] = QThreadPool(self)
            pool.setMaxThreadCount(1)
        pool.start(task.run)
        return task

    @property
    def shown(self) -> Task | None:
        """The newest task the user waits for and has not cancelled."""
        return next((t for t in reversed(self._running) if t.words and not t.cancelled), None)

    @property
    def running(self) -> int:
        """How many tasks have not ended, those nobody waits for too."""
        return len(self._running)

    @property
    def busy(self) -> bool:
        return self.shown is not None

    def _tell(self) -> None:
        task = self.shown
        self.busy_changed.emit(task.words if task else "", task.share if task else 0.0)

    def cancel_shown(self) -> bool:
        """Stop what the window shows; whether there was anything."""
        task = self.shown
        if task is None or not task.stops:
            return False
        task.cancel()
        self._tell()
        return True

    def cancel_of(self, owner: object) -> None:
        """Stop everything that was started for a document."""
        for task in self._running:
            if task.owner is owner:
                task.cancel()
        self._tell()

    def wait(self) -> None:
        """Cancel everything and wait for it to end; for closing."""
        self._closed = True
        for task in list(self._running):
            task.cancel()
        for pool in self._lanes.values():
            pool.waitForDone(5000)
