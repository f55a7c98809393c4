"""Sound files out: WAV, FLAC and OGG in the form that is asked for, measured as they are written."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import BinaryIO

import numpy as np
import soundfile
from numpy.typing import NDArray

from ghoststep.files.safe import shown, write_whole
from ghoststep.music.errors import InputError
from ghoststep.sound.metering import Meter

_KEPT_BYTES = 64_000_000  # so much sound is kept while its peak is looked for; more is made a second time
_PIECE = 1 << 13  # frames handed to the library at once: its OGG encoder fails on long ones
_KINDS = {".wav": "WAV", ".flac": "FLAC", ".ogg": "OGG"}
_SUBTYPES = {"16": "PCM_16", "24": "PCM_24", "32f": "FLOAT"}
_LOUDEST_RATE = {"FLAC": 655_350, "OGG": 192_000, "WAV": 768_000}
Blocks = Callable[[], Iterator[NDArray[np.floating]]]


@dataclass(frozen=True)
class SoundForm:
    """How sound is written.

    bits: "16", "24" or "32f" (float); dither: triangular noise of two steps where there are 16 bits, so that what fades
    out does not break up; loudness_lufs and peak_dbtp: brought to this loudness or true peak (not both); without them
    only what is over full scale is brought down, but for 32f, which holds it.
    """

    bits: str = "24"
    dither: bool = True
    loudness_lufs: float | None = None
    peak_dbtp: float | None = None

    def __post_init__(self) -> None:
        if self.bits not in _SUBTYPES:
            raise InputError(f"Sound is written with 16, 24 or 32f bits (32f is floating point), not '{self.bits}'.")
        if self.loudness_lufs is not None and self.peak_dbtp is not None:
            raise InputError("Sound is brought to a loudness or to a peak, not to both.")
        if self.loudness_lufs is not None and not -60 <= self.loudness_lufs <= -5:
            raise InputError(f"A loudness of {self.loudness_lufs:g} LUFS is outside -60 to -5.")
        if self.peak_dbtp is not None and not -60 <= self.peak_dbtp <= 0:
            raise InputError(f"A peak of {self.peak_dbtp:g} dB is outside -60 to 0.")

    def gain(self, meter: Meter, sample_peak: float) -> float:
        """What the samples are multiplied by, from what was measured of all of them."""
        if self.loudness_lufs is not None and np.isfinite(meter.loudness_lufs):
            gain = 10 ** ((self.loudness_lufs - meter.loudness_lufs) / 20)
            return float(min(gain, 1 / max(sample_peak, 1e-9)) if self.bits != "32f" else gain)
        if self.peak_dbtp is not None and sample_peak > 0:
            return float(10 ** ((self.peak_dbtp - meter.true_peak_dbtp) / 20))
        return 1 / sample_peak if sample_peak > 1 and self.bits != "32f" else 1.0


PLAIN = SoundForm()


@dataclass
class Written:
    """What a file that was written came to: loudness, true peak, and the gain that was laid on it."""

    gain: float = 1.0
    loudness_lufs: float = -np.inf
    true_peak_dbtp: float = -np.inf
    wanted: SoundForm = field(default_factory=SoundForm)

    def told(self) -> str:
        """In words."""
        if not np.isfinite(self.true_peak_dbtp):
            return "silent"
        out = f"{self.loudness_lufs:.1f} LUFS, true peak {self.true_peak_dbtp:.1f} dBTP"
        if self.wanted.loudness_lufs is not None and abs(self.loudness_lufs - self.wanted.loudness_lufs) > 0.1:
            return f"{out}; no louder, since its peaks would be cut"
        return f"{out}; brought down by {-20 * np.log10(self.gain):.1f} dB to fit" if self._fitted else out

    @property
    def _fitted(self) -> bool:
        plain = self.wanted.loudness_lufs is None and self.wanted.peak_dbtp is None
        return plain and self.gain < 0.999


def check_sound_name(path: Path, form: SoundForm = PLAIN, rate: int = 44100) -> str:
    """The kind of sound a name asks for; an InputError where it is none that can be written so."""
    kind = _KINDS.get(path.suffix.lower())
    if kind is None:
        raise InputError(
            f"{shown(path)}: sound is written as .wav, .flac or .ogg, not as '{path.suffix or 'no ending'}'."
        )
    if kind != "WAV" and form.bits == "32f":
        raise InputError(f"{shown(path)}: only .wav holds floating point; give 16 or 24 bits.")
    if rate > _LOUDEST_RATE[kind]:
        raise InputError(f"{shown(path)}: a .{kind.lower()} file has at most {_LOUDEST_RATE[kind]} Hz.")
    return kind


def sound_writer(
    path: Path,
    blocks: Blocks,
    rate: int,
    form: SoundForm = PLAIN,
    written: Written | None = None,
    gain_of: Written | None = None,
) -> Callable[[BinaryIO], None]:
    """What writes sound into an open file, by the name's ending.

    Parameters
    ----------
    blocks
        Gives the samples block by block, shape (n, channels), as often as it is called: once to measure, once to write.
    written
        Filled in with what came of it.
    gain_of
        A file that is written before this one, whose gain is laid on this one too: stems add up to their mix.
    """  # fmt: skip
    kind = check_sound_name(path, form, rate)

    def write(file: BinaryIO) -> None:
        meter, peak, channels, size = Meter(rate), 0.0, 1, 0
        kept: list[NDArray[np.floating]] = []
        for block in blocks():
            peak = max(peak, float(np.abs(block).max(initial=0.0)))
            if written is not None or form.loudness_lufs is not None or form.peak_dbtp is not None:
                meter.add(block)
            channels = block.shape[1] if block.ndim == 2 else 1
            size += block.nbytes
            kept = [*kept, block] if size <= _KEPT_BYTES else []
        gain = gain_of.gain if gain_of is not None else form.gain(meter, peak)
        if written is not None:
            db = 20 * np.log10(gain)
            written.gain, written.wanted = gain, form
            written.loudness_lufs, written.true_peak_dbtp = meter.loudness_lufs + db, meter.true_peak_dbtp + db
        into = _Watched(file)
        dice = np.random.default_rng(16) if form.bits == "16" and form.dither and kind != "OGG" else None
        subtype = "VORBIS" if kind == "OGG" else _SUBTYPES[form.bits]
        try:
            with soundfile.SoundFile(into, "w", rate, channels, subtype=subtype, format=kind) as out:
                for block in kept if size <= _KEPT_BYTES else blocks():
                    _write(out, block if gain == 1 else block * gain, dice)
                    if into.error is not None:
                        break
        except (soundfile.SoundFileError, AssertionError):
            if into.error is None:
                raise
        if into.error is not None:
            raise into.error

    return write


def _write(out: soundfile.SoundFile, block: NDArray[np.floating], dice: np.random.Generator | None) -> None:
    for at in range(0, len(block), _PIECE):
        piece = block[at : at + _PIECE]
        if dice is not None:
            piece = piece + (dice.random(piece.shape) - dice.random(piece.shape)) / 32768
            piece = np.clip(piece, -1, 1 - 1 / 32768)
        out.write(piece)


class _Watched:
    """An open file for the sound library, which would print a full disk and go on: the first error is kept here."""

    def __init__(self, file: BinaryIO) -> None:
        self._file = file
        self.error: OSError | None = None

    def write(self, data: bytes) -> int:
        if self.error is None:
            try:
                self._file.write(data)
                self._file.flush()
            except OSError as error:
                self.error = error
        return len(data)

    def seek(self, offset: int, whence: int = 0) -> int:
        return self._file.seek(offset, whence) if self.error is None else 0

    def tell(self) -> int:
        return self._file.tell() if self.error is None else 0

    def read(self, size: int = -1) -> bytes:
        return self._file.read(size) if self.error is None else b""

    def readinto(self, buffer: bytearray) -> int:
        data = self.read(len(buffer))
        buffer[: len(data)] = data
        return len(data)


def write_sound(path: Path, samples: NDArray[np.floating], rate: int, form: SoundForm = PLAIN) -> None:
    """Write sound by the name's ending; a peak over full scale is brought down to it."""
    write_whole(path, sound_writer(path, lambda: iter([samples]), rate, form))
