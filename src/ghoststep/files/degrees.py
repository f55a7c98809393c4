"""The table of degrees ("a bit", "a lot") as a file: one given, or the user's own."""

from pathlib import Path

from ghoststep.files.places import degrees_file
from ghoststep.files.safe import read_bytes, shown
from ghoststep.music.errors import InputError
from ghoststep.session.say.degrees import Degrees

_MAX_BYTES = 65536


def read_degrees(path: Path | None = None) -> Degrees:
    """The table of a file; without one the user's own, or the usual one where there is none.

    Raises
    ------
    InputError
        Where the file cannot be read or says something else.
    """
    if path is None:
        path = degrees_file()
        if not path.exists():
            return Degrees()
    try:
        text = read_bytes(path, limit_bytes=_MAX_BYTES).decode()
    except UnicodeDecodeError as error:
        raise InputError(f"{shown(path)} is no text.") from error
    try:
        return Degrees.parse(text)
    except InputError as error:
        raise InputError(f"{shown(path)}: {error}") from error
