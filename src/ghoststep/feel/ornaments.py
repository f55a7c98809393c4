"""Ornaments spelled out: each becomes the strokes a drummer plays, so that sound, MIDI and checks need to know none.

Grace notes go ahead of their stroke by milliseconds, whatever the tempo; strokes of a roll are spread evenly in ticks.
"""

from dataclasses import replace

import numpy as np

from ghoststep.music.feel import Feel
from ghoststep.music.groove import Groove
from ghoststep.music.kit import OTHER_HAND, VOICE_INDEX
from ghoststep.music.ornaments import Ornament, ornament
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.time import TICKS_PER_QUARTER, step_ticks
from ghoststep.music.touch import Role

_GRACE_SHARE, _GRACE_LEAST, _GRACE_MOST = 0.4, 10, 50  # of the velocity of the stroke they lead to
_NEAREST_MS = 8.0  # a grace note that is nearer is no grace note
_SECOND_OF_A_DOUBLE = 0.88
_LANDING_LOUDER = 18
_THIRTY_SECOND = TICKS_PER_QUARTER // 8
# An open roll takes the even division of the quarter whose strokes come nearest to this distance (about 13 a second).
_OPEN_STROKE_S, _PRESS_STROKE_S = 0.075, 0.11
_DIVISIONS = (4, 6, 8, 12, 16)


def spelled_out(groove: Groove) -> Groove:
    """The same groove with every ornament written as strokes; the groove itself where it has none."""
    pattern = groove.pattern
    ornate = {i for i, h in enumerate(pattern.hits) if h.ornament}
    if not ornate:
        return groove
    new: list[Hit] = []
    for i in sorted(ornate):
        new += _strokes(pattern.hits[i], groove)
    return groove.changed(pattern=pattern.with_hits(ornate, new))


def _strokes(h: Hit, groove: Groove) -> list[Hit]:
    found = ornament(h.ornament)
    bare = replace(h, ornament="")
    if not found.rolls:
        return [*_graces(bare, found, groove.feel), bare]
    return _rolled(replace(bare, length_ticks=0), found, landing_ticks(h, groove.pattern), groove)


def _graces(h: Hit, found: Ornament, feel: Feel) -> list[Hit]:
    velocity = int(min(max(h.velocity * _GRACE_SHARE, _GRACE_LEAST), _GRACE_MOST))
    hand = OTHER_HAND.get(h.limb_letter, h.limb_letter)
    return [
        replace(h, velocity=velocity, role=Role.GHOST, limb=hand, offset_ms=h.offset_ms - lead, grace=True, origin=None)
        for lead in _leads_ms(h, found, feel)
    ]


def _leads_ms(h: Hit, found: Ornament, feel: Feel) -> list[float]:
    """How far ahead grace notes lie: as the ornament says or as the player does, and not twice the same."""
    spacing = feel.spacing
    wanted = spacing.flam_ms if len(found.leads_ms) == 1 else spacing.drag_ms
    times = wanted / found.leads_ms[0] if wanted else 1.0
    if spacing.spread_ms:
        dice = np.random.default_rng([feel.seed, feel.take, h.position_ticks, VOICE_INDEX[h.voice]])
        nearest = max(found.leads_ms[0] * times + spacing.spread_ms * float(dice.standard_normal()), _NEAREST_MS)
        times = nearest / found.leads_ms[0]
    return [lead * times for lead in found.leads_ms]


def landing_ticks(h: Hit, pattern: Pattern) -> int:
    """Where a roll lands (a double: where its step ends), as a position in the pattern."""
    found = ornament(h.ornament)
    if h.length_ticks:
        return h.position_ticks + h.length_ticks
    if found.name == "double":
        return h.position_ticks + step_ticks(pattern.grid_at(h.voice, h.position_ticks))
    if found.open_ended:
        return h.position_ticks + TICKS_PER_QUARTER
    return h.position_ticks + len(found.strokes) * _THIRTY_SECOND


def _count(found: Ornament, start: int, length: int, groove: Groove) -> int:
    """How many strokes a roll has before it lands."""
    if not found.open_ended:
        return len(found.strokes)
    quarter_s = groove.tempo.tick_seconds(start) * TICKS_PER_QUARTER
    wanted_s = _PRESS_STROKE_S if found.buzz else _OPEN_STROKE_S
    division = min(_DIVISIONS, key=lambda d: abs(quarter_s / d - wanted_s))
    pairs = max(1, round(length * division / TICKS_PER_QUARTER / 2))
    return 2 * pairs


def _rolled(h: Hit, found: Ornament, landing: int, groove: Groove) -> list[Hit]:
    length = landing - h.position_ticks
    count = _count(found, h.position_ticks, length, groove)
    mirrored = h.limb_letter == "L"
    out = []
    for i in range(count):
        hand = found.strokes[i % len(found.strokes)]
        second = i > 0 and hand == found.strokes[(i - 1) % len(found.strokes)]
        velocity = max(1, round(h.velocity * (_SECOND_OF_A_DOUBLE if second else 1.0)))
        stroke = "buzz" if found.buzz and h.voice == "snare" else h.stroke
        at = h.position_ticks + round(i * length / count)
        limb = OTHER_HAND[hand] if mirrored else hand
        origin = None if i else h.origin
        span = (h.position_ticks, landing)
        out.append(
            replace(h, position_ticks=at, velocity=velocity, stroke=stroke, limb=limb, origin=origin, within=span)
        )
    last = out[-1].limb
    out = [s for s in out if s.position_ticks < groove.pattern.length_ticks]
    return out if found.name == "double" else out + _landing(h, landing, last, groove.pattern)


def _landing(h: Hit, landing: int, last_limb: str, pattern: Pattern) -> list[Hit]:
    """The stroke a roll lands on, by the hand that did not strike last.

    Whatever stands on that spot already, of any voice, is the landing. A roll up to the end of the pattern lands on its
    first beat, where the loop comes round.
    """
    at = landing % pattern.length_ticks if landing <= pattern.length_ticks else landing
    if at >= pattern.length_ticks or any(not pattern.hits[i].grace for i in pattern.between(at, at + 1)):
        return []
    velocity = min(127, h.velocity + _LANDING_LOUDER)
    role = pattern.rules.role_of(h.voice, velocity)
    limb = OTHER_HAND.get(last_limb, last_limb)
    return [replace(h, position_ticks=at, velocity=velocity, role=role, limb=limb, origin=None)]
