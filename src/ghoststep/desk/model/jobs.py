"""Long work off the GUI thread, with progress, cancelling, and errors in words."""

import logging
from collections.abc import Callable
from threading import Event
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from ghoststep.music.errors import Cancelled, InputError

log = logging.getLogger(__name__)
Work = Callable[[Callable[[float], None]], Any]


class _Signals(QObject):
    progress = Signal(float)
    done = Signal(object)
    failed = Signal(str)
    cancelled = Signal()


class Job(QRunnable):
    """One piece of work; its signals arrive on the thread that made it. `work` gets a function to report progress."""

    def __init__(self, work: Work) -> None:
        super().__init__()
        self.setAutoDelete(False)
        self.signals = _Signals()
        self._work = work
        self._stop = Event()

    def cancel(self) -> None:
        """Stop at the next report of progress."""
        self._stop.set()

    def _progress(self, share: float) -> None:
        if self._stop.is_set():
            raise Cancelled("stopped")
        self.signals.progress.emit(share)

    def run(self) -> None:
        try:
            result = self._work(self._progress)
        except Cancelled:
            self.signals.cancelled.emit()
        except InputError as error:
            self.signals.failed.emit(str(error))
        except Exception:
            log.exception("a fault of ours in background work")
            self.signals.failed.emit("Something went wrong on our side; the details are in the log (Help menu).")
        else:
            if self._stop.is_set():
                self.signals.cancelled.emit()
            else:
                self.signals.done.emit(result)


class Jobs:
    """Starts jobs and keeps them alive until they end."""

    def __init__(self, *, threads: int) -> None:
        self._pool = QThreadPool()
        self._pool.setMaxThreadCount(threads)
        self._running: set[Job] = set()

    def start(
        self,
        work: Work,
        *,
        done: Callable[[Any], None],
        failed: Callable[[str], None],
        progress: Callable[[float], None] | None = None,
        ended: Callable[[], None] | None = None,
    ) -> Job:
        job = Job(work)

        def finish(*_: object) -> None:
            self._running.discard(job)
            if ended:
                ended()

        job.signals.done.connect(done)
        job.signals.failed.connect(failed)
        if progress:
            job.signals.progress.connect(progress)
        for signal in (job.signals.done, job.signals.failed, job.signals.cancelled):
            signal.connect(finish)
        self._running.add(job)
        self._pool.start(job)
        return job

    @property
    def busy(self) -> bool:
        return bool(self._running)

    def wait(self) -> None:
        """Cancel everything and wait for it to end; for closing."""
        for job in list(self._running):
            job.cancel()
        self._pool.waitForDone(5000)
