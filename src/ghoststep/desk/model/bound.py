"""What the desk does for commands that say no phrase: functions by the names of their rows."""

from collections.abc import Callable
from typing import Any

from ghoststep.session.commands import COMMANDS

Run = Callable[[Any], object]  # given the desk


class Bound(dict[str, Run]):
    """The functions of one module; a place hands in its own, and the window puts them together."""

    def runs(self, name: str) -> Callable[[Run], Run]:
        """Bind a function to a command of the table.

        Raises
        ------
        LookupError
            Where the table has no such command, or it says a phrase.
        """
        if name not in COMMANDS or COMMANDS[name].phrase:
            raise LookupError(f"'{name}' is no command that the desk does.")

        def bind(run: Run) -> Run:
            self[name] = run
            return run

        return bind
