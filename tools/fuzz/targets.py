"""Every reader, with good files to break and the ways to break them."""

import io
import random
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile

from ghoststep.desk.app.settings import geometry_of, window_settings
from ghoststep.desk.model.memory import recent_files
from ghoststep.feel.perform import perform
from ghoststep.feel.transfer import laid_on
from ghoststep.feel.words import feel_lines
from ghoststep.files.demo import demo_recordings
from ghoststep.files.feel_file import feel_bytes, read_feel
from ghoststep.files.feels import shelf
from ghoststep.files.hits import read_hits
from ghoststep.files.keymap import general_midi_keys, read_keys
from ghoststep.files.midi_in import groove_of, read_midi
from ghoststep.files.midi_out import midi_file
from ghoststep.files.places import settings_folder, state_folder
from ghoststep.files.project import load_project, save_project
from ghoststep.files.sound import read_recording
from ghoststep.files.textgrid import parse_grid, read_grid
from ghoststep.files.textgrid_out import grid_text
from ghoststep.listen.bars.reading import Hints
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.sound.balance import current
from ghoststep.work.grooves import hear_file
from tools.fuzz.mutators import BYTES, TEXT, VALUES, Mutator

GRID = """name "Signal box"
tempo 96
meter 4/4
grid 16
bar 2 meter 7/8 2+2+3
bar 3 meter 4/4
bar 3 grid 12
bar 2 tempo 96 -> 120 over 2
swing 16 0.57
lean snare +9, hat_closed -4
levels snare ghost 22
swing hat_closed 16 0.6
spot snare 3 of 4 late +5, accent 118
wander exponent 1.2, velocity 4
touch second 0.9
cycle hat_closed 3
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x- | x--x--x--x--
snare      ----X--o-o--X--o | ----X-----X--- | ---X-----X--
kick       X------x--X----- | X-----x------- | X-----x-----
hit snare bar 1 2+1/7 velocity 40 grace
"""
_MAX_PLAYED = 3000
_SETTINGS = b"[General]\ntheme=night\ngeometry=@ByteArray(\\x1\\xd9\\xd0\\xcb\\0\\x3)\n"


@dataclass(frozen=True)
class Target:
    """A reader. `good` are contents that can be read, `read` reads a file and uses what it found."""

    name: str
    ending: str
    good: tuple[bytes, ...]
    mutators: tuple[Mutator, ...]
    read: Callable[[Path], object]

    def broken(self, dice: random.Random) -> bytes:
        """One of the good contents, broken in one or two ways."""
        data = dice.choice(self.good)
        for _ in range(dice.choice((1, 1, 2))):
            data = dice.choice(self.mutators)(data, dice) or b"\0"
        return data


def _used(document: Document) -> Document:
    """A document that can be read can be worked with."""
    document = opened(document)
    if len(document.groove.pattern.hits) <= _MAX_PLAYED and document.groove.pattern.bars <= 64:
        perform(document.groove)
        grid_text(document.groove)
        current(document.groove)
    return document


def _project(path: Path) -> Document:
    return _used(load_project(path))


def _midi(path: Path) -> Document:
    return _used(Document("x", groove_of(read_midi(path, general_midi_keys()))))


def _grid(path: Path) -> Document:
    return _used(Document("x", read_grid(path)))


def _feel(path: Path) -> object:
    """A feel that can be read can be laid on a groove, told and written."""
    feel, name, about = read_feel(path)
    groove = parse_grid(GRID)
    laid, _ = laid_on(feel, groove)
    perform(groove.changed(feel=laid))
    return feel_lines(feel), feel_bytes(laid, name, about)


def _bytes_of(write: Callable[[Path], object], folder: Path, ending: str) -> bytes:
    path = folder / f"good{ending}"
    write(path)
    return path.read_bytes()


def _midi_bytes(division: int) -> bytes:
    out = io.BytesIO()
    _, write = midi_file(parse_grid(GRID), general_midi_keys(), division=division)
    write(out)
    return out.getvalue()


def _sound_bytes(kind: str) -> bytes:
    out = io.BytesIO()
    noise = np.random.default_rng(1).normal(0, 0.1, (2000, 2))
    soundfile.write(out, noise, 44100, format=kind)
    return out.getvalue()


def _settings(path: Path) -> object:
    """The window's settings, where they are looked for; nothing there may stop the start."""
    place = settings_folder() / "window.ini"
    place.parent.mkdir(parents=True, exist_ok=True)
    place.write_bytes(path.read_bytes())
    settings, _ignored = window_settings()
    return str(settings.value("theme")), geometry_of(settings)


def _recent(path: Path) -> object:
    place = state_folder() / "recent.json"
    place.parent.mkdir(parents=True, exist_ok=True)
    place.write_bytes(path.read_bytes())
    return recent_files()


def _wrapped(read: Callable[[Path], object]) -> Callable[[Path], object]:
    """A project's JSON is broken and put into its archive again, so that it is no mere broken archive."""

    def inside(path: Path) -> object:
        data = path.read_bytes()
        with zipfile.ZipFile(path, "w") as archive:
            archive.writestr("project.json", data)
        return read(path)

    return inside


def _json_of(project: bytes) -> bytes:
    with zipfile.ZipFile(io.BytesIO(project)) as archive:
        return archive.read("project.json")


def targets(folder: Path) -> tuple[Target, ...]:
    """All readers; good projects are written into a folder first."""
    plain = _bytes_of(lambda p: save_project(p, Document("x", parse_grid(GRID))), folder, ".ghoststep")
    heard = hear_file(demo_recordings()[0], general_midi_keys(), Hints())
    bare = Document("x", heard.groove, None, heard.listening)
    listened = _bytes_of(lambda p: save_project(p, bare), folder, ".ghoststep")
    table = "".join(f"{0.1 + 0.25 * i:.3f},{'snare' if i % 4 == 2 else 'hat_closed'},90\n" for i in range(24)).encode()
    keys = general_midi_keys().as_csv().encode()
    sounds = tuple(_sound_bytes(kind) for kind in ("WAV", "FLAC", "OGG"))
    return (
        Target("projects", ".ghoststep", (plain, listened), BYTES, _project),
        Target("values", ".ghoststep", (_json_of(plain), _json_of(listened)), VALUES, _wrapped(_project)),
        Target("midi", ".mid", (_midi_bytes(96), _midi_bytes(480)), BYTES, _midi),
        Target("sound", ".wav", sounds, BYTES, read_recording),
        Target("grids", ".grid.txt", (GRID.encode(),), TEXT, _grid),
        Target("feels", ".feel.json", tuple(s.path.read_bytes() for s in shelf()[0][:3]), VALUES, _feel),
        Target("tables", ".csv", (table,), TEXT, read_hits),
        Target("keys", ".csv", (keys,), TEXT, read_keys),
        Target("settings", ".ini", (_SETTINGS,), TEXT, _settings),
        Target("recent", ".json", (b'["/a/b.wav", "/c/d.ghoststep"]',), VALUES, _recent),
    )
