"""The groove of a form after some parts changed: only what changed in them is changed, wherever they are played.

A form of hundreds of bars is not unrolled anew for an edit of one; bars with exceptions or cues are, with everything.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ghoststep.music.form import Form
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.unrolled import unrolled
from ghoststep.session.edits.commit import window
from ghoststep.session.form.plain import plain
from ghoststep.session.language.forms.words import Unfit, song


@dataclass(frozen=True)
class _Delta:
    """What a part lost and what it gained, counted from its start."""

    gone: tuple[Hit, ...]
    come: tuple[Hit, ...]


def unrolled_again(before: Form, old: Pattern, form: Form, groove: Groove, unfit: list[Unfit]) -> Groove:
    """The groove that a form comes to now, with the very hits of before wherever they say the same.

    Parameters
    ----------
    before, old
        The form before parts of it changed, and the pattern it came to.
    form
        With the parts as they are now; sections and order are the same.
    groove
        As it was edited: some playings of the parts are otherwise than in `old`.
    unfit
        Gets words on cues and exceptions that no longer fit.
    """
    deltas = _deltas(before, form)
    if _told_otherwise(form, deltas):
        return with_keys_kept(song(form, groove, unfit), groove)
    pattern, gone, new = groove.pattern, set[int](), list[Hit]()
    first, last = changed_ticks(old, pattern)
    end = 0
    for stretch in form.stretches():
        part = form.part(stretch.part).pattern
        start, end = end, end + part.length_ticks
        edited = end > first and start <= last and hits_of(old, start, end) != hits_of(pattern, start, end)
        if edited:
            _as_part(pattern, start, part, gone, new)
        elif stretch.part in deltas:
            _done_to(pattern, start, deltas[stretch.part], gone, new)
    return groove.changed(pattern=pattern.with_hits(gone, new)) if gone or new else groove


def _deltas(before: Form, form: Form) -> dict[str, _Delta]:
    out = {}
    for part in form.parts:
        old, new = before.part(part.name).pattern, part.pattern
        if old is not new and old.hits != new.hits:
            was, now = Counter(map(plain, old.hits)), Counter(map(plain, new.hits))
            out[part.name] = _Delta(tuple((was - now).elements()), tuple((now - was).elements()))
    return out


def _told_otherwise(form: Form, deltas: dict[str, _Delta]) -> bool:
    """Whether a part that changed is played in a section with exceptions or cues, or single bars play it otherwise."""
    return (
        bool(form.singles)
        or any((p.section.exceptions or p.cues) and not deltas.keys().isdisjoint(p.row) for p in form.passes)
        or any(
            one.cues and not deltas.keys().isdisjoint(other.row)
            for one, other in zip(form.passes, form.passes[1:], strict=False)
        )
    )


def changed_ticks(old: Pattern, new: Pattern) -> tuple[int, int]:
    """The first and the last position at which two versions of a pattern hold other hits; (0, -1) where none does."""
    low, old_end, new_end = window(old.hits, new.hits)
    found = [h.position_ticks for h in (*old.hits[low:old_end], *new.hits[low:new_end])]
    return (min(found), max(found)) if found else (0, -1)


def _done_to(pattern: Pattern, start: int, delta: _Delta, gone: set[int], new: list[Hit]) -> None:
    """Indices of the hits that go from a playing, and those that come, under the names of what stood there."""
    names: dict[tuple[int, str, bool], int] = {}
    for lost in delta.gone:
        tick = lost.position_ticks + start
        for i in pattern.between(tick, tick + 1):
            h = pattern.hits[i]
            if i not in gone and h.voice == lost.voice and h.grace == lost.grace and h.velocity == lost.velocity:
                gone.add(i)
                names[tick, h.voice, h.grace] = h.key
                break
    for h in delta.come:
        tick = h.position_ticks + start
        new.append(h.moved(tick, key=names.pop((tick, h.voice, h.grace), 0)))


def _as_part(pattern: Pattern, start: int, part: Pattern, gone: set[int], new: list[Hit]) -> None:
    """A playing made what its part says, hits that say so already kept."""
    left: dict[Hit, list[int]] = {}
    for i in pattern.between(start, start + part.length_ticks):
        h = pattern.hits[i]
        left.setdefault(replace(h, position_ticks=h.position_ticks - start, key=0, origin=None), []).append(i)
    for h in part.hits:
        if there := left.get(plain(h)):
            there.pop()
        else:
            new.append(h.moved(h.position_ticks + start, key=0))
    gone.update(i for there in left.values() for i in there)


def hits_of(pattern: Pattern, start: int, end: int) -> tuple[Hit, ...]:
    """The hits from a position up to another, in ticks."""
    inside = pattern.between(start, end)
    return pattern.hits[inside.start : inside.stop]


def relaid(before: Form, form: Form, groove: Groove) -> Groove | None:
    """The groove of a form whose rows changed and whose parts did not: what is before and behind the change stays.

    None where a form has exceptions, cues or parts that are otherwise, so that it has to be unrolled anew.
    """
    told = bool(before.singles or form.singles) or any(
        s.exceptions or s.cues for s in (*before.sections, *form.sections)
    )
    was, now = ([s.part for s in f.stretches()] for f in (before, form))
    same = all(before.has(name) and before.part(name).pattern is form.part(name).pattern for name in set(now))
    if told or not same:
        return None
    head = _shared(was, now)
    tail = _shared(was[head:][::-1], now[head:][::-1])
    lengths = {name: form.part(name).pattern.length_ticks for name in {*was, *now} if form.has(name)}
    if any(name not in lengths for name in was):
        return None
    first = sum(lengths[name] for name in was[:head])
    behind = sum(lengths[name] for name in was[: len(was) - tail])
    hits = groove.pattern.hits
    out = list(hits_of(groove.pattern, 0, first))
    for name in now[head : len(now) - tail]:
        out += [h.moved(h.position_ticks + first, key=0) for h in form.part(name).pattern.hits]
        first += lengths[name]
    rest = hits[groove.pattern.between(behind, behind).start :]
    by = first - behind
    out += [h.moved(h.position_ticks + by) for h in rest] if by else rest
    return unrolled(form, groove, tuple(out))


def _shared(one: Sequence[str], other: Sequence[str]) -> int:
    """How many names two rows begin with alike."""
    return next((i for i, (a, b) in enumerate(zip(one, other, strict=False)) if a != b), min(len(one), len(other)))


def with_keys_kept(new: Groove, old: Groove) -> Groove:
    """The new groove with the very hits of the old one where they say the same, so that what is chosen stays chosen."""
    known: dict[tuple[int, str, bool], list[Hit]] = {}
    for h in old.pattern.hits:
        known.setdefault((h.position_ticks, h.voice, h.grace), []).append(h)
    out: list[Hit] = []
    for h in new.pattern.hits:
        there = known.get((h.position_ticks, h.voice, h.grace), [])
        out.append(_like(h, there.pop(0)) if there else h)
    return new.changed(pattern=replace(new.pattern, hits=tuple(out)))


def _like(h: Hit, old: Hit) -> Hit:
    """A hit under the name of the one that stood there: that very one where nothing is different."""
    if old == h if old.origin is None else plain(old) == h:
        return old
    return h.moved(h.position_ticks, key=old.key)
