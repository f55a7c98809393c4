"""The places of the window, in the order of the work."""

from ghoststep.desk.check.declared import CHECK
from ghoststep.desk.form.declared import FORM
from ghoststep.desk.listen.declared import LISTEN
from ghoststep.desk.place.declared import PLACE

PLACES = {place.name: place for place in (LISTEN, PLACE, FORM, CHECK)}
