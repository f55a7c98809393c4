"""Steps that lead to what a picture shows."""

from ghoststep.desk.look.look import NIGHT, Look
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.pictures import Step
from ghoststep.files.demo import demo_recordings
from ghoststep.files.textgrid import parse_grid
from ghoststep.session.document.document import Document


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
