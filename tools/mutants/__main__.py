"""`make mutants`: draw faults by a seed, run the tests nearest to each, and write the share that was noticed."""

import argparse
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from queue import SimpleQueue

from tools.figures.record import record
from tools.mutants.mutate import Mutant, drawn
from tools.mutants.nearest import tests_near

ROOT = Path(__file__).resolve().parents[2]
OUT = Path("build/mutants.txt")
_PATIENCE_S = 240.0  # a fault that makes tests run for ever is noticed as well
_COPIED = ("src", "tests", "tools", "pyproject.toml")


def main() -> int:
    parser = argparse.ArgumentParser(prog="python -m tools.mutants", description=__doc__)
    parser.add_argument("--count", type=int, default=300)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--minutes", type=float, default=60.0, help="begin no further one after so long")
    parser.add_argument("--workers", type=int, default=max(1, (os.cpu_count() or 2) // 2))
    options = parser.parse_args()
    mutants = drawn(ROOT, options.count, options.seed)
    until = time.monotonic() + 60 * options.minutes
    with tempfile.TemporaryDirectory(prefix="mutants-") as home:
        copies: SimpleQueue[Path] = SimpleQueue()
        for i in range(options.workers):
            copies.put(_copy(Path(home) / str(i)))

        def tried(mutant: Mutant) -> bool | None:
            if time.monotonic() > until:
                return None
            copy = copies.get()
            try:
                return _noticed(mutant, copy)
            finally:
                copies.put(copy)

        with ThreadPoolExecutor(options.workers) as pool:
            found = list(pool.map(tried, mutants))
    return _told(mutants, found)


def _copy(place: Path) -> Path:
    place.mkdir()
    for name in _COPIED:
        source = ROOT / name
        if source.is_dir():
            shutil.copytree(source, place / name, ignore=shutil.ignore_patterns("__pycache__"))
        else:
            shutil.copy(source, place / name)
    return place


def _noticed(mutant: Mutant, copy: Path) -> bool:
    """Whether a test fails with the fault in place."""
    file = copy / mutant.file.relative_to(ROOT)
    good = file.read_text()
    file.write_text(mutant.source)
    # Hypothesis looks for one failing example here and not for the smallest.
    words = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", "--hypothesis-profile=mutants"]
    environment = os.environ | {"PYTHONPATH": f"{copy / 'src'}{os.pathsep}{copy}", "PYTHONDONTWRITEBYTECODE": "1"}
    try:
        words += tests_near(mutant.file, ROOT)
        ended = subprocess.run(words, cwd=copy, env=environment, capture_output=True, timeout=_PATIENCE_S, check=False)
    except subprocess.TimeoutExpired:
        return True
    finally:
        file.write_text(good)
    return ended.returncode != 0


def _told(mutants: Sequence[Mutant], found: Sequence[bool | None]) -> int:
    lines = []
    for mutant, noticed in zip(mutants, found, strict=True):
        if noticed is False:
            lines.append(f"{mutant.file.relative_to(ROOT)}:{mutant.line}: {mutant.before} -> {mutant.after}")
    tried = [n for n in found if n is not None]
    share = sum(tried) / max(len(tried), 1)
    lines.append(f"{sum(tried)} of {len(tried)} faults noticed: {100 * share:.1f} %")
    record("mutants", f"{100 * share:.0f} % of {len(tried)}, all packages but judge, sound, devices and cli")
    OUT.parent.mkdir(parents=True, exist_ok=True)
    OUT.write_text("\n".join(lines) + "\n")
    print("\n".join(lines))
    return 0


if __name__ == "__main__":
    sys.exit(main())
