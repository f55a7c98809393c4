"""What a command is: every user action is one row, named and declared once.

A row either says a phrase of the language (`session.language`), and so works with and without the window, or is done by
the desk, which binds a function to its name (`desk.model.bound`). Where it is only meant for one place, `place` says so
and the key is free elsewhere.
"""

from dataclasses import dataclass

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


@dataclass(frozen=True)
class Command:
    """A row. `group` keeps commands of one menu together, with a line between groups."""

    name: str
    text: str
    keys: tuple[str, ...]  # in the notation of the GUI toolkit, "Ctrl+Shift+Z"
    menu: str
    place: str = ""  # the name of a place, or everywhere
    phrase: str = ""
    group: str = ""


def row(name: str, text: str, *keys: str, menu: str, place: str = "", group: str = "", phrase: str = "") -> Command:
    """A row with any number of keys, in the notation of the GUI toolkit; the words are in the user's terms."""
    return Command(name, text, keys, menu, place, phrase, group)
