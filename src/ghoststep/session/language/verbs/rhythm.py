"""Verbs of a voice's rhythm and of how a whole part is struck, in words that musicians use."""

from dataclasses import replace
from typing import Annotated

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, LANES, voice
from ghoststep.music.pattern import Hit
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document
from ghoststep.session.edits import touch_edits
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.language.edit_context import Done, EditContext, edited, settled
from ghoststep.session.language.kinds import Amount, Number, OneOf, OneVoice, SomeBars
from ghoststep.session.language.spot_words import Spots
from ghoststep.session.language.verb import After, verb
from ghoststep.session.language.verbs.hits import Where, places
from ghoststep.session.words import count

# Velocities stray by so much for every ms that times do: a player of 4 ms strays by 5 steps (music-facts, dynamics).
_TOUCH_OF_TIME = 1.25
_DB = Number("a change in dB", ("dB",), low=-40, high=40, name="DB")


@verb(
    "strikes",
    "a lane strikes on these spots and nowhere else; what is there already stays as it is struck",
    example="strikes hat_closed every 8th bars 2",
)
def _strikes(
    context: EditContext,
    voice: Annotated[str, OneVoice()],
    at: Annotated[Spots, Where()],
    bars: Annotated[set[int] | None, After("bars", SomeBars())] = None,
) -> Done:
    named = {at.bar} if at.bar is not None else bars
    edit = _struck_at(context.document, voice, places(context, voice, at, bars), named)
    return edited(replace(context, chosen=frozenset()), edit)


def _struck_at(document: Document, name: str, ticks: list[int], bars: set[int] | None) -> Edit:
    """The lane of a voice with strokes at these positions (ticks) alone, in some bars or in all."""
    pattern = document.groove.pattern
    mine = LANES[LANE_OF_VOICE[name]].voices
    inside = [
        i
        for i, h in enumerate(pattern.hits)
        if h.voice in mine and (bars is None or pattern.frame.spot_at(h.position_ticks).bar in bars)
    ]
    wanted = set(ticks)
    there = {pattern.hits[i].position_ticks for i in inside}
    gone = {i for i in inside if pattern.hits[i].position_ticks not in wanted}
    level = pattern.rules.level_of(name, Role.NORMAL)
    new = [Hit(t, name, level, Role.NORMAL) for t in sorted(wanted - there)]
    if not gone and not new:
        return f"{voice(name).label} strikes there already, and nowhere else", document
    words = [f"{count(len(n), 'hit')} {what}" for n, what in ((new, "placed"), (gone, "removed")) if n]
    return f"{voice(name).label}: {', '.join(words)}", document.with_groove(pattern=pattern.with_hits(gone, new))


@verb("loudness", "louder or softer by so many dB as it is heard", on_hits=True, example="loudness -3 dB on hat")
def _loudness(context: EditContext, by: Annotated[Amount, _DB]) -> Done:
    # The kit's level follows 40 log10 of the velocity (docs/sound.md), so 12 dB are twice the velocity.
    return edited(context, touch_edits.scale(context.document, context.hits, 100 * 10 ** (by.value / 40)))


@verb(
    "humanise",
    "time and touch stray as a player's do: ms of the spread of the timing, velocities along with it, or one alone",
    example="humanise 5",
    also=("humanize",),
)
def _humanise(
    context: EditContext,
    spread: Annotated[Amount, Number("a time in ms", ("ms",), low=0, high=20, name="MS")],
    only: Annotated[str, After("only", OneOf("part of the feel", ("time", "touch", "both")))] = "both",
) -> Done:
    feel = context.document.groove.feel
    ms = min(max(spread.onto(feel.loose_ms), 0.0), 20.0)
    loose_ms = feel.loose_ms if only == "touch" else ms
    velocity = feel.wander.velocity if only == "time" else ms * _TOUCH_OF_TIME
    new = replace(
        feel, loose_ms=loose_ms, wander=replace(feel.wander, velocity=velocity, softer=feel.wander.softer or 0.5)
    )
    if new == feel:
        raise InputError(f"It strays by {loose_ms:g} ms and {velocity:g} steps of velocity already.")
    words = f"Time strays by {loose_ms:g} ms, velocities by {velocity:g}"
    return settled(context, (words, context.document.with_groove(feel=new)))
