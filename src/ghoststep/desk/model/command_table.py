"""The table of commands: every user action is one row, named and declared once.

Menus, shortcuts, the shortcut sheet, the command line and tests read it. A row either says a phrase of the language
(`session.language`), and so works with and without the window, or is a function of the desk (`model.places.Desk`).
Where it is only meant for one place, `place` says so and the key is free elsewhere.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ghoststep.session.language.stand import Done, Stand
from ghoststep.session.language.verb import do


@dataclass(frozen=True)
class Command:
    """A row. `group` keeps commands of one menu together, with a line between groups."""

    name: str
    text: str
    keys: tuple[str, ...]  # in the notation of the GUI toolkit, "Ctrl+Shift+Z"
    menu: str
    place: str = ""  # the name of a place, or everywhere
    phrase: str = ""
    run: Callable[[Any], object] | None = None  # given the desk
    group: str = ""


COMMANDS: dict[str, Command] = {}
MENUS = (
    "File",
    "Edit",
    "Heard",
    "Hit",
    "Touch",
    "Time",
    "Hands",
    "Groove",
    "Versions",
    "Form",
    "Check",
    "Play",
    "View",
    "Help",
)


def command(
    name: str, text: str, *keys: str, menu: str, place: str = "", group: str = ""
) -> Callable[[Callable[[Any], object]], Callable[[Any], object]]:
    """Declare a command of the desk; the words are in the user's terms."""

    def add(run: Callable[[Any], object]) -> Callable[[Any], object]:
        COMMANDS[name] = Command(name, text, keys, menu, place, run=run, group=group)
        return run

    return add


def says(name: str, text: str, phrase: str, *keys: str, menu: str, place: str = "place", group: str = "") -> None:
    """Declare a command that says a phrase."""
    COMMANDS[name] = Command(name, text, keys, menu, place, phrase, group=group)


def do_named(stand: Stand, text: str) -> Done:
    """Do a command of the table by its name, or else what a phrase says."""
    from ghoststep.desk.model import phrase_commands

    assert phrase_commands
    row = COMMANDS.get(text.strip())
    return do(stand, row.phrase if row is not None and row.phrase else text)
