"""Form declares itself."""

from ghoststep.desk.form import form_commands
from ghoststep.desk.form.form_place import FormPlace
from ghoststep.desk.form.pictures import PICTURES
from ghoststep.desk.model.places import Place, declare

assert form_commands
declare(
    Place(
        "form",
        "Form",
        "F3",
        FormPlace,
        sheet=(("File", "Edit"), ("Form", "Play"), ("View", "Help")),
        pictures=PICTURES,
    )
)
