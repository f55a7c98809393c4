"""Listen: its name and key, what it shows and does; what it needs is loaded when it is first shown."""

from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.pictures import Picture
from ghoststep.desk.model.places import Place
from ghoststep.desk.parts.place_widget import PlaceWidget


def _built(desk: Desk) -> PlaceWidget:
    from ghoststep.desk.listen.listen_place import ListenPlace

    return ListenPlace(desk)


def _does() -> Bound:
    from ghoststep.desk.listen import listen_commands

    return listen_commands.DOES


def _pictures() -> tuple[Picture, ...]:
    from ghoststep.desk.listen.pictures import PICTURES

    return PICTURES


LISTEN = Place(
    "listen",
    "Listen",
    "F1",
    build=_built,
    sheet=(("File", "Edit", "Help"), ("Heard",), ("Groove", "Play", "View")),
    pictures=_pictures,
    does=_does,
)
