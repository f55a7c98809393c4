"""Sound files in (WAV, FLAC, OGG, MP3, AIFF ...) and out (WAV, FLAC).

Lengths in headers are not trusted: sound is read block by block up to a limit of our own. What is not a number or
beyond reason is made silent or limited, since one such sample would spoil everything after it.
"""

import io
import os
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from threading import Lock

import numpy as np
import soundfile
from numpy.typing import NDArray

from ghoststep.files.safe import file_trouble, read_bytes, shown
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Recording

MAX_LENGTH_S = 45 * 60.0  # of what is listened to at once
MONO_FROM_S = 4 * 60.0  # longer sound is kept as one channel, since its samples would fill the memory
MAX_FILE_LENGTH_S = 6 * 3600.0  # of a file a passage is picked from
MAX_BYTES = 700_000_000
MAX_CHANNELS = 16
MAX_DECODED_BYTES = 1_200_000_000  # of samples in memory: a small file may hold hours of silence
_MONO_FROM_BYTES = 300_000_000  # and so is what takes more room than this
_MOST_SAMPLES = 600_000_000  # of all channels together: what holds more takes too long to look through
_BLOCK = 1 << 16
_KEPT_BYTES = 64_000_000  # so much sound is kept while its peak is looked for; more is made a second time
_OVERVIEW_STEP = 2048
_MOST_FLAC_HZ = 655_350
_ERROR_OUTPUT = Lock()  # file descriptor 2 belongs to the whole process


def read_recording(path: Path) -> Recording:
    """Read a sound file.

    Raises
    ------
    InputError
        Where it cannot be read, is no sound, is empty, or is longer than MAX_LENGTH_S.

    What is longer than MONO_FROM_S is kept as one channel.
    """
    data = read_bytes(path, limit_bytes=MAX_BYTES)
    return decoded_recording(shown(path), data)


def decoded_recording(name: str, data: bytes) -> Recording:
    """A recording from a file's bytes.

    Raises
    ------
    InputError
        Where they are no sound, or more of it than can be worked with.
    """
    try:
        with quiet_decoders(), soundfile.SoundFile(io.BytesIO(data)) as file:
            _check_shape(file, name)
            if file.frames * file.channels > _MOST_SAMPLES and file.frames < 1 << 60:
                raise _too_large(name)
            rate = file.samplerate
            samples = _blocks(file, name, rate)
    except (soundfile.LibsndfileError, RuntimeError, OSError) as error:
        raise _unreadable(name) from error
    if not len(samples):
        raise InputError(f"{name} holds no sound: it has no samples, or it was cut off before the first.")
    return Recording(name, data, samples, rate)


@contextmanager
def quiet_decoders() -> Iterator[None]:
    """Keep what the decoding libraries print about damaged files off our own error output."""
    with _ERROR_OUTPUT:
        sys.stderr.flush()
        kept = os.dup(2)
        nowhere = os.open(os.devnull, os.O_WRONLY)
        try:
            os.dup2(nowhere, 2)
            yield
        finally:
            os.dup2(kept, 2)
            os.close(kept)
            os.close(nowhere)


def _blocks(file: soundfile.SoundFile, name: str, rate: int) -> NDArray[np.float32]:
    """All samples, read block by block into their place; one channel where the file is long."""
    told = file.frames if file.frames <= MAX_LENGTH_S * rate else 0  # what a damaged head says counts for nothing
    mono = told > MONO_FROM_S * rate or told * file.channels * 4 > _MONO_FROM_BYTES
    out = np.empty((told, 1 if mono else file.channels), np.float32)
    count = 0
    while True:
        block = file.read(_BLOCK, dtype="float32", always_2d=True)
        if not len(block):
            break
        if count + len(block) > MAX_LENGTH_S * rate:
            raise InputError(
                f"{name} is longer than {MAX_LENGTH_S / 60:.0f} minutes: pick a passage of it"
                " (without the window: --from 1:20 --to 1:52)."
            )
        if (count + len(block)) * file.channels > _MOST_SAMPLES:
            raise _too_large(name)
        if not mono and (count > MONO_FROM_S * rate or count * file.channels * 4 > _MONO_FROM_BYTES):
            mono, out = True, _one_channel(out)
        block = _sane(block)
        out = _with_room(out, count + len(block))
        if 4 * (count + len(block)) * out.shape[1] > MAX_DECODED_BYTES:
            raise _too_large(name)
        out[count : count + len(block)] = _one_channel(block) if mono else block
        count += len(block)
    return out if count == len(out) else out[:count].copy()


def _one_channel(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    return samples.mean(axis=1, keepdims=True, dtype=np.float32)


def _with_room(out: NDArray[np.float32], count: int) -> NDArray[np.float32]:
    """The same samples with room for so many: of a file that does not tell, or tells less than it holds."""
    if count <= len(out):
        return out
    larger = np.empty((max(count, 2 * len(out)), out.shape[1]), np.float32)
    larger[: len(out)] = out
    return larger


def _too_large(name: str) -> InputError:
    return InputError(
        f"{name} holds too much sound to be listened to at once: give it with fewer channels, at a lower sample rate,"
        " or pick a passage."
    )


@dataclass(frozen=True, eq=False)
class Overview:
    """Lowest and highest sample of even stretches of a file, shape (k,) each, and its length."""

    low: NDArray[np.float32]
    high: NDArray[np.float32]
    length_s: float


def read_overview(path: Path, progress: Callable[[float], None] = lambda share: None) -> Overview:
    """Look through a whole file block by block, without keeping it.

    Raises
    ------
    InputError
        Where it cannot be read as sound, or is longer than MAX_FILE_LENGTH_S.
    """
    lows, highs, count = [], [], 0
    with _opened(path) as file:
        for block in _pieces(file):
            count += len(block)
            if count > MAX_FILE_LENGTH_S * file.samplerate:
                raise InputError(f"{shown(path)} is longer than {MAX_FILE_LENGTH_S / 3600:.0f} hours.")
            mono = block.mean(axis=1)
            edges = np.arange(0, len(mono), _OVERVIEW_STEP)
            lows.append(np.minimum.reduceat(mono, edges))
            highs.append(np.maximum.reduceat(mono, edges))
            progress(min(count / max(file.frames, 1), 1.0))
        rate = file.samplerate
    if not count:
        raise InputError(f"{shown(path)} holds no sound: it has no samples, or it was cut off before the first.")
    return Overview(np.concatenate(lows), np.concatenate(highs), count / rate)


def length_s(path: Path) -> float:
    """The length a file states in its header, which may be wrong; for deciding how to go on."""
    with _opened(path) as file:
        return float(file.frames / file.samplerate)


def read_passage(path: Path, start_s: float, end_s: float) -> Recording:
    """A passage of a file as a recording of its own, kept as FLAC (as WAV at rates that FLAC has not).

    Raises
    ------
    InputError
        Where the file cannot be read, or the passage is empty, too long or outside it.
    """
    if not 0 <= start_s < end_s:
        raise InputError(f"A passage from {start_s:.1f} s to {end_s:.1f} s is empty: it has to end after it begins.")
    if end_s - start_s > MAX_LENGTH_S:
        raise InputError(f"A passage of {(end_s - start_s) / 60:.0f} minutes is too long: at most 45.")
    parts, at = [], 0
    with _opened(path) as file:
        rate = file.samplerate
        first, last = round(start_s * rate), round(end_s * rate)
        for block in _pieces(file):  # compressed files seek unreliably, and reading on costs little
            if at + len(block) > first:
                parts.append(block[max(0, first - at) : max(0, last - at)])
            at += len(block)
            if at >= last:
                break
    samples = np.concatenate(parts) if parts else np.zeros((0, 1), np.float32)
    if not len(samples):
        raise InputError(f"{shown(path)} is only {at / rate:.1f} s long: the passage begins after its end.")
    if len(samples) > MONO_FROM_S * rate:
        samples = samples.mean(axis=1, keepdims=True)
    data = io.BytesIO()
    kind = "FLAC" if rate <= _MOST_FLAC_HZ else "WAV"
    soundfile.write(data, np.clip(samples, -1, 1), rate, format=kind, subtype="PCM_24")
    stem = shown(path)[: -len(path.suffix)] if path.suffix else shown(path)
    name = f"{stem} {_clock(start_s)}-{_clock(end_s)}.{kind.lower()}"
    return Recording(name, data.getvalue(), samples, rate)


def _clock(seconds: float) -> str:
    return f"{int(seconds // 60)}m{seconds % 60:04.1f}s"


@contextmanager
def _opened(path: Path) -> Iterator[soundfile.SoundFile]:
    """A sound file, checked; what goes wrong while it is read becomes a sentence."""
    try:
        if not path.is_file():
            raise InputError(
                f"{shown(path)} is a pipe or device and no file that can be read."
                if path.exists() and not path.is_dir()
                else f"{shown(path)} could not be read: it {'is a folder' if path.is_dir() else 'does not exist'}."
            )
        with path.open("rb") as raw, quiet_decoders(), soundfile.SoundFile(raw) as file:
            _check_shape(file, shown(path))
            yield file
    except PermissionError as error:
        raise file_trouble(error, path, "read") from error
    except (soundfile.LibsndfileError, RuntimeError, OSError) as error:
        raise _unreadable(shown(path)) from error


def _pieces(file: soundfile.SoundFile) -> Iterator[NDArray[np.float32]]:
    while len(block := file.read(_BLOCK, dtype="float32", always_2d=True)):
        yield _sane(block)


def _check_shape(file: soundfile.SoundFile, name: str) -> None:
    if file.channels > MAX_CHANNELS:
        raise InputError(f"{name} has {file.channels} channels; at most {MAX_CHANNELS} can be read.")
    if not 4000 <= file.samplerate <= 768000:
        raise InputError(f"{name} has a sample rate of {file.samplerate} Hz; 4 to 768 kHz can be read.")


def _unreadable(name: str) -> InputError:
    return InputError(
        f"{name} could not be read as sound: it is damaged or of a kind we do not know."
        " WAV, FLAC, OGG, MP3 and AIFF can be read."
    )


def _sane(block: NDArray[np.float32]) -> NDArray[np.float32]:
    if np.isfinite(block).all() and np.abs(block).max(initial=0) < 64:
        return block
    return np.clip(np.nan_to_num(block, nan=0.0, posinf=1.0, neginf=-1.0), -1, 1).astype(np.float32)
