"""Verbs of touch: many velocities at once, accents, ghosts, levels and balance."""

from collections.abc import Callable
from dataclasses import replace

from ghoststep.craft.accents import accented
from ghoststep.craft.balance import BALANCES, balanced, current
from ghoststep.craft.ghosts import filled, proposals, thinned
from ghoststep.music.errors import InputError
from ghoststep.music.kit import voice, voices_of
from ghoststep.music.touch import Role
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.edits import touch_edits as touch
from ghoststep.session.language.arguments import choice, number, relative, whole
from ghoststep.session.language.language import Done, Stand, edited, settled, verb


def _amount(name: str, usage: str, about: str, change: Callable[..., edits.Edit], *, what: str) -> None:
    @verb(name, usage, about, on_hits=True)
    def _run(stand: Stand, words: list[str]) -> Done:
        return edited(stand, change(stand.document, stand.hits, number(words, what)))


_amount("scale", "PERCENT", "louder or softer by a share, roles kept in order", touch.scale, what="a percentage")
_amount("even", "PERCENT", "nearer to the middle of the same role (negative: further away)",
        lambda d, h, x: touch.compress(d, h, x / 100), what="a percentage")  # fmt: skip
_amount("tilt", "N", "softer first and louder last by so much", lambda d, h, x: touch.tilt(d, h, round(x)),
        what="a number of velocity steps")  # fmt: skip


@verb("crescendo", "FROM% TO%", "from one share of the velocities to another, roles kept", on_hits=True)
def _crescendo(stand: Stand, words: list[str]) -> Done:
    if len(words) != 2:
        raise InputError("A crescendo needs two percentages, for example: crescendo 70 115.")
    first, last = (number([w], "a percentage") for w in words)
    return edited(stand, touch.ramp(stand.document, stand.hits, first, last))


@verb("line", "FROM TO", "velocities on a straight line from the first hit to the last", on_hits=True)
def _line(stand: Stand, words: list[str]) -> Done:
    if len(words) != 2:
        raise InputError("A line needs two velocities, for example: line 40 110.")
    if not stand.hits:
        raise InputError("No hit is selected: click one, or choose a lane (Ctrl+L) or everything (Ctrl+A).")
    first, last = (whole([w], "a velocity") for w in words)
    a, b = stand.hits[0].position_ticks, stand.hits[-1].position_ticks
    return edited(stand, touch.line(stand.document, stand.hits, [(a, first), (max(b, a + 1), last)]))


@verb("level", "ROLE N [VOICE]", "the level of a role as a setting: its hits move together")
def _level(stand: Stand, words: list[str]) -> Done:
    if len(words) < 2:
        raise InputError("A level needs a role and a velocity, for example: level ghost 28 snare.")
    role = Role(choice([words[0].rstrip("s")], tuple(r.value for r in Role), "role"))
    voices = voices_of(words[2]) if len(words) > 2 else ()
    value = whole([words[1]], "a velocity")
    if relative([words[1]]):
        value += stand.document.groove.pattern.rules.level_of(voices[0] if voices else "snare", role)
    return settled(stand, touch.role_level(stand.document, role, value, voices))


@verb("balance", "|".join((*BALANCES, "next")), "which drum leads, for the whole groove")
def _balance(stand: Stand, words: list[str]) -> Done:
    wanted = choice(words, (*BALANCES, "next"), "balance")
    groove = stand.document.groove
    if wanted == "next":
        names = list(BALANCES)
        now = current(groove)
        wanted = names[(names.index(now) + 1) % len(names)] if now in names else names[0]
    feel = replace(groove.feel, balance_db=balanced(groove, wanted))
    return settled(stand, (f"Balance: {wanted}", stand.document.with_groove(feel=feel)))


@verb("accents", "SHAPE", "beat, off-beat, backbeat, groups, every 3: the others become normal", on_hits=True)
def _accents(stand: Stand, words: list[str]) -> Done:
    return _shaped(stand, " ".join(words), layer=False)


@verb("layer", "SHAPE", "accents laid over what is there: the others stay as they are", on_hits=True)
def _layer(stand: Stand, words: list[str]) -> Done:
    return _shaped(stand, " ".join(words), layer=True)


def _shaped(stand: Stand, shape: str, *, layer: bool) -> Done:
    pattern = stand.document.groove.pattern
    if not stand.hits:
        raise InputError("Choose the hits first, for example a lane (Ctrl+L), or say: accents beat on hat.")
    spots = accented(stand.hits, shape, pattern.meter)
    level = pattern.rules.level_of
    changed = {}
    for i in stand.chosen:
        h = pattern.hits[i]
        if h.grace or (layer and h.position_ticks not in spots):
            continue
        role = Role.ACCENT if h.position_ticks in spots else Role.GHOST if h.role is Role.GHOST else Role.NORMAL
        if role is not h.role:
            changed[i] = replace(h, role=role, velocity=level(h.voice, role))
    if not changed:
        return f"Accents already stand on {shape}", stand
    words = f"{len(spots)} accent{'s' if len(spots) != 1 else ''} ({shape})"
    new = pattern.with_hits(changed.keys(), changed.values())
    return edited(stand, (words, stand.document.with_groove(pattern=new)))


@verb("accents-to", "VOICE", "accents move to another voice, the rest stay as ghosts", on_hits=True)
def _accents_to(stand: Stand, words: list[str]) -> Done:
    name = voice("_".join(words).lower()).name
    pattern = stand.document.groove.pattern
    accents = [i for i in stand.chosen if pattern.hits[i].role is Role.ACCENT and not pattern.hits[i].grace]
    if not accents:
        raise InputError("There is no accent among the chosen hits.")
    changed = {}
    for i in stand.chosen:
        h = pattern.hits[i]
        if i in accents:
            if pattern.at(h.position_ticks, name) is None:
                changed[i] = edits.fitted(h, name)
        elif not h.grace and h.role is not Role.GHOST:
            changed[i] = replace(h, role=Role.GHOST, velocity=pattern.rules.level_of(h.voice, Role.GHOST))
    words_said = f"{len(accents)} accent{'s' if len(accents) != 1 else ''} to {voice(name).label.lower()}"
    new = pattern.with_hits(changed.keys(), changed.values())
    return edited(stand, (words_said, stand.document.with_groove(pattern=new)))


@verb("ghosts", "1|2|3 ...", "takes one of the proposals for ghost notes, 1 has the fewest")
def _ghosts(stand: Stand, words: list[str]) -> Done:
    found = proposals(stand.document.groove)
    if not found:
        raise InputError("No hand has the time for a ghost anywhere in this groove.")
    wanted = whole(words or ["1"], "a proposal")
    if not 1 <= wanted <= len(found):
        told = "; ".join(f"{i} {p.name.lower()} ({len(p.hits)})" for i, p in enumerate(found, 1))
        raise InputError(f"There is no proposal {wanted}. There are: {told}.")
    taken = found[wanted - 1]
    return edited(_none(stand), touch.add_hits(stand.document, taken.hits, f"{len(taken.hits)} ghosts added"))


@verb("fill", "VOICE [under VOICE]", "ghosts of a voice on all weak sixteenths, beneath the accents of another")
def _fill(stand: Stand, words: list[str]) -> Done:
    if not words or (len(words) > 1 and (words[1] != "under" or len(words) != 3)):
        raise InputError("Say what to fill, for example: fill snare under hat.")
    name = voice(words[0]).name
    hits = filled(stand.document.groove, name, words[2] if len(words) == 3 else "")
    if not hits:
        raise InputError(
            f"There is no weak sixteenth left on which a hand is free for the {voice(name).label.lower()}."
        )
    return edited(_none(stand), touch.add_hits(stand.document, hits, f"{len(hits)} ghosts filled in"))


def _none(stand: Stand) -> Stand:
    """Nothing chosen, so that only what is added will be."""
    return replace(stand, chosen=frozenset())


@verb("thin", "PERCENT", "takes away the ghosts that matter least", on_hits=True)
def _thin(stand: Stand, words: list[str]) -> Done:
    chosen = stand.hits or list(stand.document.groove.pattern.hits)
    ghosts = tuple(h for h in chosen if h.role is Role.GHOST and not h.grace)
    if not ghosts:
        raise InputError("There is no ghost among the chosen hits.")
    percent = number(words or ["30"], "a percentage")
    if not 0 < percent <= 100:
        raise InputError("Thin out by more than 0 and at most 100 %.")
    gone = thinned(stand.document.groove, ghosts, percent)
    words_said, document = edits.remove_hits(stand.document, gone)
    return edited(stand, (f"Thinned out: {words_said.lower()}", document))
