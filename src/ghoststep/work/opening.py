"""Opening what is read as it is written: projects, text grids, MIDI files. Nothing is listened to."""

from pathlib import Path

from ghoststep.files.feels import use_shelf
from ghoststep.files.keymap import KeyMap
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document
from ghoststep.work.formats import opened


def open_document(path: Path, keys: KeyMap) -> Document:
    """A project, text grid or MIDI file as a document, read as written (`work.formats.opened`)."""
    use_shelf()  # sections may name feels
    return opened(path, keys)


def open_groove(path: Path, keys: KeyMap) -> Groove:
    """The groove of what `open_document` opens."""
    return open_document(path, keys).groove
