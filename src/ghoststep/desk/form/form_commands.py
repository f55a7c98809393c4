"""The commands of Form."""

from typing import TYPE_CHECKING

from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.places import Desk

if TYPE_CHECKING:
    from ghoststep.desk.form.form_place import FormPlace

DOES = Bound()
runs = DOES.runs

HERE = "form"


def _place(desk: Desk) -> "FormPlace":
    found: FormPlace = desk.at(HERE)
    return found


def _row(name: str, text: str, *keys: str, group: str):  # type: ignore[no-untyped-def]
    return runs(name)


_row("form.letters", "Find the form: letters for alike bars", "Shift+L", group="find")(lambda d: _place(d).letters())
_row("form.say", "Say what to do …", "Ctrl+K", group="find")(lambda d: d.ask_phrase())
_row("form.open", "Open the part in Place", "O", group="part")(lambda d: _place(d).open())
_row("form.loop", "Play the part round", "P", group="play")(lambda d: _place(d).loop(False))
_row("form.loop_section", "Play the section round", "Shift+P", group="play")(lambda d: _place(d).loop(True))
_row("form.again", "The part once more", "D", group="order")(lambda d: _place(d).again())
_row("form.out", "Leave the part out here", "Delete", "Backspace", group="order")(lambda d: _place(d).leave_out())
_row("form.earlier", "The part earlier", "Alt+Left", group="order")(lambda d: _place(d).shift(-1))
_row("form.later", "The part later", "Alt+Right", group="order")(lambda d: _place(d).shift(1))
_row("form.copy", "Copy the part", "Ctrl+C", group="order")(lambda d: _place(d).copy())
_row("form.paste", "Put the copied part in behind", "Ctrl+V", group="order")(lambda d: _place(d).paste())
_row("form.insert", "Put a part in …", "I", group="order")(lambda d: _place(d).insert())
_row("form.section_again", "The section once more", "Shift+D", group="sections")(lambda d: _place(d).section_again())
_row("form.section_out", "Leave the section out here", "Shift+Delete", group="sections")(
    lambda d: _place(d).section_out()
)
_row("form.section_earlier", "The section earlier", "Alt+Up", group="sections")(lambda d: _place(d).section_moved(-1))
_row("form.section_later", "The section later", "Alt+Down", group="sections")(lambda d: _place(d).section_moved(1))
_row("form.count_in", "Count in before the section, or not", "C", group="sections")(lambda d: _place(d).count_in())
_row("form.free", "Set the part free of its base", "U", group="part")(lambda d: _place(d).free())
_row("form.vary", "Make it a variation of another part …", "V", group="part")(lambda d: _place(d).vary())
_row("form.same", "The same as the part before it", "S", group="find")(lambda d: _place(d).same())
_row("form.not_same", "Not the same: a part of its own", "X", group="find")(lambda d: _place(d).not_same())
_row("form.begins", "A section begins here …", "N", group="find")(lambda d: _place(d).begins())
_row("form.only_here", "Edits change only their bar, or the part", "Shift+O", group="part")(
    lambda d: d.studio.call("only-here", switch="toggle")
)
_row("form.compare", "Compare parts and sections, and take changes over …", "Ctrl+Shift+C", group="part")(
    lambda d: _place(d).compare()
)
_row("form.answers", "Answers to the part, or a phrase of 2 to 8 bars", "A", group="answers")(
    lambda d: _place(d).propose_answers()
)
_row("form.fills", "Fills at the end of the part", "Shift+F", group="answers")(lambda d: _place(d).propose_fills())
_row("form.take", "Take what is heard, or open the part", "Return", "Enter", group="answers")(
    lambda d: _place(d).take_offer()
)
