"""Every format that is read or written: a row each, and a file of the row's name that does it.

Dialogs, the command line, the work on folders, and files that are dropped on the window all read this table. A new way
out is a row here and a file beside this one with `write`; what is read has a `read` too. They are loaded when they are
first used, since MIDI and sound need packages that take long to load.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from enum import StrEnum
from importlib import import_module
from pathlib import Path
from types import ModuleType
from typing import cast

from ghoststep.files.keymap import KeyMap
from ghoststep.files.safe import shown
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document
from ghoststep.sound.kit import Kit

Progress = Callable[[float], None]


class Holds(StrEnum):
    """What a file holds, by which it is opened or listened to."""

    GROOVE = "groove"
    SOUND = "sound"
    HITS = "hits"  # moments of strokes: they are listened to
    FEEL = "feel"


@dataclass(frozen=True)
class Format:
    """A row. name: also that of the file that reads and writes it; words: as the user knows it, in one and in many;
    endings: of file names, the first is the usual one; written: those it is written with; read_as_groove: opened as it
    is written; listened_to: a groove can be heard in it."""

    name: str
    words: str
    many: str
    holds: Holds
    endings: tuple[str, ...]
    written: tuple[str, ...] = ()
    read_as_groove: bool = False
    listened_to: bool = False
    found_in_folders: bool = False  # heard where a whole folder is

    @property
    def filter(self) -> str:
        """As a file dialog wants it, for writing."""
        return f"{self.many} ({' '.join(f'*{ending}' for ending in self.written)})"


FORMATS: tuple[Format, ...] = (
    Format("project", "a project", "Projects", Holds.GROOVE, (".ghoststep",), (".ghoststep",), read_as_groove=True),
    Format("grid", "a text grid", "Text grids", Holds.GROOVE, (".grid.txt", ".txt"), (".grid.txt", ".txt"),
           read_as_groove=True),
    Format("midi", "a MIDI file", "MIDI files", Holds.GROOVE, (".mid", ".midi", ".smf", ".rmi", ".kar"),
           (".mid", ".midi"), read_as_groove=True, listened_to=True, found_in_folders=True),
    Format("sound", "a sound file", "Sound files", Holds.SOUND,
           (".wav", ".flac", ".ogg", ".oga", ".opus", ".mp3", ".aif", ".aiff", ".aifc", ".caf", ".au", ".w64", ".rf64"),
           (".wav", ".flac"), listened_to=True, found_in_folders=True),
    Format("hits", "a table of hits", "Tables of hits", Holds.HITS, (".csv",), listened_to=True),
    Format("feel", "a feel", "Feels", Holds.FEEL, (".feel.json",)),
)  # fmt: skip
BY_NAME = {row.name: row for row in FORMATS}


@dataclass(frozen=True)
class Output:
    """What writers need beside the document: the key map of MIDI, the kit that plays, who is told how far it is."""

    keys: KeyMap
    kit: Kit | None = None
    progress: Progress = field(default=lambda share: None)


def format_of(path: Path) -> Format | None:
    """The row of a file by its ending, the longest that fits; None where there is none."""
    name = path.name.lower()
    best, length = None, 0
    for row in FORMATS:
        if name.endswith(row.endings):
            longest = max(len(ending) for ending in row.endings if name.endswith(ending))
            best, length = (row, longest) if longest > length else (best, length)
    return best


def holds(path: Path) -> Holds | None:
    """What a file holds by its ending; None where that says nothing."""
    row = format_of(path)
    return row.holds if row is not None else None


def is_listenable(path: Path) -> bool:
    """Whether a groove can be heard in a file."""
    row = format_of(path)
    return row is not None and row.listened_to


def plain_name(path: Path) -> str:
    """The name without folder and ending, as text that can be kept."""
    name, row = shown(path), format_of(path)
    for ending in (*(row.endings if row else ()), path.suffix):
        if ending and name.lower().endswith(ending.lower()):
            return name[: -len(ending)] or name
    return name


def opened(path: Path, keys: KeyMap) -> Document:
    """A file as a document, read as it is written (MIDI keeps its own tempo and bars).

    Raises
    ------
    InputError
        Where it holds no groove, or cannot be read.
    """
    row = format_of(path)
    if row is not None and row.read_as_groove:
        read = cast("Callable[[Path, KeyMap], Document]", _of(row).read)
        return read(path, keys)
    if row is not None and row.holds is Holds.SOUND:
        raise InputError(f"{shown(path)} is a recording: listen to it first, which makes a groove of it.")
    raise InputError(f"{shown(path)} is no groove: give {_listed([r for r in FORMATS if r.read_as_groove])}.")


def written(path: Path, document: Document, output: Output, among: tuple[str, ...] = ()) -> tuple[str, ...]:
    """Write a document in the format of the file's ending; what is to be said of it, sentence by sentence.

    Parameters
    ----------
    among
        Names of the formats that are possible here; all that are written where none is given.

    Raises
    ------
    InputError
        Where the ending is of no such format, or the file cannot be written.
    """
    name = path.name.lower()
    rows = [r for r in FORMATS if r.written and (not among or r.name in among)]
    row = next((r for r in rows if name.endswith(r.written)), None)
    if row is None:
        raise InputError(f"{shown(path)}: write {_listed(rows)}.")
    write = cast("Callable[[Path, Document, Output], tuple[str, ...]]", _of(row).write)
    return write(path, document, output)


def _of(row: Format) -> ModuleType:
    """The file that reads and writes a format."""
    return import_module(f"{__name__}.{row.name}")


def _listed(rows: list[Format]) -> str:
    named = [f"{row.words} ({row.endings[0]})" for row in rows]
    return f"{', '.join(named[:-1])} or {named[-1]}" if len(named) > 1 else named[0]
