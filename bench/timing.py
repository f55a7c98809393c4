"""What the measurements share: timing, one printed row a figure, runs in a process of their own."""

import os
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

from tools.figures.record import record

ROOT = Path(__file__).resolve().parents[1]


def best_s(work: Callable[[], object], *, times: int = 5) -> float:
    """The shortest of several runs, in seconds."""
    out = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        out.append(time.perf_counter() - start)
    return min(out)


def say(name: str, value: str, beside: str = "", *, worst: str = "") -> None:
    """Print a figure and keep it for docs/figures.md."""
    record(name, value, worst=worst)
    print(f"{name:<58} {value:>16}   {beside}", flush=True)


def offscreen(code: str) -> list[float]:
    """Run code in a new process without a screen; the numbers it prints."""
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "PYTHONPATH": str(ROOT)}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, env=env, check=True)
    return [float(x) for x in done.stdout.split()]
