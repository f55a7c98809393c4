"""The commands of Form."""

from ghoststep.session.commands.table import row

ROWS = (
    row("form.letters", "Find the form: letters for alike bars", "Shift+L", menu="Form", place="form", group="find"),
    row("form.open", "Open the part in Place", "O", menu="Form", place="form", group="part"),
    row("form.loop", "Play the part round", "P", menu="Form", place="form", group="play"),
    row("form.loop_section", "Play the section round", "Shift+P", menu="Form", place="form", group="play"),
    row("form.again", "The part once more", "D", menu="Form", place="form", group="order"),
    row("form.out", "Leave the part out here", "Delete", "Backspace", menu="Form", place="form", group="order"),
    row("form.earlier", "The part earlier", "Alt+Left", menu="Form", place="form", group="order"),
    row("form.later", "The part later", "Alt+Right", menu="Form", place="form", group="order"),
    row("form.copy", "Copy the part", "Ctrl+C", menu="Form", place="form", group="order"),
    row("form.paste", "Put the copied part in behind", "Ctrl+V", menu="Form", place="form", group="order"),
    row("form.insert", "Put a part in …", "I", menu="Form", place="form", group="order"),
    row("form.section_again", "The section once more", "Shift+D", menu="Form", place="form", group="sections"),
    row("form.section_out", "Leave the section out here", "Shift+Delete", menu="Form", place="form", group="sections"),
    row("form.section_earlier", "The section earlier", "Alt+Up", menu="Form", place="form", group="sections"),
    row("form.section_later", "The section later", "Alt+Down", menu="Form", place="form", group="sections"),
    row("form.count_in", "Count in before the section, or not", "C", menu="Form", place="form", group="sections"),
    row("form.free", "Set the part free of its base", "U", menu="Form", place="form", group="part"),
    row("form.vary", "Make it a variation of another part …", "V", menu="Form", place="form", group="part"),
    row("form.same", "The same as the part before it", "S", menu="Form", place="form", group="find"),
    row("form.not_same", "Not the same: a part of its own", "X", menu="Form", place="form", group="find"),
    row("form.begins", "A section begins here …", "N", menu="Form", place="form", group="find"),
    row(
        "form.only_here", "Edits change only their bar, or the part", "Shift+O", menu="Form", place="form", group="part"
    ),
    row(
        "form.compare",
        "Compare parts and sections, and take changes over …",
        "Ctrl+Shift+C",
        menu="Form",
        place="form",
        group="part",
    ),
    row(
        "form.answers",
        "Answers to the part, or a phrase of 2 to 8 bars",
        "A",
        menu="Form",
        place="form",
        group="answers",
    ),
    row("form.fills", "Fills at the end of the part", "Shift+F", menu="Form", place="form", group="answers"),
    row(
        "form.take",
        "Take what is heard, or open the part",
        "Return",
        "Enter",
        menu="Form",
        place="form",
        group="answers",
    ),
)
