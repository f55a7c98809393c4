"""Strokes at the very start, long rests, empty stretches: what loops and stems are made of."""

from pathlib import Path

import numpy as np
import pytest
import soundfile

from ghoststep.cli.main import main
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.project import save_project
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.performance import Performance
from ghoststep.sound.sketch import sketch_kit
from ghoststep.work import folder
from ghoststep.work.grooves import hear_file
from ghoststep.work.hits_heard import heard_performance
from ghoststep.work.rendering import Rendering, blocks_of
from ghoststep.work.trust import Trust

KEYS = general_midi_keys()
RATE = 44100
GRID = """
tempo 100
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
snare      ----X-------X--- | ----X-------X---
kick       X-----x-X------- | X-----x-X-------
"""


@pytest.fixture(scope="module")
def loop() -> np.ndarray:
    return np.concatenate(list(blocks_of(Rendering(parse_grid(GRID), sketch_kit(RATE), loop=True))))


def heard(tmp_path: Path, samples: np.ndarray) -> list[tuple[float, str]]:
    path = tmp_path / "a.wav"
    soundfile.write(path, samples, RATE, subtype="PCM_16")
    document = hear_file(path, KEYS, Hints())
    return sorted((h.origin.time_s, h.voice) for h in document.groove.pattern.hits if h.origin)


def silence(seconds: float) -> np.ndarray:
    return np.zeros((round(seconds * RATE), 2), np.float32)


@pytest.mark.parametrize("cut_s", [0.0, 0.004])
def test_what_begins_with_the_file_is_heard(tmp_path: Path, loop: np.ndarray, cut_s: float) -> None:
    """A loop cut on the beat, also inside the attack."""
    first = {voice for time_s, voice in heard(tmp_path, loop[round(cut_s * RATE) :]) if time_s < 0.02}
    assert first == {"kick", "hat_closed"}


def test_a_little_drumming_before_much_silence_is_heard(tmp_path: Path, loop: np.ndarray) -> None:
    found = heard(tmp_path, np.concatenate([loop[: round(1.1 * RATE)], silence(20)]))
    assert [v for t, v in found if v == "hat_closed"] == ["hat_closed"] * 4 and found[-1][0] < 1.2


def test_what_stands_before_a_long_rest_is_heard(tmp_path: Path, loop: np.ndarray) -> None:
    found = heard(tmp_path, np.concatenate([loop[: round(1.4 * RATE)], silence(60), loop]))
    before = [voice for time_s, voice in found if time_s < 2]
    assert before.count("hat_closed") >= 4 and "snare" in before and "kick" in before
    assert sum(time_s > 60 for time_s, _ in found) >= 20


def taps(*starts_s: float) -> Performance:
    times = np.concatenate([start + np.arange(0, 8, 0.5) for start in starts_s])
    return Performance.of(times, [1] * len(times), [90] * len(times), length_s=float(times[-1]) + 1)


def test_taps_with_an_empty_stretch_are_fitted() -> None:
    document = heard_performance(taps(0, 60), "taps", Hints())
    assert document.groove.tempo.main_bpm == pytest.approx(120, rel=0.02)
    assert len(document.groove.pattern.hits) == 32


def test_a_fault_of_ours_is_one_row(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def fails(*_: object, **__: object) -> object:
        raise IndexError("list index out of range")

    monkeypatch.setattr(folder, "hear_file", fails)
    file = tmp_path / "fault.mid"
    file.write_bytes(b"x")
    row = folder.heard_row((file, "fault.mid", [None, None, None], KEYS, Hints(), 960, Trust.COMPARE))
    assert row.file == "fault.mid" and "a fault of ours" in row.trouble


def test_files_of_one_stem_do_not_share_an_output(tmp_path: Path, loop: np.ndarray) -> None:
    home = tmp_path / "in"
    home.mkdir()
    for name in ("a.wav", "a.flac"):
        soundfile.write(home / name, loop, RATE)
    assert main(["listen", str(home), "--json", str(tmp_path / "out"), "--processes", "1"]) == 0
    assert len(list((tmp_path / "out").glob("a*.json"))) == 2


def test_what_was_only_heard_keeps_no_file_and_is_never_saved(tmp_path: Path, loop: np.ndarray) -> None:
    file = tmp_path / "loop.wav"
    soundfile.write(file, loop, 44100)
    whole = hear_file(file, general_midi_keys(), Hints())
    light = hear_file(file, general_midi_keys(), Hints(), keep_file=False)
    assert whole.recording is not None and whole.recording.data == file.read_bytes()
    assert light.groove == whole.groove and light.recording is not None and not light.recording.data
    with pytest.raises(ValueError, match="only heard"):
        save_project(tmp_path / "a.ghoststep", light)
    assert not (tmp_path / "a.ghoststep").exists()
