"""Sound files in (WAV, FLAC, OGG, MP3, AIFF ...) and out (WAV, FLAC).

Lengths in headers are not trusted: sound is read block by block up to a limit of our own. What is not a number or
beyond reason is made silent or limited, since one such sample would spoil everything after it.
"""

import io
import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Lock
from typing import BinaryIO

import numpy as np
import soundfile
from numpy.typing import NDArray

from ghoststep.files.safe import read_bytes, write_whole
from ghoststep.music.errors import InputError
from ghoststep.session.document import Recording

SOUND_SUFFIXES = (
    ".wav",
    ".flac",
    ".ogg",
    ".oga",
    ".opus",
    ".mp3",
    ".aif",
    ".aiff",
    ".aifc",
    ".caf",
    ".au",
    ".w64",
    ".rf64",
)
MAX_LENGTH_S = 15 * 60.0
MAX_BYTES = 700_000_000
MAX_CHANNELS = 16
_BLOCK = 1 << 16
_ERROR_OUTPUT = Lock()  # file descriptor 2 belongs to the whole process


def read_recording(path: Path) -> Recording:
    """Read a sound file.

    Raises
    ------
    InputError
        Where it cannot be read, is no sound, is empty, or is longer than MAX_LENGTH_S.
    """
    data = read_bytes(path, limit_bytes=MAX_BYTES)
    return decoded_recording(path.name, data)


def decoded_recording(name: str, data: bytes) -> Recording:
    """A recording from a file's bytes."""
    try:
        with _quiet_decoders(), soundfile.SoundFile(io.BytesIO(data)) as file:
            rate, channels = file.samplerate, file.channels
            if channels > MAX_CHANNELS:
                raise InputError(f"{name} has {channels} channels; at most {MAX_CHANNELS} can be read.")
            if not 4000 <= rate <= 768000:
                raise InputError(f"{name} has a sample rate of {rate} Hz; 4 to 768 kHz can be read.")
            samples = _blocks(file, name, round(MAX_LENGTH_S * rate))
    except (soundfile.LibsndfileError, RuntimeError, OSError) as error:
        raise InputError(
            f"{name} could not be read as sound: it is damaged or of a kind we do not know."
            " WAV, FLAC, OGG, MP3 and AIFF can be read."
        ) from error
    if not len(samples):
        raise InputError(f"{name} holds no sound: it has no samples, or it was cut off before the first.")
    return Recording(name, data, samples, rate)


@contextmanager
def _quiet_decoders() -> Iterator[None]:
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


def _blocks(file: soundfile.SoundFile, name: str, most: int) -> NDArray[np.float32]:
    parts: list[NDArray[np.float32]] = []
    count = 0
    while True:
        block = file.read(_BLOCK, dtype="float32", always_2d=True)
        if not len(block):
            break
        count += len(block)
        if count > most:
            raise InputError(
                f"{name} is longer than {MAX_LENGTH_S / 60:.0f} minutes: cut out the passage you want and give that."
            )
        parts.append(_sane(block))
    return np.concatenate(parts) if parts else np.zeros((0, file.channels), np.float32)


def _sane(block: NDArray[np.float32]) -> NDArray[np.float32]:
    if np.isfinite(block).all() and np.abs(block).max(initial=0) < 64:
        return block
    return np.clip(np.nan_to_num(block, nan=0.0, posinf=1.0, neginf=-1.0), -1, 1).astype(np.float32)


def write_sound(path: Path, samples: NDArray[np.floating], rate: int) -> None:
    """Write WAV (24 bit) or FLAC (24 bit) by the name's ending; a peak over full scale is brought down to it."""
    kinds = {".wav": "WAV", ".flac": "FLAC"}
    kind = kinds.get(path.suffix.lower())
    if kind is None:
        raise InputError(f"{path.name}: sound is written as .wav or .flac, not as '{path.suffix or 'no ending'}'.")
    peak = float(np.abs(samples).max(initial=0.0))
    out = samples / peak if peak > 1 else samples

    def write(file: BinaryIO) -> None:
        buffer = io.BytesIO()
        soundfile.write(buffer, out, rate, format=kind, subtype="PCM_24")
        file.write(buffer.getbuffer())

    write_whole(path, write)
