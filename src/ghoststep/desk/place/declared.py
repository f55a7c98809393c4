"""Place: its name and key, what it shows and does; what it needs is loaded when it is first shown."""

from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.pictures import Picture
from ghoststep.desk.model.places import Place
from ghoststep.desk.parts.place_widget import PlaceWidget


def _built(desk: Desk) -> PlaceWidget:
    from ghoststep.desk.place.grid_place import GridPlace

    return GridPlace(desk)


def _does() -> Bound:
    from ghoststep.desk.place import place_commands, time_commands

    return Bound({**place_commands.DOES, **time_commands.DOES})


def _pictures() -> tuple[Picture, ...]:
    from ghoststep.desk.place.pictures import PICTURES

    return PICTURES


PLACE = Place(
    "place",
    "Place",
    "F2",
    build=_built,
    sheet=(("File", "View"), ("Edit", "Groove", "Hands"), ("Hit", "Versions", "Help"), ("Touch", "Time", "Play")),
    opens=("project", "grid"),
    pictures=_pictures,
    does=_does,
)
