"""Touch of many hits at once: louder and softer with the roles kept in order, lines, crescendos, hands and bars.

A role is more than a number: whatever is scaled, ghosts stay below normals and normals below accents. Each role keeps
its band of velocities (see `music.touch.ROLES`).
"""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, LANES, VOICE_NAMES, voice
from ghoststep.music.pattern import MAX_BARS, Hit
from ghoststep.music.time import step_ticks
from ghoststep.music.touch import ROLE_VELOCITY, ROLES, Role, role_of
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit, each, named

# Lowest and highest velocity of each role.
BANDS: dict[Role, tuple[int, int]] = {
    spec.role: (spec.lowest, (ROLES[i + 1].lowest - 1) if i + 1 < len(ROLES) else 127) for i, spec in enumerate(ROLES)
}
HARDEST = 124  # the loudest strokes lie above the accents
_OTHER_HAND = {"R": "L", "L": "R"}


def in_band(role: Role, velocity: float) -> int:
    """The nearest velocity that the role may have."""
    low, high = BANDS[role]
    return min(max(round(velocity), low), high)


def _touched(document: Document, hits: Sequence[Hit], velocity: Callable[[Hit], float], words: str) -> Edit:
    """Other velocities for some hits, each within its role."""
    wanted = {id(h) for h in hits}
    if not wanted & {id(h) for h in document.groove.pattern.hits}:
        raise InputError("No hit is selected: click one, or choose a lane (Ctrl+L) or everything (Ctrl+A).")
    changed = {
        i: replace(h, velocity=in_band(h.role, velocity(h)))
        for i, h in enumerate(document.groove.pattern.hits)
        if id(h) in wanted
    }
    pattern = document.groove.pattern
    changed = {i: h for i, h in changed.items() if h.velocity != pattern.hits[i].velocity}
    if not changed:
        return words, document
    count = f"{len(hits)} hit{'s' if len(hits) != 1 else ''}"
    return f"{count}: {words}", document.with_groove(pattern=pattern.with_hits(changed.keys(), changed.values()))


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

    def change(h: Hit) -> Hit:
        velocity = min(max(round(float(np.interp(h.position_ticks, ticks, heights))), 1), 127)
        return replace(h, velocity=velocity, role=h.role if h.grace else role_of(velocity))

    old, new = each(document, hits, change)
    return f"{named(old, document)}: drawn from {round(heights[0])} to {round(heights[-1])}", new


def role_level(document: Document, role: Role, level: int, voices: Sequence[str] = ()) -> Edit:
    """The level of a role, as a setting of the pattern for some voices (all): its hits move together."""
    low, high = BANDS[role]
    if not low <= level <= high:
        raise InputError(f"A level of {level} is no {role.value}: those lie from {low} to {high}.")
    pattern = document.groove.pattern
    wanted = tuple(voices) or VOICE_NAMES
    rules = pattern.rules
    others = [row for row in rules.levels if row[0] not in wanted or row[1] is not role]
    new = [(name, role, level) for name in wanted if level != ROLE_VELOCITY[role]]
    changed: dict[int, Hit] = {}
    for name in wanted:
        mine = {i: h for i, h in enumerate(pattern.hits) if h.voice == name and h.role is role and not h.grace}
        if mine:
            by = level - sum(h.velocity for h in mine.values()) / len(mine)
            moved = {i: replace(h, velocity=in_band(role, h.velocity + by)) for i, h in mine.items()}
            changed |= {i: h for i, h in moved.items() if h.velocity != mine[i].velocity}
    levels = replace(rules, levels=tuple(sorted(others + new)))
    if not changed and levels == rules:
        return f"{role.value}s at {level}", document
    moved_pattern = replace(pattern.with_hits(changed.keys(), changed.values()), rules=levels)
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


def rotate_lane(document: Document, lane: int, steps: int) -> Edit:
    """Every hit of a lane so many steps later; what leaves the end comes in at the start."""
    pattern = document.groove.pattern
    step = step_ticks(pattern.grid_of(LANES[lane].voices[0]))
    hits = tuple(
        replace(h, position_ticks=(h.position_ticks + steps * step) % pattern.length_ticks)
        if LANE_OF_VOICE[h.voice] == lane
        else h
        for h in pattern.hits
    )
    if not any(LANE_OF_VOICE[h.voice] == lane for h in hits):
        raise InputError(f"The lane {LANES[lane].label} is empty.")
    way = "later" if steps > 0 else "earlier"
    return f"{LANES[lane].label} rotated {abs(steps)} step {way}", document.with_groove(hits=hits)


def duplicate_bar(document: Document, bar: int) -> Edit:
    """The same bar once more after it; what follows moves on."""
    pattern = document.groove.pattern
    length = pattern.meter.bar_ticks
    if not 1 <= bar <= pattern.bars:
        raise InputError(f"There is no bar {bar}: this groove has {pattern.bars}.")
    if pattern.bars >= MAX_BARS:
        raise InputError(f"A groove has at most {MAX_BARS} bars.")
    start, end = (bar - 1) * length, bar * length
    stay = [h for h in pattern.hits if h.position_ticks < end]
    copies = [
        replace(h, position_ticks=h.position_ticks + length, origin=None) for h in stay if h.position_ticks >= start
    ]
    later = [replace(h, position_ticks=h.position_ticks + length) for h in pattern.hits if h.position_ticks >= end]
    return f"Bar {bar} doubled", document.with_groove(hits=(*stay, *copies, *later), bars=pattern.bars + 1)


def delete_bar(document: Document, bar: int) -> Edit:
    """Take a bar out; what follows moves up."""
    pattern = document.groove.pattern
    length = pattern.meter.bar_ticks
    if not 1 <= bar <= pattern.bars:
        raise InputError(f"There is no bar {bar}: this groove has {pattern.bars}.")
    if pattern.bars == 1:
        raise InputError("A groove has at least one bar.")
    start, end = (bar - 1) * length, bar * length
    stay = [h for h in pattern.hits if h.position_ticks < start]
    later = [replace(h, position_ticks=h.position_ticks - length) for h in pattern.hits if h.position_ticks >= end]
    return f"Bar {bar} taken out", document.with_groove(hits=(*stay, *later), bars=pattern.bars - 1)


def swap_hands(document: Document, hits: Sequence[Hit]) -> Edit:
    """Right for left and left for right; feet stay."""
    wanted = {id(h) for h in hits}
    if not wanted:
        raise InputError("No hit is selected: click one, or choose a lane (Ctrl+L) or everything (Ctrl+A).")
    new = tuple(
        replace(h, limb=_OTHER_HAND[h.limb_letter]) if id(h) in wanted and h.limb_letter in _OTHER_HAND else h
        for h in document.groove.pattern.hits
    )
    return f"{len(wanted)} hit{'s' if len(wanted) != 1 else ''}: hands swapped", document.with_groove(hits=new)


def add_hits(document: Document, hits: Sequence[Hit], words: str) -> Edit:
    """New hits on spots that their voices have free."""
    pattern = document.groove.pattern
    free = [h for h in hits if pattern.at(h.position_ticks, h.voice) is None]
    if not free:
        raise InputError("All these spots are taken already.")
    return words, document.with_groove(hits=(*pattern.hits, *free))
