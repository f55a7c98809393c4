"""Check: what it is called, which key opens it, what it shows and does."""

from ghoststep.desk.check import check_commands
from ghoststep.desk.check.check_place import CheckPlace
from ghoststep.desk.check.pictures import PICTURES
from ghoststep.desk.model.places import Place

CHECK = Place(
    "check",
    "Check",
    "F4",
    CheckPlace,
    sheet=(("File", "Edit"), ("Check", "Play"), ("View", "Help")),
    pictures=PICTURES,
    does=check_commands.DOES,
)
