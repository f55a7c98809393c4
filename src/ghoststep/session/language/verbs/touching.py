"""Verbs of touch: many velocities at once, accents, ghosts, levels and balance."""

import re
from collections.abc import Callable
from dataclasses import replace
from typing import Annotated

from ghoststep.craft.accents import accented
from ghoststep.craft.ghosts import filled, proposals, thinned
from ghoststep.music.errors import InputError
from ghoststep.music.kit import voice
from ghoststep.music.touch import Role
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.edits import touch_edits as touch
from ghoststep.session.language.edit_context import Done, EditContext, edited, settled
from ghoststep.session.language.kinds import Amount, Number, Numbers, OneOf, OneVoice, SomeVoices
from ghoststep.session.language.verb import After, verb
from ghoststep.session.words import count
from ghoststep.sound.balance import BALANCES, balanced, current, louder_db

PERCENT = Number("a percentage", ("%",), low=-1000, high=1000, name="PERCENT")
_VELOCITY = Number("a velocity", low=1, high=127, whole=True)


def _amount(name: str, about: str, kind: Number, example: str, change: Callable[..., edits.Edit]) -> None:
    @verb(name, about, on_hits=True, example=example)
    def _run(context: EditContext, amount: Annotated[Amount, kind]) -> Done:
        return edited(context, change(context.document, context.hits, amount.value))


_STEPS = Number("a number of velocity steps", low=-127, high=127, whole=True)
_amount(
    "scale",
    "louder or softer by a share, roles kept in order",
    Number("a percentage", ("%",), low=1, high=1000, signed=False, name="PERCENT"),
    "scale 110% on hat",
    touch.scale,
)
_amount(
    "even",
    "nearer to the middle of the same role (negative: further away)",
    Number("a percentage", ("%",), low=-1000, high=100, name="PERCENT"),
    "even 30% on hat",
    lambda d, h, x: touch.compress(d, h, x / 100),
)
_amount(
    "tilt",
    "softer first and louder last by so much",
    _STEPS,
    "tilt 10 on snare",
    lambda d, h, x: touch.tilt(d, h, round(x)),
)


@verb(
    "crescendo",
    "from one share of the velocities to another, roles kept",
    on_hits=True,
    example="crescendo 75% 115% on snare",
)
def _crescendo(
    context: EditContext,
    shares: Annotated[
        tuple[float, float], Numbers(Number("a percentage", ("%",), low=0, high=1000, signed=False, name="PERCENT"), 2)
    ],
) -> Done:
    return edited(context, touch.ramp(context.document, context.hits, *shares))


@verb(
    "line",
    "velocities on a straight line from the first hit to the last",
    on_hits=True,
    example="line 40 110 on snare bars 1",
)
def _line(
    context: EditContext,
    ends: Annotated[tuple[float, float], Numbers(Number("a velocity", low=1, high=127, whole=True, signed=False), 2)],
) -> Done:
    if not context.hits:
        raise InputError(edits.NOTHING_CHOSEN)
    a, b = context.hits[0].position_ticks, context.hits[-1].position_ticks
    return edited(context, touch.line(context.document, context.hits, [(a, ends[0]), (max(b, a + 1), ends[1])]))


@verb("level", "the level of a role as a setting: its hits move together", example="level ghost 28 snare")
def _level(
    context: EditContext,
    role: Annotated[str, OneOf("role", tuple(r.value for r in Role), {f"{r.value}s": r.value for r in Role})],
    value: Annotated[Amount, _VELOCITY],
    voices: Annotated[tuple[str, ...], SomeVoices()] = (),
) -> Done:
    now = context.document.groove.pattern.rules.level_of(voices[0] if voices else "snare", Role(role))
    return settled(context, touch.role_level(context.document, Role(role), int(value.onto(now)), voices))


@verb("balance", "which drum leads, for the whole groove, as it is heard", example="balance snare-led")
def _balance(context: EditContext, which: Annotated[str, OneOf("balance", (*BALANCES, "next"))]) -> Done:
    groove = context.document.groove
    if which == "next":
        names = list(BALANCES)
        now = current(groove)
        which = names[(names.index(now) + 1) % len(names)] if now in names else names[0]
    feel = replace(groove.feel, balance_db=balanced(groove, which))
    words, change_db = f"Balance: {which}", louder_db(groove, which) if groove.pattern.hits else 0.0
    if change_db <= -1:
        words += f"; the whole is {-change_db:.0f} dB softer, since what leads cannot be struck harder"
    return settled(context, (words, context.document.with_groove(feel=feel)))


class _Shape:
    """An accent shape: a word, "every 3 from 2", or which of the hits are accented, "1,3,4"."""

    usage = "beat|off-beat|backbeat|groups|every N|1,3,4"

    def take(self, words: list[str], context: EditContext) -> tuple[object, list[str]]:
        text = " ".join(words)
        found = re.match(r"every \d+(?: from \d+)?(?=\s|$)|\d+(?:\s*,\s*\d+)*(?=\s|$)|[a-z-]+", text)
        if not found:
            raise InputError(
                "Which accents? For example: accents beat on hat, accents every 3 on hat, accents 1,3,4 on snare."
            )
        return found[0], text[found.end() :].split()


@verb("accents", "accents in a shape: the others become normal", on_hits=True, example="accents 1,3,4 on snare")
def _accents(context: EditContext, shape: Annotated[str, _Shape()]) -> Done:
    return _shaped(context, shape, layer=False)


@verb(
    "layer",
    "accents laid over what is there: the others stay as they are",
    on_hits=True,
    example="layer backbeat on snare",
)
def _layer(context: EditContext, shape: Annotated[str, _Shape()]) -> Done:
    return _shaped(context, shape, layer=True)


def _shaped(context: EditContext, shape: str, *, layer: bool) -> Done:
    pattern = context.document.groove.pattern
    if not context.hits:
        raise InputError("Choose the hits first, for example a lane (Ctrl+L), or say: accents beat on hat.")
    # "hat" names the pedal too; an accent of the hat is one of the hand.
    by_hand = any(h.voice.startswith("hat") and h.voice != "hat_pedal" for h in context.hits)
    meant = [i for i in context.indices if not (by_hand and pattern.hits[i].voice == "hat_pedal")]
    spots = accented([pattern.hits[i] for i in meant], shape, pattern.frame)
    level = pattern.rules.level_of
    changed = {}
    for i in meant:
        h = pattern.hits[i]
        if h.grace or (layer and h.position_ticks not in spots):
            continue
        role = Role.ACCENT if h.position_ticks in spots else Role.GHOST if h.role is Role.GHOST else Role.NORMAL
        if role is not h.role:
            changed[i] = replace(h, role=role, velocity=level(h.voice, role))
    if not changed:
        return f"Accents already stand on {shape}", context
    new = pattern.with_hits(changed.keys(), changed.values())
    return edited(context, (f"{count(len(spots), 'accent')} ({shape})", context.document.with_groove(pattern=new)))


@verb(
    "accents-to",
    "accents move to another voice, the rest stay as ghosts",
    on_hits=True,
    example="accents-to tom_high on snare",
)
def _accents_to(context: EditContext, name: Annotated[str, OneVoice()]) -> Done:
    pattern = context.document.groove.pattern
    accents = {i for i in context.indices if pattern.hits[i].role is Role.ACCENT and not pattern.hits[i].grace}
    if not accents:
        raise InputError("There is no accent among the chosen hits.")
    changed = {}
    for i in context.indices:
        h = pattern.hits[i]
        if i in accents:
            if pattern.at(h.position_ticks, name) is None:
                changed[i] = edits.fitted(h, name)
        elif not h.grace and h.role is not Role.GHOST:
            changed[i] = replace(h, role=Role.GHOST, velocity=pattern.rules.level_of(h.voice, Role.GHOST))
    words = f"{count(len(accents), 'accent')} to {voice(name).label.lower()}"
    new = pattern.with_hits(changed.keys(), changed.values())
    return edited(context, (words, context.document.with_groove(pattern=new)))


@verb("ghosts", "takes one of the proposals for ghost notes, 1 has the fewest", example="ghosts 2")
def _ghosts(
    context: EditContext,
    number: Annotated[Amount, Number("a proposal", low=1, high=99, whole=True, signed=False)] = Amount(1),
) -> Done:
    found = proposals(context.document.groove)
    if not found:
        raise InputError("No hand has the time for a ghost anywhere in this groove.")
    wanted = int(number.value)
    if not 1 <= wanted <= len(found):
        told = "; ".join(f"{i} {p.name.lower()} ({len(p.hits)})" for i, p in enumerate(found, 1))
        raise InputError(f"There is no proposal {wanted}. There are: {told}.")
    taken = found[wanted - 1]
    return edited(
        _none(context), touch.add_hits(context.document, taken.hits, f"{count(len(taken.hits), 'ghost')} added")
    )


@verb(
    "fill", "ghosts of a voice on all weak sixteenths, beneath the accents of another", example="fill snare under hat"
)
def _fill(
    context: EditContext,
    name: Annotated[str, OneVoice()],
    under: Annotated[tuple[str, ...], After("under", SomeVoices())] = (),
) -> Done:
    hits = filled(context.document.groove, name, under)
    if not hits:
        label = voice(name).label.lower()
        raise InputError(f"There is no weak sixteenth left on which a hand is free for the {label}.")
    return edited(_none(context), touch.add_hits(context.document, hits, f"{count(len(hits), 'ghost')} filled in"))


def _none(context: EditContext) -> EditContext:
    """Nothing chosen, so that only what is added will be."""
    return replace(context, chosen=frozenset())


@verb("thin", "takes away the ghosts that matter least", on_hits=True, example="thin 30% on snare")
def _thin(
    context: EditContext,
    percent: Annotated[Amount, Number("a percentage", ("%",), low=1, high=100, signed=False, name="PERCENT")] = Amount(
        30
    ),
) -> Done:
    chosen = context.hits or list(context.document.groove.pattern.hits)
    ghosts = tuple(h for h in chosen if h.role is Role.GHOST and not h.grace)
    if not ghosts:
        raise InputError("There is no ghost among the chosen hits.")
    gone = thinned(context.document.groove, ghosts, percent.value)
    words, document = edits.remove_hits(context.document, gone)
    return edited(context, (f"Thinned out: {words.lower()}", document))
