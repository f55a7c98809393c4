"""The places of the window: each is loaded here, and stands in the order of the work."""

from ghoststep.desk.check import declared as check
from ghoststep.desk.form import declared as form
from ghoststep.desk.listen import declared as listen
from ghoststep.desk.model.places import PLACES
from ghoststep.desk.place import declared as place

assert listen and place and form and check
for _name in ("listen", "place", "form", "check"):
    PLACES[_name] = PLACES.pop(_name)
__all__ = ["PLACES"]
