"""What the desk does for a command that says no phrase: a function bound to the name of its row."""

from collections.abc import Callable
from typing import Any

from ghoststep.session.commands import COMMANDS

Run = Callable[[Any], object]  # given the desk
BOUND: dict[str, Run] = {}


def runs(name: str) -> Callable[[Run], Run]:
    """Bind a function to a command of the table."""
    if name not in COMMANDS or COMMANDS[name].phrase:
        raise LookupError(f"'{name}' is no command that the desk does.")

    def bind(run: Run) -> Run:
        BOUND[name] = run
        return run

    return bind
