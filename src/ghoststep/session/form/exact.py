"""What single bars of a form have for themselves, so that unrolled it is the groove, hit for hit.

A form that was found, or rows that were moved, may leave spots at which a bar is played otherwise than its part,
exceptions and cues say. `exact` keeps those spots as singles of the form; `moved` takes them along when rows change.
"""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import replace
from difflib import SequenceMatcher

from ghoststep.music.form import Form, Single, Stretch
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.session.form.plain import plain

Place = tuple[int, int, str]  # bar of the whole (from 1), tick in it, voice


def places_of(pattern: Pattern, bars: Iterable[int] | None = None) -> dict[Place, list[Hit]]:
    """The hits of each spot and voice, in order, counted from their bar line; of some bars, or of all."""
    frame, wanted = pattern.frame, None if bars is None else set(bars)
    out: dict[Place, list[Hit]] = {}
    if wanted is None:
        rows = ((bar, start, start + meter.bar_ticks) for bar, start, meter in frame.between(0, pattern.length_ticks))
    else:
        rows = ((b, int(frame.start_of(b)), int(frame.start_of(b + 1))) for b in sorted(wanted) if b <= pattern.bars)
    for bar, start, end in rows:
        for i in pattern.between(start, end):
            h = pattern.hits[i]
            out.setdefault((bar, h.position_ticks - start, h.voice), []).append(h)
    return out


def exact(form: Form, sung: Groove, groove: Groove, bars: Iterable[int] | None = None) -> Form:
    """The form with singles wherever `sung`, what it comes to without them, is not the groove.

    bars: the only ones that are looked at; singles of other bars stay.
    """
    wanted = None if bars is None else set(bars)
    was, now = places_of(sung.pattern, wanted), places_of(groove.pattern, wanted)
    frame = groove.pattern.frame
    kept = [s for s in form.singles if wanted is not None and s.bar not in wanted]
    for place in was.keys() | now.keys():
        here = _from_bar_line(now.get(place, ()), frame.start_of(place[0]))
        if here != _from_bar_line(was.get(place, ()), frame.start_of(place[0])):
            kept.append(Single(*place, here))
    singles = tuple(sorted(kept, key=lambda s: (s.bar, s.tick, s.voice)))
    if singles == form.singles:
        return form
    whole = form.sectioned()  # singles stand below the order of the sections
    return replace(whole, order=tuple(s.name for s in whole.played), singles=singles)


def _from_bar_line(hits: Sequence[Hit], start: int) -> tuple[Hit, ...]:
    return tuple(plain(h).moved(h.position_ticks - start) for h in hits)


def with_singles(groove: Groove, singles: Sequence[Single]) -> Groove:
    """The groove with single spots played as they say."""
    if not singles:
        return groove
    pattern = groove.pattern
    frame = pattern.frame
    gone: set[int] = set()
    new: list[Hit] = []
    for single in singles:
        start = frame.start_of(single.bar)
        at = start + single.tick
        gone.update(i for i in pattern.between(at, at + 1) if pattern.hits[i].voice == single.voice)
        new += [h.moved(h.position_ticks + start) for h in single.hits]
    return groove.changed(pattern=pattern.with_hits(gone, new))


def moved(before: Form, form: Form) -> tuple[Single, ...]:
    """The singles of a form in the bars to which its playings went; those of playings that are gone go with them."""
    if not before.singles:
        return form.singles
    old, new = list(before.stretches()), list(form.stretches())
    bars: dict[int, int] = {}
    for was, now in pairs_of(old, new):
        bars.update({was.first_bar + k: now.first_bar + k for k in range(min(was.bars, now.bars))})
    out = [replace(s, bar=bars[s.bar]) for s in before.singles if s.bar in bars]
    return tuple(sorted(out, key=lambda s: (s.bar, s.tick, s.voice)))


Moves = dict[tuple[int, str], tuple[int, str]]  # from (tick in the part, voice) to where its hit went


def followed_by_singles(before: Form, form: Form, moves: Moves, edited: Collection[int]) -> tuple[Single, ...]:
    """The singles once parts are otherwise: what is changed in a part is changed in what single bars make of it.

    A stroke that got 10 louder in the part is 10 louder wherever it is played; one that went is gone, and one that
    moved has moved. edited: bars whose singles are worked out from what was edited there, and are left alone here.
    """
    changed = [p.name for p in form.parts if before.has(p.name) and before.part(p.name).pattern is not p.pattern]
    if not form.singles or not changed:
        return form.singles
    playing = {s.first_bar + k: (s.part, k + 1) for s in form.stretches() if s.part in changed for k in range(s.bars)}
    own = {name: [_by_place(f.part(name).pattern) for f in (before, form)] for name in changed}
    out: dict[Place, Single] = {}
    for single in form.singles:
        if single.bar not in playing or single.bar in edited:
            out[single.bar, single.tick, single.voice] = single
            continue
        name, bar = playing[single.bar]
        was, now = own[name]
        after = _after(single, bar, before.part(name).pattern, form.part(name).pattern, was, now, moves)
        if after is not None:
            out[after.bar, after.tick, after.voice] = after
    return tuple(sorted(out.values(), key=lambda s: (s.bar, s.tick, s.voice)))


_ByPlace = dict[tuple[int, str], list[Hit]]


def _by_place(pattern: Pattern) -> _ByPlace:
    out: _ByPlace = {}
    for h in pattern.hits:
        out.setdefault((h.position_ticks, h.voice), []).append(h)
    return out


def _after(
    single: Single, bar: int, old: Pattern, new: Pattern, was: _ByPlace, now: _ByPlace, moves: Moves
) -> Single | None:
    """A single after its part changed; None where nothing is left to say of its spot."""
    start = old.frame.start_of(bar)
    place = (single.tick + start, single.voice)
    before, goal = was.get(place, []), place
    if before and not now.get(place) and place in moves and now.get(moves[place]):
        goal = moves[place]
    after = now.get(goal, [])
    if before == after or not before:
        return single
    if len(after) != len(before) or (single.hits and len(single.hits) != len(before)):
        return None if not after else single
    tick = goal[0] - new.frame.start_of(bar)
    if not 0 <= tick < new.frame.length_of(bar):
        return None
    hits = tuple(shifted(h, a, b).moved(tick) for h, a, b in zip(single.hits, before, after, strict=False))
    return replace(single, tick=tick, voice=goal[1], hits=hits)


def shifted(h: Hit, old: Hit, new: Hit) -> Hit:
    """A hit with what changed from one hit to another: louder and later by as much, struck as the new one is."""
    kept = {f: getattr(new, f) for f in _FIELDS if getattr(old, f) != getattr(new, f)}
    velocity = min(max(h.velocity + new.velocity - old.velocity, 1), 127)
    return replace(h, velocity=velocity, offset_ms=h.offset_ms + (new.offset_ms - old.offset_ms), **kept)


_FIELDS = ("voice", "role", "stroke", "limb", "ornament", "length_ticks", "fixed", "grace")


def pairs_of(old: Sequence[Stretch], new: Sequence[Stretch]) -> list[tuple[Stretch, Stretch]]:
    """Which playing of before is which now: those in one row with their neighbours first, then the next alike."""
    match = SequenceMatcher(a=[s.part for s in old], b=[s.part for s in new], autojunk=False)
    out, left, free = [], set(range(len(old))), set(range(len(new)))
    for block in match.get_matching_blocks():
        for k in range(block.size):
            out.append((old[block.a + k], new[block.b + k]))
            left.discard(block.a + k)
            free.discard(block.b + k)
    for i in sorted(left):
        j = next((j for j in sorted(free) if new[j].part == old[i].part), None)
        if j is not None:
            out.append((old[i], new[j]))
            free.discard(j)
    return out
