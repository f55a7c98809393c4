"""The shelf of feels: those that ship, and the user's own in a folder of the settings."""

import re
from dataclasses import dataclass
from importlib import resources
from pathlib import Path

from ghoststep.files.places import FEEL_SUFFIX, made, settings_folder
from ghoststep.files.safe import shown
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel
from ghoststep.session.named_feels import looked_up_by

# In the order in which they are shown: from close to the click to far from it.
SHIPPED = (
    "tight-studio", "laid-back", "pushing", "loose-bar-band", "in-between-sixteenths", "slow-triplets", "brisk-ride",
)  # fmt: skip


@dataclass(frozen=True)
class Shelved:
    """A feel on the shelf; `own` where the user put it there."""

    name: str
    about: str
    feel: Feel
    path: Path
    own: bool


def shipped_folder() -> Path:
    return Path(str(resources.files("ghoststep.files") / "data" / "feels"))


def own_folder() -> Path:
    return settings_folder() / "feels"


def shelf() -> tuple[tuple[Shelved, ...], tuple[str, ...]]:
    """The feels that ship and then the user's own by name, and a sentence for each of these that cannot be read."""
    out = [_read(shipped_folder() / f"{name}{FEEL_SUFFIX}", own=False) for name in SHIPPED]
    troubles = []
    for path in sorted(own_folder().glob(f"*{FEEL_SUFFIX}")):
        try:
            out.append(_read(path, own=True))
        except InputError as error:
            troubles.append(str(error))
    return tuple(out), tuple(troubles)


def _read(path: Path, *, own: bool) -> Shelved:
    from ghoststep.files.feel_file import read_feel

    feel, name, about = read_feel(path)
    return Shelved(name or shown(path).removesuffix(FEEL_SUFFIX), about, feel, path, own)


def _plain(name: str) -> str:
    """A name in small letters with dashes for whatever else it holds, as files are named."""
    return re.sub(r"[^\w-]+", "-", name.strip().lower()).strip("-")


def put_on_shelf(feel: Feel, name: str, about: str = "") -> Path:
    """Keep a feel among the user's own.

    Raises
    ------
    InputError
        Where the name is empty or taken, or the file cannot be written.
    """
    plain = _plain(name)
    if not plain:
        raise InputError("A feel needs a name with a letter or a figure in it.")
    if any(s.name.lower() == name.strip().lower() for s in shelf()[0]):
        raise InputError(f"There is a feel called '{name.strip()}' already: give this one another name.")
    from ghoststep.files.feel_file import write_feel

    path = made(own_folder()) / f"{plain}{FEEL_SUFFIX}"
    if path.exists():
        raise InputError(f"{shown(path)} exists already: give the feel another name.")
    write_feel(path, feel, name.strip(), about)
    return path


def feel_named(name: str) -> Shelved:
    """The feel of a name on the shelf, whole or as it begins; an InputError that names them all where there is none."""
    known = shelf()[0]
    wanted = _plain(name)
    exact = [s for s in known if _plain(s.name) == wanted]
    found = exact or [s for s in known if wanted and _plain(s.name).startswith(wanted)]
    if len(found) != 1:
        names = ", ".join(s.name for s in known)
        what = "could be several" if found else "is no feel on the shelf"
        raise InputError(f"'{name}' {what}. There are: {names}.")
    return found[0]


def _on_shelf(name: str) -> tuple[Feel, str]:
    found = feel_named(name)
    return found.feel, found.name


def use_shelf() -> None:
    """From now on the language finds players on the shelf."""
    looked_up_by(_on_shelf)
