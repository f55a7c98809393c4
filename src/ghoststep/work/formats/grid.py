"""Text grids: the groove, or the song, as text."""

from pathlib import Path

from ghoststep.files.keymap import KeyMap
from ghoststep.files.safe import shown, write_text
from ghoststep.files.textgrid import read_song
from ghoststep.session.document.document import Document
from ghoststep.work.formats import Output, plain_name
from ghoststep.work.forms import only_in_project, text_of


def read(path: Path, keys: KeyMap) -> Document:
    """A text grid, under the name it says, or else that of the file."""
    form, groove = read_song(path)
    name = groove.name or plain_name(path)
    return Document(name, groove.changed(name=name), form=form)


def write(path: Path, document: Document, output: Output) -> tuple[str, ...]:
    """Write a text grid; said is what only a project would keep."""
    write_text(path, text_of(document))
    left_out = only_in_project(document)
    return (f"{shown(path)} written", *((left_out,) if left_out else ()))
