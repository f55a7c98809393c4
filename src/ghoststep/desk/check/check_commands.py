"""The commands of Check."""

from typing import TYPE_CHECKING

from ghoststep.desk.model.command_table import command, says
from ghoststep.desk.model.places import Desk

if TYPE_CHECKING:
    from ghoststep.desk.check.check_place import CheckPlace

HERE = "check"


def _place(desk: Desk) -> "CheckPlace":
    found: CheckPlace = desk.at(HERE)
    return found


command("check.next", "Next finding", "N", menu="Check", place=HERE, group="go")(lambda d: _place(d).step(1))
command("check.previous", "Finding before", "Shift+N", menu="Check", place=HERE, group="go")(
    lambda d: _place(d).step(-1)
)
command("check.mend", "Hear a mend, then the next", "M", menu="Check", place=HERE, group="mend")(
    lambda d: _place(d).next_mend()
)
command("check.take", "Take the mend that is heard", "Return", "Enter", menu="Check", place=HERE, group="mend")(
    lambda d: _place(d).take()
)
command("check.leave", "Leave the mend", "X", menu="Check", place=HERE, group="mend")(lambda d: _place(d).leave())
command("check.meant", "It is meant so", "A", menu="Check", place=HERE, group="meant")(lambda d: _place(d).meant())
says("check.mind", "Hear again of what was meant so", "mind", "Shift+A", menu="Check", place=HERE, group="meant")
command("check.playable", "Make it playable at the tempo asked about", "P", menu="Check", place=HERE, group="tempo")(
    lambda d: _place(d).make_playable()
)
command("check.faster", "Ask about a faster tempo", ".", menu="Check", place=HERE, group="tempo")(
    lambda d: _place(d).faster(2)
)
command("check.slower", "Ask about a slower tempo", ",", menu="Check", place=HERE, group="tempo")(
    lambda d: _place(d).faster(-2)
)
command("check.page", "Next page of the panel", "Ctrl+Tab", menu="Check", place=HERE, group="page")(
    lambda d: _place(d).next_page()
)
