"""The commands of Form."""

from typing import TYPE_CHECKING

from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.desk import Desk

if TYPE_CHECKING:
    from ghoststep.desk.form.form_place import FormPlace

DOES = Bound()
runs = DOES.runs

HERE = "form"


def _place(desk: Desk) -> "FormPlace":
    found: FormPlace = desk.at(HERE)
    return found


runs("form.letters")(lambda d: _place(d).letters())
runs("form.open")(lambda d: _place(d).open())
runs("form.loop")(lambda d: _place(d).loop(False))
runs("form.loop_section")(lambda d: _place(d).loop(True))
runs("form.again")(lambda d: _place(d).again())
runs("form.out")(lambda d: _place(d).leave_out())
runs("form.earlier")(lambda d: _place(d).shift(-1))
runs("form.later")(lambda d: _place(d).shift(1))
runs("form.copy")(lambda d: _place(d).copy())
runs("form.paste")(lambda d: _place(d).paste())
runs("form.insert")(lambda d: _place(d).insert())
runs("form.section_again")(lambda d: _place(d).section_again())
runs("form.section_out")(lambda d: _place(d).section_out())
runs("form.section_earlier")(lambda d: _place(d).section_moved(-1))
runs("form.section_later")(lambda d: _place(d).section_moved(1))
runs("form.count_in")(lambda d: _place(d).count_in())
runs("form.free")(lambda d: _place(d).free())
runs("form.vary")(lambda d: _place(d).vary())
runs("form.same")(lambda d: _place(d).same())
runs("form.not_same")(lambda d: _place(d).not_same())
runs("form.begins")(lambda d: _place(d).begins())
runs("form.only_here")(lambda d: d.studio.call("only-here", switch="toggle"))
runs("form.compare")(lambda d: _place(d).compare())
runs("form.answers")(lambda d: _place(d).propose_answers())
runs("form.fills")(lambda d: _place(d).propose_fills())
runs("form.take")(lambda d: _place(d).take_offer())
