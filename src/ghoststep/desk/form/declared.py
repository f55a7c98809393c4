"""Form: what it is called, which key opens it, what it shows and does."""

from ghoststep.desk.form import form_commands
from ghoststep.desk.form.form_place import FormPlace
from ghoststep.desk.form.pictures import PICTURES
from ghoststep.desk.model.places import Place

FORM = Place(
    "form",
    "Form",
    "F3",
    FormPlace,
    sheet=(("File", "Edit"), ("Form", "Play"), ("View", "Help")),
    pictures=PICTURES,
    does=form_commands.DOES,
)
