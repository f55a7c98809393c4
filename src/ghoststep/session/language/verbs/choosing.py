"""Verbs that choose hits, move the cursor, and find and replace."""

from dataclasses import replace
from typing import Annotated

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, LANES, voice
from ghoststep.music.pattern import Hit
from ghoststep.music.spots import name_at, parse_spot
from ghoststep.music.touch import Role
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.language.edit_context import Done, EditContext, edited
from ghoststep.session.language.kinds import OneVoice, Text
from ghoststep.session.language.targets import target
from ghoststep.session.language.verb import After, verb
from ghoststep.session.language.voice_words import voice_named
from ghoststep.session.words import count


class _Hits:
    """Hits that are named; a stand in which they are chosen."""

    usage = "TARGET"

    def take(self, words: list[str], context: EditContext) -> tuple[object, list[str]]:
        found = target(context, words)
        return found.hits, []


@verb(
    "select",
    "chooses hits: snare ghosts bars 2-4, hat_open at & of 4, everything",
    example="select snare ghosts bars 2-4",
    also=("choose",),
)
def _select(context: EditContext, hits: Annotated[list[Hit], _Hits()]) -> Done:
    return f"{count(len(hits), 'hit')} chosen", context.choosing(hits)


@verb("go", "moves the cursor, and chooses what stands there", example="go snare bar 2 4a")
def _go(
    context: EditContext, voice: Annotated[str | None, OneVoice()] = None, spot: Annotated[str, Text("SPOT")] = ""
) -> Done:
    lane = context.lane if voice is None else LANE_OF_VOICE[voice]
    pattern = context.document.groove.pattern
    ticks = context.cursor_ticks
    if spot:
        found = parse_spot(spot, pattern.frame, pattern.grid_at(LANES[lane].voices[0], ticks), bar=context.bar)
        if found.bar > pattern.bars:
            raise InputError(f"There is no bar {found.bar}: this groove has {pattern.bars}.")
        ticks = pattern.frame.ticks_of(found)
    here = [pattern.hits[i] for i in pattern.between(ticks, ticks + 1)]
    after = context.choosing([h for h in here if h.voice in LANES[lane].voices])
    bar, name = pattern.frame.spot_at(ticks).bar, name_at(ticks, pattern.frame)
    return f"At {name} of bar {bar}", replace(after, cursor_ticks=ticks, lane=lane)


@verb("replace", "finds hits and makes them something else", example="replace hat_open at & of 4 with hat_closed")
def _replace(
    context: EditContext,
    hits: Annotated[list[Hit], _Hits()],
    by: Annotated[str, After("with", Text("VOICE|ROLE|nothing"))],
) -> Done:
    if not hits:
        raise InputError("No hit is that in this groove.")
    aim, wanted = context.choosing(hits), by.lower()
    words = f"{count(len(hits), 'hit')} replaced"
    if wanted in ("nothing", "rest"):
        _, document = edits.remove_hits(context.document, hits)
        return edited(aim, (f"{words}: now rests", document))
    if wanted in tuple(r.value for r in Role):
        _, document = edits.set_role(context.document, hits, Role(wanted))
        return edited(aim, (f"{words}: now {wanted}", document))
    name = voice_named(wanted.replace(" ", "_"))
    label = voice(name or wanted).label.lower()
    _, document = edits.set_voice(context.document, hits, voice(name or wanted).name)
    return edited(aim, (f"{words}: now {label}", document))
