import json
import os
import subprocess
import sys
from pathlib import Path

import mido
import numpy as np
import pytest
import soundfile

from ghoststep.cli.main import main
from ghoststep.cli.performing import parse_lean
from ghoststep.files.demo import demo_folder, demo_recordings
from ghoststep.music.errors import InputError


@pytest.fixture
def grid(tmp_path: Path, grid_text: str) -> Path:
    path = tmp_path / "depot.grid.txt"
    path.write_text(grid_text)
    return path


def test_listen_writes_what_it_says(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    outs = [tmp_path / n for n in ("a.json", "a.mid", "a.grid.txt")]
    words = ["listen", str(demo_recordings()[0])]
    for option, out in zip(("--json", "--midi", "--grid"), outs, strict=True):
        words += [option, str(out)]
    assert main(words) == 0
    assert "92.0 BPM, 4/4, 4 bars, sixteenths at 57 %" in capsys.readouterr().out
    analysis = json.loads(outs[0].read_text())
    assert {"tempo_bpm", "meter", "downbeat_s", "swing", "pocket_ms", "hits"} <= set(analysis)
    assert {"time_s", "voice", "velocity", "ghost", "bar", "position_beats", "offset_ms", "confidence"} <= set(
        analysis["hits"][0]
    )
    notes = [m for m in mido.MidiFile(outs[1]) if m.type == "note_on" and m.velocity]
    assert len(notes) == len(analysis["hits"])
    assert main(["show", str(outs[2])]) == 0


def test_hints_are_taken(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["listen", str(demo_recordings()[0]), "--tempo", "184"]) == 0
    assert "184" in capsys.readouterr().out


def test_a_folder_is_worked_through_past_bad_files(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    folder = tmp_path / "in"
    folder.mkdir()
    (folder / "bad.wav").write_bytes(b"nothing")
    (folder / "notes.txt").write_text("not for listening")
    for name in ("a.wav", "b.wav"):
        (folder / name).symlink_to(demo_recordings()[0])
    (folder / "a.mid").write_bytes(b"MThd")
    assert main(["listen", str(folder), "--json", str(tmp_path / "out")]) == 0
    said = capsys.readouterr()
    assert "2 of 4 files heard" in said.out and "bad.wav" in said.err
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == ["a.wav.json", "b.json", "listening.csv"]


def test_perform_plays_with_feel(tmp_path: Path, grid: Path, capsys: pytest.CaptureFixture[str]) -> None:
    midi, wav = tmp_path / "a.mid", tmp_path / "a.wav"
    words = ["perform", str(grid), "--swing", "16:0.57", "--lean", "snare=+12,hat=-4", "--loose", "3", "--take", "2"]
    assert main([*words, "--tempo", "100", "--midi", str(midi), "--wav", str(wav)]) == 0
    assert "one empty bar" in capsys.readouterr().out
    assert soundfile.info(wav).duration > 4.8 and mido.MidiFile(midi).ticks_per_beat == 960


def test_without_feel_every_moment_is_on_the_grid(grid: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["perform", str(grid)]) == 0
    moments = [float(line.split()[0]) for line in capsys.readouterr().out.splitlines()]
    steps = np.array(moments) / (60 / 96 / 4)
    assert np.abs(steps - np.rint(steps)).max() < 1e-3


def test_render_and_stems(tmp_path: Path, grid: Path) -> None:
    out = tmp_path / "a.flac"
    assert main(["render", str(grid), str(out), "--rate", "48000", "--stems", str(tmp_path / "stems")]) == 0
    assert soundfile.info(out).samplerate == 48000
    assert sorted(p.name for p in (tmp_path / "stems").iterdir()) == [
        "a-hat_closed.flac",
        "a-kick.flac",
        "a-snare.flac",
    ]


BAD = [
    ["listen", "nothing.wav"],
    ["listen", "."],
    ["listen", "{grid}", "--json", "x.json"],
    ["listen", "{demo}", "--tempo", "5000"],
    ["listen", "{demo}", "--meter", "4/5"],
    ["listen", "{demo}", "--bars", "0"],
    ["listen", "{demo}", "--json", "nowhere/x.json"],
    ["listen", "{demo}", "--midi", "x.mid", "--division", "1"],
    ["perform", "{grid}", "--swing", "17"],
    ["perform", "{grid}", "--lean", "gong=3"],
    ["perform", "{grid}", "--lean", "snare"],
    ["perform", "{grid}", "--loose", "-1"],
    ["perform", "{grid}", "--tempo", "abc"],
    ["perform", "{grid}", "--midi", "/proc/x.mid"],
    ["render", "{grid}", "x.mp3"],
    ["render", "{grid}", "x.wav", "--rate", "1"],
    ["render", "{grid}", "x.wav", "--kit", "Gold"],
    ["render", "{grid}"],
    ["show", "{demo}"],
    ["--frobnicate"],
]


@pytest.mark.parametrize("words", BAD, ids=" ".join)
def test_bad_input_is_one_sentence_and_exit_2(
    words: list[str], grid: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.chdir(tmp_path)
    before = {p: p.read_bytes() for p in tmp_path.rglob("*") if p.is_file() and "home" not in p.parts}
    assert main([w.format(grid=grid, demo=demo_recordings()[1]) for w in words]) == 2
    said = capsys.readouterr().err
    assert said.startswith("ghost-step: ") and said.count("\n") == 1 and "Traceback" not in said and len(said) > 25
    assert {p: p.read_bytes() for p in tmp_path.rglob("*") if p.is_file() and "home" not in p.parts} == before


def test_our_own_fault_is_exit_1_and_logged(
    grid: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str], own_folders: Path
) -> None:
    def broken(*_: object) -> None:
        raise ZeroDivisionError("oops")

    monkeypatch.setattr("ghoststep.cli.performing.text_of", broken)
    assert main(["show", str(grid)]) == 1
    assert "a fault of ours" in capsys.readouterr().err
    logs = list(own_folders.rglob("ghost-step.log"))
    assert logs and "ZeroDivisionError" in logs[0].read_text()


def test_leans_are_read() -> None:
    assert parse_lean("kick=-3, hat=+4.5")["hat_open"] == 4.5
    with pytest.raises(InputError):
        parse_lean("kick=soon")


def run(*words: str, **env: str) -> subprocess.CompletedProcess[str]:
    clean = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    command = [sys.executable, "-m", "ghoststep", *words]
    root = str(Path(__file__).parents[2] / "src")
    return subprocess.run(
        command, capture_output=True, text=True, env={**clean, **env, "PYTHONPATH": root}, timeout=120
    )


def test_without_a_display_the_demo_does_its_job(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    done = run("--demo", "--out", "shown")
    assert done.returncode == 0, done.stderr
    assert "There is no display" in done.stdout
    written = {p.name for p in (tmp_path / "shown").iterdir()}
    assert {"larch-terrace.mid", "larch-terrace.json", "larch-terrace.ghoststep", "listen.png", "place.png"} <= written
    assert len([m for m in mido.MidiFile(tmp_path / "shown/larch-terrace.mid") if m.type == "note_on"]) > 60


def test_without_a_display_a_window_is_refused_in_words() -> None:
    done = run("x.ghoststep")
    assert done.returncode == 2 and "no display" in done.stderr


def test_commands_do_not_load_qt_and_the_window_starts_light() -> None:
    code = (
        "import sys\nfrom ghoststep.cli.main import main\nmain(['show', sys.argv[1]])\n"
        "assert not any(m.startswith('PySide6') for m in sys.modules), 'Qt'\n"
    )
    grid = demo_folder().parents[1] / "data" / "demo" / "larch-terrace.json"
    done = subprocess.run([sys.executable, "-c", code, str(grid)], capture_output=True, text=True)
    assert "Qt" not in done.stderr
    light = (
        "import sys\nimport ghoststep.desk.app.start\n"
        "heavy = {'scipy.signal', 'scipy.special', 'scipy.ndimage', 'sounddevice'} & set(sys.modules)\n"
        "assert not heavy, heavy\n"
    )
    done = subprocess.run([sys.executable, "-c", light], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr


def test_perform_plays_the_balance_of_the_project(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    grid, project = tmp_path / "a.grid.txt", tmp_path / "a.ghoststep"
    grid.write_text("tempo 96\nhat_closed x-x-x-x-x-x-x-x-\nkick X-------X-------\n")
    assert main(["edit", str(grid), "--do", "balance hat-led", "-o", str(project)]) == 0
    capsys.readouterr()
    said = []
    for path in (grid, project):
        assert main(["perform", str(path)]) == 0
        rows = capsys.readouterr().out.splitlines()
        said.append({row.split()[2]: int(row.split()[-1]) for row in rows if " s " in row})
    assert said[1]["kick"] < said[0]["kick"] - 10 and said[1]["hat_closed"] > said[0]["hat_closed"]


@pytest.mark.parametrize(("given", "used"), [(None, "1"), ("3", "3")])
def test_small_matrices_are_multiplied_on_one_thread_unless_said_otherwise(given: str | None, used: str) -> None:
    words = (
        "import os, sys; from ghoststep.cli.main import main; assert 'numpy' not in sys.modules; "
        "main(['show', 'no such groove.mid']); print(os.environ['OPENBLAS_NUM_THREADS'])"
    )
    known = {name: value for name, value in os.environ.items() if name != "OPENBLAS_NUM_THREADS"}
    env = known if given is None else {**known, "OPENBLAS_NUM_THREADS": given}
    done = subprocess.run([sys.executable, "-c", words], env=env, capture_output=True, text=True, check=True)
    assert done.stdout.split()[-1] == used
