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
    shown = (ROOT / "README.md").read_text() + (ROOT / "docs/guide.md").read_text()
    assert all(f"screenshots/{name}.png" in shown for name in taken)


def test_every_make_target_in_the_readme_exists() -> None:
    targets = set(re.findall(r"^([a-z-]+):", (ROOT / "Makefile").read_text(), re.M))
    named = set(re.findall(r"\bmake ([a-z-]+)`", (ROOT / "README.md").read_text()))
    assert named and named <= targets


def test_the_lock_names_no_address_and_no_crashing_qt() -> None:
    for lock in (ROOT / "setup").glob("*.txt"):
        assert "://" not in lock.read_text()
    found = re.search(r"pyside6-essentials==6\.(\d+)", (ROOT / "setup/requirements.txt").read_text())
    assert found and 8 <= int(found[1]) < 12


def test_pages_that_are_made_are_as_they_would_be_made_now() -> None:
    from tools.docs import commands_page
    from tools.figures.__main__ import PAGE, page

    assert commands_page.PAGE.read_text("utf-8") == commands_page.page(), "make docs"
    assert PAGE.read_text("utf-8") == page(), "make docs"


def test_a_figure_that_was_never_measured_says_so(tmp_path: Path) -> None:
    from tools.figures.__main__ import page

    asked = tmp_path / "asked.toml"
    row = '[[section.row]]\nname = "{}"\nwhat = "{}"\nasked = "2 s"\nhow = "`make bench`"\n{}\n'
    told = '[[section]]\ntitle = "Speed"\n' + row.format("nothing of this name", "a thing", "")
    told += row.format("window painted after the command", "start", 'short = "too slow"')
    asked.write_text(told)
    lines = page(asked).splitlines()
    assert "| a thing | 2 s | not measured yet | | | `make bench` |" in lines
    assert any(line.startswith("| start | 2 s |") and "**short**: too slow" in line for line in lines)
