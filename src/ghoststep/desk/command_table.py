"""The table of commands: every user action is one row, named and declared once.

Menus, shortcuts, the shortcut sheet and tests read it. A command is a function of the window. Where it is only meant
for one place, `place` says so and the key is free elsewhere.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ghoststep.desk.window import Window


@dataclass(frozen=True)
class Command:
    name: str
    text: str
    keys: tuple[str, ...]
    menu: str
    run: Callable[["Window"], object]
    place: str = ""  # "listen", "place" or everywhere


COMMANDS: dict[str, Command] = {}
MENUS = ("File", "Edit", "Heard", "Hit", "Groove", "Play", "View", "Help")


def command(
    name: str, text: str, *keys: str, menu: str, place: str = ""
) -> Callable[..., Callable[["Window"], object]]:
    """Declare a command; the words are in the user's terms, the keys in Qt's notation."""

    def add(run: Callable[["Window"], object]) -> Callable[["Window"], object]:
        COMMANDS[name] = Command(name, text, keys, menu, run, place)
        return run

    return add
