"""`feel`, `takes` and `perform --feel` from the command line."""

from pathlib import Path

import mido
import pytest

from ghoststep.cli.main import main
from ghoststep.files.demo import demo_recordings
from ghoststep.files.feel_file import read_feel

GRID = """tempo 96
hat_closed x-x-x-x-x-x-x-xx | x-x-x-x-x-x-x-x-
snare      ----X--o-o--X--o | ----X--o-o--X---
kick       X------x--X----- | X------x--X---x-
"""


@pytest.fixture
def grid(tmp_path: Path) -> Path:
    path = tmp_path / "yard.grid.txt"
    path.write_text(GRID)
    return path


def onsets(path: Path) -> list[tuple[int, int]]:
    now, out = 0, []
    for message in mido.merge_tracks(mido.MidiFile(path).tracks):
        now += message.time
        if message.type == "note_on" and message.velocity:
            out.append((now, message.velocity))
    return out


def test_the_feel_of_a_recording_is_measured_and_laid_on_a_grid(grid: Path, tmp_path: Path, capsys) -> None:
    feel = tmp_path / "viaduct.feel.json"
    assert main(["feel", str(demo_recordings()[1]), "-o", str(feel)]) == 0
    out = capsys.readouterr().out
    assert "Loose by" in out and "Correlation between limbs" in out and "too few strokes" in out
    assert read_feel(feel)[1] == "fog-viaduct" and read_feel(feel)[0].spots
    assert main(["perform", str(grid), "--feel", str(feel), "--midi", str(tmp_path / "a.mid")]) == 0
    assert "straight from the player" in capsys.readouterr().err
    assert main(["perform", str(grid), "--midi", str(tmp_path / "plain.mid")]) == 0
    nothing = ["--touch", "0", "--time", "0", "--midi", str(tmp_path / "0.mid")]
    assert main(["perform", str(grid), "--feel", str(feel), *nothing]) == 0
    assert onsets(tmp_path / "0.mid") == onsets(tmp_path / "plain.mid") != onsets(tmp_path / "a.mid")
    assert main(["feel", str(feel)]) == 0 and "Measured in fog-viaduct.wav." in capsys.readouterr().out


def test_the_shelf_is_listed_and_used_by_name(grid: Path, capsys) -> None:
    assert main(["feel", "--list"]) == 0
    assert "Laid-back: The snare well behind" in capsys.readouterr().out
    assert main(["perform", str(grid), "--feel", "laid", "--time", "100"]) == 0
    assert "snare" in capsys.readouterr().out


def test_takes_are_files_that_differ_and_come_again_alike(grid: Path, tmp_path: Path, capsys) -> None:
    for folder in ("one", "two"):
        assert main(["takes", str(grid), "--count", "4", "--midi", str(tmp_path / folder), "--loose", "5"]) == 0
    one, two = (sorted((tmp_path / f).iterdir()) for f in ("one", "two"))
    assert [p.name for p in one] == [f"yard-take-0{n}.mid" for n in range(1, 5)]
    assert [p.read_bytes() for p in one] == [p.read_bytes() for p in two]
    assert len({p.read_bytes() for p in one}) == 4
    capsys.readouterr()


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (["perform", "GRID", "--touch", "50"], "give one with --feel"),
        (["perform", "GRID", "--feel", "laid", "--time", "151"], "0 to 150"),
        (["perform", "GRID", "--feel", "nobody"], "no feel on the shelf"),
        (["perform", "GRID", "--feel", "nobody.feel.json"], "does not exist"),
        (["takes", "GRID", "--midi", "DIR"], "all takes would be alike"),
        (["takes", "GRID", "--midi", "DIR", "--count", "0", "--loose", "3"], "1 to 1000"),
        (["feel"], "Say whose feel"),
        (["feel", "GRID", "-o", "x.json"], "does not end in .feel.json"),
    ],
)
def test_what_cannot_be_done_is_said(words: list[str], told: str, grid: Path, tmp_path: Path, capsys) -> None:
    named = [str(grid) if w == "GRID" else str(tmp_path / "takes") if w == "DIR" else w for w in words]
    assert main(named) == 2
    assert told in capsys.readouterr().err
    assert not (tmp_path / "takes").exists()
