"""The picture of Form in the documentation."""

from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.picture_steps import by_night
from ghoststep.desk.model.pictures import Picture
from ghoststep.files.textgrid import parse_text
from ghoststep.session.document.document import Document

_NIGHT_LINE = """tempo 104
meter 4/4
grid 16
part A
hat_closed x-x-x-x-x-x-x-x-
snare      ----X--o----X---
kick       X-----x---x-----
part B = A
  move kick 3& to 3
  place snare 4a as ghost
part C = A
  voice hat_open on hat_closed at 4&
  remove kick at 3&
part D
crash      X---------------
ride       --x-x-x-x-x-x-x-
snare      ----X-------X---
kick       X--x--x---x--x--
part E = D
  remove crash at 1
  place ride 1
part F
snare      ----X---xxxxxx--
tom_high   ----------------
tom_low    --------------xx
kick       X-----x---------
hat_closed x-x-x-x---------
section verse = A B A C
section chorus = D E x2 B
section tail = A B | ending C | ending F
form = verse verse chorus verse chorus tail
"""


def _opens(desk: Desk) -> None:
    form, groove = parse_text(_NIGHT_LINE)
    desk.studio.history.mark_saved(desk.studio.document)
    desk.studio.set_document(Document("Night line", groove, form=form), None)


def _shown(desk: Desk) -> None:
    desk.go("form")
    desk.at("form").map.choose(1)
    desk.run("form.answers")


def _silent(desk: Desk) -> None:
    desk.studio.playback.stop()


PICTURES = (Picture("form", (by_night, _opens, _shown, _silent)),)
