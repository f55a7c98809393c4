"""Many files heard at once: in processes of this machine, or by any executor of `concurrent.futures`.

A file that takes down what hears it is told as lost, and the others go on.
"""

import os
from collections.abc import Callable, Iterator
from concurrent.futures import FIRST_COMPLETED, Executor, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from multiprocessing import get_context
from typing import TypeVar

_IN_PROCESS = 2  # so few files are heard in this process, as starting others takes longer
_THREADS = ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS")
Task = TypeVar("Task")
Row = TypeVar("Row")


@dataclass(frozen=True)
class Elsewhere:
    """An executor, how many tasks it works on at once, and the errors that say that a worker was lost with its task."""

    executor: Executor
    workers: int
    losses: tuple[type[BaseException], ...] = (BrokenProcessPool,)


def rows_of(
    tasks: list[Task],
    heard: Callable[[Task], Row],
    lost: Callable[[Task], Row],
    *,
    processes: int | None = None,
    elsewhere: Elsewhere | None = None,
) -> Iterator[Row]:
    """The row of each task, as they come.

    Parameters
    ----------
    heard, lost
        What makes a row (importable by workers), and the row of a task that took its worker down.
    """
    if elsewhere is not None:
        yield from _by(elsewhere, tasks, heard, lost)
        return
    workers = min(processes or os.cpu_count() or 1, len(tasks))
    if workers < 2 or len(tasks) <= _IN_PROCESS:
        for task in tasks:
            yield heard(task)
        return
    # Each process works on a file of its own, so none may spread its arithmetic over all cores.
    before = {name: os.environ.get(name) for name in _THREADS}
    os.environ.update(dict.fromkeys(_THREADS, "1"))
    try:
        yield from _in_processes(tasks, heard, lost, workers)
    finally:
        for name, value in before.items():
            if value is None:
                os.environ.pop(name, None)
            else:
                os.environ[name] = value


def _by(
    elsewhere: Elsewhere, tasks: list[Task], heard: Callable[[Task], Row], lost: Callable[[Task], Row]
) -> Iterator[Row]:
    """Rows by an executor that goes on when it loses a worker."""
    waiting = list(reversed(tasks))
    running: dict[Future[Row], Task] = {}
    while waiting or running:
        while waiting and len(running) < 2 * elsewhere.workers:
            task = waiting.pop()
            running[elsewhere.executor.submit(heard, task)] = task
        ended, _ = wait(running, return_when=FIRST_COMPLETED)
        for future in ended:
            task = running.pop(future)
            try:
                row = future.result()
            except elsewhere.losses:
                row = lost(task)
            yield row


def _in_processes(
    tasks: list[Task], heard: Callable[[Task], Row], lost: Callable[[Task], Row], workers: int
) -> Iterator[Row]:
    """Rows by processes; one that breaks ends the whole pool, so which file did it has to be found out."""
    waiting = list(reversed(tasks))
    while waiting:
        running: dict[Future[Row], Task] = {}
        with ProcessPoolExecutor(workers, mp_context=get_context("spawn")) as pool:
            while waiting or running:
                while waiting and len(running) < 2 * workers:
                    task = waiting.pop()
                    running[pool.submit(heard, task)] = task
                ended, _ = wait(running, return_when=FIRST_COMPLETED)
                try:
                    for future in ended:
                        row = future.result()
                        del running[future]
                        yield row
                except BrokenProcessPool:
                    break
        if not running:
            return
        # Nobody knows which of these files broke it: each is tried in a process of its own.
        for task in running.values():
            yield _alone(task, heard, lost)


def _alone(task: Task, heard: Callable[[Task], Row], lost: Callable[[Task], Row]) -> Row:
    with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
        try:
            return pool.submit(heard, task).result()
        except BrokenProcessPool:
            return lost(task)
