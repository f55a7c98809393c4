"""Place declares itself."""

from ghoststep.desk.model.places import Place, declare
from ghoststep.desk.place import place_commands, time_commands
from ghoststep.desk.place.grid_place import GridPlace
from ghoststep.desk.place.pictures import PICTURES

assert place_commands and time_commands
declare(
    Place(
        "place",
        "Place",
        "F2",
        GridPlace,
        sheet=(("File", "View"), ("Edit", "Groove", "Hands"), ("Hit", "Versions", "Help"), ("Touch", "Time", "Play")),
        opens=("project", "grid"),
        pictures=PICTURES,
    )
)
