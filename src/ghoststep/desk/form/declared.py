"""Form: its name and key, what it shows and does; what it needs is loaded when it is first shown."""

from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.pictures import Picture
from ghoststep.desk.model.places import Place
from ghoststep.desk.parts.place_widget import PlaceWidget


def _built(desk: Desk) -> PlaceWidget:
    from ghoststep.desk.form.form_place import FormPlace

    return FormPlace(desk)


def _does() -> Bound:
    from ghoststep.desk.form import form_commands

    return form_commands.DOES


def _pictures() -> tuple[Picture, ...]:
    from ghoststep.desk.form.pictures import PICTURES

    return PICTURES


FORM = Place(
    "form",
    "Form",
    "F3",
    build=_built,
    sheet=(("File", "Edit"), ("Form", "Play"), ("View", "Help")),
    pictures=_pictures,
    does=_does,
)
