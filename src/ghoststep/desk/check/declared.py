"""Check: its name and key, what it shows and does; what it needs is loaded when it is first shown."""

from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.pictures import Picture
from ghoststep.desk.model.places import Place
from ghoststep.desk.parts.place_widget import PlaceWidget


def _built(desk: Desk) -> PlaceWidget:
    from ghoststep.desk.check.check_place import CheckPlace

    return CheckPlace(desk)


def _does() -> Bound:
    from ghoststep.desk.check import check_commands

    return check_commands.DOES


def _pictures() -> tuple[Picture, ...]:
    from ghoststep.desk.check.pictures import PICTURES

    return PICTURES


CHECK = Place(
    "check",
    "Check",
    "F4",
    build=_built,
    sheet=(("File", "Edit"), ("Check", "Play"), ("View", "Help")),
    pictures=_pictures,
    does=_does,
)
