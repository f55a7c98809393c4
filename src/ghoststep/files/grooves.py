"""Open anything that is a groove, or listen to it, by what kind of file it is."""

from collections.abc import Callable
from pathlib import Path

import numpy as np

from ghoststep.files.keymap import KeyMap
from ghoststep.files.midi_in import MIDI_SUFFIXES, groove_of, read_midi
from ghoststep.files.project import PROJECT_SUFFIX, load_project
from ghoststep.files.sound import SOUND_SUFFIXES, read_recording
from ghoststep.files.textgrid import GRID_SUFFIXES, read_grid
from ghoststep.listen.context import hear_groove
from ghoststep.listen.explain import Hints, explain
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.session.document import Document, Listening, Recording

Progress = Callable[[float], None]
GUESSED = "There are too few hits to tell tempo and meter: 120 BPM in 4/4 is a guess."


def plain_name(path: Path) -> str:
    """The name without folder and ending."""
    name = path.name
    for suffix in (".grid.txt", path.suffix):
        if suffix and name.lower().endswith(suffix.lower()):
            return name[: -len(suffix)] or name
    return name


def is_listenable(path: Path) -> bool:
    return path.suffix.lower() in SOUND_SUFFIXES + MIDI_SUFFIXES


def open_document(path: Path, keys: KeyMap) -> Document:
    """A project, text grid or MIDI file as a document, read as written (MIDI keeps its own tempo and bars)."""
    suffix = path.suffix.lower()
    if suffix == PROJECT_SUFFIX:
        return load_project(path)
    name = plain_name(path)
    if suffix in MIDI_SUFFIXES:
        return Document(name, groove_of(read_midi(path, keys), name))
    if path.name.lower().endswith(GRID_SUFFIXES):
        return Document(name, read_grid(path).changed(name=name))
    if suffix in SOUND_SUFFIXES:
        raise InputError(f"{path.name} is a recording: listen to it first, which makes a groove of it.")
    raise InputError(
        f"{path.name} is no groove: give a project (.ghoststep), a text grid (.grid.txt) or a MIDI file (.mid)."
    )


def open_groove(path: Path, keys: KeyMap) -> Groove:
    return open_document(path, keys).groove


def hear_file(path: Path, keys: KeyMap, hints: Hints, progress: Progress = lambda share: None) -> Document:
    """Listen to a sound or MIDI file: a document with the groove found in it.

    Raises
    ------
    InputError
        Where the file cannot be read or holds no drums.
    """
    suffix = path.suffix.lower()
    if suffix in MIDI_SUFFIXES:
        take = read_midi(path, keys)
        performance = take.performance()
        remarks = () if not take.left_out else (f"{take.left_out} notes on unknown keys were left out.",)
        explained = explain(performance, hints, confidence=np.ones(len(performance)))
        listening = Listening(explained, (1.0,) * len(performance), remarks)
        return _document(path, listening, None)
    recording = read_recording(path)
    return hear_recording(recording, plain_name(path), hints, progress)


def hear_recording(recording: Recording, name: str, hints: Hints, progress: Progress = lambda share: None) -> Document:
    """Listen to a recording that is already in memory; InputErrors name it."""
    try:
        heard, explained = hear_groove(recording.samples, recording.rate, hints, progress=progress)
    except InputError as error:
        raise InputError(f"{recording.name}: {error}") from error
    progress(1.0)
    confidence = tuple(float(heard.confidence[i]) for i in explained.source)
    remarks = heard.remarks if explained.readings else (*heard.remarks, GUESSED)
    return _document(Path(name), Listening(explained, confidence, remarks), recording)


def _document(path: Path, listening: Listening, recording: Recording | None) -> Document:
    name = plain_name(path)
    groove = listening.explained.groove.changed(name=name)
    return Document(name, groove, recording, listening)


def onsets_s(document: Document) -> tuple[float, ...]:
    """Moments in the recording of the heard groove's hits, in the order of its pattern."""
    if document.listening is None:
        return ()
    hits = document.listening.explained.groove.pattern.hits
    return tuple(h.origin.time_s if h.origin else 0.0 for h in hits)
