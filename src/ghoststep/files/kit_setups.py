"""Set-ups of a kit as files: where each drum stands, and how many pedals the kick has."""

from pathlib import Path

import msgspec

from ghoststep.files.safe import read_bytes, shown
from ghoststep.judge.kit_setup import STANDARD, KitSetup
from ghoststep.music.errors import InputError


class _Row(msgspec.Struct, forbid_unknown_fields=True):
    format: str
    version: int
    name: str = "own"
    kick_pedals: int = 1
    stands: dict[str, tuple[float, float]] = {}


FORMAT, VERSION = "ghost-step kit", 1


def read_setup(path: Path) -> KitSetup:
    """A set-up from a file; drums it does not name stand where they usually do.

    Raises
    ------
    InputError
        Where it cannot be read, is none, or is of a newer version.
    """
    try:
        row = msgspec.json.decode(read_bytes(path, limit_bytes=100_000), type=_Row)
    except msgspec.DecodeError as error:
        raise InputError(f"{shown(path)} is no set-up of a kit ({error}); see docs/check-format.md.") from error
    if row.format != FORMAT:
        raise InputError(f"{shown(path)} is no set-up of a kit: its format is '{row.format}', not '{FORMAT}'.")
    if row.version > VERSION:
        raise InputError(f"{shown(path)} was written by a newer version of Ghost Step: please update the program.")
    try:
        return KitSetup(row.name, {**STANDARD.stands, **row.stands}, row.kick_pedals)
    except InputError as error:
        raise InputError(f"{shown(path)}: {error}") from error
