"""Verbs of how a groove is played: placement, pulling to the grid, players' feels, printing and taking off."""

from typing import Annotated

from ghoststep.feel.blend import blended
from ghoststep.music.errors import InputError
from ghoststep.session.edits import feel_edits, time_edits
from ghoststep.session.edits.rewriting import rewritten
from ghoststep.session.language.edit_context import Done, EditContext, settled
from ghoststep.session.language.kinds import Amount, ManyVoices, Number, OneOf, SomeVoices, Text
from ghoststep.session.language.verb import After, chosen_or_all, verb
from ghoststep.session.named_feels import player_named

_PERCENT = Number("a share", ("%",), low=0, high=100, signed=False, name="PERCENT")
_FURTHER = Number("a share", ("%",), low=0, high=150, signed=False, name="PERCENT")
_PASSES = Number("a number of passes", low=2, high=64, whole=True, signed=False, name="PASSES")
_NOTES = {
    "whole": 4.0, "half": 2.0, "quarter": 1.0, "eighth": 0.5, "sixteenth": 0.25, "triplet": 1 / 3,
    "quarter-triplet": 2 / 3, "sixteenth-triplet": 1 / 6, "dotted-quarter": 1.5, "dotted-eighth": 0.75,
    "quintuplet": 0.2,
}  # fmt: skip


@verb(
    "placement",
    "ahead of the pulse, on it or behind it: all of it, or a voice or group",
    example="placement behind for snare by 14 ms",
    also=("sit",),
)
def _placement(
    context: EditContext,
    where: Annotated[str, OneOf("placement", tuple(feel_edits.PLACEMENTS))],
    voices: Annotated[tuple[str, ...], After("for", ManyVoices())] = (),
    by: Annotated[
        Amount | None, After("by", Number("a time in ms", ("ms",), low=0, high=100, signed=False, name="MS"))
    ] = None,
) -> Done:
    edit = feel_edits.set_placement(context.document, where, voices, None if by is None else by.value)
    return settled(context, feel_edits.limits_told(edit))


@verb(
    "pull",
    "towards the grid by a share of what hits lie off it; lean and swing stay, unless they are named",
    on_hits=True,
    example="pull 60% with lean",
    also=("quantise", "quantize"),
)
def _pull(
    context: EditContext,
    percent: Annotated[Amount, _PERCENT],
    too: Annotated[str, After("with", OneOf("part of the feel", ("lean", "swing", "both")))] = "",
) -> Done:
    hits = chosen_or_all(context).hits
    lean, swing = too in ("lean", "both"), too in ("swing", "both")
    return settled(context, feel_edits.pulled(context.document, hits, percent.value, lean=lean, swing=swing))


@verb(
    "feel",
    "a player's feel (or one between two) laid on the groove, touch and time as far as wanted, for all or some voices",
    example="feel laid-back touch 80% time 100% for snare",
)
def _feel(
    context: EditContext,
    name: Annotated[str, Text("FEEL")],
    other: Annotated[str | None, After("and", Text("FEEL"))] = None,
    share: Annotated[Amount | None, After("share", _PERCENT)] = Amount(50.0),
    touch: Annotated[Amount, After("touch", _FURTHER)] = Amount(100.0),
    time: Annotated[Amount, After("time", _FURTHER)] = Amount(100.0),
    voices: Annotated[tuple[str, ...] | None, After("for", SomeVoices())] = None,
) -> Done:
    player, known = player_named(name)
    if other is not None and share is not None:
        second, named = player_named(other)
        player = blended(player, second, share.value / 100)
        known = f"{known} and {share.value:g} % of {named}"
    edit = feel_edits.lay(
        context.document, player, known, touch=touch.value / 100, time=time.value / 100, voices=voices
    )
    return settled(context, feel_edits.limits_told(edit))


@verb(
    "print-feel",
    "the feel written into the hits, as they are played now; for all, for some voices, or on the hits that are named",
    on_hits=True,
    example="print-feel for hat",
)
def _print(context: EditContext, voices: Annotated[tuple[str, ...], After("for", SomeVoices())] = ()) -> Done:
    return settled(context, feel_edits.printed(context.document, voices, () if voices else context.hits))


@verb(
    "take-off-feel",
    "what hits have in common measured, taken off and kept as feel; for all, for some voices, or on hits",
    on_hits=True,
    example="take-off-feel",
)
def _take_off(context: EditContext, voices: Annotated[tuple[str, ...], After("for", SomeVoices())] = ()) -> Done:
    return settled(context, feel_edits.taken_off(context.document, voices, () if voices else context.hits))


@verb(
    "as-written",
    "hits that are played as they are written, whatever the feel does; or by the feel again",
    on_hits=True,
    example="as-written yes on snare at 4",
)
def _as_written(context: EditContext, answer: Annotated[str, OneOf("answer", ("yes", "no"))]) -> Done:
    if not context.hits:
        raise InputError("Choose the hits that are played as written first.")
    return settled(context, feel_edits.set_fixed(context.document, context.hits, answer == "yes"))


@verb(
    "freeze",
    "every pass of a loop alike (or every so many another take), or each played anew",
    example="freeze on every 4",
)
def _freeze(
    context: EditContext,
    switch: Annotated[str, OneOf("switch", ("on", "off", "toggle"))] = "toggle",
    every: Annotated[Amount | None, After("every", _PASSES)] = None,
) -> Done:
    now = context.document.groove.feel.frozen
    frozen = not now if switch == "toggle" else switch == "on"
    return settled(context, feel_edits.set_frozen(context.document, frozen, int(every.value) if every else 0))


@verb(
    "rewrite",
    "the same music in notes twice as long or half as long, at twice or half the tempo",
    example="rewrite double",
)
def _rewrite(context: EditContext, how: Annotated[str, OneOf("way", ("double", "half"))]) -> Done:
    document = context.document
    return settled(context, rewritten(document, 2 if how == "double" else 0.5))


@verb(
    "modulate",
    "from a bar on the tempo at which an old note lasts as long as a new one",
    example="modulate triplet to eighth at 2",
)
def _modulate(
    context: EditContext,
    old: Annotated[str, OneOf("note", tuple(_NOTES))],
    new: Annotated[str, After("to", OneOf("note", tuple(_NOTES)))],
    bar: Annotated[Amount, After("at", Number("a bar", low=2, high=4096, whole=True, signed=False, name="BAR"))],
) -> Done:
    document = context.document
    groove, first = document.groove, int(bar.value)
    if first > groove.pattern.bars:
        raise InputError(f"There is no bar {first}: this groove has {groove.pattern.bars}.")
    here = groove.tempo.bpm_at(groove.pattern.frame.start_of(first))
    wanted = here * _NOTES[new] / _NOTES[old]
    words, after = time_edits.set_tempo_of_bars(document, first, groove.pattern.bars, wanted)
    return settled(context, (f"The old {old} is the new {new}: {words[0].lower()}{words[1:]}", after))
