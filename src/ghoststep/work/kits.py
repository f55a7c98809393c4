"""Kits by name: those that ship, and SFZ files and folders of sounds."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from pathlib import Path
from typing import TYPE_CHECKING

from ghoststep.music.errors import InputError
from ghoststep.session.named_kits import kits_looked_up_by
from ghoststep.sound.kit import Kit

if TYPE_CHECKING:  # reading kits needs packages that take long to load
    from ghoststep.files.sfz.kit import KitFile


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
        from ghoststep.files.sfz.kit import read_sfz

        folder = Path(str(resources.files("ghoststep.sound") / "data" / name))
        return read_sfz(folder / f"{name}.sfz").kit(rate)

    return made


def _sketch(rate: int) -> Kit:
    from ghoststep.sound.sketch import sketch_kit

    return sketch_kit(rate)


KITS: tuple[KitRow, ...] = (
    KitRow("depot", "recorded drums, dry; the one that is played where none is named", _shipped("depot")),
    KitRow("sketch", "synthesised, light and quick", _sketch),
)
DEFAULT = KITS[0].name


@dataclass(frozen=True)
class FoundKit:
    """A kit that was asked for, and what is to be told of it: what is missing or not understood."""

    kit: Kit
    trouble: tuple[str, ...] = ()


def kit_names() -> tuple[str, ...]:
    """The names of the kits that ship, the usual one first."""
    return tuple(row.name for row in KITS)


def default_kit(rate: int = 44100) -> Kit:
    """The kit that plays where none is named."""
    return KITS[0].made(rate)


def kit_named(name: str, rate: int = 44100) -> FoundKit:
    """A kit by its name, by an SFZ file, or by a folder of sounds; "" is the one that plays where none is named.

    Raises
    ------
    InputError
        Where there is no such kit, or it cannot be read.
    """
    row = _row(name or DEFAULT)
    return FoundKit(row.made(rate)) if row else _found(_read(name), rate)


def kit_or_default(name: str, rate: int = 44100) -> FoundKit:
    """The kit of that name; where it is lost the one that plays where none is named, and why."""
    try:
        return kit_named(name, rate)
    except InputError as error:
        return FoundKit(default_kit(rate), (f"{error} {DEFAULT.capitalize()} plays instead.",))


def _row(name: str) -> KitRow | None:
    wanted = name.strip().lower().replace("-", " ")
    return next((row for row in KITS if row.name.replace("-", " ") == wanted), None)


def _read(name: str) -> "KitFile":
    from ghoststep.files.sfz.folder import read_folder
    from ghoststep.files.sfz.kit import read_sfz

    path = Path(name.strip()).expanduser()
    if path.is_dir():
        return read_folder(path)
    if path.suffix.lower() == ".sfz":
        return read_sfz(path)
    names = ", ".join(row.name for row in KITS)
    raise InputError(f"There is no kit '{name}': name one of {names}, or give an SFZ file or a folder of sounds.")


def _found(file: "KitFile", rate: int) -> FoundKit:
    kit = file.kit(rate)
    silent = f"it has nothing for {', '.join(kit.missing)}" if kit.missing else ""
    return FoundKit(kit, (*file.trouble, *([silent] if silent else [])))


def kept_name(name: str) -> str:
    """The name by which a project keeps a kit: of a file or folder its whole place."""
    row = _row(name)
    if row is not None:
        return row.name
    _read(name)
    return str(Path(name.strip()).expanduser().resolve())


def use_kits() -> None:
    """From now on phrases find kits by name and place."""
    kits_looked_up_by(kept_name)
