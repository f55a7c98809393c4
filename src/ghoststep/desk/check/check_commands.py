"""The commands of Check."""

from typing import TYPE_CHECKING

from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.desk import Desk

if TYPE_CHECKING:
    from ghoststep.desk.check.check_place import CheckPlace

DOES = Bound()
runs = DOES.runs

HERE = "check"


def _place(desk: Desk) -> "CheckPlace":
    found: CheckPlace = desk.at(HERE)
    return found


runs("check.next")(lambda d: _place(d).step(1))
runs("check.previous")(lambda d: _place(d).step(-1))
runs("check.mend")(lambda d: _place(d).next_mend())
runs("check.take")(lambda d: _place(d).take())
runs("check.leave")(lambda d: _place(d).leave())
runs("check.meant")(lambda d: _place(d).meant())
runs("check.playable")(lambda d: _place(d).make_playable())
runs("check.faster")(lambda d: _place(d).faster(2))
runs("check.slower")(lambda d: _place(d).faster(-2))
runs("check.page")(lambda d: _place(d).next_page())
