"""Whole folders: on several processes, past bad files, and on from where it was stopped."""

import csv
import os
from pathlib import Path

import pytest

from ghoststep.cli.listening import seconds_of
from ghoststep.cli.main import main
from ghoststep.music.errors import InputError
from ghoststep.work import folder as folders
from ghoststep.work.many import rows_of

Said = pytest.CaptureFixture[str]


@pytest.fixture
def music(tmp_path: Path, grid_text: str) -> Path:
    """Six performances in two folders and one file that is none."""
    home = tmp_path / "music"
    (home / "inner").mkdir(parents=True)
    grid = tmp_path / "depot.grid.txt"
    grid.write_text(grid_text)
    for i in range(6):
        target = home / ("inner" if i % 2 else "") / f"take-{i}.mid"
        assert main(["perform", str(grid), "--take", str(i), "--loose", "3", "--midi", str(target)]) == 0
    (home / "bad.wav").write_bytes(b"nothing")
    return home


def table(place: Path) -> dict[str, dict[str, str]]:
    with (place / folders.TABLE).open(encoding="utf-8") as file:
        return {row["file"]: row for row in csv.DictReader(file)}


def test_a_folder_is_heard_on_several_processes(music: Path, tmp_path: Path, capsys: Said) -> None:
    out = tmp_path / "out"
    assert main(["listen", str(music), "--json", str(out), "--midi", str(out), "--processes", "2"]) == 0
    said = capsys.readouterr()
    assert "6 of 7 files heard" in said.out and said.err.startswith("ghost-step: bad.wav")
    rows = table(out)
    assert list(rows) == sorted(rows) and len(rows) == 7
    assert (
        float(rows["inner/take-1.mid"]["tempo_bpm"]) == pytest.approx(96, rel=0.005)
        and rows["inner/take-1.mid"]["meter"] == "4/4"
    )
    assert rows["inner/take-1.mid"]["kick"] == "7" and "could not be read" in rows["bad.wav"]["trouble"]
    assert (out / "inner" / "take-1.json").exists() and (out / "take-0.mid").exists()


def test_a_second_run_hears_only_what_is_new(
    music: Path, tmp_path: Path, capsys: Said, monkeypatch: pytest.MonkeyPatch
) -> None:
    out = tmp_path / "out"
    words = ["listen", str(music), "--json", str(out), "--processes", "1"]
    assert main(words) == 0
    heard: list[str] = []
    real = folders.heard_row
    monkeypatch.setattr(folders, "heard_row", lambda task: heard.append(task[1]) or real(task))
    os.utime(music / "take-0.mid", ns=(1, 1))
    (out / "take-2.json").unlink()
    assert main(words) == 0
    assert sorted(heard) == ["bad.wav", "take-0.mid", "take-2.mid"] and len(table(out)) == 7
    assert "4 of 7 files were heard before" in capsys.readouterr().out
    heard.clear()
    assert main([*words, "--again"]) == 0 and len(heard) == 7


def test_a_killed_run_is_gone_on_with(music: Path, tmp_path: Path) -> None:
    """The table as a kill leaves it: some rows, the last one cut short."""
    out = tmp_path / "out"
    words = ["listen", str(music), "--json", str(out), "--processes", "1"]
    assert main(words) == 0
    whole = (out / folders.TABLE).read_text()
    lines = whole.splitlines()
    (out / folders.TABLE).write_text("\n".join(lines[:4]) + "\n" + lines[4][:25])
    assert main(words) == 0
    assert len(table(out)) == 7 and set(table(out)) == {line.split(",")[0] for line in lines[1:]}


def dies_on_take_2(task: folders.Task) -> folders.Row:
    """Stands in for a file so large that the system ends the process that hears it."""
    if task[1] == "take-2.mid":
        os._exit(9)
    return folders.Row(task[1])


def test_a_file_that_takes_its_process_down_is_named(music: Path) -> None:
    keys, hints = folders.KeyMap(()), folders.Hints()
    tasks = [(f, f.name, [None, None, None], keys, hints, 960) for f in sorted(music.rglob("*.mid"))]
    rows = {row.file: row.trouble for row in rows_of(tasks, dies_on_take_2, folders._lost, processes=2)}
    assert len(rows) == 6 and "process that heard it ended" in rows.pop("take-2.mid") and not any(rows.values())


def test_without_a_place_the_analyses_stand_in_the_folder(music: Path) -> None:
    assert main(["listen", str(music), "--processes", "1"]) == 0
    own = music / folders.OWN_FOLDER
    assert (own / "take-0.json").exists() and (own / folders.TABLE).exists()
    assert main(["listen", str(music), "--processes", "1"]) == 0  # and are not taken for recordings
    assert len(table(own)) == 7


def test_nothing_to_hear_is_said(tmp_path: Path, capsys: Said) -> None:
    assert main(["listen", str(tmp_path)]) == 2
    assert "holds no sound" in capsys.readouterr().err
    (tmp_path / "bad.wav").write_bytes(b"nothing")
    assert main(["listen", str(tmp_path)]) == 2
    assert main(["listen", str(tmp_path), "--from", "0:10"]) == 2


@pytest.mark.parametrize(("text", "seconds"), [("80", 80), ("1:20", 80), ("1:20.5", 80.5), ("1:02:03", 3723)])
def test_times_are_read_as_people_write_them(text: str, seconds: float) -> None:
    assert seconds_of(text) == seconds


@pytest.mark.parametrize("text", ["", "soon", "1:2:3:4", "-3", "1:-2"])
def test_what_is_no_time_is_said(text: str) -> None:
    with pytest.raises(InputError, match="no time"):
        seconds_of(text)


def test_a_passage_and_mouth_drumming_from_the_command_line(tmp_path: Path, capsys: Said) -> None:
    import soundfile
    from tools.mouth_voice import mouthed

    beat = [(0.3 + 0.25 * i, ("kick", "hat_closed", "snare", "hat_closed")[i % 4], 90) for i in range(32)]
    path, lesson = tmp_path / "mouth.wav", tmp_path / "lesson.wav"
    soundfile.write(path, mouthed(beat, rate=44100, length_s=9, seed=1), 44100)
    taught = [(0.2 + 0.35 * i, ("kick", "snare", "hat_closed")[i // 2], 90) for i in range(6)]
    soundfile.write(lesson, mouthed(taught, rate=44100, length_s=3, seed=2), 44100)
    assert main(["listen", str(path), "--mouth", "--from", "0", "--to", "6"]) == 0
    assert "120" in capsys.readouterr().out
    assert main(["listen", str(path), "--mouth", "--teach", str(lesson), "--sounds", "kick,snare,ride"]) == 0
    assert main(["listen", str(path), "--sounds", "kick"]) == 2
    assert "belong to --mouth" in capsys.readouterr().err


def test_recordings_alike_but_for_their_endings_or_their_case_have_results_of_their_own(tmp_path: Path) -> None:
    files = [tmp_path / name for name in ("a.wav", "A.flac", "b.wav", "in/a.wav", "c.grid.mid")]
    assert list(folders._stems(files, tmp_path).values()) == ["a.wav", "A.flac", "b", "in/a", "c.grid"]


def test_a_row_that_was_half_written_is_heard_again_and_the_others_are_not(
    music: Path, tmp_path: Path, capsys: Said
) -> None:
    words = ["listen", str(music), "--json", str(tmp_path / "out"), "--processes", "1"]
    assert main(words) == 0
    table = tmp_path / "out" / folders.TABLE
    lines = table.read_text().splitlines(keepends=True)
    whole = len(lines) - 1
    table.write_text("".join(lines[:-1]) + lines[-1][: len(lines[-1]) // 3])
    capsys.readouterr()
    assert main(words) == 0
    # One file is damaged, and tried anew each time.
    assert f"{whole - 2} of {whole} files were heard before" in capsys.readouterr().out
    assert table.read_text().splitlines(keepends=True) == lines
