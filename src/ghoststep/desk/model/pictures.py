"""Pictures for the documentation: each place declares its own, from the demo, and `make screenshots` takes them."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtWidgets import QDialog

from ghoststep.desk.model.desk import Desk

Step = Callable[[Desk], object]


@dataclass(frozen=True)
class Picture:
    """A picture of a place: its name, the steps that lead there, and the dialog to be seen where it is not the window.

    The steps of all pictures are taken one after another in one window; whoever takes them waits after each step until
    nothing is busy.
    """

    name: str
    steps: tuple[Step, ...]
    dialog: Callable[[Desk], QDialog] | None = None
