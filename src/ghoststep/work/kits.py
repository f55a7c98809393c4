"""Kits by name: those that ship, and SFZ files and folders of sounds."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from pathlib import Path

from ghoststep.files.safe import shown
from ghoststep.files.sfz.folder import read_folder
from ghoststep.files.sfz.kit import KitFile, read_sfz
from ghoststep.music.errors import InputError
from ghoststep.sound.kit import Kit
from ghoststep.sound.sketch import sketch_kit


@dataclass(frozen=True)
class KitRow:
    """A kit that ships. name: as it is given; about: one line; made: the kit at a sample rate in Hz."""

    name: str
    about: str
    made: Callable[[int], Kit]


def _shipped(name: str) -> Callable[[int], Kit]:
    """A sampled kit that ships; kits at one rate share what is ready."""

    @lru_cache(maxsize=4)
    def made(rate: int) -> Kit:
        folder = Path(str(resources.files("ghoststep.sound") / "data" / name))
        return read_sfz(folder / f"{name}.sfz").kit(rate)

    return made


KITS: tuple[KitRow, ...] = (
    KitRow("depot", "recorded drums, dry; the one that is played where none is named", _shipped("depot")),
    KitRow("sketch", "synthesised, light and quick", sketch_kit),
)
DEFAULT = KITS[0].name


@dataclass(frozen=True)
class FoundKit:
    """A kit that was asked for, and what is to be told of it: what is missing or not understood."""

    kit: Kit
    trouble: tuple[str, ...] = ()


def default_kit(rate: int = 44100) -> Kit:
    """The kit that plays where none is named."""
    return KITS[0].made(rate)


def kit_named(name: str, rate: int = 44100) -> FoundKit:
    """A kit by its name, by an SFZ file, or by a folder of sounds.

    Raises
    ------
    InputError
        Where there is no such kit, or it cannot be read.
    """
    wanted = name.strip().lower().replace("-", " ")
    for row in KITS:
        if row.name.replace("-", " ") == wanted:
            return FoundKit(row.made(rate))
    path = Path(name).expanduser()
    if path.is_dir():
        return _found(read_folder(path), rate)
    if path.suffix.lower() == ".sfz":
        if not path.is_file():
            raise InputError(f"{shown(path)} is not there.")
        return _found(read_sfz(path), rate)
    names = ", ".join(row.name for row in KITS)
    raise InputError(f"There is no kit '{name}': name one of {names}, or give an SFZ file or a folder of sounds.")


def _found(file: KitFile, rate: int) -> FoundKit:
    kit = file.kit(rate)
    silent = f"it has nothing for {', '.join(kit.missing)}" if kit.missing else ""
    return FoundKit(kit, (*file.trouble, *([silent] if silent else [])))
