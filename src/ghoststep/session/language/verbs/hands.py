"""Verbs of hands and feet: the sticking line, mirrored hands, linear parts."""

from dataclasses import replace

from ghoststep.craft.rudiments import named
from ghoststep.craft.sticking import WAYS, line, sticking
from ghoststep.music.errors import InputError
from ghoststep.music.kit import LIMB_LETTERS
from ghoststep.session.edits import time_edits
from ghoststep.session.edits import touch_edits as touch
from ghoststep.session.edits.rules import clashes
from ghoststep.session.language.arguments import choice
from ghoststep.session.language.language import Done, Stand, edited, settled, verb


@verb("sticking", "|".join(WAYS), "works out which limb plays what")
def _sticking(stand: Stand, words: list[str]) -> Done:
    way = choice(words or ["right-handed"], WAYS, "way to play")
    pattern = stand.document.groove.pattern
    found = sticking(stand.document.groove, way)
    changed = {i: replace(pattern.hits[i], limb=x) for i, x in found.items() if pattern.hits[i].limb_letter != x}
    if not changed:
        return f"Already played {way}", stand
    new = pattern.with_hits(changed.keys(), changed.values())
    count = f"{len(changed)} hit{'s' if len(changed) != 1 else ''}"
    return settled(stand, (f"Sticking {way}: {count} to another limb", stand.document.with_groove(pattern=new)))


@verb("hands", "RLRR...", "the sticking typed: a letter a moment (- leaves it), again and again", on_hits=True)
def _hands(stand: Stand, words: list[str]) -> Done:
    letters = "".join(words).upper()
    wrong = sorted(set(letters) - set(LIMB_LETTERS) - {"-"})
    if wrong or not letters.strip("-"):
        raise InputError(f"'{''.join(words)}' is no sticking: use R, L, K, H and - for what stays.")
    if not stand.hits:
        raise InputError("Choose the hits that get this sticking first.")
    pattern = stand.document.groove.pattern
    hands = [i for i in sorted(stand.chosen) if not pattern.hits[i].grace]
    moments = sorted({pattern.hits[i].position_ticks for i in hands})
    letter_at = {t: letters[k % len(letters)] for k, t in enumerate(moments)}
    changed = {}
    for i in hands:
        letter = letter_at[pattern.hits[i].position_ticks]
        if letter != "-" and letter != pattern.hits[i].limb_letter:
            changed[i] = replace(pattern.hits[i], limb=letter)
    new = pattern.with_hits(changed.keys(), changed.values())
    return edited(stand, (f"Sticking {letters}", stand.document.with_groove(pattern=new)))


@verb("swap", "", "right hand for left and left for right", on_hits=True)
def _swap(stand: Stand, _words: list[str]) -> Done:
    return edited(stand, touch.swap_hands(stand.document, stand.hits))


@verb("linear", "on|off|toggle", "keeps the part linear: no two limbs together")
def _linear(stand: Stand, words: list[str]) -> Done:
    wanted = choice(words, ("on", "off", "toggle"), "setting")
    on = not stand.document.groove.pattern.rules.linear if wanted == "toggle" else wanted == "on"
    said, after = settled(stand, time_edits.set_rule(stand.document, linear=on))
    found = len(clashes(after.document.groove.pattern)) if on else 0
    return (f"{said}; {found} spots are not yet" if found else said), after


@verb("ring", "over|choke|toggle", "whether cymbals ring over the loop point or are choked there")
def _ring(stand: Stand, words: list[str]) -> Done:
    wanted = choice(words, ("over", "choke", "toggle"), "setting")
    over = not stand.document.groove.pattern.rules.ring_over if wanted == "toggle" else wanted == "over"
    return settled(stand, time_edits.set_rule(stand.document, ring_over=over))


@verb("names", "", "says which rudiments and repeating cells are in the sticking")
def _names(stand: Stand, _words: list[str]) -> Done:
    pattern = stand.document.groove.pattern
    found = named(line(stand.document.groove))
    if not found:
        return "No rudiment and no repeating cell in the sticking", stand
    bar = pattern.meter.bar_ticks
    return "; ".join(f"bar {n.start_ticks // bar + 1}: {n.words}" for n in found), stand
