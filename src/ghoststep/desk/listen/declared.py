"""Listen: what it is called, which key opens it, what it shows and does."""

from ghoststep.desk.listen import listen_commands
from ghoststep.desk.listen.listen_place import ListenPlace
from ghoststep.desk.listen.pictures import PICTURES
from ghoststep.desk.model.places import Place

LISTEN = Place(
    "listen",
    "Listen",
    "F1",
    ListenPlace,
    sheet=(("File", "Edit", "Help"), ("Heard",), ("Groove", "Play", "View")),
    pictures=PICTURES,
    does=listen_commands.DOES,
)
