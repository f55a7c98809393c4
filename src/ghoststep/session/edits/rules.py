"""What a pattern's rules do after every edit: lanes that repeat stay alike, a linear part stays linear."""

from dataclasses import replace

from ghoststep.music.kit import LANE_OF_VOICE, LANES, voice
from ghoststep.music.pattern import Hit, Pattern, copy_of


def kept(before: Pattern, after: Pattern) -> tuple[str, Pattern]:
    """The edited pattern with its rules kept, and words for what that took."""
    pattern, words = after, ""
    if after.rules.linear and before.rules.linear:
        pattern, gone = _linear(before, after)
        if gone:
            words = f" (takes the place of {', '.join(sorted({voice(h.voice).label.lower() for h in gone}))})"
    for lane, ticks in after.rules.cycles:
        pattern = _cycled(before, pattern, lane, ticks)
    return words, pattern


def _linear(before: Pattern, after: Pattern) -> tuple[Pattern, list[Hit]]:
    """Hits that come to a spot push out what another limb strikes there; those that stood there before are left."""
    old = {(h.position_ticks, h.voice) for h in before.hits}
    new = {h.position_ticks: h for h in after.hits if not h.grace and (h.position_ticks, h.voice) not in old}
    gone = {
        i
        for i, h in enumerate(after.hits)
        if (mine := new.get(h.position_ticks)) is not None and h is not mine and h.limb_letter != mine.limb_letter
    }
    return (after.with_hits(gone, ()), [after.hits[i] for i in sorted(gone)]) if gone else (after, [])


def clashes(pattern: Pattern) -> list[int]:
    """Positions at which more than one limb strikes, in order."""
    out: list[int] = []
    at, limbs = -1, ""
    for h in pattern.hits:
        if h.grace:
            continue
        if h.position_ticks != at:
            at, limbs = h.position_ticks, h.limb_letter
        elif h.limb_letter not in limbs:
            limbs += h.limb_letter
            if not out or out[-1] != at:
                out.append(at)
    return out


def _cycled(before: Pattern, after: Pattern, lane: int, ticks: int) -> Pattern:
    """The lane with one round of it, the one that was edited, repeated to the end."""
    voices = LANES[lane].voices
    mine = [i for i, h in enumerate(after.hits) if LANE_OF_VOICE[h.voice] == lane]
    rounds = _rounds(after, voices, ticks)
    cycled = before.rules.cycle_of(lane) == ticks
    old = _rounds(before, voices, ticks) if cycled else {}
    length = after.length_ticks
    count = -(-length // ticks)
    changed = [n for n in range(count) if rounds.get(n, ()) != old.get(n, ())]
    # The round that was edited is the new one; where several were, the fullest, so that a moved hit is not lost.
    edited = max(changed, key=lambda n: len(rounds.get(n, ()))) if cycled and changed else 0
    source = rounds.get(edited, ())
    if cycled and changed and edited == count - 1 and length % ticks:
        # The last round is cut by the end of the pattern: it says nothing of what would follow.
        source = (*source, *(h for h in old.get(0, ()) if h.position_ticks >= length % ticks))
    wanted: dict[int, tuple[Hit, ...]] = {}
    for n in range(count):
        wanted[n] = tuple(h for h in source if n * ticks + h.position_ticks < length)
    if all(rounds.get(n, ()) == wanted[n] for n in range(count)):
        return after
    gone = {i for i in mine if rounds.get(n := after.hits[i].position_ticks // ticks, ()) != wanted.get(n, ())}
    new = [
        replace(h, position_ticks=h.position_ticks + n * ticks)
        for n in range(count)
        if rounds.get(n, ()) != wanted[n]
        for h in wanted[n]
    ]
    return after.with_hits(gone, new)


def _rounds(pattern: Pattern, voices: tuple[str, ...], ticks: int) -> dict[int, tuple[Hit, ...]]:
    """Hits of a lane by round, counted from the round's start, without where they came from."""
    out: dict[int, list[Hit]] = {}
    for h in pattern.hits:
        if h.voice in voices:
            n, at = divmod(h.position_ticks, ticks)
            out.setdefault(n, []).append(copy_of(h, position_ticks=at))
    return {n: tuple(hits) for n, hits in out.items()}
