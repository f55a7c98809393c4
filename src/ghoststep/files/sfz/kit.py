"""A kit out of an SFZ file: its regions, what plays and what does not, and the samples when they are wanted."""

import json
import logging
from collections import Counter, OrderedDict
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from ghoststep.files.safe import read_bytes, shown
from ghoststep.files.sfz.opcodes import Setting, apply, key, whole
from ghoststep.files.sfz.words import Header, SfzReader
from ghoststep.files.sound import quiet_decoders
from ghoststep.music.errors import InputError
from ghoststep.music.kit import STROKE_NAMES, voice
from ghoststep.sound.sampled.region import Region
from ghoststep.sound.sampled.sampled_kit import LONGEST_S, KeyMap, SampledKit, usual_keys

log = logging.getLogger(__name__)
KEPT_FILES_BYTES = 150_000_000  # of samples as they stand in their files
_LEVELS = ("global", "master", "group", "region")
_MOST_SAMPLE_BYTES = 400_000_000
_RATES_HZ = (1000, 768_000)


@dataclass(frozen=True)
class KitFile:
    """What an SFZ file holds.

    regions: those that can play; files: where each sample is; keymap: of voices and strokes; controllers: as the kit
    sets them; trouble: a sentence for each thing that is missing or not understood.
    """

    name: str
    regions: tuple[Region, ...]
    files: dict[str, Path]
    keymap: KeyMap
    controllers: dict[int, int]
    trouble: tuple[str, ...]

    def kit(self, rate: int) -> SampledKit:
        """The kit at a sample rate in Hz."""
        return SampledKit(self.name, rate, self.regions, self.keymap, Samples(self.files).load, self.controllers)


def read_sfz(path: Path) -> KitFile:
    """Read a kit; samples are only looked for.

    Raises
    ------
    InputError
        Where the file cannot be read, includes itself or what is not there, or has no region that plays.
    """
    reader = SfzReader(path)
    reading = _Reading(reader)
    for header in reader.headers:
        reading.take(header)
    if not reading.regions:
        why = f" ({'; '.join(reading.told())})" if reading.told() else ""
        raise InputError(f"{shown(path)} has no region that plays{why}.")
    regions = tuple(reading.regions)
    keymap = read_keymap(path.with_suffix(".kit.json"), regions)
    return KitFile(path.stem, regions, reading.files, keymap, reading.controllers, tuple(reading.told()))


@dataclass
class _Reading:
    """What is read so far: the words of the levels above a region, and what could not be understood."""

    reader: SfzReader
    regions: list[Region] = field(default_factory=list)
    files: dict[str, Path] = field(default_factory=dict)
    controllers: dict[int, int] = field(default_factory=dict)
    _above: dict[str, dict[str, str]] = field(default_factory=dict)
    _unknown: Counter[str] = field(default_factory=Counter)
    _wrong: Counter[str] = field(default_factory=Counter)
    _path: str = ""
    _shift: int = 0

    def take(self, header: Header) -> None:
        """A header: of those above regions the words are kept, of a region it is made."""
        if header.name == "control":
            self._control(header.words)
        elif header.name in _LEVELS:
            for below in _LEVELS[_LEVELS.index(header.name) :]:
                self._above.pop(below, None)
            self._above[header.name] = header.words
            if header.name == "region":
                self._region(header)
        else:
            self._unknown[f"<{header.name}>"] += 1

    def _control(self, words: dict[str, str]) -> None:
        for word, text in words.items():
            try:
                if word == "default_path":
                    self._path = text
                elif word.startswith("set_cc") and word[6:].isdecimal():
                    self.controllers[int(word[6:])] = whole(text)
                elif word == "note_offset":
                    self._shift += whole(text)
                elif word == "octave_offset":
                    self._shift += 12 * whole(text)
                elif not word.startswith(("label_cc", "hint_")):
                    self._unknown[word] += 1
            except InputError as error:
                self._wrong[f"{word}: {error}"] += 1

    def _region(self, header: Header) -> None:
        setting = Setting()
        for level in _LEVELS:
            for word, text in self._above.get(level, {}).items():
                try:
                    if not apply(setting, word, text):
                        self._unknown[word] += 1
                except InputError as error:
                    self._wrong[f"{word}: {error}"] += 1
                    if word in ("trigger", "loop_mode"):
                        setting.trigger = text if word == "trigger" else setting.trigger
        if setting.trigger != "attack" or not self._file_of(setting, header):
            return
        if self._shift and "keys" in setting.fields:
            low, high = setting.fields["keys"]
            setting.fields["keys"] = (low + self._shift, high + self._shift)
            setting.fields["keycenter"] = setting.fields.get("keycenter", 60) + self._shift
        self.regions.append(setting.region())

    def _file_of(self, setting: Setting, header: Header) -> bool:
        """Find the sample of a region; False where there is none that could be played."""
        name = str(setting.fields.get("sample", ""))
        if not name or name.startswith("*"):
            self._wrong[f"a region has {'the made sound ' + name if name else 'no sample'}, which is not played"] += 1
            return False
        full = (self._path + name).replace("\\", "/")
        if full not in self.files:
            try:
                found = _whatever_case(self.reader.inside(full))
            except InputError as error:
                self._wrong[str(error)] += 1
                return False
            if found is None:
                self._wrong[f"the sample {full} is not there"] += 1
                return False
            try:
                check_sample(found)
            except InputError as error:
                self._wrong[str(error)] += 1
                return False
            self.files[full] = found
        setting.fields["sample"] = full
        return True

    def told(self) -> list[str]:
        """A sentence for each thing that does not play as it is written."""
        times = {1: ""}
        out = [f"{text}{times.get(n, f' ({n} times)')}" for text, n in self._wrong.most_common()]
        return out + [f"'{word}' is not understood{times.get(n, f' ({n} times)')}" for word, n in self._unknown.items()]


def _whatever_case(path: Path) -> Path | None:
    """The file, by whatever case its name is written in, since kits come from systems that do not care."""
    if path.is_file():
        return path
    if not path.parent.is_dir():
        return None
    return next((p for p in sorted(path.parent.iterdir()) if p.name.lower() == path.name.lower() and p.is_file()), None)


def read_keymap(path: Path, regions: tuple[Region, ...]) -> KeyMap:
    """The map beside a kit (NAME.kit.json): keys of voices and strokes, levels of voices; else what is usual.

    Raises
    ------
    InputError
        Where there is a file that is no such map.
    """
    usual = usual_keys(regions)
    if not path.exists():
        return usual
    wrong = InputError(f"{shown(path)} is no map of a kit: see docs/kits.md.")
    try:
        data = json.loads(read_bytes(path, limit_bytes=1_000_000))
    except ValueError as error:
        raise wrong from error
    if not isinstance(data, dict) or not {"keys", "levels_db"} >= set(data):
        raise wrong
    keys: dict[tuple[str, str], int] = dict(usual.keys)
    for name, value in data.get("keys", {}).items():
        voice_name, _, stroke = name.partition("/")
        voice(voice_name)
        if stroke and stroke not in STROKE_NAMES:
            raise InputError(f"{shown(path)}: '{stroke}' is no stroke. There are: {', '.join(STROKE_NAMES)}.")
        keys[voice_name, stroke or "plain"] = key(str(value))
    levels = {voice(name).name: float(db) for name, db in data.get("levels_db", {}).items()}
    return KeyMap(keys, levels)


class Samples:
    """The samples of files, read when they are wanted and kept up to a limit."""

    def __init__(self, files: dict[str, Path]) -> None:
        self._files = files
        self._kept: OrderedDict[str, tuple[NDArray[np.float32], int]] = OrderedDict()

    def load(self, name: str) -> tuple[NDArray[np.float32], int]:
        """Samples of shape (n, channels) and their rate; silence, and a line in the log, where a file is gone."""
        if name not in self._kept:
            try:
                self._kept[name] = read_sample(self._files[name])
            except InputError as error:
                log.warning("a sample of the kit is silent: %s", error)
                self._kept[name] = (np.zeros((1, 1), np.float32), 44100)
            while len(self._kept) > 1 and sum(s.nbytes for s, _ in self._kept.values()) > KEPT_FILES_BYTES:
                self._kept.popitem(last=False)
        self._kept.move_to_end(name)
        return self._kept[name]


def check_sample(path: Path) -> None:
    """Raises an InputError where the head of a file is none of a sound that a kit can hold."""
    try:
        if path.stat().st_size > _MOST_SAMPLE_BYTES:
            raise InputError(f"{shown(path)} is too large for a sample of a kit.")
        with quiet_decoders():
            told = soundfile.info(path)
    except (soundfile.LibsndfileError, RuntimeError, OSError) as error:
        raise InputError(f"{shown(path)} could not be read as sound.") from error
    if not _RATES_HZ[0] <= told.samplerate <= _RATES_HZ[1]:
        raise InputError(f"{shown(path)} has a sample rate of {told.samplerate} Hz.")
    if not told.frames:
        raise InputError(f"{shown(path)} holds no sound.")


def read_sample(path: Path) -> tuple[NDArray[np.float32], int]:
    """The first LONGEST_S of a sound file, shape (n, 1 or 2), and its rate.

    Raises
    ------
    InputError
        Where it is no sound.
    """
    check_sample(path)
    try:
        with quiet_decoders(), soundfile.SoundFile(path) as file:
            samples = file.read(round(LONGEST_S * file.samplerate), dtype="float32", always_2d=True)
            rate = int(file.samplerate)
    except (soundfile.LibsndfileError, RuntimeError, OSError, MemoryError) as error:
        raise InputError(f"{shown(path)} could not be read as sound.") from error
    return np.nan_to_num(np.clip(samples[:, :2], -8, 8), nan=0.0), rate
