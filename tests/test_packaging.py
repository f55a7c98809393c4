"""What makes a package: papers that are true, and a Debian package that installs, starts and goes away."""

import os
import shutil
import subprocess
import sys
import sysconfig
import tomllib
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest
from tools.packaging.deb import deb
from tools.packaging.man_page import PAGE, man_page

from ghoststep import __version__
from ghoststep.work.formats import FORMATS

ROOT = Path(__file__).resolve().parents[1]
SHARE = ROOT / "share"
# What the shared types call the endings that are opened (shared-mime-info 2.2).
TYPES = {
    ".mid": "audio/midi", ".wav": "audio/vnd.wave", ".flac": "audio/flac", ".ogg": "audio/ogg",
    ".opus": "audio/x-opus+ogg", ".mp3": "audio/mpeg", ".aiff": "audio/x-aiff", ".caf": "audio/x-caf",
    ".au": "audio/basic", ".ghoststep": "application/x-ghost-step", ".grid.txt": "application/x-ghost-step-grid",
}  # fmt: skip

SHARED = (
    "applications/ghost-step.desktop",
    "icons/hicolor/scalable/apps/ghost-step.svg",
    "icons/hicolor/128x128/apps/ghost-step.png",
    "man/man1/ghost-step.1.gz",
    "mime/packages/ghost-step.xml",
    "metainfo/org.ghoststep.ghost_step.metainfo.xml",
)


def test_the_man_page_says_what_the_commands_take() -> None:
    assert PAGE.read_text("utf-8") == man_page(), "make man"
    assert ".SH GHOST\\-STEP LISTEN" in man_page() and "\\-\\-stems" in man_page()


def test_the_desktop_opens_what_the_program_opens() -> None:
    entry = (SHARE / "applications" / "ghost-step.desktop").read_text("utf-8")
    told = next(line for line in entry.splitlines() if line.startswith("MimeType=")).removeprefix("MimeType=")
    assert set(TYPES.values()) <= set(told.split(";"))
    endings = {ending for row in FORMATS for ending in row.endings}
    assert set(TYPES) <= endings
    types = ET.parse(SHARE / "mime" / "packages" / "ghost-step.xml").getroot()
    globs = {glob.attrib["pattern"][1:] for glob in types.iter() if glob.tag.endswith("glob")}
    assert globs == {".ghoststep", ".grid.txt", ".feel.json"} and globs <= endings


def test_papers_agree_on_version_and_licence() -> None:
    project = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["project"]
    found = ET.parse(next((SHARE / "metainfo").glob("*.xml"))).getroot()
    release = found.find("releases/release")
    assert release is not None and release.attrib["version"] == project["version"] == __version__
    assert found.findtext("project_license") == project["license"]
    assert all((ROOT / name).is_file() for name in project["license-files"])
    assert found.findtext("launchable") == "ghost-step.desktop"


@pytest.mark.skipif(shutil.which("dpkg-deb") is None, reason="packages for Debian are built on Debian")
def test_a_debian_package_is_installed_started_and_removed(tmp_path: Path) -> None:
    package, root = deb(tmp_path, libraries=False), tmp_path / "root"
    (root / "var/lib/dpkg").mkdir(parents=True)
    for name in ("status", "available"):
        (root / "var/lib/dpkg" / name).touch()
    dpkg = ["dpkg", f"--root={root}", "--force-not-root", "--force-depends", "--force-bad-path", "--log=/dev/null"]
    env = {**os.environ, "PATH": f"{os.environ['PATH']}:/usr/sbin:/sbin"}
    subprocess.run([*dpkg, "--install", str(package)], check=True, capture_output=True, env=env)
    for file in SHARED:
        assert (root / "usr/share" / file).is_file(), file
    no_display = {k: v for k, v in env.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    own = {"GHOST_STEP_PYTHON": sys.executable, "PYTHONPATH": sysconfig.get_path("purelib"), "HOME": str(tmp_path)}
    words = [str(root / "usr/bin/ghost-step"), "--demo", "--out", str(tmp_path / "demo")]
    started = subprocess.run(
        words, env=no_display | own, cwd=tmp_path, capture_output=True, text=True, timeout=120, check=False
    )
    assert started.returncode == 0, started.stderr
    assert {".ghoststep", ".json", ".mid", ".png"} <= {p.suffix for p in (tmp_path / "demo").iterdir()}
    subprocess.run([*dpkg, "--purge", "ghost-step"], check=True, capture_output=True, env=env)
    left = [p for p in (root / "usr").rglob("*") if p.is_file()] if (root / "usr").exists() else []
    assert [p for p in left if "__pycache__" not in p.parts] == []
