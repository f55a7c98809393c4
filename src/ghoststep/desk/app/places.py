"""The places of the window: each is loaded here, and stands in the order of the work."""

from ghoststep.desk.check import declared as check
from ghoststep.desk.listen import declared as listen
from ghoststep.desk.model.places import PLACES
from ghoststep.desk.place import declared as place

assert listen and place and check
for _name in ("listen", "place", "check"):
    PLACES[_name] = PLACES.pop(_name)
__all__ = ["PLACES"]
