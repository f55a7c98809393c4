"""The two kinds of trouble: what the user can mend, and what we have to."""


class GhostStepError(Exception):
    """Any error raised on purpose by this program."""


class InputError(GhostStepError, ValueError):
    """Something given to the program is wrong; the message says what, where and what to do."""


class Cancelled(GhostStepError):  # noqa: N818 - it is a request of the user, not an error
    """Long work was stopped because the user asked for it."""
