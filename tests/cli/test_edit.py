"""`ghost-step edit`: the commands of the window without it."""

from pathlib import Path

import mido
import pytest

from ghoststep.cli.main import main
from ghoststep.files.demo import demo_recordings
from ghoststep.files.project import load_project
from ghoststep.session.commands import COMMANDS
from ghoststep.session.language.verb import all_verbs


@pytest.fixture
def grid(tmp_path: Path, grid_text: str) -> Path:
    path = tmp_path / "depot.grid.txt"
    path.write_text("\n".join(line.strip() for line in grid_text.splitlines()))
    return path


def test_commands_are_done_in_turn_and_written(grid: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "out.ghoststep"
    words = ["edit", str(grid), "--do", "accents every 3 on hat; fill snare under hat", "--do", "hit.louder on snare"]
    assert main([*words, "-o", str(out)]) == 2
    assert "Command 3, 'hit.louder on snare'" in capsys.readouterr().err and not out.exists()
    words[-1] = "velocity -6 on snare ghosts"
    assert main([*words, "--do", "ornament flam on snare at 2", "--do", "keep flammed", "-o", str(out)]) == 0
    said = capsys.readouterr().out
    assert "6 accents (every 3)" in said and "flam" in said and "out.ghoststep written" in said
    document = load_project(out)
    assert document.snapshots[0].name == "flammed" and any(h.ornament for h in document.groove.pattern.hits)
    midi = tmp_path / "out.mid"
    assert main(["edit", str(out), "--do", "balance kick-led", "-o", str(midi)]) == 0
    notes = [m for m in mido.MidiFile(midi) if m.type == "note_on" and m.velocity]
    assert len(notes) == len(document.groove.pattern.hits) + 2  # two flams


def test_without_a_file_the_grid_is_printed(grid: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["edit", str(grid), "--do", "select snare ghosts", "--do", "hit.remove"]) == 0
    assert "snare       ----X-------X--- | ----X-------X---" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("words", "says"),
    [
        ([], "Which groove"),
        (["GRID"], "Say what to do"),
        (["GRID", "--do", "velocity 200 on snare"], "not a velocity from 1 to 127"),
        (["GRID", "--do", "sing"], "no command"),
        (["GRID", "--do", "remove on snare", "-o", "out.pdf"], "write a project"),
        (["GONE", "--do", "remove on snare"], "gone.mid"),
    ],
)
def test_bad_input_is_one_sentence(
    grid: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], words: list[str], says: str
) -> None:
    names = {"GRID": str(grid), "GONE": str(tmp_path / "gone.mid")}
    assert main(["edit", *(names.get(w, w) for w in words)]) == 2
    told = capsys.readouterr().err
    assert says in told and told.count("\n") == 1


def test_the_list_holds_every_verb_and_command(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["edit", "--list"]) == 0
    told = capsys.readouterr().out
    assert all(f"  {name}" in told for name in all_verbs())
    assert all(row.name in told for row in COMMANDS.values() if row.phrase)


def test_a_recording_is_heard_first(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    code = main(["edit", str(demo_recordings()[0]), "--do", "straighten"])
    assert code == 2 and "larch-terrace" in capsys.readouterr().err


def test_what_a_text_grid_cannot_keep_is_said(grid: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    words = ["edit", str(grid), "--do", "stands splash -0.9 0.5", "--do", "keep before", "-o"]
    assert main([*words, str(tmp_path / "out.grid.txt")]) == 0
    assert "Only a project keeps who plays and on which kit it is checked and 1 groove kept" in capsys.readouterr().out
    assert main([*words, str(tmp_path / "out.ghoststep")]) == 0
    assert "Only a project" not in capsys.readouterr().out
    assert main(["edit", str(grid), "--do", "velocity +4 on snare", "-o", str(tmp_path / "plain.grid.txt")]) == 0
    assert "Only a project" not in capsys.readouterr().out
