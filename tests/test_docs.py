"""What the README promises exists."""

import re
from pathlib import Path

ROOT = Path(__file__).parents[1]


def test_every_linked_file_is_there() -> None:
    for page in (ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))):
        for target in re.findall(r"\]\(([^)#]+)\)", page.read_text()):
            assert (page.parent / target).exists(), f"{page.name} links to {target}"


def test_every_picture_is_declared_and_linked() -> None:
    from ghoststep.desk.app.places import PLACES

    declared = sorted(picture.name for place in PLACES.values() for picture in place.pictures())
    taken = sorted(path.stem for path in (ROOT / "docs/screenshots").glob("*.png"))
    assert taken == sorted([*declared, "shortcuts"]) and len(taken) < 20
    readme = (ROOT / "README.md").read_text()
    assert all(f"docs/screenshots/{name}.png" in readme for name in taken)


def test_every_make_target_in_the_readme_exists() -> None:
    targets = set(re.findall(r"^([a-z-]+):", (ROOT / "Makefile").read_text(), re.M))
    named = set(re.findall(r"\bmake ([a-z-]+)`", (ROOT / "README.md").read_text()))
    assert named and named <= targets


def test_the_lock_names_no_address_and_no_crashing_qt() -> None:
    for lock in (ROOT / "setup").glob("*.txt"):
        assert "://" not in lock.read_text()
    found = re.search(r"pyside6-essentials==6\.(\d+)", (ROOT / "setup/requirements.txt").read_text())
    assert found and 8 <= int(found[1]) < 12
