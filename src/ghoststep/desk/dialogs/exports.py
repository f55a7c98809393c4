"""Handing on what is open, in any format that is written, and the key map for MIDI.

All is written off the GUI thread, by the same table of formats as the commands; trouble is said and changes nothing.
"""

from pathlib import Path

from ghoststep.desk.model.studio import Studio
from ghoststep.desk.model.tasks import Progress
from ghoststep.files.keymap import write_keys
from ghoststep.files.places import keys_file, made
from ghoststep.files.safe import shown
from ghoststep.music.errors import InputError


def export(studio: Studio, path: Path, name: str) -> None:
    """Write what is open as a format of the table, by its name."""
    from ghoststep.work.formats import Output, written

    document, keys = studio.document, studio.keys

    def work(progress: Progress) -> str:
        told = written(path, document, Output(keys, progress=progress), (name,))
        return " ".join(f"{words.rstrip('.')}." for words in told)

    studio.in_background(work, done=lambda words: studio.said.emit(words, False), words=f"Writing {shown(path)}")


def make_key_map(studio: Studio) -> None:
    """Write the key map to where the user can edit it, unless it is there already; it is read at the next start."""
    path = keys_file()
    try:
        if not path.exists():
            made(path.parent)
            write_keys(path, studio.keys)
    except InputError as error:
        studio.said.emit(str(error), True)
        return
    studio.said.emit(f"Edit {path}: each row is a MIDI key and its voice. It is read at the next start.", False)
