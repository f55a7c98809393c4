"""A package for Debian: `python -m tools.packaging.deb OUT_DIR [--without-libraries]`.

The program lies in /usr/lib/ghost-step with all Python packages it needs, since Debian has not all of them in versions
that do; menu entry, icons, file types, man page and metadata where the desktop looks for them. Without libraries the
package is small, and the Python packages have to be found by the interpreter.
"""

import argparse
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from ghoststep import __version__

ROOT = Path(__file__).resolve().parents[2]
NAME = "ghost-step"
LAUNCHER = f"""#!/bin/sh
# Where the package lies is found from here, so that it runs from any root it is installed under.
here="$(dirname "$(readlink -f "$0")")"
export PYTHONPATH="$here/../lib/{NAME}${{PYTHONPATH:+:$PYTHONPATH}}"
exec "${{GHOST_STEP_PYTHON:-python3}}" -m ghoststep "$@"
"""
CONTROL = """Package: {name}
Version: {version}
Section: sound
Priority: optional
Architecture: {architecture}
Installed-Size: {size}
Depends: python3 (>= 3.11), libportaudio2, libegl1, libxkbcommon0, libdbus-1-3, libfontconfig1
Maintainer: the Ghost Step makers <makers@localhost>
Description: drum grooves heard, written as a grid, and played with touch
 Ghost Step hears what is in a drum recording or a MIDI file, writes it as a grid of stems on which ghost notes,
 accents, swing and timing are set, checks whether a drummer could play it, and hands on MIDI, sound and text.
"""
_SHARED = ("applications", "icons", "man", "metainfo", "mime")


def laid_out(stage: Path, *, libraries: bool) -> None:
    """Put all files under a folder as they lie in the package."""
    lib = stage / "usr" / "lib" / NAME
    shutil.copytree(ROOT / "src" / "ghoststep", lib / "ghoststep", ignore=shutil.ignore_patterns("__pycache__"))
    if libraries:
        lock = ROOT / "setup" / "requirements.txt"
        pip = [sys.executable, "-m", "pip", "install", "-q", "--no-compile", "--require-hashes", "-r", str(lock)]
        subprocess.run([*pip, "--target", str(lib)], check=True)
    launcher = stage / "usr" / "bin" / NAME
    launcher.parent.mkdir(parents=True)
    launcher.write_text(LAUNCHER, "utf-8")
    launcher.chmod(0o755)
    for name in _SHARED:
        shutil.copytree(ROOT / "share" / name, stage / "usr" / "share" / name)
    icon = stage / "usr" / "share" / "icons" / "hicolor" / "128x128" / "apps" / f"{NAME}.png"
    icon.parent.mkdir(parents=True)
    shutil.copyfile(ROOT / "src" / "ghoststep" / "desk" / "data" / f"{NAME}.png", icon)
    subprocess.run(["gzip", "-9n", str(stage / "usr/share/man/man1/ghost-step.1")], check=True)
    papers = stage / "usr" / "share" / "doc" / NAME
    papers.mkdir(parents=True)
    for paper, named in (("LICENSE", "copyright"), ("NOTICES.md", "NOTICES.md"), ("CHANGELOG.md", "changelog")):
        shutil.copyfile(ROOT / paper, papers / named)


def deb(out: Path, *, libraries: bool) -> Path:
    """Build the package into a folder; where it lies.

    Raises
    ------
    subprocess.CalledProcessError
        Where a package cannot be fetched or built.
    """
    machine = subprocess.run(
        ["dpkg", "--print-architecture"], capture_output=True, text=True, check=True
    ).stdout.strip()
    architecture = machine if libraries else "all"
    with tempfile.TemporaryDirectory() as folder:
        stage = Path(folder) / "stage"
        stage.mkdir(mode=0o755)
        laid_out(stage, libraries=libraries)
        size = sum(f.stat().st_size for f in stage.rglob("*") if f.is_file()) // 1024
        control = stage / "DEBIAN" / "control"
        control.parent.mkdir(mode=0o755)
        told = CONTROL.format(name=NAME, version=__version__, architecture=architecture, size=size)
        control.write_text(told, "utf-8")
        target = out / f"{NAME}_{__version__}_{architecture}.deb"
        out.mkdir(parents=True, exist_ok=True)
        build = ["dpkg-deb", "--root-owner-group", "-Zgzip", "-z6" if libraries else "-z1", "--build"]
        subprocess.run([*build, str(stage), str(target)], check=True, capture_output=True)
    return target


def main() -> None:
    """Build it and say where it lies."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("out", type=Path)
    parser.add_argument("--without-libraries", action="store_true")
    options = parser.parse_args()
    print(deb(options.out, libraries=not options.without_libraries))


if __name__ == "__main__":
    main()
