"""Place: what it is called, which key opens it, what it shows and does."""

from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.places import Place
from ghoststep.desk.place import place_commands, time_commands
from ghoststep.desk.place.grid_place import GridPlace
from ghoststep.desk.place.pictures import PICTURES

PLACE = Place(
    "place",
    "Place",
    "F2",
    GridPlace,
    sheet=(("File", "View"), ("Edit", "Groove", "Hands"), ("Hit", "Versions", "Help"), ("Touch", "Time", "Play")),
    opens=("project", "grid"),
    pictures=PICTURES,
    does=Bound({**place_commands.DOES, **time_commands.DOES}),
)
