"""`make fuzz`: thousands of broken files, each read or refused; what is neither is kept in build/fuzz."""

import argparse
import os
import sys
import tempfile
from pathlib import Path

from tools.fuzz.run import fuzzed
from tools.fuzz.targets import targets

OUT = Path("build/fuzz")


def main() -> int:
    parser = argparse.ArgumentParser(prog="python -m tools.fuzz", description=__doc__)
    parser.add_argument("--cases", type=int, default=20_000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", help="one of the readers")
    options = parser.parse_args()
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME"):  # the user's own settings stay as they are
            os.environ[name] = folder
        chosen = [t for t in targets(Path(folder)) if options.only in (None, t.name)]
        found = fuzzed(chosen, options.cases, options.seed, Path(folder))
    for kind in sorted(found.counts):
        print(f"{kind}: {found.counts[kind]}")
    for fault in found.faults:
        (OUT / fault.name).write_bytes(fault.data)
        print(f"FAULT {fault.name}: {fault.words}")
    print(f"{len(found.faults)} faults in {options.cases} files; slowest {found.slowest_s:.1f} s ({found.slowest})")
    return 1 if found.faults else 0


if __name__ == "__main__":
    sys.exit(main())
