"""Verbs of the check: who plays and on what, what a part may be, what is meant so, and parts made playable."""

from dataclasses import replace
from typing import Annotated

from ghoststep.judge.check import checked
from ghoststep.judge.finding import STYLES, Finding
from ghoststep.judge.kit_setup import MOST_ARMS, WAYS, at_one_place, with_pedals
from ghoststep.judge.players import PLAYERS
from ghoststep.judge.words import began, the_voice
from ghoststep.music.errors import InputError
from ghoststep.music.kit import voice
from ghoststep.session.document.judged import Judged
from ghoststep.session.language.edit_context import Ask, Done, EditContext
from ghoststep.session.language.kinds import Amount, Number, Numbers, OneOf, SomeBars, SomeVoices, Text
from ghoststep.session.language.mending import made_playable
from ghoststep.session.language.verb import After, verb
from ghoststep.session.words import count

_BPM = Number("a tempo in BPM", ("bpm",), low=20, high=400, signed=False, name="BPM")


def _judged(context: EditContext, words: str, judged: Judged) -> Done:
    if judged == context.document.judged:
        return f"{words} already", context
    return words, replace(context, document=replace(context.document, judged=judged))


@verb("player", "who is to play it", example="player working")
def _player(context: EditContext, who: Annotated[str, OneOf("player", tuple(PLAYERS))]) -> Done:
    return _judged(context, f"Checked for a {who} player", replace(context.document.judged, player=who))


@verb("handed", "how it is played", example="handed left-handed")
def _handed(context: EditContext, way: Annotated[str, OneOf("way to play", WAYS)]) -> Done:
    return _judged(context, f"Checked {way}", replace(context.document.judged, way=way))


@verb("pedals", "one or two pedals of the kick, or none, for the check", example="pedals 2")
def _pedals(
    context: EditContext,
    number: Annotated[Amount, Number("a number of pedals", low=0, high=2, whole=True, signed=False, name="0|1|2")],
) -> Done:
    setup = with_pedals(int(number.value))
    words = f"Checked with {count(setup.kick_pedals, 'kick pedal') if setup.kick_pedals else setup.name}"
    return _judged(context, words, replace(context.document.judged, setup=setup.name))


_ARMS = Number("arm's lengths", low=-MOST_ARMS, high=MOST_ARMS, name="N.N")


class _Standing:
    """Voices that stand somewhere, none for the word "usual"."""

    usage = "VOICE|usual"

    def take(self, words: list[str], context: EditContext) -> tuple[tuple[str, ...], list[str]]:
        if [w.lower() for w in words] == ["usual"]:
            return (), []
        if not words:
            raise InputError("Which drum stands where?")
        found, rest = SomeVoices().take(words, context)
        if not any(voice(name).limb in ("R", "L") for name in found):
            raise InputError(f"{began(the_voice(found[0]))} is played by a foot: where it stands changes nothing here.")
        return tuple(
            dict.fromkeys(v for name in found if voice(name).limb in ("R", "L") for v in at_one_place(name))
        ), rest


@verb(
    "stands",
    "where a drum stands, to the right of the player (left with -) and away, in arm's lengths; or all as usual",
    example="stands splash -0.9 0.5",
)
def _stands(
    context: EditContext,
    voices: Annotated[tuple[str, ...], _Standing()],
    place: Annotated[tuple[float, float] | None, Numbers(_ARMS, 2)] = None,
) -> Done:
    judged = context.document.judged
    if not voices and place is None:
        return _judged(context, "Every drum stands where it usually does", replace(judged, stands=()))
    if not voices or place is None:
        raise InputError("Which drum stands where? For example: stands splash -0.9 0.5, for 0.9 to the left, 0.5 away.")
    right, away = place
    side = f"{abs(right):g} to the {'right' if right > 0 else 'left'}" if right else "in the middle"
    words = f"{began(the_voice(voices[0]))} stands {side}, {away:g} away, in arm's lengths"
    return _judged(context, words, judged.with_stands(dict.fromkeys(voices, (right, away))))


@verb("may-be", "what a part may be without being told: one loop, a machine, two drummers", example="may-be loop on")
def _may_be(
    context: EditContext,
    style: Annotated[str, OneOf("style", tuple(STYLES))],
    switch: Annotated[str, OneOf("switch", ("on", "off", "toggle"))] = "toggle",
) -> Done:
    now = style in context.document.judged.styles
    on = not now if switch == "toggle" else switch == "on"
    words = f"It {'may' if on else 'may not'} be {_SAID[style]}"
    return _judged(context, words, context.document.judged.with_style(style, on))


_SAID = {"loop": "one loop", "machine": "a machine", "two-drummers": "two drummers"}


@verb("meant", "a finding of the check stays quiet", example="meant same bars: all of it")
def _meant(context: EditContext, key: Annotated[str, Text("FINDING")]) -> Done:
    known = {f.key.strip() for f in _findings(context)}
    if key.strip() not in known:
        raise InputError(f"There is no finding '{key}' here. See: ghost-step check, or the place Check.")
    return _judged(context, f"Meant so: {key.split(':')[0]}", context.document.judged.with_meant(key.strip(), True))


@verb("mind", "every finding that was meant so is heard again", example="mind")
def _mind(context: EditContext) -> Done:
    judged = context.document.judged
    return _judged(context, f"{count(len(judged.meant), 'finding')} heard again", replace(judged, meant=()))


def _findings(context: EditContext) -> list[Finding]:
    return list(checked(context.document.groove, context.document.judged.terms).findings)


@verb(
    "playable",
    "makes it playable at a tempo: strokes to the other hand, left out, simplified",
    example="playable at 172",
)
def _playable(context: EditContext, bpm: Annotated[Amount | None, After("at", _BPM)] = None) -> Done:
    taken, after = made_playable(context, context.document.judged.terms, bpm.value if bpm else None)
    at = f" at {bpm.value:g} BPM" if bpm else ""
    if not taken:
        return f"Playable{at} as it is", context
    told = "; ".join(taken[:4]) + (f" and {len(taken) - 4} more" if len(taken) > 4 else "")
    return f"Playable{at}: {told}", after


@verb("check", "whether a player can play it: the place Check tells all of it", example="check learner")
def _check(context: EditContext, player: Annotated[str | None, OneOf("player", tuple(PLAYERS))] = None) -> Done:
    judged = context.document.judged
    who = player or judged.player
    found = [
        f
        for f in checked(context.document.groove, replace(judged, player=who).terms).findings
        if f.kind == "impossible"
    ]
    asks = (*context.asks, Ask("check", player=player or ""))
    if not found:
        return f"Nothing in it is impossible for a {who} drummer", replace(context, asks=asks)
    first = found[0]
    return (
        f"{count(len(found), 'thing')} in it cannot be played by a {who} drummer: {first.name} in bar {first.bar}",
        replace(context, asks=asks),
    )


@verb("describe", "the groove, or some bars, in the sentences in which it could be asked for", example="describe 2-4")
def _describe(context: EditContext, bars: Annotated[set[int] | None, SomeBars()] = None) -> Done:
    return "", replace(context, asks=(*context.asks, Ask("describe", some=tuple(sorted(bars or ())))))
