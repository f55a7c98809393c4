"""Changes of a document: each takes a document and gives the words for the step and the new document.

Hits are named by value; as hits are immutable, a changed hit is a new one in the old one's place.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace

from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.frame import Bars
from ghoststep.music.kit import strokes_of, voice
from ghoststep.music.ornaments import ORNAMENTED_GROUPS
from ghoststep.music.pattern import Hit
from ghoststep.music.rules import Rules
from ghoststep.music.spots import name_at
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document
from ghoststep.session.words import count

Edit = tuple[str, Document]
NOTHING_CHOSEN = "No hit is chosen: click one, move to one with the arrow keys, or choose a lane (Ctrl+L)."


def hit_name(hit: Hit, bars: Bars) -> str:
    """ "Kick 2a", or "Kick 2a in bar 3" from the second bar on."""
    number = bars.spot_at(hit.position_ticks).bar
    bar = f" in bar {number}" if number > 1 else ""
    return f"{voice(hit.voice).label} {name_at(hit.position_ticks, bars)}{bar}"


def named(hits: Sequence[Hit], document: Document) -> str:
    if len(hits) == 1:
        return hit_name(hits[0], document.groove.pattern.frame)
    return count(len(hits), "hit")


def _replaced(document: Document, changes: dict[int, Hit | None]) -> Document:
    """The document with hits, by index in the pattern, changed or (None) taken away."""
    new = [h for h in changes.values() if h is not None]
    return document.with_groove(pattern=document.groove.pattern.with_hits(changes.keys(), new))


def _chosen(document: Document, hits: Iterable[Hit]) -> dict[int, Hit]:
    """Indices of the given hits; InputError where there is nothing to change."""
    pattern = document.groove.pattern
    found = {i: pattern.hits[i] for i in sorted(pattern.indices_of(hits))}
    if not found:
        raise InputError(NOTHING_CHOSEN)
    return found


def place_hits(document: Document, positions_ticks: Sequence[int], voice_name: str, role: Role = Role.NORMAL) -> Edit:
    """New hits of a role on the free ones of some spots.

    Raises
    ------
    InputError
        Where there is no such spot, or none is free.
    """
    pattern = document.groove.pattern
    label = voice(voice_name).label
    if not positions_ticks:
        raise InputError("There is no such spot in this groove.")
    level = pattern.rules.level_of(voice_name, role)
    free = [t for t in positions_ticks if pattern.at(t, voice_name) is None]
    if not free:
        raise InputError(f"{label} already has a hit there.")
    new = [Hit(t, voice_name, level, role) for t in free]
    words = hit_name(new[0], pattern.frame) if len(new) == 1 else f"{label}: {count(len(new), 'hit')}"
    return f"{words} placed", document.with_groove(pattern=pattern.with_hits(set(), new))


def remove_hits(document: Document, hits: Sequence[Hit]) -> Edit:
    found = _chosen(document, hits)
    return f"{named(list(found.values()), document)} removed", _replaced(document, dict.fromkeys(found))


def each(document: Document, hits: Sequence[Hit], change: Callable[[Hit], Hit]) -> tuple[list[Hit], Document]:
    found = _chosen(document, hits)
    changed = {i: change(h) for i, h in found.items()}
    if all(changed[i] == found[i] for i in found):
        return list(found.values()), document
    kept: dict[int, Hit | None] = dict(changed)
    return list(found.values()), _replaced(document, kept)


def set_velocity(document: Document, hits: Sequence[Hit], velocity: int) -> Edit:
    """The same velocity for all; a role that the new velocity no longer fits follows it (see `role_after`)."""
    velocity, after = min(max(velocity, 1), 127), roles_after(document.groove.pattern.rules)
    old, new = each(document, hits, lambda h: h.struck(velocity, after(h, velocity)))
    return f"{named(old, document)}: {_from(old)}{velocity}", new


def change_velocity(document: Document, hits: Sequence[Hit], by: int) -> Edit:
    """Louder or softer by so many steps, each within 1 to 127."""
    after = roles_after(document.groove.pattern.rules)

    def change(h: Hit) -> Hit:
        velocity = min(max(h.velocity + by, 1), 127)
        return h.struck(velocity, after(h, velocity))

    old, new = each(document, hits, change)
    to = str(min(max(old[0].velocity + by, 1), 127)) if len(old) == 1 else f"{by:+d}"
    return f"{named(old, document)}: {_from(old)}{to}", new


def _from(old: Sequence[Hit]) -> str:
    return f"{old[0].velocity} → " if len(old) == 1 else "velocity "


def role_after(h: Hit, velocity: int, rules: Rules) -> Role:
    """The role of a hit whose velocity is set: a role is more than a number, so it stays until another one is reached.

    An accent is a normal stroke once it is no louder than its voice's normal ones, a ghost is one from their level on.
    A grace note stays a ghost.
    """
    ghost, normal, accent = (rules.level_of(h.voice, role) for role in Role)
    if h.grace or (h.role is Role.GHOST and velocity < normal):
        return h.role
    if h.role is Role.ACCENT and velocity > normal:
        return h.role
    if h.role is Role.NORMAL and ghost < velocity < accent:
        return h.role
    return Role.GHOST if velocity <= ghost else Role.ACCENT if velocity >= accent else Role.NORMAL


def roles_after(rules: Rules) -> Callable[[Hit, int], Role]:
    """`role_after` for many hits: what it came to is kept, since thousands are alike."""
    known: dict[tuple[str, Role, bool, int], Role] = {}

    def after(h: Hit, velocity: int) -> Role:
        like = (h.voice, h.role, h.grace, velocity)
        if like not in known:
            known[like] = role_after(h, velocity, rules)
        return known[like]

    return after


def set_role(document: Document, hits: Sequence[Hit], role: Role) -> Edit:
    """Ghost, normal or accent, with the velocity the pattern has for it."""
    level = document.groove.pattern.rules.level_of
    old, new = each(document, hits, lambda h: replace(h, role=role, velocity=level(h.voice, role)))
    return f"{named(old, document)}: {role.value}", new


def set_offset(document: Document, hits: Sequence[Hit], offset_ms: float) -> Edit:
    old, new = each(document, hits, lambda h: replace(h, offset_ms=float(offset_ms)))
    return f"{named(old, document)}: {_ms(offset_ms)}", new


def nudge(document: Document, hits: Sequence[Hit], by_ms: float) -> Edit:
    """Earlier (negative) or later by some milliseconds."""
    old, new = each(document, hits, lambda h: replace(h, offset_ms=h.offset_ms + by_ms))
    return f"{named(old, document)}: {_ms(by_ms)}", new


def _ms(ms: float) -> str:
    return f"{abs(ms):.1f} ms {'later' if ms > 0 else 'earlier'}" if abs(ms) >= 0.05 else "on the spot"


def move_each(document: Document, hits: Sequence[Hit], goals: Mapping[int, int]) -> Edit:
    """Each hit (by its key) to a position of its own."""
    old, new = each(document, hits, lambda h: replace(h, position_ticks=goals[h.key]))
    to = name_at(goals[old[0].key], document.groove.pattern.frame)
    return f"{named(old, document)} to {to}", new


def move_hits(document: Document, hits: Sequence[Hit], by_ticks: int) -> Edit:
    """To other spots; refused where one would leave the pattern. What stands there of the same voice gives way.

    Raises
    ------
    InputError
        Where one would leave the pattern.
    """
    length = document.groove.pattern.length_ticks

    def change(h: Hit) -> Hit:
        if not 0 <= h.position_ticks + by_ticks < length:
            raise InputError("That would move a hit out of the pattern.")
        return replace(h, position_ticks=h.position_ticks + by_ticks)

    old, new = each(document, hits, change)
    return f"{named(old, document)} moved", new


def set_voice(document: Document, hits: Sequence[Hit], voice_name: str) -> Edit:
    """Another voice for the same strokes."""
    label = voice(voice_name).label
    old, new = each(document, hits, lambda h: fitted(h, voice_name))
    return f"{named(old, document)} to {label.lower()}", new


def fitted(h: Hit, voice_name: str) -> Hit:
    """The same stroke on another voice, without what that voice cannot do."""
    group = voice(voice_name).group
    rings = group in ("cymbals", "hat")
    ornament = h.ornament if group in ORNAMENTED_GROUPS else ""
    keeps_length = bool(ornament) or (rings and voice(h.voice).group in ("cymbals", "hat"))
    return replace(
        h,
        voice=voice_name,
        stroke=h.stroke if h.stroke in {s.name for s in strokes_of(voice_name)} else "plain",
        ornament=ornament,
        length_ticks=h.length_ticks if keeps_length else 0,
        limb=h.limb if h.limb in ("R", "L") and voice(voice_name).limb in ("R", "L") else "",
    )


def set_limb(document: Document, hits: Sequence[Hit], letter: str) -> Edit:
    old, new = each(document, hits, lambda h: replace(h, limb=letter))
    return f"{named(old, document)}: limb {letter}", new


def set_swing(document: Document, swing: Swing) -> Edit:
    feel = replace(document.groove.feel, swing=swing)
    return f"Swing {100 * swing.ratio:.1f} %", document.with_groove(feel=feel)


def set_lean(document: Document, voices: Sequence[str], lean_ms: float) -> Edit:
    """The lean of some voices, which share a lane or group."""
    feel = document.groove.feel
    lean = dict(feel.lean_ms) | dict.fromkeys(voices, lean_ms)
    new = replace(feel, lean_ms=lean)
    return f"{voice(voices[0]).label} leans {_ms(lean_ms)}", document.with_groove(feel=new)


def set_looseness(document: Document, loose_ms: float, take: int) -> Edit:
    feel = replace(document.groove.feel, loose_ms=loose_ms, take=take)
    return f"Looseness {loose_ms:.1f} ms, take {take}", document.with_groove(feel=feel)


def straighten(document: Document) -> Edit:
    """Every hit dead on the grid: no swing, lean, looseness or own deviation; graces keep theirs."""
    hits = tuple(h if h.grace else replace(h, offset_ms=0.0) for h in document.groove.pattern.hits)
    return "Everything on the grid", document.with_groove(feel=Feel(), hits=hits)


def as_heard(document: Document) -> Edit:
    """Back to the groove as it was heard in the recording.

    Raises
    ------
    InputError
        Where nothing was heard.
    """
    if document.listening is None:
        raise InputError("Nothing was listened to in this project yet.")
    return "Back to what was heard", replace(
        document, groove=document.listening.explained.groove.changed(name=document.groove.name)
    )
