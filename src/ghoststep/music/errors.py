"""The two kinds of trouble: what the user can mend, and what we have to."""

import re

_LONGEST_QUOTE, _LONGEST_MESSAGE, _END = 80, 300, 90


class GhostStepError(Exception):
    """Any error raised on purpose by this program."""


class InputError(GhostStepError, ValueError):
    """Something given to the program is wrong; the message says what, where and what to do.

    What it quotes may come from anywhere, so the message is made fit to be shown: one line, printable, not endless.
    """

    def __init__(self, message: str) -> None:
        super().__init__(tidy(message))


class Cancelled(GhostStepError):  # noqa: N818 - it is a request of the user, not an error
    """Long work was stopped because the user asked for it."""


def tidy(text: str) -> str:
    """One printable line; what stands in quotation marks, and the middle of the whole, is cut where it is too long."""
    head = text[: 20 * _LONGEST_MESSAGE]
    line = " ".join("".join(c if c.isprintable() else " " for c in head).split())
    line = re.sub(rf"'[^']{{{_LONGEST_QUOTE + 1},}}'", lambda m: f"{m[0][:_LONGEST_QUOTE]}…'", line)
    if len(line) <= _LONGEST_MESSAGE:
        return line
    # What to do usually stands at the end, so a long list in the middle is what goes.
    return f"{line[: _LONGEST_MESSAGE - _END - 3].rstrip()} … {line[-_END:].lstrip()}"
