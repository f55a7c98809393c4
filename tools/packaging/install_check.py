"""Install the wheel where each Python is and do the demo with it: `python -m tools.packaging.install_check`.

What is not there is said. It needs packages to be fetched, so it is no part of `make test`.
"""

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
PYTHONS = ("python3.11", "python3.12", "python3.13")
_DISPLAYS = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM", "PYTHONPATH")


def installed_and_run(python: str, wheel: Path, folder: Path) -> str:
    """What came of installing a wheel with an interpreter and doing the demo off screen, in words.

    Raises
    ------
    subprocess.CalledProcessError
        Where that fails.
    """
    venv = folder / python
    subprocess.run([python, "-m", "venv", str(venv)], check=True)
    subprocess.run([str(venv / "bin/pip"), "install", "-q", "--disable-pip-version-check", str(wheel)], check=True)
    env = {k: v for k, v in os.environ.items() if k not in _DISPLAYS}
    out = folder / f"{python}-demo"
    subprocess.run([str(venv / "bin/ghost-step"), "--demo", "--out", str(out)], check=True, env=env, cwd=folder)
    return f"{python}: installed, and the demo wrote {len(list(out.iterdir()))} files"


def main() -> None:
    """Try every Python that is here."""
    with tempfile.TemporaryDirectory() as made:
        folder = Path(made)
        build = [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "--no-build-isolation", str(ROOT)]
        subprocess.run([*build, "-w", str(folder)], check=True)
        wheel = next(folder.glob("*.whl"))
        for python in PYTHONS:
            works = shutil.which(python) and subprocess.run([python, "-c", ""], capture_output=True).returncode == 0
            print(
                installed_and_run(python, wheel, folder) if works else f"{python}: not here, so not tried", flush=True
            )


if __name__ == "__main__":
    main()
