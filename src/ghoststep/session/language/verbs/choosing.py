"""Verbs that choose hits, move the cursor, and find and replace."""

from dataclasses import replace

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, LANES, VOICE_INDEX, voice
from ghoststep.music.spots import parse_spot, spot_at
from ghoststep.music.touch import Role
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.language.language import Done, Stand, edited, verb
from ghoststep.session.language.targets import target


@verb("select", "TARGET", "chooses hits: snare ghosts bars 2-4, hat_open at & of 4, everything")
def _select(stand: Stand, words: list[str]) -> Done:
    chosen = target(stand, words)
    count = len(chosen)
    return f"{count} hit{'s' if count != 1 else ''} chosen", replace(stand, chosen=chosen)


@verb("go", "[VOICE] SPOT", "moves the cursor, and chooses what stands there")
def _go(stand: Stand, words: list[str]) -> Done:
    lane = stand.lane
    if words and words[0] in VOICE_INDEX:
        lane, words = LANE_OF_VOICE[words[0]], words[1:]
    pattern = stand.document.groove.pattern
    ticks = stand.cursor_ticks
    if words:
        spot = parse_spot(" ".join(words), pattern.meter, pattern.grid, bar=stand.bar)
        if spot.bar > pattern.bars:
            raise InputError(f"There is no bar {spot.bar}: this groove has {pattern.bars}.")
        ticks = spot.position_ticks(pattern.meter)
    here = pattern.between(ticks, ticks + 1)
    chosen = frozenset(i for i in here if pattern.hits[i].voice in LANES[lane].voices)
    found = spot_at(ticks, pattern.meter)
    return f"At bar {found.bar}", replace(stand, cursor_ticks=ticks, lane=lane, chosen=chosen)


@verb("replace", "TARGET with VOICE|ROLE|nothing", "finds hits and makes them something else")
def _replace(stand: Stand, words: list[str]) -> Done:
    if "with" not in words:
        raise InputError("Say what to replace by what, for example: replace hat_open at & of 4 with hat_closed.")
    at = words.index("with")
    named, wanted = words[:at], "_".join(words[at + 1 :]).lower()
    chosen = target(stand, named)
    if not chosen:
        raise InputError(f"No hit is '{' '.join(named)}' in this groove.")
    aim = replace(stand, chosen=chosen)
    count = f"{len(chosen)} hit{'s' if len(chosen) != 1 else ''} replaced"
    if wanted in ("nothing", "rest"):
        _, document = edits.remove_hits(stand.document, aim.hits)
        return edited(aim, (f"{count}: now rests", document))
    if wanted in tuple(r.value for r in Role):
        _, document = edits.set_role(stand.document, aim.hits, Role(wanted))
        return edited(aim, (f"{count}: now {wanted}", document))
    _, document = edits.set_voice(stand.document, aim.hits, voice(wanted).name)
    return edited(aim, (f"{count}: now {voice(wanted).label.lower()}", document))
