import contextlib
import errno
import io
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
import soundfile

from ghoststep.files import safe, sound, sound_out
from ghoststep.files.keymap import general_midi_keys, parse_keys, read_keys, write_keys
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICE_NAMES


def test_a_failed_write_leaves_the_old_file_and_no_rest(tmp_path: Path) -> None:
    path = tmp_path / "a.txt"
    safe.write_text(path, "old")

    def full(file: io.BufferedWriter) -> None:
        file.write(b"half")
        raise OSError(errno.ENOSPC, "No space left on device")

    with pytest.raises(InputError, match="the disk is full"):
        safe.write_whole(path, full)
    assert path.read_text() == "old" and list(tmp_path.iterdir()) == [path]


def test_trouble_other_than_the_disk_leaves_no_rest_either(tmp_path: Path) -> None:
    def broken(_file: object) -> None:
        raise InputError("no")

    with pytest.raises(InputError):
        safe.write_whole(tmp_path / "a.txt", broken)
    assert not list(tmp_path.iterdir())


KILLED = """
import sys, os
from pathlib import Path
from ghoststep.files.safe import write_whole
def slow(file):
    file.write(b"half of the new content")
    file.flush()
    os.kill(os.getpid(), 9)
write_whole(Path(sys.argv[1]), slow)
"""


def test_a_kill_while_saving_leaves_the_old_file_whole(tmp_path: Path) -> None:
    path = tmp_path / "a.txt"
    path.write_text("old")
    done = subprocess.run([sys.executable, "-c", KILLED, str(path)], env={**os.environ, "PYTHONPATH": "src"})
    assert done.returncode == -9 and path.read_text() == "old"


def test_the_mode_of_a_file_is_kept(tmp_path: Path) -> None:
    path = tmp_path / "a.txt"
    path.write_text("old")
    path.chmod(0o640)
    safe.write_text(path, "new")
    assert path.stat().st_mode & 0o777 == 0o640


@pytest.mark.parametrize(
    ("make", "words"), [("missing", "does not exist"), ("folder", "is a folder"), ("empty", "is empty")]
)
def test_unreadable_files_are_said(tmp_path: Path, make: str, words: str) -> None:
    path = tmp_path / "x.wav"
    if make == "folder":
        path.mkdir()
    elif make == "empty":
        path.touch()
    with pytest.raises(InputError, match=words):
        sound.read_recording(path)


def test_a_missing_folder_is_said(tmp_path: Path) -> None:
    with pytest.raises(InputError, match=r"x\.mid could not be written: the folder it should be in does not exist"):
        safe.write_text(tmp_path / "nowhere" / "x.mid", "x")


KINDS = [
    ("wav", "PCM_U8"),
    ("wav", "PCM_16"),
    ("wav", "PCM_24"),
    ("wav", "PCM_32"),
    ("wav", "FLOAT"),
    ("flac", "PCM_16"),
    ("ogg", "VORBIS"),
    ("mp3", "MPEG_LAYER_III"),
    ("aiff", "PCM_16"),
]


@pytest.mark.parametrize(("kind", "subtype"), KINDS)
@pytest.mark.parametrize("channels", [1, 2])
def test_the_usual_kinds_are_read(tmp_path: Path, kind: str, subtype: str, channels: int) -> None:
    path = tmp_path / f"a.{kind}"
    tone = 0.5 * np.sin(np.arange(22050) / 20)[:, None].repeat(channels, axis=1)
    soundfile.write(path, tone, 22050, subtype=subtype)
    found = sound.read_recording(path)
    assert found.samples.shape[1] == channels and found.rate == 22050 and found.data == path.read_bytes()
    assert found.length_s == pytest.approx(1, abs=0.12)


def wav(samples: np.ndarray, rate: int = 8000, **rest: str) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="WAV", **rest)
    return out.getvalue()


def test_a_truncated_file_gives_what_is_there() -> None:
    data = wav(np.full(8000, 0.5))
    assert len(sound.decoded_recording("a.wav", data[:9000]).samples) == pytest.approx(4478, abs=20)


@pytest.mark.parametrize(
    "data", [b"RIFF", b"not a sound at all" * 100, b"\xff\xfb\x90\x00" * 3, b"fLaC" + b"\0" * 50, b"OggS\0\0"]
)
def test_damaged_files_are_said(data: bytes) -> None:
    with pytest.raises(InputError, match=r"a\.wav"):
        sound.decoded_recording("a.wav", data)


def test_what_decoders_print_is_kept_off_the_error_output(capfd: pytest.CaptureFixture[str]) -> None:
    out = io.BytesIO()
    soundfile.write(out, 0.1 * np.random.default_rng(1).standard_normal(22050), 22050, format="MP3")
    data = bytearray(out.getvalue())
    for at in range(300, len(data), 97):
        data[at] ^= 0x5A
    with contextlib.suppress(InputError):
        sound.decoded_recording("a.mp3", bytes(data))
    print("still here", file=sys.stderr)
    assert capfd.readouterr().err == "still here\n"


def test_a_header_without_samples_is_said() -> None:
    with pytest.raises(InputError, match="holds no sound"):
        sound.decoded_recording("a.wav", wav(np.zeros(0)))


def test_too_long_and_too_many_channels_are_said(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sound, "MAX_LENGTH_S", 0.5)
    with pytest.raises(InputError, match="longer than"):
        sound.decoded_recording("a.wav", wav(np.zeros(8000)))
    with pytest.raises(InputError, match="20 channels"):
        sound.decoded_recording("a.wav", wav(np.zeros((10, 20))))


def test_what_is_not_a_number_is_made_harmless() -> None:
    bad = np.array([0.1, np.nan, np.inf, -np.inf, 1e30, 0.2])
    found = sound.decoded_recording("a.wav", wav(bad, subtype="FLOAT")).samples[:, 0]
    assert np.isfinite(found).all() and np.abs(found).max() <= 1 and found[0] == np.float32(0.1)


def test_written_sound_never_clips(tmp_path: Path) -> None:
    path = tmp_path / "a.flac"
    sound_out.write_sound(path, np.array([[0.0, 0.0], [3.0, -1.5]]), 44100)
    assert soundfile.read(path)[0][1].tolist() == pytest.approx([1, -0.5], abs=1e-5)
    with pytest.raises(InputError, match=r"\.wav, \.flac or \.ogg"):
        sound_out.write_sound(tmp_path / "a.mp3", np.zeros((1, 2)), 44100)


# -- key map ----------------------------------------------------------------------------------------------------


def test_the_key_map_walks_both_ways(tmp_path: Path) -> None:
    keys = general_midi_keys()
    for name in VOICE_NAMES:
        key = keys.key_of(name)
        assert key is not None
        assert keys.voice_of(key) in (name, "hat_open")  # half-open hats share the open hat's key
    assert keys.voice_of(36) == keys.voice_of(35) == "kick" and keys.voice_of(99) is None
    write_keys(tmp_path / "keys.csv", keys)
    assert read_keys(tmp_path / "keys.csv") == keys
    assert read_keys(tmp_path / "none.csv") == keys


@pytest.mark.parametrize("text", ["36", "200,kick", "36,gong", "x,kick", "36,kick"])
def test_bad_key_maps_are_refused(text: str) -> None:
    with pytest.raises(InputError, match=r"keys|gong"):
        parse_keys(text, "keys.csv")


def test_what_is_written_is_forced_to_the_disk_before_it_takes_the_old_ones_place(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    order: list[str] = []
    sync, replace = os.fsync, os.replace

    def synced(handle: int) -> None:
        order.append(f"forced, {os.fstat(handle).st_size} bytes")
        sync(handle)

    def replaced(old: str, new: str) -> None:
        order.append("in its place")
        replace(old, new)

    monkeypatch.setattr(os, "fsync", synced)
    monkeypatch.setattr(os, "replace", replaced)
    (tmp_path / "a.txt").write_text("old")
    safe.write_text(tmp_path / "a.txt", "what is new")
    assert "forced, 11 bytes" in order and (tmp_path / "a.txt").read_text() == "what is new"
    assert order.index("forced, 11 bytes") < order.index("in its place")
