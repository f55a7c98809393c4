"""Verbs that place, remove and change hits one by one."""

import re
from dataclasses import replace

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, LIMB_LETTERS, STROKE_NAMES, VOICE_INDEX, voice
from ghoststep.music.ornaments import ORNAMENT_INDEX
from ghoststep.music.spots import parse_spot
from ghoststep.music.time import step_ticks
from ghoststep.music.touch import Role
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.edits import stroke_edits as strokes
from ghoststep.session.edits import touch_edits as touch
from ghoststep.session.language.arguments import choice, number, relative, ticks_of, whole
from ghoststep.session.language.language import Done, Stand, edited, verb

ROLE_WORDS = (*(r.value for r in Role), "hardest", "up", "down")


def step_here(stand: Stand) -> int:
    """Ticks of a step at the cursor's lane and position."""
    pattern = stand.document.groove.pattern
    return step_ticks(pattern.grid_at(stand.voice, stand.cursor_ticks))


@verb("place", "[VOICE] [SPOT] [as ROLE]", "a new hit, at the cursor unless a voice and spot are named")
def _place(stand: Stand, words: list[str]) -> Done:
    role = Role.NORMAL
    if "as" in words:
        at = words.index("as")
        role = Role(choice(words[at + 1 :], tuple(r.value for r in Role), "role"))
        words = words[:at]
    name, ticks = stand.voice, stand.cursor_ticks
    pattern = stand.document.groove.pattern
    if words and words[0] in VOICE_INDEX:
        name, words = words[0], words[1:]
    if words:
        ticks = parse_spot(" ".join(words), pattern.meter, pattern.grid, bar=stand.bar).position_ticks(pattern.meter)
    if ticks >= pattern.length_ticks:
        raise InputError(f"There is no bar {ticks // pattern.meter.bar_ticks + 1}: this groove has {pattern.bars}.")
    said, after = edited(replace(stand, chosen=frozenset()), edits.place_hit(stand.document, ticks, name, role))
    return said, replace(after, cursor_ticks=ticks, lane=LANE_OF_VOICE[name])


@verb("remove", "", "takes hits away", on_hits=True)
def _remove(stand: Stand, _words: list[str]) -> Done:
    return edited(stand, edits.remove_hits(stand.document, stand.hits))


@verb("toggle", "[as ROLE]", "places a hit at the cursor, or removes what is chosen there")
def _toggle(stand: Stand, words: list[str]) -> Done:
    return _remove(stand, []) if stand.hits else _place(stand, words)


@verb("role", "|".join(ROLE_WORDS), "ghost, normal, accent or hardest; up or down a step", on_hits=True)
def _role(stand: Stand, words: list[str]) -> Done:
    wanted = choice(words, ROLE_WORDS, "role")
    if wanted in ("up", "down"):
        return edited(stand, touch.step_role(stand.document, stand.hits, 1 if wanted == "up" else -1))
    if wanted == "hardest":
        return edited(stand, touch.hardest(stand.document, stand.hits))
    return edited(stand, edits.set_role(stand.document, stand.hits, Role(wanted)))


@verb("as", "ghost|normal|accent", "gives the chosen hits a role, or places a hit of it at the cursor")
def _as(stand: Stand, words: list[str]) -> Done:
    return _role(stand, words) if stand.hits else _place(stand, ["as", *words])


@verb("velocity", "N|+N|-N", "sets the velocity (1 to 127), or changes it by so much", on_hits=True)
def _velocity(stand: Stand, words: list[str]) -> Done:
    value = whole(words, "a velocity")
    if relative(words):
        return edited(stand, edits.change_velocity(stand.document, stand.hits, value))
    if not 1 <= value <= 127:
        raise InputError(f"A velocity of {value} is outside 1 to 127.")
    return edited(stand, edits.set_velocity(stand.document, stand.hits, value))


@verb("nudge", "MS|LENGTH", "earlier (-) or later by ms, or by a note length such as 1/64", on_hits=True)
def _nudge(stand: Stand, words: list[str]) -> Done:
    if "/" in "".join(words):
        ticks = ticks_of(words, stand.document.groove.pattern, step_here(stand))
        return _moved(stand, ticks)
    return edited(stand, edits.nudge(stand.document, stand.hits, number(words, "a time in ms")))


@verb("offset", "MS", "the hit's own deviation in ms, late positive; 0 is on its spot", on_hits=True)
def _offset(stand: Stand, words: list[str]) -> Done:
    return edited(stand, edits.set_offset(stand.document, stand.hits, number(words, "a time in ms")))


@verb("move", "LENGTH", "to other spots: 1/64, -2 steps, 1 bar", on_hits=True)
def _move(stand: Stand, words: list[str]) -> Done:
    return _moved(stand, ticks_of(words, stand.document.groove.pattern, step_here(stand)))


def _moved(stand: Stand, ticks: int) -> Done:
    said, after = edited(stand, edits.move_hits(stand.document, stand.hits, ticks))
    cursor = stand.cursor_ticks + ticks
    return said, replace(after, cursor_ticks=cursor) if stand.chosen else after


@verb("to", "SPOT|N ticks|N ms", "moves the chosen hit to a spot under any of its names", on_hits=True)
def _to(stand: Stand, words: list[str]) -> Done:
    pattern = stand.document.groove.pattern
    if not stand.hits:
        raise InputError("No hit is selected: click one, or move to one with the arrow keys.")
    first = stand.hits[0].position_ticks
    bar = first // pattern.meter.bar_ticks + 1
    exact = re.fullmatch(r"(\d+(?:\.\d+)?)\s*(ticks|ms)", " ".join(words))
    if exact:
        ticks = float(exact[1])
        if exact[2] == "ms":
            ticks = float(stand.document.groove.tempo.to_ticks(ticks / 1000))
        return _moved(stand, round(ticks) - first)
    spot = parse_spot(" ".join(words), pattern.meter, pattern.grid, bar=bar)
    return _moved(stand, spot.position_ticks(pattern.meter) - first)


@verb("voice", "VOICE", "another voice for the same strokes", on_hits=True)
def _voice(stand: Stand, words: list[str]) -> Done:
    name = voice("_".join(words).lower()).name
    said, after = edited(stand, edits.set_voice(stand.document, stand.hits, name))
    return said, replace(after, lane=LANE_OF_VOICE[name])


@verb("next-voice", "", "the next voice of the same lane: closed, half-open, open hat", on_hits=True)
def _next_voice(stand: Stand, _words: list[str]) -> Done:
    from ghoststep.music.kit import LANES

    if not stand.hits:
        raise InputError("No hit is selected: click one, or move to one with the arrow keys.")
    names = LANES[LANE_OF_VOICE[stand.hits[0].voice]].voices
    if len(names) == 1:
        raise InputError(f"The lane {voice(names[0]).label} has one voice only.")
    return _voice(stand, [names[(names.index(stand.hits[0].voice) + 1) % len(names)]])


@verb("limb", "|".join(LIMB_LETTERS), "right hand, left hand, right foot, left foot", on_hits=True)
def _limb(stand: Stand, words: list[str]) -> Done:
    letter = choice(words, tuple(x.lower() for x in LIMB_LETTERS), "limb").upper()
    return edited(stand, edits.set_limb(stand.document, stand.hits, letter))


@verb("stroke", "|".join((*STROKE_NAMES, "next")), "how it is struck, where the voice has it", on_hits=True)
def _stroke(stand: Stand, words: list[str]) -> Done:
    wanted = choice(words, (*STROKE_NAMES, "next"), "stroke")
    if wanted == "next":
        return edited(stand, strokes.next_stroke(stand.document, stand.hits))
    return edited(stand, strokes.set_stroke(stand.document, stand.hits, wanted))


@verb("ornament", "|".join((*ORNAMENT_INDEX, "none")), "what is struck around it", on_hits=True)
def _ornament(stand: Stand, words: list[str]) -> Done:
    wanted = choice(words, (*ORNAMENT_INDEX, "none"), "ornament")
    name = "" if wanted == "none" else wanted
    return edited(stand, strokes.set_ornament(stand.document, stand.hits, name))


@verb("length", "LENGTH|ring", "when an open hat closes, a cymbal is choked, a roll lands", on_hits=True)
def _length(stand: Stand, words: list[str]) -> Done:
    if words == ["ring"]:
        return edited(stand, strokes.set_length(stand.document, stand.hits, 0))
    ticks = ticks_of(words, stand.document.groove.pattern, step_here(stand))
    if relative(words) and stand.hits:
        ticks = max(stand.hits[0].length_ticks + ticks, 0)
    return edited(stand, strokes.set_length(stand.document, stand.hits, ticks))
