"""Folders heard by any executor, and by the workers of a scheduler."""

import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from threading import Thread

import numpy as np
import pytest
import soundfile

from ghoststep.cli.main import main
from ghoststep.music.errors import InputError
from ghoststep.work.cluster import workers_of
from ghoststep.work.folder import TABLE
from ghoststep.work.many import Elsewhere, rows_of

PATIENCE_S = 60


def test_any_executor_hears_each_once_and_few_wait_in_it() -> None:
    waiting: list[int] = []

    class Counting(Executor):
        def __init__(self) -> None:
            self.pool = ThreadPoolExecutor(2)

        def submit(self, work, /, *args, **more) -> Future:  # type: ignore[no-untyped-def]
            waiting.append(1)
            assert sum(waiting) <= 4
            future = self.pool.submit(work, *args, **more)
            future.add_done_callback(lambda _f: waiting.append(-1))
            return future

    rows = list(rows_of(list(range(40)), str, lambda n: f"lost {n}", elsewhere=Elsewhere(Counting(), 2)))
    assert sorted(rows, key=int) == [str(n) for n in range(40)]


def test_a_lost_worker_costs_its_own_file_only() -> None:
    def heard(number: int) -> str:
        if number == 3:
            raise BrokenProcessPool("gone")
        return str(number)

    with ThreadPoolExecutor(2) as pool:
        rows = set(rows_of(list(range(6)), heard, lambda n: f"lost {n}", elsewhere=Elsewhere(pool, 2)))
    assert rows == {"0", "1", "2", "lost 3", "4", "5"}


@pytest.fixture
def scheduler(tmp_path: Path) -> Iterator[str]:
    """A scheduler with two workers, each a process of its own, as on two machines."""
    address = tmp_path / "address"
    env = {**os.environ, "OPENBLAS_NUM_THREADS": "1", "DASK_DISTRIBUTED__DASHBOARD__LINK": ""}
    quiet = {"env": env, "stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    file = ["--scheduler-file", str(address)]
    commands = [["dask_scheduler", "--no-dashboard", "--host", "127.0.0.1", "--port", "0", *file]]
    commands += [["dask_worker", "--no-nanny", "--no-dashboard", "--nthreads", "1", *file]] * 2
    running = []
    for name, *rest in commands:
        command = [sys.executable, "-m", f"distributed.cli.{name}", *rest]
        running.append(subprocess.Popen(command, cwd=tmp_path, **quiet))  # type: ignore[call-overload]
        until = time.monotonic() + PATIENCE_S
        while not address.exists() and time.monotonic() < until:
            time.sleep(0.05)
    yield json.loads(address.read_text(encoding="utf-8"))["address"]
    for one in running:
        one.kill()
        one.wait()


def test_a_folder_is_heard_by_two_workers_of_which_one_is_killed(
    scheduler: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    folder, out = tmp_path / "archive", tmp_path / "out"
    folder.mkdir()
    rng = np.random.default_rng(4)
    beat = np.zeros(44100, np.float32)
    for at in range(0, 44100, 11025):
        beat[at : at + 2000] += rng.normal(0, 0.3, 2000).astype(np.float32) * np.exp(-np.arange(2000) / 300)
    for k in range(8):
        soundfile.write(folder / f"{k}.wav", np.tile(beat, 4), 44100)

    table, done_before = out / TABLE, []

    def kill_one() -> None:
        until = time.monotonic() + PATIENCE_S
        while time.monotonic() < until and (not table.exists() or len(table.read_text("utf-8").splitlines()) < 2):
            time.sleep(0.02)
        with workers_of(scheduler) as elsewhere:
            pid = next(iter(elsewhere.executor._client.run(os.getpid).values()))  # type: ignore[attr-defined]
        done_before.append(len(table.read_text("utf-8").splitlines()) - 1)
        os.kill(pid, signal.SIGKILL)

    killer = Thread(target=kill_one)
    killer.start()
    assert main(["listen", str(folder), "--json", str(out), "--scheduler", scheduler]) == 0
    killer.join()
    assert done_before and 0 < done_before[0] < 8  # else nobody was killed on the way
    rows = table.read_text("utf-8").splitlines()
    assert len(rows) == 9 and len(list(out.glob("*.json"))) == 8
    assert "8 of 8 files heard" in capsys.readouterr().out


def test_what_cannot_be_reached_is_one_sentence(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    with (
        pytest.raises(InputError, match="No scheduler answers at"),
        workers_of("tcp://127.0.0.1:9", patience_s=0.5),
    ):
        raise AssertionError("nobody is there")
    monkeypatch.setitem(sys.modules, "distributed", None)
    with pytest.raises(InputError, match="extra 'cluster'"), workers_of("tcp://127.0.0.1:9"):
        raise AssertionError("it is not installed")
    file = tmp_path / "a.wav"
    soundfile.write(file, np.ones(100, np.float32), 44100)
    assert main(["listen", str(file), "--scheduler", "tcp://127.0.0.1:9"]) == 2
    assert main(["listen", str(tmp_path), "--processes", "2", "--scheduler", "tcp://127.0.0.1:9"]) == 2
    told = capsys.readouterr().err
    assert "give a folder with --scheduler" in told and "leave --processes out" in told
