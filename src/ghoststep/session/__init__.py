"""The document a user works on, its history, and the table of what can be done to it. No interface code."""

from typing import TYPE_CHECKING

from ghoststep.lazy import offered

if TYPE_CHECKING:
    from ghoststep.session.commands import COMMANDS as COMMANDS
    from ghoststep.session.commands import do_named as do_named
    from ghoststep.session.document.document import Document as Document
    from ghoststep.session.document.document import Recording as Recording
    from ghoststep.session.document.history import History as History
    from ghoststep.session.language.doing import call as call
    from ghoststep.session.language.doing import commit as commit
    from ghoststep.session.language.doing import do as do
    from ghoststep.session.language.edit_context import EditContext as EditContext

OFFERS = {
    "COMMANDS": "commands",
    "Document": "document.document",
    "EditContext": "language.edit_context",
    "History": "document.history",
    "Recording": "document.document",
    "call": "language.doing",
    "commit": "language.doing",
    "do": "language.doing",
    "do_named": "commands",
}
__getattr__, __dir__ = offered(__name__, OFFERS)
