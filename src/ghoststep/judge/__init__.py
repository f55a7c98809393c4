"""Judgement: who plays what, what it is called, could a drummer play it, would a listener believe it."""

from typing import TYPE_CHECKING

from ghoststep.lazy import offered

if TYPE_CHECKING:
    from ghoststep.judge.check import Terms as Terms
    from ghoststep.judge.check import checked as checked
    from ghoststep.judge.check import played_by as played_by
    from ghoststep.judge.form_found import found_form as found_form
    from ghoststep.judge.names import named as named

OFFERS = {
    "Terms": "check",
    "checked": "check",
    "found_form": "form_found",
    "named": "names",
    "played_by": "check",
}
__getattr__, __dir__ = offered(__name__, OFFERS)
