"""Touch of many hits at once: louder and softer with the roles kept in order, lines, crescendos, hands and bars.

A role is more than a number: whatever is scaled, ghosts stay below normals and normals below accents. Each role keeps
its band of velocities, between the levels its voice is set to (see `music.rules.Rules`).
"""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, LANES, OTHER_HAND, VOICE_NAMES, voice
from ghoststep.music.pattern import Hit
from ghoststep.music.rules import Rules
from ghoststep.music.time import step_ticks
from ghoststep.music.touch import ROLE_VELOCITY, Role
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import NOTHING_CHOSEN, Edit, each, named, roles_after
from ghoststep.session.words import count

HARDEST = 124  # the loudest strokes lie above the accents


def _in_band(h: Hit, velocity: float, rules: Rules) -> int:
    """The nearest velocity that the hit's role may have in its voice."""
    low, high = rules.band_of(h.voice, h.role)
    return min(max(round(velocity), low), high)


def _touched(document: Document, hits: Sequence[Hit], velocity: Callable[[Hit], float], words: str) -> Edit:
    """Other velocities for some hits, each within its role."""
    pattern = document.groove.pattern
    found = sorted(pattern.indices_of(hits))
    if not found:
        raise InputError(NOTHING_CHOSEN)
    changed = {}
    stopped: list[Hit] = []
    for i in found:
        h = pattern.hits[i]
        wanted = velocity(h)
        new = _in_band(h, wanted, pattern.rules)
        if new != min(max(round(wanted), 1), 127):
            stopped.append(h.struck(new, h.role))
        if new != h.velocity:
            changed[i] = h.struck(new, h.role)
    told = f"{words}{_stopped(stopped, len(found))}"
    if not changed:
        return told, document
    new_pattern = pattern.with_hits(changed.keys(), changed.values())
    return f"{count(len(found), 'hit')}: {told}", document.with_groove(pattern=new_pattern)


def _stopped(hits: Sequence[Hit], of: int) -> str:
    """Words on hits that stopped where their role ends: "; 4 of them only to where their role ends (accents at 96)"."""
    if not hits:
        return ""
    limits = sorted({(h.role.value, h.velocity) for h in hits}, key=lambda x: -x[1])
    told = ", ".join(f"{role}s at {velocity}" for role, velocity in limits[:4])
    which = "all" if len(hits) == of else f"{len(hits)} of them"
    return f"; {which} only to where their role ends ({told}{' …' if len(limits) > 4 else ''})"


def scale(document: Document, hits: Sequence[Hit], percent: float) -> Edit:
    """Louder or softer by a share of the velocity."""
    return _touched(document, hits, lambda h: h.velocity * percent / 100, f"{percent:.0f} % as hard")


def compress(document: Document, hits: Sequence[Hit], share: float) -> Edit:
    """Nearer to the middle of the same role and voice by a share (0 to 1); further away where it is negative."""
    groups: dict[tuple[str, Role], list[int]] = {}
    for h in hits:
        groups.setdefault((h.voice, h.role), []).append(h.velocity)
    middle = {key: sum(v) / len(v) for key, v in groups.items()}

    def velocity(h: Hit) -> float:
        centre = middle[h.voice, h.role]
        return centre + (h.velocity - centre) * (1 - share)

    return _touched(document, hits, velocity, "more even" if share > 0 else "less even")


def ramp(document: Document, hits: Sequence[Hit], start_percent: float, end_percent: float) -> Edit:
    """A crescendo or diminuendo: from one share of the velocities at the first hit to another at the last."""
    at = [h.position_ticks for h in hits]
    low, span = min(at, default=0), max(max(at, default=0) - min(at, default=0), 1)

    def velocity(h: Hit) -> float:
        share = (h.position_ticks - low) / span
        return h.velocity * (start_percent + (end_percent - start_percent) * share) / 100

    words = "crescendo" if end_percent > start_percent else "diminuendo"
    return _touched(document, hits, velocity, f"{words} {start_percent:.0f} to {end_percent:.0f} %")


def tilt(document: Document, hits: Sequence[Hit], by: int) -> Edit:
    """Softer at the start and louder at the end by so many steps, the middle kept; negative the other way."""
    at = [h.position_ticks for h in hits]
    low, span = min(at, default=0), max(max(at, default=0) - min(at, default=0), 1)

    def velocity(h: Hit) -> float:
        return h.velocity + by * (2 * (h.position_ticks - low) / span - 1)

    return _touched(document, hits, velocity, f"tilted by {by:+d}")


def line(document: Document, hits: Sequence[Hit], points: Sequence[tuple[float, float]]) -> Edit:
    """Velocities along a drawn line of (position in ticks, velocity); roles follow what is drawn."""
    ordered = sorted(points)
    ticks, heights = [p[0] for p in ordered], [p[1] for p in ordered]
    after = roles_after(document.groove.pattern.rules)

    def change(h: Hit) -> Hit:
        velocity = min(max(round(float(np.interp(h.position_ticks, ticks, heights))), 1), 127)
        return h.struck(velocity, after(h, velocity))

    old, new = each(document, hits, change)
    return f"{named(old, document)}: drawn from {round(heights[0])} to {round(heights[-1])}", new


def role_level(document: Document, role: Role, level: int, voices: Sequence[str] = ()) -> Edit:
    """The level of a role, as a setting of the pattern for some voices (all): its hits move together.

    Raises
    ------
    InputError
        Where the levels of a voice would no longer rise from ghost to normal to accent.
    """
    pattern = document.groove.pattern
    wanted = tuple(voices) or VOICE_NAMES
    others = [row for row in pattern.rules.levels if row[0] not in wanted or row[1] is not role]
    new = [(name, role, level) for name in wanted if level != ROLE_VELOCITY[role]]
    rules = replace(pattern.rules, levels=tuple(sorted(others + new)))
    changed: dict[int, Hit] = {}
    for name in wanted:
        mine = {i: h for i, h in enumerate(pattern.hits) if h.voice == name and h.role is role and not h.grace}
        if mine:
            by = level - sum(h.velocity for h in mine.values()) / len(mine)
            moved = {i: h.struck(_in_band(h, h.velocity + by, rules), h.role) for i, h in mine.items()}
            changed |= {i: h for i, h in moved.items() if h.velocity != mine[i].velocity}
    if not changed and rules == pattern.rules:
        return f"{role.value}s at {level}", document
    moved_pattern = replace(pattern.with_hits(changed.keys(), changed.values()), rules=rules)
    whose = f" of {voice(wanted[0]).label.lower()}" if len(wanted) == 1 else ""
    return f"{role.value.capitalize()}s{whose} at {level}", document.with_groove(pattern=moved_pattern)


def step_role(document: Document, hits: Sequence[Hit], by: int) -> Edit:
    """A step up or down: ghost, normal, accent, hardest."""
    level = document.groove.pattern.rules.level_of

    def change(h: Hit) -> Hit:
        at = 3 if h.velocity >= HARDEST else list(Role).index(h.role)
        to = min(max(at + by, 0), 3)
        role = list(Role)[min(to, 2)]
        return replace(h, role=role, velocity=HARDEST if to == 3 else level(h.voice, role))

    old, new = each(document, hits, change)
    return f"{named(old, document)}: a step {'up' if by > 0 else 'down'}", new


def hardest(document: Document, hits: Sequence[Hit]) -> Edit:
    """As hard as it goes without the last reserve."""
    old, new = each(document, hits, lambda h: replace(h, role=Role.ACCENT, velocity=HARDEST))
    return f"{named(old, document)}: hardest", new


def rotate(document: Document, voices: Sequence[str], steps: int) -> Edit:
    """Every hit of some voices so many steps later; what leaves the end comes in at the start.

    Raises
    ------
    InputError
        Where the voices have no hit.
    """
    pattern = document.groove.pattern
    mine = {i: h for i, h in enumerate(pattern.hits) if h.voice in voices}
    label = voice(voices[0]).label if len(voices) == 1 else LANES[LANE_OF_VOICE[voices[0]]].label
    if not mine:
        raise InputError(f"There is no hit of {label.lower()} to rotate.")
    by = steps * step_ticks(pattern.grid_of(voices[0]))
    length = pattern.length_ticks
    new = [replace(h, position_ticks=(h.position_ticks + by) % length) for h in mine.values()]
    way = "later" if steps > 0 else "earlier"
    words = f"{label} rotated {count(abs(steps), 'step')} {way}"
    return words, document.with_groove(pattern=pattern.with_hits(mine.keys(), new))


def swap_hands(document: Document, hits: Sequence[Hit]) -> Edit:
    """Right for left and left for right; feet stay."""
    old, new = each(document, hits, lambda h: replace(h, limb=OTHER_HAND.get(h.limb_letter, h.limb)))
    return f"{count(len(old), 'hit')}: hands swapped", new


def add_hits(document: Document, hits: Sequence[Hit], words: str) -> Edit:
    """New hits on spots that their voices have free.

    Raises
    ------
    InputError
        Where no spot is free.
    """
    pattern = document.groove.pattern
    free = [h for h in hits if pattern.at(h.position_ticks, h.voice) is None]
    if not free:
        raise InputError("All these spots are taken already.")
    return words, document.with_groove(pattern=pattern.with_hits(set(), free))
