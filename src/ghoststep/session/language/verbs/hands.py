"""Verbs of hands and feet: the sticking line, mirrored hands, linear parts."""

from dataclasses import replace
from typing import Annotated

from ghoststep.judge.alternatives import alternatives
from ghoststep.judge.hands import Taste, sticking
from ghoststep.judge.kit_setup import WAYS
from ghoststep.judge.layers import LAYERS, Layer, layers, words_of
from ghoststep.judge.stretches import stretches
from ghoststep.music.errors import InputError
from ghoststep.music.kit import LIMB_LETTERS
from ghoststep.session.edits import time_edits
from ghoststep.session.edits import touch_edits as touch
from ghoststep.session.edits.rules import clashes
from ghoststep.session.language.edit_context import Done, EditContext, edited, settled
from ghoststep.session.language.kinds import Amount, Number, OneOf
from ghoststep.session.language.targets import begins_target, target
from ghoststep.session.language.verb import After, verb
from ghoststep.session.words import count


@verb(
    "sticking",
    "works out which limb plays what: the easiest way or another of the three best; given limbs stay where asked",
    example="sticking right-handed start left",
)
def _sticking(
    context: EditContext,
    way: Annotated[str, OneOf("way to play", WAYS)] = "right-handed",
    given: Annotated[str, OneOf("what becomes of limbs that are given", ("keep", "anew"))] = "anew",
    choice: Annotated[
        Amount | None, After("choice", Number("an alternative", low=1, high=3, whole=True, signed=False, name="1-3"))
    ] = None,
    start: Annotated[str | None, After("start", OneOf("hand", ("left", "right")))] = None,
) -> Done:
    groove = context.document.groove
    pattern, keep = groove.pattern, given == "keep"
    setup = context.document.judged.terms.setup
    about = ""
    if choice is not None:
        ways = alternatives(groove, way, setup=setup, keep=keep)
        if choice.value > len(ways):
            raise InputError(f"There are only {count(len(ways), 'way')} to stick this part.")
        found, about = ways[int(choice.value) - 1].limbs, f", {ways[int(choice.value) - 1].about}"
    else:
        taste = Taste(first={"left": "L", "right": "R"}.get(start or "", ""))
        found, about = (
            sticking(groove, way, setup=setup, taste=taste, keep=keep),
            f", starting {start}" if start else "",
        )
    moved = [i for i, x in found.items() if pattern.hits[i].limb_letter != x]
    if not moved:
        return f"Already played {way}{about}", context
    written = found if choice is not None or keep else {i: found[i] for i in moved}
    changed = {i: replace(pattern.hits[i], limb=x) for i, x in written.items() if pattern.hits[i].limb != x}
    new = pattern.with_hits(changed.keys(), changed.values())
    words = f"Sticking {way}{about}: {count(len(moved), 'hit')} to another limb"
    return settled(context, (words, context.document.with_groove(pattern=new)))


class _Letters:
    """Letters of limbs, with spaces where the user likes them."""

    usage = "RLRR..."

    def take(self, words: list[str], context: EditContext) -> tuple[object, list[str]]:
        taken = 0
        while taken < len(words) and set(words[taken].upper()) <= {*LIMB_LETTERS, "-"}:
            taken += 1
        letters = "".join(words[:taken]).upper()
        if not letters.strip("-"):
            raise InputError(f"'{' '.join(words)}' is no sticking: use R, L, K, H and - for what stays.")
        return letters, words[taken:]


@verb(
    "hands",
    "the sticking typed: a letter a moment (- leaves it), again and again",
    on_hits=True,
    example="hands RLRR LRLL on snare",
)
def _hands(context: EditContext, letters: Annotated[str, _Letters()]) -> Done:
    if not context.hits:
        raise InputError("Choose the hits that get this sticking first.")
    pattern = context.document.groove.pattern
    hands = [i for i in context.indices if not pattern.hits[i].grace]
    moments = sorted({pattern.hits[i].position_ticks for i in hands})
    letter_at = {t: letters[k % len(letters)] for k, t in enumerate(moments)}
    changed = {}
    for i in hands:
        letter = letter_at[pattern.hits[i].position_ticks]
        if letter != "-" and letter != pattern.hits[i].limb_letter:
            changed[i] = replace(pattern.hits[i], limb=letter)
    new = pattern.with_hits(changed.keys(), changed.values())
    return edited(context, (f"Sticking {letters}", context.document.with_groove(pattern=new)))


@verb("swap", "right hand for left and left for right", on_hits=True, example="swap on hat")
def _swap(context: EditContext) -> Done:
    return edited(context, touch.swap_hands(context.document, context.hits))


@verb("linear", "keeps the part linear: no two limbs together", example="linear on")
def _linear(context: EditContext, wanted: Annotated[str, OneOf("setting", ("on", "off", "toggle"))]) -> Done:
    on = not context.document.groove.pattern.rules.linear if wanted == "toggle" else wanted == "on"
    said, after = settled(context, time_edits.set_rule(context.document, linear=on))
    found = len(clashes(after.document.groove.pattern)) if on else 0
    return (f"{said}; {found} spots are not yet" if found else said), after


@verb("ring", "whether cymbals ring over the loop point or are choked there", example="ring choke")
def _ring(context: EditContext, wanted: Annotated[str, OneOf("setting", ("over", "choke", "toggle"))]) -> Done:
    over = not context.document.groove.pattern.rules.ring_over if wanted == "toggle" else wanted == "over"
    return settled(context, time_edits.set_rule(context.document, ring_over=over))


_TOLD = 6  # names of a layer that a sentence has room for; the check lists all of them


class _Those:
    """Words that name some hits, with or without "on" before them."""

    usage = "[on] TARGET"

    def take(self, words: list[str], context: EditContext) -> tuple[list[str], list[str]]:
        aim = words[1:] if words and words[0].lower() == "on" else words
        if not aim or not (begins_target(aim[0]) or aim[0][0].isdigit()):
            raise InputError(f"'{' '.join(words)}' names no hits.")
        return aim, []


@verb(
    "names",
    "which rudiments and figures are in the sticking, in layers; or what the hits of a target are called",
    example="names beats 2",
)
def _names(context: EditContext, those: Annotated[list[str] | None, _Those()] = None) -> Done:
    groove = context.document.groove
    if those is not None:
        found = target(context, those).indices
        if not found:
            raise InputError(f"No hit is '{' '.join(those)}' in this groove.")
        return _listed(stretches(groove, found), context) or "No stretch of two strokes or more among them", context
    rows = layers(groove)
    told = [f"{name}: {words}" for name in LAYERS if (words := _listed([x for x in rows if x.layer == name], context))]
    return "; ".join(told) or "No rudiment and no repeating cell in the sticking", context


def _listed(found: list[Layer], context: EditContext) -> str:
    pattern = context.document.groove.pattern
    more = f", and {len(found) - _TOLD} more" if len(found) > _TOLD else ""
    return ", ".join(words_of(x, pattern) for x in found[:_TOLD]) + more
