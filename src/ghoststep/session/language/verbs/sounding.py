"""Verbs of sound: which kit plays the groove."""

from dataclasses import replace
from typing import Annotated

from ghoststep.music.errors import InputError
from ghoststep.session.language.edit_context import Done, EditContext
from ghoststep.session.language.kinds import Text
from ghoststep.session.language.verb import verb
from ghoststep.session.named_kits import kit_known


class _Kit(Text):
    """A kit's name or place."""

    usage = "NAME|KIT.sfz|FOLDER"


@verb("kit", "which kit plays it: one that ships, an SFZ file, or a folder of sounds", example="kit sketch")
def _kit(context: EditContext, name: Annotated[str, _Kit()]) -> Done:
    if not name.strip():
        raise InputError("Which kit? For example: kit depot.")
    found = kit_known(name)
    if found == context.document.kit:
        return f"Played on {found} already", context
    return f"Played on {found}", replace(context, document=replace(context.document, kit=found))
