"""Pictures for the documentation: each place declares its own, from the demo, and `make screenshots` takes them."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtWidgets import QDialog

from ghoststep.desk.look.look import NIGHT, Look
from ghoststep.desk.model.places import Desk
from ghoststep.files.demo import demo_recordings
from ghoststep.files.textgrid import parse_grid
from ghoststep.session.document.document import Document

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


def by_night(desk: Desk) -> None:
    """A step that goes back to the look of the night, where a picture by day came before."""
    if Look.theme is not NIGHT:
        desk.switch_theme()


def opens_demo(number: int) -> Step:
    """A step that opens a demo recording, whatever stood there before."""

    def step(desk: Desk) -> None:
        desk.studio.history.mark_saved(desk.studio.document)
        desk.open(demo_recordings()[number])

    return step


def opens_text(name: str, text: str) -> Step:
    """A step that opens a text grid under a name, whatever stood there before."""

    def step(desk: Desk) -> None:
        desk.studio.history.mark_saved(desk.studio.document)
        desk.studio.set_document(Document(name, parse_grid(text)), None)

    return step
