"""The key map between MIDI keys and voices: data that the user can edit."""

import csv
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from ghoststep.files.safe import read_bytes, write_text
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICE_NAMES, VOICES, voice

_HEAD = (
    "# Which MIDI key stands for which voice (General MIDI percussion, channel 10). The first row of a voice is the\n"
    "# key that is written; the others are read as that voice.\n"
)


@dataclass(frozen=True)
class KeyMap:
    """Rows of (key, voice); the first row of a voice is written, the first row of a key says what it is read as."""

    rows: tuple[tuple[int, str], ...]

    def key_of(self, voice_name: str) -> int | None:
        return next((key for key, name in self.rows if name == voice_name), None)

    def voice_of(self, key: int) -> str | None:
        return next((name for k, name in self.rows if k == key), None)

    def as_csv(self) -> str:
        return f"{_HEAD}key,voice\n" + "".join(f"{key},{name}\n" for key, name in self.rows)


def parse_keys(text: str, source: str) -> KeyMap:
    """Read a key map; an error names the line.

    Raises
    ------
    InputError
        Where a line is no key and voice, or a voice has no key.
    """
    rows: list[tuple[int, str]] = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip() or line.lstrip().startswith("#") or line.replace(" ", "") == "key,voice":
            continue
        cells = [c.strip() for c in next(csv.reader([line]))]
        if len(cells) != 2 or not cells[0].isdecimal() or not 0 <= int(cells[0]) <= 127:
            raise InputError(f"{source}, line {number}: a row is a MIDI key from 0 to 127 and a voice, like 36,kick.")
        voice(cells[1])
        rows.append((int(cells[0]), cells[1]))
    missing = [name for name in VOICE_NAMES if name not in {v for _, v in rows}]
    if missing:
        raise InputError(f"{source} names no key for {', '.join(missing)}.")
    return KeyMap(tuple(rows))


@cache
def general_midi_keys() -> KeyMap:
    """The map that ships: the keys of each voice in the table of the kit."""
    return KeyMap(tuple((key, v.name) for v in VOICES for key in v.keys))


def read_keys(path: Path) -> KeyMap:
    """The user's map, or the one that ships where the user has none.

    Raises
    ------
    InputError
        Where the user's cannot be read.
    """
    if not path.exists():
        return general_midi_keys()
    try:
        return parse_keys(read_bytes(path, limit_bytes=100_000).decode("utf-8"), path.name)
    except UnicodeDecodeError as error:
        raise InputError(f"{path.name} is not a text file in UTF-8.") from error


def write_keys(path: Path, keys: KeyMap) -> None:
    write_text(path, keys.as_csv())
