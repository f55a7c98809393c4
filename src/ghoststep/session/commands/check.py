"""The commands of Check."""

from ghoststep.session.commands.table import row

ROWS = (
    row("check.next", "Next finding", "N", menu="Check", place="check", group="go"),
    row("check.previous", "Finding before", "Shift+N", menu="Check", place="check", group="go"),
    row("check.mend", "Hear a mend, then the next", "M", menu="Check", place="check", group="mend"),
    row("check.take", "Take the mend that is heard", "Return", "Enter", menu="Check", place="check", group="mend"),
    row("check.leave", "Leave the mend", "X", menu="Check", place="check", group="mend"),
    row("check.meant", "It is meant so", "A", menu="Check", place="check", group="meant"),
    row(
        "check.mind",
        "Hear again of what was meant so",
        "Shift+A",
        menu="Check",
        place="check",
        group="meant",
        phrase="mind",
    ),
    row("check.playable", "Make it playable at the tempo asked about", "P", menu="Check", place="check", group="tempo"),
    row("check.faster", "Ask about a faster tempo", ".", menu="Check", place="check", group="tempo"),
    row("check.slower", "Ask about a slower tempo", ",", menu="Check", place="check", group="tempo"),
    row("check.page", "Next page of the panel", "Ctrl+Tab", menu="Check", place="check", group="page"),
)
