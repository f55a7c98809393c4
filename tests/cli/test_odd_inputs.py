"""Odd files and places are one sentence and exit code 2, and what is printed is text and nothing else."""

import os
from pathlib import Path

import numpy as np
import pytest
import soundfile

from ghoststep.cli.main import main

BEAT = "tempo 96\nkick X-------X-------\nsnare ----X-------X---\n"


@pytest.fixture
def grid(tmp_path: Path) -> Path:
    path = tmp_path / "a.grid.txt"
    path.write_text(BEAT)
    return path


def refused(capsys: pytest.CaptureFixture[str], words: list[str], said: str) -> None:
    assert main(words) == 2
    error = capsys.readouterr().err
    assert said in error and error.count("\n") == 1 and len(error) < 340


def test_a_ramp_over_nothing(grid: Path, capsys: pytest.CaptureFixture[str]) -> None:
    grid.write_text("bar 1 tempo 96 -> 120 over 1/0 quarters\n" + BEAT)
    refused(capsys, ["show", str(grid)], "divided by 0")


def test_bars_that_are_said_twice(grid: Path, capsys: pytest.CaptureFixture[str]) -> None:
    words = ["edit", str(grid), "--do", "bars 4", "--do", "place snare bars 2-4 between bar 2 1 and 2"]
    refused(capsys, words, "said twice")


def test_a_link_to_itself(grid: Path, capsys: pytest.CaptureFixture[str]) -> None:
    loop = grid.with_name("b.grid.txt")
    loop.symlink_to(loop)
    refused(capsys, ["edit", str(grid), "-o", str(loop)], "round in a circle")


def test_a_folder_that_is_gone(grid: Path, capsys: pytest.CaptureFixture[str]) -> None:
    gone, here = grid.parent / "gone", Path.cwd()
    gone.mkdir()
    try:
        os.chdir(gone)
        gone.rmdir()
        refused(capsys, ["edit", str(grid), "-o", "x.grid.txt"], "folder it should be in does not exist")
    finally:
        os.chdir(here)


def test_a_zero_in_a_name(capsys: pytest.CaptureFixture[str]) -> None:
    refused(capsys, ["show", "a\0b.grid.txt"], "what no name can")


def test_a_command_that_is_mistyped_opens_no_window(capsys: pytest.CaptureFixture[str]) -> None:
    refused(capsys, ["lisen"], "Did you mean 'listen'?")


def test_a_passage_of_sound_at_a_very_high_rate(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    samples = np.zeros((768000, 1), np.float32)
    soundfile.write(str(tmp_path / "hi.wav"), samples, 768000)
    refused(capsys, ["listen", str(tmp_path / "hi.wav"), "--to", "0.5"], "The sound is silent")


def test_codes_in_names_do_not_reach_the_terminal(grid: Path, capsys: pytest.CaptureFixture[str]) -> None:
    odd = grid.with_name("red\x1b[31m.grid.txt")
    grid.rename(odd)
    assert main(["edit", str(odd), "-o", str(odd.with_name("two\x1b]0;x\x07.grid.txt"))]) == 0
    out = capsys.readouterr()
    assert "\x1b" not in out.out + out.err and "\x07" not in out.out and "written" in out.out
    assert main(["show", str(odd)]) == 0 and "\x1b" not in capsys.readouterr().out


def test_a_song_that_names_a_feel_is_opened_by_every_command(grid: Path, tmp_path: Path) -> None:
    grid.write_text(f"part A\n{BEAT[9:]}section s = A\n  feel laid-back\n")
    out = tmp_path / "out"
    assert main(["show", str(grid)]) == 0
    assert main(["show", str(grid), "--diff", str(grid)]) == 0
    assert main(["perform", str(grid), "--midi", f"{out}.mid"]) == 0
    assert main(["render", str(grid), f"{out}.wav"]) == 0
    assert main(["takes", str(grid), "--midi", str(out), "--loose", "3"]) == 0
    assert main(["feel", str(grid)]) == 0


def test_early_strokes_put_a_bar_in_front_of_every_file_and_it_is_told(
    grid: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    grid.write_text("lean kick -12\n" + BEAT)
    for words in (["edit", str(grid), "-o", "{}.mid"], ["perform", str(grid), "--wav", "{}.wav"],
                  ["takes", str(grid), "--midi", "{}", "--loose", "2"], ["render", str(grid), "{}2.wav"]):  # fmt: skip
        assert main([w.format(grid.parent / "out") for w in words]) == 0
        assert "one empty bar" in capsys.readouterr().out, words
