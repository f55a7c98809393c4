"""A dash for the name of an output."""

import json
from pathlib import Path

import pytest

from ghoststep.cli.main import main
from ghoststep.files.demo import demo_recordings
from ghoststep.music.kit import VOICES

Said = pytest.CaptureFixture[str]


def test_an_analysis_goes_to_standard_output_and_nothing_else_does(empty: Path, capsys: Said) -> None:
    assert main(["listen", str(demo_recordings()[0]), "--json", "-", "--midi", "a.mid"]) == 0
    said = capsys.readouterr()
    assert json.loads(said.out)["meter"] == [4, 4]
    assert "92.0 BPM, 4/4" in said.err
    assert [p.name for p in empty.iterdir()] == ["a.mid"]


def test_a_text_grid_that_went_to_standard_output_can_be_read(tmp_path: Path, capsys: Said) -> None:
    assert main(["listen", str(demo_recordings()[0]), "--grid", "-"]) == 0
    grid = tmp_path / "heard.grid.txt"
    grid.write_text(capsys.readouterr().out, "utf-8")
    assert main(["show", str(grid)]) == 0
    assert "kick" in capsys.readouterr().out


def test_a_report_goes_to_standard_output(grid_file: Path, capsys: Said) -> None:
    assert main(["check", str(grid_file), "--json", "-"]) == 0
    said = capsys.readouterr()
    assert {s["voice"] for s in json.loads(said.out)["sticking"]} <= {v.name for v in VOICES}
    assert "Like a player" in said.err and "written" not in said.err


def test_what_a_dash_cannot_stand_for_is_said_and_nothing_is_written(
    grid_file: Path, empty: Path, capsys: Said
) -> None:
    for words, why in [
        (["listen", str(demo_recordings()[0]), "--json", "-", "--grid", "-"], "Only one text"),
        (["listen", str(demo_recordings()[0]), "--midi", "-"], "is for --json and --grid"),
        (["listen", str(empty), "--json", "-"], "files of a folder go to a folder"),
        (["edit", str(grid_file), "-o", "-"], "give a name here"),
        (["render", str(grid_file), "-"], "give a name here"),
        (["takes", str(grid_file), "--midi", "-"], "give a name here"),
    ]:
        assert main(words) == 2
        said = capsys.readouterr()
        assert why in said.err and said.err.count("\n") == 1 and not said.out
    assert not list(empty.iterdir())


@pytest.fixture
def grid_file(tmp_path: Path, grid_text: str) -> Path:
    path = tmp_path / "depot.grid.txt"
    path.write_text(grid_text, "utf-8")
    return path


@pytest.fixture
def empty(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A folder to be in, with nothing in it."""
    folder = tmp_path / "empty"
    folder.mkdir()
    monkeypatch.chdir(folder)
    return folder
