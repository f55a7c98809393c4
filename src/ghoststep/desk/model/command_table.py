"""The table of commands: every user action is one row, named and declared once.

Menus, shortcuts, the shortcut sheet, the command line and tests read it. A row either says a phrase of the language
(`session.language`), and so works with and without the window, or is a function of the window. Where it is only meant
for one place, `place` says so and the key is free elsewhere.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ghoststep.session.language.language import Done, Stand, do


@dataclass(frozen=True)
class Command:
    name: str
    text: str
    keys: tuple[str, ...]  # in the notation of the GUI toolkit, "Ctrl+Shift+Z"
    menu: str
    place: str = ""  # "listen", "place" or everywhere
    phrase: str = ""
    run: Callable[[Any], object] | None = None  # given the window


COMMANDS: dict[str, Command] = {}
MENUS = ("File", "Edit", "Heard", "Hit", "Touch", "Hands", "Groove", "Versions", "Play", "View", "Help")


def command(
    name: str, text: str, *keys: str, menu: str, place: str = ""
) -> Callable[[Callable[[Any], object]], Callable[[Any], object]]:
    """Declare a command of the window; the words are in the user's terms."""

    def add(run: Callable[[Any], object]) -> Callable[[Any], object]:
        COMMANDS[name] = Command(name, text, keys, menu, place, run=run)
        return run

    return add


def says(name: str, text: str, phrase: str, *keys: str, menu: str, place: str = "place") -> None:
    """Declare a command that says a phrase."""
    COMMANDS[name] = Command(name, text, keys, menu, place, phrase)


def do_named(stand: Stand, text: str) -> Done:
    """Do a command of the table by its name, or else what a phrase says."""
    from ghoststep.desk.model import phrase_commands as commands

    assert commands
    row = COMMANDS.get(text.strip())
    return do(stand, row.phrase if row is not None and row.phrase else text)
