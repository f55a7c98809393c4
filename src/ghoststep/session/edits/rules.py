"""What a pattern's rules do after every edit: lanes that repeat stay alike, a linear part stays linear."""

from collections.abc import Sequence
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
        if after.rules.own_of(lane) and not _same_rounds(before, after, lane):
            # Rounds have numbers; where their borders move, those of their own would be written over.
            pattern = replace(pattern, rules=pattern.rules.run_through(lane))
            words += f" (the {LANES[lane].label.lower()} runs through now, since not all its rounds were alike)"
            continue
        round_kept = _cycled(before, pattern, lane, ticks)
        if round_kept is not pattern and before.rules.cycle_of(lane) == ticks and before.bars == after.bars:
            words += f" (and so in every round of the {LANES[lane].label.lower()})"
        pattern = round_kept
    return words, pattern


def _same_rounds(before: Pattern, after: Pattern, lane: int) -> bool:
    was, now = (p.rules.rounds_of(lane, p.frame, p.length_ticks) for p in (before, after))
    return was == now or before.rules.cycle_of(lane) != after.rules.cycle_of(lane)


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
    """The lane with its round, edited as any round was, repeated to the end and to each place it begins anew."""
    spans = after.rules.rounds_of(lane, after.frame, after.length_ticks)
    old_spans = before.rules.rounds_of(lane, before.frame, before.length_ticks)
    rounds, own = _rounds(after, lane, spans), after.rules.own_of(lane)
    cycled = before.rules.cycle_of(lane) == ticks and before.rules.restart_of(lane) == after.rules.restart_of(lane)
    if not cycled or not old_spans:
        source = next((mine for n, mine in enumerate(rounds) if n not in own), ())
    else:
        # Bars that come or go leave the round as it is: what lies in them belongs to other places of the round.
        now = rounds if spans == old_spans else _rounds(before, lane, old_spans)
        alike = [n for n in range(len(old_spans)) if n not in before.rules.own_of(lane)]
        was = _rounds(before, lane, old_spans)
        source = (
            _edited([now[n] for n in alike], [was[n] for n in alike], [old_spans[n] for n in alike]) if alike else ()
        )
    wanted = [tuple(h for h in source if start + h.position_ticks < end) for start, end in spans]
    wrong = [n for n, mine in enumerate(rounds) if n not in own and mine != wanted[n]]
    if not wrong:
        return after
    gone = set()
    for n in wrong:
        gone |= {i for i in after.between(*spans[n]) if LANE_OF_VOICE[after.hits[i].voice] == lane}
    new = [replace(h, position_ticks=h.position_ticks + spans[n][0]) for n in wrong for h in wanted[n]]
    return after.with_hits(gone, new)


def _edited(
    rounds: Sequence[Sequence[Hit]], old: Sequence[Sequence[Hit]], old_spans: Sequence[tuple[int, int]]
) -> tuple[Hit, ...]:
    """The round as it was, without what was taken out of any and with what was put into any."""
    whole = max(range(len(old_spans)), key=lambda n: (old_spans[n][1] - old_spans[n][0], -n))
    gone = {h for mine, was in zip(rounds, old, strict=True) for h in was if h not in mine}
    come = {_place(h): h for mine, was in zip(rounds, old, strict=True) for h in mine if h not in was}
    stays = [h for h in old[whole] if h not in gone and _place(h) not in come]
    return tuple(sorted((*stays, *come.values()), key=lambda h: h.position_ticks))


def _place(h: Hit) -> tuple[int, str, float | None]:
    return h.position_ticks, h.voice, h.offset_ms if h.grace else None


def _rounds(pattern: Pattern, lane: int, spans: list[tuple[int, int]]) -> list[tuple[Hit, ...]]:
    """Hits of a lane by round, counted from the round's start, without where they came from."""
    out = []
    for start, end in spans:
        mine = (pattern.hits[i] for i in pattern.between(start, end))
        out.append(
            tuple(copy_of(h, position_ticks=h.position_ticks - start) for h in mine if LANE_OF_VOICE[h.voice] == lane)
        )
    return out
