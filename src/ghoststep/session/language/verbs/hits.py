"""Verbs that place, remove and change hits one by one."""

import re
from dataclasses import replace
from typing import Annotated

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, LANES, LIMB_LETTERS, STROKE_NAMES, voice
from ghoststep.music.ornaments import ORNAMENT_INDEX
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.spots import parse_spot
from ghoststep.music.touch import Role
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.edits import stroke_edits as strokes
from ghoststep.session.edits import touch_edits as touch
from ghoststep.session.language.edit_context import Done, EditContext, edited
from ghoststep.session.language.kinds import Amount, Length, Number, OneOf, OneVoice, SomeBars, SomeVoices, Text
from ghoststep.session.language.spot_words import Spots, spots_in
from ghoststep.session.language.targets import target
from ghoststep.session.language.verb import After, verb
from ghoststep.session.words import count

ROLE_WORDS = (*(r.value for r in Role), "hardest", "up", "down")
_ROLES = OneOf("role", tuple(r.value for r in Role))
VELOCITY = Number("a velocity", low=1, high=127, whole=True)
MS = Number("a time in ms", ("ms",), low=-2000, high=2000, name="MS")


class Where:
    """Spots, or "every crash": the places where other hits stand."""

    usage = "SPOT"

    def take(self, words: list[str], context: EditContext) -> tuple[object, list[str]]:
        spots, rest = spots_in(words)
        if spots is None:
            raise InputError(f"'{' '.join(words)}' names no spot: write it like 2a, the & of 3, 2.75 or step 8.")
        return spots, rest


class _Target:
    usage = "TARGET"

    def take(self, words: list[str], context: EditContext) -> tuple[object, list[str]]:
        return target(context, words).hits, []


class _Between:
    """Two spots: "step 12 and 13"."""

    usage = "SPOT and SPOT"

    def take(self, words: list[str], context: EditContext) -> tuple[object, list[str]]:
        if "and" not in words:
            raise InputError("Between which two spots? For example: between step 12 and 13.")
        at = words.index("and")
        first, second = words[:at], words[at + 1 :]
        if first[:1] == ["step"] and second and second[0].isdecimal():
            second = ["step", *second]
        a, _ = spots_in(first)
        b, rest = spots_in(second)
        if a is None or b is None or len(a.names) != 1 or len(b.names) != 1:
            raise InputError("Between which two spots? For example: between step 12 and 13.")
        return (a, b), rest


class _Goal:
    """A spot by any of its names; bars behind it belong to the hits that are meant."""

    usage = "SPOT"

    def take(self, words: list[str], context: EditContext) -> tuple[object, list[str]]:
        cut = next((k for k, w in enumerate(words) if k and w.lower() in ("bar", "bars")), len(words))
        return " ".join(words[:cut]), words[cut:]


def _spot_ticks(words: str, pattern: Pattern, bar: int, voice_name: str) -> int:
    grid = pattern.grid_at(voice_name, pattern.frame.start_of(bar))
    spot = parse_spot(words, pattern.frame, grid, bar=bar)
    if spot.bar > pattern.bars:
        raise InputError(f"There is no bar {spot.bar}: this groove has {pattern.bars}.")
    return pattern.frame.ticks_of(spot)


def places(context: EditContext, name: str, at: Spots, bars: set[int] | None) -> list[int]:
    """The positions meant, in ticks: in the bar that is named, in the given bars, else in every bar that has them.

    Raises
    ------
    InputError
        Where a bar that was named has no such spot, or none of them has.
    """
    pattern = context.document.groove.pattern
    named = {at.bar} if at.bar is not None else bars
    out: list[int] = []
    trouble: InputError | None = None
    for bar in sorted(named or range(1, pattern.bars + 1)):
        if not 1 <= bar <= pattern.bars:
            raise InputError(f"There is no bar {bar}: this groove has {pattern.bars}.")
        start = pattern.frame.start_of(bar)
        try:
            out += [start + t for t in sorted(at.ticks_in(bar, pattern.frame, pattern.grid_at(name, start)))]
        except InputError as error:
            trouble = error
            if named:
                raise
    if not out and trouble is not None:
        raise trouble
    return out


@verb(
    "place",
    "new hits, at the cursor unless a voice and spots are named",
    example="place snare 4a bars 2-4",
    also=("put", "add"),
)
def _place(
    context: EditContext,
    voice: Annotated[str | None, OneVoice()] = None,
    at: Annotated[Spots | None, Where()] = None,
    role: Annotated[str, After("as", _ROLES)] = "normal",
    bars: Annotated[set[int] | None, After("bars", SomeBars())] = None,
    between: Annotated[tuple[Spots, Spots] | None, After("between", _Between())] = None,
    under: Annotated[list[Hit] | None, After("under", _Target())] = None,
) -> Done:
    name = voice or context.voice
    if (under is not None and between is not None) or (between is not None and at is not None):
        raise InputError("'between', 'under' and a spot each say where: give one of them. Spots narrow 'under'.")
    if under is not None:
        ticks = _under(context, under, at, bars)
    elif between is not None:
        named = between[0].bar or between[1].bar
        if named is not None and bars:
            raise InputError("The bar is said twice: name it with the spots, or with 'bars', and not with both.")
        ticks = _middles(context, name, between, {named} if named is not None else bars)
    elif at is not None:
        ticks = places(context, name, at, bars)
    else:
        ticks = [context.cursor_ticks]
        if bars:
            tick = context.document.groove.pattern.frame.spot_at(context.cursor_ticks).tick
            ticks = [context.document.groove.pattern.frame.start_of(b) + tick for b in sorted(bars)]
    edit = edits.place_hits(context.document, ticks, name, Role(role))
    said, after = edited(replace(context, chosen=frozenset()), edit)
    return said, replace(after, cursor_ticks=ticks[0], lane=LANE_OF_VOICE[name])


def _middles(context: EditContext, name: str, between: tuple[Spots, Spots], bars: set[int] | None) -> list[int]:
    """The middles between two spots, in the bars that are named, else in every bar that has both."""
    out: list[int] = []
    trouble: InputError | None = None
    for bar in sorted(bars or range(1, context.document.groove.pattern.bars + 1)):
        try:
            (a,), (b,) = (places(context, name, replace(s, bar=bar), None) for s in between)
        except InputError as error:
            trouble = error
            if bars:
                raise
        else:
            out.append((a + b) // 2)
    if not out and trouble is not None:
        raise trouble
    return out


def _under(context: EditContext, hits: list[Hit], at: Spots | None, bars: set[int] | None) -> list[int]:
    """Where hits stand, in the bars and on the spots that are named; an InputError where none does."""
    pattern = context.document.groove.pattern
    frame = pattern.frame
    wanted = [
        h.position_ticks
        for h in hits
        if (bars is None or frame.spot_at(h.position_ticks).bar in bars)
        and (at is None or at.fits(h, frame, pattern.grid_at(h.voice, h.position_ticks)))
    ]
    if not wanted:
        raise InputError("None of the hits that are named stands there.")
    return sorted(set(wanted))


@verb("remove", "takes hits away", on_hits=True, example="remove kick at 2&")
def _remove(context: EditContext) -> Done:
    return edited(context, edits.remove_hits(context.document, context.hits))


@verb("toggle", "places a hit at the cursor, or removes what is chosen there")
def _toggle(context: EditContext, role: Annotated[str, After("as", _ROLES)] = "normal") -> Done:
    if context.hits:
        return _remove(context)
    here = context.document.groove.pattern.at(context.cursor_ticks, context.voice)
    return _remove(context.choosing([here])) if here is not None else _place(context, role=role)


@verb(
    "role", "ghost, normal, accent or hardest; up or down a step", on_hits=True, example="role accent on snare at 2, 4"
)
def _role(context: EditContext, role: Annotated[str, OneOf("role", ROLE_WORDS)]) -> Done:
    if role in ("up", "down"):
        return edited(context, touch.step_role(context.document, context.hits, 1 if role == "up" else -1))
    if role == "hardest":
        return edited(context, touch.hardest(context.document, context.hits))
    return edited(context, edits.set_role(context.document, context.hits, Role(role)))


@verb("as", "gives the chosen hits a role, or places a hit of it at the cursor", example="as ghost")
def _as(context: EditContext, role: Annotated[str, _ROLES]) -> Done:
    return _role(context, role) if context.hits else _place(context, role=role)


@verb(
    "velocity",
    "sets the velocity (1 to 127), or changes it by so much",
    on_hits=True,
    example="velocity +4 on snare ghosts",
)
def _velocity(context: EditContext, value: Annotated[Amount, VELOCITY]) -> Done:
    if value.relative:
        return edited(context, edits.change_velocity(context.document, context.hits, int(value.value)))
    return edited(context, edits.set_velocity(context.document, context.hits, int(value.value)))


class _Nudge:
    """A time in ms, or a note length."""

    usage = "MS|LENGTH"

    def take(self, words: list[str], context: EditContext) -> tuple[object, list[str]]:
        length = bool(words) and ("/" in words[0] or (len(words) > 1 and re.match(r"steps?|bars?|beats?", words[1])))
        return (Length() if length else MS).take(words, context)


@verb(
    "nudge",
    "earlier (-) or later by ms, or by a note length such as 1/64",
    on_hits=True,
    example="nudge -3 ms on hat at every &",
)
def _nudge(context: EditContext, by: Annotated[Amount | int, _Nudge()]) -> Done:
    if isinstance(by, Amount):
        return edited(context, edits.nudge(context.document, context.hits, by.value))
    return _moved(context, by)


@verb(
    "offset", "the hit's own deviation in ms, late positive; 0 is on its spot", on_hits=True, example="offset 0 on kick"
)
def _offset(context: EditContext, ms: Annotated[Amount, MS]) -> Done:
    return edited(context, edits.set_offset(context.document, context.hits, ms.value))


@verb(
    "move",
    "to other spots: by a length (1/64, -2 steps, 1 bar), or to a spot of the same bar",
    on_hits=True,
    example="move kick 2 to 1&",
)
def _move(
    context: EditContext,
    by: Annotated[int | None, Length()] = None,
    to: Annotated[str | None, After("to", _Goal())] = None,
) -> Done:
    if to is not None:
        return _to(context, to)
    if by is None:
        raise InputError("Move by how much, or where to? For example: move kick 2 to 1&, or move +1 step.")
    return _moved(context, by)


def _moved(context: EditContext, ticks: int) -> Done:
    said, after = edited(context, edits.move_hits(context.document, context.hits, ticks))
    cursor = context.cursor_ticks + ticks
    return said, replace(after, cursor_ticks=cursor) if context.chosen else after


@verb("to", "moves the chosen hits to a spot of their bar under any of its names", on_hits=True, example="to 2a")
def _to(context: EditContext, spot: Annotated[str, Text("SPOT|N ticks|N ms")]) -> Done:
    pattern = context.document.groove.pattern
    if not context.hits:
        raise InputError(edits.NOTHING_CHOSEN)
    first = context.hits[0].position_ticks
    exact = re.fullmatch(r"(\d{1,9}(?:\.\d{1,9})?)\s*(ticks|ms)", spot)
    if exact:
        ticks = float(exact[1])
        if exact[2] == "ms":
            ticks = float(context.document.groove.tempo.to_ticks(ticks / 1000))
        return _moved(context, round(ticks) - first)
    frame = pattern.frame
    goals = {h.key: _spot_ticks(spot, pattern, frame.spot_at(h.position_ticks).bar, h.voice) for h in context.hits}
    said, after = edited(context, edits.move_each(context.document, context.hits, goals))
    return said, replace(after, cursor_ticks=goals[context.hits[0].key])


@verb("voice", "another voice for the same strokes", on_hits=True, example="voice cross_stick on snare")
def _voice(context: EditContext, name: Annotated[str, OneVoice()]) -> Done:
    said, after = edited(context, edits.set_voice(context.document, context.hits, name))
    return said, replace(after, lane=LANE_OF_VOICE[name])


@verb("next-voice", "the next voice of the same lane: closed, half-open, open hat", on_hits=True)
def _next_voice(context: EditContext) -> Done:
    if not context.hits:
        raise InputError(edits.NOTHING_CHOSEN)
    names = LANES[LANE_OF_VOICE[context.hits[0].voice]].voices
    if len(names) == 1:
        raise InputError(f"The lane {voice(names[0]).label} has one voice only.")
    return _voice(context, names[(names.index(context.hits[0].voice) + 1) % len(names)])


@verb("limb", "right hand, left hand, right foot, left foot", on_hits=True, example="limb l on snare ghosts")
def _limb(context: EditContext, letter: Annotated[str, OneOf("limb", tuple(x.lower() for x in LIMB_LETTERS))]) -> Done:
    return edited(context, edits.set_limb(context.document, context.hits, letter.upper()))


@verb("stroke", "how it is struck, where the voice has it", on_hits=True, example="stroke rim on snare accents")
def _stroke(context: EditContext, name: Annotated[str, OneOf("stroke", (*STROKE_NAMES, "next"))]) -> Done:
    if name == "next":
        return edited(context, strokes.next_stroke(context.document, context.hits))
    return edited(context, strokes.set_stroke(context.document, context.hits, name))


@verb("ornament", "what is struck around it", on_hits=True, example="ornament flam on snare at 4")
def _ornament(context: EditContext, name: Annotated[str, OneOf("ornament", (*ORNAMENT_INDEX, "none"))]) -> Done:
    return edited(context, strokes.set_ornament(context.document, context.hits, "" if name == "none" else name))


class _Lasting:
    """A length, a change of it, or "ring"."""

    usage = "LENGTH|ring"

    def take(self, words: list[str], context: EditContext) -> tuple[object, list[str]]:
        if words and words[0].lower() == "ring":
            return (0, False), words[1:]
        ticks, rest = Length().take(words, context)
        return (ticks, words[0][:1] in "+-"), rest


@verb(
    "length",
    "when an open hat closes, a cymbal is choked, a roll lands",
    on_hits=True,
    example="length 1/8 on hat_open",
)
def _length(context: EditContext, of: Annotated[tuple[int, bool], _Lasting()]) -> Done:
    ticks, relative = of
    if relative and context.hits:
        ticks = max(context.hits[0].length_ticks + ticks, 0)
    return edited(context, strokes.set_length(context.document, context.hits, ticks))


@verb("choke", "what rings of a voice is stopped at a spot", example="choke crash at 3")
def _choke(
    context: EditContext,
    voices: Annotated[tuple[str, ...], SomeVoices()],
    at: Annotated[Spots, After("at", Where())],
    bars: Annotated[set[int] | None, After("bars", SomeBars())] = None,
) -> Done:
    return _ended(context, voices, at, bars)


@verb("close", "the open hat is closed by the foot at a spot", example="close hat at 1&")
def _close(
    context: EditContext,
    *,
    voices: Annotated[tuple[str, ...], SomeVoices()] = ("hat_open", "hat_half"),
    at: Annotated[Spots, After("at", Where())],
    bars: Annotated[set[int] | None, After("bars", SomeBars())] = None,
) -> Done:
    return _ended(context, tuple(v for v in voices if v in ("hat_open", "hat_half")), at, bars)


def _ended(context: EditContext, voices: tuple[str, ...], at: Spots, bars: set[int] | None) -> Done:
    """Each hit that rings at a spot ends there; in all bars where none is named."""
    pattern = context.document.groove.pattern
    if not voices:
        raise InputError("Only an open or half-open hat can be closed.")
    every = bars or ({at.bar} if at.bar is not None else set(range(1, pattern.bars + 1)))
    ends = sorted(t for bar in every for t in places(context, voices[0], replace(at, bar=None), {bar}))
    wanted: dict[int, int] = {}
    for end in ends:
        ringing = [i for i in pattern.between(0, end) if pattern.hits[i].voice in voices and not pattern.hits[i].grace]
        last = pattern.hits[ringing[-1]] if ringing else None
        before = pattern.length_ticks if bars is None and at.bar is None else 0
        if last is not None and (end - last.position_ticks <= 2 * pattern.frame.length_of(1) or not before):
            wanted.setdefault(last.key, end - last.position_ticks)  # once it is choked it rings no more
    if not wanted:
        names = ", ".join(voice(v).label.lower() for v in voices)
        raise InputError(f"Nothing of {names} rings before that spot.")
    document = context.document
    for i in pattern.indices_of_keys(wanted.keys()):
        h = pattern.hits[i]
        _, document = strokes.set_length(document, [h], wanted[h.key])
    label = voice(voices[0]).label
    words = f"{label}: {count(len(wanted), 'hit')} {'closed' if 'hat_open' in voices else 'choked'} there"
    return edited(replace(context, chosen=frozenset(wanted)), (words, document))
