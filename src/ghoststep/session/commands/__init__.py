"""Every user action with its words, its keys and its phrase. Menus, palette, sheet and `edit --list` read it."""

from typing import TYPE_CHECKING

from ghoststep.session.commands import check, everywhere, form, listen, place, place_said, window
from ghoststep.session.commands.table import MENUS, Command

if TYPE_CHECKING:
    from ghoststep.session.language.edit_context import Done, EditContext

__all__ = ["COMMANDS", "MENUS", "Command", "do_named"]

COMMANDS: dict[str, Command] = {
    row.name: row for rows in (everywhere, check, form, listen, place, place_said, window) for row in rows.ROWS
}


def do_named(context: "EditContext", text: str) -> "Done":
    """Do a command of the table by its name, or else what a phrase says.

    Raises
    ------
    InputError
        Where it is no command, or the command cannot be done here.
    """
    from ghoststep.session.language.doing import do  # menus need the table and not yet the language

    row = COMMANDS.get(text.strip())
    return do(context, row.phrase if row is not None and row.phrase else text)
