"""`ghost-step slice`, `replay` and what `render` was given besides: bits, loudness, stems by limb."""

from pathlib import Path

import mido
import numpy as np
import pytest
import soundfile

from ghoststep.cli.main import main
from ghoststep.files.demo import demo_recordings

GRID = "tempo 92\nhat_closed x-x-x-x-x-x-x-x-\nsnare ----X-------X---\nkick X-------X-------\ncrash X---------------\n"


@pytest.fixture(scope="module")
def recording() -> Path:
    return next(p for p in demo_recordings() if p.stem == "larch-terrace")


@pytest.fixture
def grid(tmp_path: Path) -> Path:
    path = tmp_path / "a.grid.txt"
    path.write_text(GRID)
    return path


def test_slices_are_files_with_a_kit_and_a_midi_file_that_play_them(recording: Path, tmp_path: Path) -> None:
    folder = tmp_path / "pieces"
    assert main(["slice", str(recording), str(folder)]) == 0
    pieces = sorted(folder.glob("[0-9]*.wav"))
    assert len(pieces) > 30 and pieces[0].name.startswith("001-")
    whole = soundfile.info(recording)
    assert sum(soundfile.info(p).frames for p in pieces) <= whole.frames
    notes = [m for m in mido.MidiFile(folder / "larch-terrace.mid") if m.type == "note_on" and m.velocity]
    assert [m.note for m in notes] == list(range(24, 24 + len(pieces)))
    assert main(["kits", str(folder / "larch-terrace.sfz")]) == 0
    assert (folder / "larch-terrace.sfz").read_text().count("<region>") == len(pieces)


@pytest.mark.parametrize("pitch", ["free", "tied"])
def test_another_groove_is_played_with_the_sounds_of_a_recording(
    recording: Path, grid: Path, pitch: str, capsys: pytest.CaptureFixture[str]
) -> None:
    out = grid.with_name("out.wav")
    words = ["replay", str(recording), str(grid), str(out), "--pitch", pitch, "--to-tempo", "138"]
    assert main(words) == 0
    assert "in place of strokes that the recording has not" in capsys.readouterr().out  # it has no crash
    sound, rate = soundfile.read(out, always_2d=True)
    assert len(sound) / rate == pytest.approx(4 * 60 / 138, abs=0.6) and np.abs(sound).max() > 0.1
    assert main([*words[:-1], "400"]) == (2 if pitch == "tied" else 0)


def test_what_cannot_be_cut_is_said(grid: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["slice", str(grid), str(tmp_path / "d")]) == 2
    assert capsys.readouterr().err.startswith("ghost-step: ")
    assert main(["replay", str(grid), str(grid), str(tmp_path / "o.wav")]) == 2
    assert not (tmp_path / "o.wav").exists()


@pytest.mark.parametrize(
    ("words", "subtype"), [(("--bits", "16"), "PCM_16"), (("--bits", "24"), "PCM_24"), (("--bits", "32f"), "FLOAT")]
)
def test_bits_loudness_and_peak(grid: Path, words: tuple[str, ...], subtype: str) -> None:
    out = grid.with_name("b.wav")
    assert main(["render", str(grid), str(out), *words, "--peak", "-3"]) == 0
    info = soundfile.info(out)
    assert info.subtype == subtype
    assert np.abs(soundfile.read(out)[0]).max() == pytest.approx(10 ** (-3 / 20), abs=0.03)


def test_loudness_is_reached_or_told(grid: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = str(grid.with_name("b.flac"))
    assert main(["render", str(grid), out, "--loudness", "-30"]) == 0
    assert "-30.0 LUFS" in capsys.readouterr().out
    assert main(["render", str(grid), out, "--loudness", "-6"]) == 0
    assert "its peaks would be cut" in capsys.readouterr().out


def test_stems_by_limb_add_up_and_ogg_is_written(grid: Path, tmp_path: Path) -> None:
    out = grid.with_name("mix.wav")
    words = ["--bits", "32f", "--stems", str(tmp_path / "s"), "--stems-by", "limb"]
    assert main(["render", str(grid), str(out), *words]) == 0
    stems = sorted((tmp_path / "s").iterdir())
    assert [p.name for p in stems] == ["mix-K.wav", "mix-L.wav", "mix-R.wav"]
    parts = [soundfile.read(p)[0] for p in stems]
    assert np.abs(sum(parts) - soundfile.read(out)[0]).max() < 1e-5
    assert main(["render", str(grid), str(grid.with_name("m.ogg")), "--rate", "48000"]) == 0
    assert soundfile.info(grid.with_name("m.ogg")).format == "OGG"


@pytest.mark.parametrize(
    "words",
    [["o.flac", "--bits", "32f"], ["o.wav", "--bits", "8"], ["o.wav", "--loudness", "-14", "--peak", "-1"],
     ["o.wav", "--kit", "none such"], ["o.wav", "--peak", "3"], ["o.mp3"], ["o.wav", "--rate", "700"]],
)  # fmt: skip
def test_what_cannot_be_written_so_is_said(grid: Path, words: list[str], capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["render", str(grid), str(grid.with_name(words[0])), *words[1:]]) == 2
    assert capsys.readouterr().err.startswith("ghost-step: ") and not grid.with_name(words[0]).exists()


def test_the_kit_is_kept_with_the_project_and_a_lost_one_is_told(
    grid: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    own, project = tmp_path / "own", tmp_path / "a.ghoststep"
    own.mkdir()
    soundfile.write(own / "snare.wav", np.ones((2000, 1)) * 0.1, 44100)
    assert main(["edit", str(grid), "--do", f"kit {own}", "-o", str(project)]) == 0
    assert main(["render", str(project), str(tmp_path / "o.wav")]) == 0
    assert "kit own: it has nothing for" in capsys.readouterr().out
    (own / "snare.wav").unlink()
    assert main(["render", str(project), str(tmp_path / "o.wav")]) == 0
    assert "Depot plays instead" in capsys.readouterr().out
    assert main(["edit", str(project), "--do", "kit sketch", "--do", "undo", "--do", "kit nothing"]) == 2
    assert "no kit 'nothing'" in capsys.readouterr().err
    assert main(["edit", str(project), "-o", str(tmp_path / "text.grid.txt")]) == 0
    assert "Only a project keeps the kit that plays it." in capsys.readouterr().out
    assert main(["kits"]) == 0 and "depot" in capsys.readouterr().out
