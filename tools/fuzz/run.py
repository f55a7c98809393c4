"""Break, read, and look what happened."""

import random
import time
import traceback
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

from ghoststep.music.errors import InputError
from tools.fuzz.targets import Target


@dataclass(frozen=True)
class Fault:
    """A file that was neither read nor refused."""

    name: str
    data: bytes
    words: str


@dataclass
class Found:
    counts: Counter[str] = field(default_factory=Counter)
    faults: list[Fault] = field(default_factory=list)
    slowest: str = ""
    slowest_s: float = 0.0


def fuzzed(targets: list[Target], cases: int, seed: int, folder: Path) -> Found:
    """So many broken files over all readers in turn; the same seed breaks the same files."""
    found = Found()
    for case in range(cases):
        target = targets[case % len(targets)]
        dice = random.Random(f"{seed}-{case}")
        data = target.broken(dice)
        path = folder / f"case{target.ending}"
        path.write_bytes(data)
        name = f"{target.name}-{seed}-{case}{target.ending}"
        started = time.perf_counter()
        try:
            target.read(path)
            found.counts[f"{target.name} read"] += 1
        except InputError as error:
            found.counts[f"{target.name} refused"] += 1
            words = str(error)
            if len(words) < 12 or "\n" in words or len(words) > 600:
                found.faults.append(Fault(name, data, f"no clear sentence: {words[:100]!r}"))
        except Exception as error:  # noqa: BLE001 - what is caught here is what is looked for
            last = traceback.extract_tb(error.__traceback__)[-1]
            where = f"{Path(last.filename).name}:{last.lineno}"
            found.faults.append(Fault(name, data, f"{type(error).__name__} at {where}: {str(error)[:120]}"))
        took_s = time.perf_counter() - started
        if took_s > found.slowest_s:
            found.slowest, found.slowest_s = name, took_s
    return found
