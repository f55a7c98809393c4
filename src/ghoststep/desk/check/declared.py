"""Check declares itself."""

from ghoststep.desk.check import check_commands
from ghoststep.desk.check.check_place import CheckPlace
from ghoststep.desk.check.pictures import PICTURES
from ghoststep.desk.model.places import Place, declare

assert check_commands
declare(
    Place(
        "check",
        "Check",
        "F4",
        CheckPlace,
        sheet=(("File", "Edit"), ("Check", "Play"), ("View", "Help")),
        pictures=PICTURES,
    )
)
