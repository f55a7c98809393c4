"""The places of the window, in the order of the work: a line each."""

from ghoststep.desk.listen import declared as listen
from ghoststep.desk.model.places import PLACES
from ghoststep.desk.place import declared as place

assert listen
assert place
__all__ = ["PLACES"]
