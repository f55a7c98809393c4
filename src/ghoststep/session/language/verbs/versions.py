"""Verbs of versions and names: keep the groove under a name, go back to one, call the groove something."""

from typing import Annotated

from ghoststep.music.errors import InputError
from ghoststep.session.document.takeover import NOW, Side, Single, names_of, side, singles, taken_over
from ghoststep.session.edits import version_edits as versions
from ghoststep.session.language.edit_context import Done, EditContext, settled
from ghoststep.session.language.kinds import Text
from ghoststep.session.language.verb import After, verb


@verb("keep", "keeps the groove as it is under a name", example="keep before the fill")
def _keep(context: EditContext, name: Annotated[str, Text()]) -> Done:
    return settled(context, versions.keep(context.document, name))


@verb("back-to", "the groove as it was kept under a name", example="back-to before the fill")
def _back(context: EditContext, name: Annotated[str, Text()]) -> Done:
    return settled(context, versions.go_back(context.document, name))


@verb("drop", "forgets a version that was kept", example="drop before the fill")
def _drop(context: EditContext, name: Annotated[str, Text()]) -> Done:
    return settled(context, versions.drop(context.document, name))


@verb("name", "what the groove is called", example="name Fog viaduct")
def _name(context: EditContext, name: Annotated[str, Text()]) -> Done:
    return settled(context, versions.rename(context.document, name))


def _between(context: EditContext, named: str, into: str) -> tuple[Side, list[Single]]:
    """The side that changes, and what leads from it to the other; a mine that is not now is an InputError."""
    if not named.strip():
        raise InputError(f"With which? There are: {', '.join(names_of(context.document))}.")
    mine, theirs = side(context.document, into), side(context.document, named)
    if (into != NOW and not into.startswith(("part ", "section "))) or " of " in into:
        raise InputError(f"Changes are taken over into what there is now, its parts and sections, not into '{into}'.")
    found = singles(mine, theirs)
    if not found:
        raise InputError(f"Between {mine.name} and {theirs.name} nothing is different.")
    return mine, found


@verb(
    "differs",
    "says how a kept version, a part or a section differs, change by change with its number",
    example="differs part B from part A",
)
def _differs(
    context: EditContext,
    named: Annotated[str, Text("VERSION|part B|section verse")],
    into: Annotated[str, After("from", Text("part A|section chorus"))] = NOW,
) -> Done:
    _, found = _between(context, named, into)
    return "\n".join(f"{k}  {single.words}" for k, single in enumerate(found, 1)), context


@verb(
    "take-over",
    "single changes taken over from a kept version, a part or a section, by their numbers, or all",
    example="take-over part B numbers 1 into part A",
)
def _take_over(
    context: EditContext,
    named: Annotated[str, Text("VERSION|part B|section verse")],
    numbers: Annotated[str, After("numbers", Text("1 3|all"))] = "all",
    into: Annotated[str, After("into", Text("part A|section chorus"))] = NOW,
) -> Done:
    mine, found = _between(context, named, into)
    words = numbers.replace(",", " ").split()
    if words == ["all"]:
        chosen = found
    elif words and all(w.isdecimal() and 1 <= int(w) <= len(found) for w in words):
        chosen = [found[int(w) - 1] for w in dict.fromkeys(words)]
    else:
        raise InputError(f"'{numbers}' names no changes: there are 1 to {len(found)}, as 'differs {named}' tells them.")
    groove = taken_over(context.document.groove, mine, chosen)
    told = "; ".join(single.words for single in chosen[:3]) + (f" and {len(chosen) - 3} more" * (len(chosen) > 3))
    return settled(context, (f"From {named}: {told}", context.document.with_groove(
        pattern=groove.pattern, feel=groove.feel, tempo=groove.tempo)))  # fmt: skip
