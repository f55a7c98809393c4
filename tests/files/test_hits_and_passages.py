"""Tables of hits, passages of long files, and looking through a file without keeping it."""

from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from ghoststep.files import sound as sound_files
from ghoststep.files.hits import hits_text, parse_hits, read_hits, write_hits
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.sound import length_s, read_overview, read_passage, read_recording
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICE_INDEX
from ghoststep.music.performance import Performance
from ghoststep.work.grooves import hear_file

RATE = 8000


@pytest.fixture
def ramp(tmp_path: Path) -> Path:
    """Ten seconds that get louder, in stereo."""
    path = tmp_path / "ramp.wav"
    t = np.arange(10 * RATE) / RATE
    one = t / 10 * np.sin(2 * np.pi * 220 * t)
    soundfile.write(path, np.stack([one, 0.5 * one], axis=1), RATE)
    return path


def test_a_passage_is_cut_where_it_says(ramp: Path) -> None:
    passage = read_passage(ramp, 2.0, 3.5)
    assert passage.samples.shape == (1.5 * RATE, 2) and passage.name == "ramp 0m02.0s-0m03.5s.flac"
    whole = read_recording(ramp)
    assert np.allclose(passage.samples, whole.samples[2 * RATE : int(3.5 * RATE)], atol=1e-4)
    again, rate = soundfile.read(__import__("io").BytesIO(passage.data))
    assert rate == RATE and np.allclose(again, passage.samples, atol=1e-4)
    assert len(read_passage(ramp, 9.0, 99.0).samples) == RATE  # what is there of it


@pytest.mark.parametrize(
    ("a", "b", "words"), [(3, 3, "empty"), (-1, 2, "empty"), (20, 30, "only 10.0 s"), (0, 9999, "too long")]
)
def test_a_passage_that_cannot_be_is_said(ramp: Path, a: float, b: float, words: str) -> None:
    with pytest.raises(InputError, match=words):
        read_passage(ramp, a, b)


def test_a_file_is_looked_through(ramp: Path) -> None:
    told: list[float] = []
    found = read_overview(ramp, told.append)
    assert found.length_s == pytest.approx(10) and length_s(ramp) == pytest.approx(10)
    assert len(found.low) == len(found.high) == -(-10 * RATE // 2048) and told[-1] == pytest.approx(1)
    assert found.high.argmax() >= len(found.high) - 2 and (found.low <= found.high).all()
    bad = ramp.with_name("bad.wav")
    bad.write_bytes(b"RIFF")
    for reads in (read_overview, length_s, lambda p: read_passage(p, 0, 1)):
        with pytest.raises(InputError, match="could not be read as sound"):
            reads(bad)
        with pytest.raises(InputError, match="gone"):
            reads(ramp.with_name("gone.wav"))


def test_long_sound_is_kept_as_one_channel(ramp: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sound_files, "MONO_FROM_S", 4.0)
    whole = read_recording(ramp)
    assert whole.samples.shape == (10 * RATE, 1)
    assert whole.samples[5 * RATE :, 0] == pytest.approx(soundfile.read(ramp)[0][5 * RATE :].mean(axis=1), abs=1e-4)
    monkeypatch.setattr(sound_files, "MAX_LENGTH_S", 8.0)
    with pytest.raises(InputError, match="pick a passage"):
        read_recording(ramp)


rows = st.lists(
    st.tuples(st.floats(0, 600), st.sampled_from(sorted(VOICE_INDEX)), st.integers(1, 127)), min_size=1, max_size=20
)


@given(rows)
def test_a_table_comes_back(found: list[tuple[float, str, int]]) -> None:
    ordered = sorted((round(t, 6), VOICE_INDEX[v], x) for t, v, x in found)
    played = Performance.of(*zip(*ordered, strict=True), length_s=1)
    back = parse_hits(hits_text(played), "x")
    assert back.onset_s == pytest.approx(played.onset_s) and np.array_equal(back.voice, played.voice)
    assert np.array_equal(back.velocity, played.velocity)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "holds no hit"),
        ("time_s,voice\n", "holds no hit"),
        ("1,2,3,4", "line 1"),
        ("0.5,kick,99\nsoon,kick,99", "line 2"),
        ("0.5,kick,200", "200 is outside"),
        ("-1,kick,90", "outside 0 to"),
        ("nan,kick,90", "outside 0 to"),
        ("0.5,gong,90", "no voice"),
    ],
)
def test_a_bad_table_names_its_line(text: str, words: str) -> None:
    with pytest.raises(InputError, match=words):
        parse_hits(text, "taps.csv")


def test_a_table_is_heard_like_anything_else(tmp_path: Path) -> None:
    beat = [(i * 0.25, ("kick", "hat_closed", "snare", "hat_closed")[i % 4]) for i in range(32)]
    path = tmp_path / "taps.csv"
    path.write_text("# tapped on a table\ntime_s,voice\n" + "".join(f"{t},{v}\n" for t, v in beat))
    document = hear_file(path, general_midi_keys(), Hints())
    assert document.groove.tempo.main_bpm == pytest.approx(120, rel=0.01) and document.name == "taps"
    write_hits(path, read_hits(path))
    assert len(read_hits(path)) == 32
    with pytest.raises(InputError, match="no sound"):
        hear_file(path, general_midi_keys(), Hints(), passage_s=(0, 1))
