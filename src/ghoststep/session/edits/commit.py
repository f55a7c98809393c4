"""The commit: whatever changes a document goes through here before it counts.

Steps: (1) hits that come to a spot where the same voice stands take its place; (2) the pattern's rules are kept: lanes
that repeat stay alike, a linear part stays linear; (3) hits that are new get keys of their own.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from operator import is_

from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.edits.rules import kept
from ghoststep.session.words import count


def opened(document: Document) -> Document:
    """A document as it comes in from outside: every hit with a key of its own, in each of its versions."""
    groove, next_key = _with_keys(document.groove, document.next_key)
    snapshots = []
    for kept_one in document.snapshots:
        keyed, next_key = _with_keys(kept_one.groove, next_key)
        snapshots.append(kept_one if keyed is kept_one.groove else replace(kept_one, groove=keyed))
    same = all(map(is_, snapshots, document.snapshots))
    if groove is document.groove and same and next_key == document.next_key:
        return document
    return replace(document, groove=groove, snapshots=tuple(snapshots), next_key=next_key)


def _with_keys(groove: Groove, next_key: int) -> tuple[Groove, int]:
    """The groove with a key for every hit that has none, or one that another hit has too; the next free key."""
    keys: set[int] = set()
    hits, changed = list(groove.pattern.hits), False
    for h in hits:
        next_key = max(next_key, h.key + 1)
    for i, h in enumerate(hits):
        if not h.key or h.key in keys:
            hits[i], next_key, changed = replace(h, key=next_key), next_key + 1, True
        keys.add(hits[i].key)
    return (groove.changed(hits=tuple(hits)) if changed else groove), next_key


Follow = Callable[[Document, Document], Edit]  # given what was and what is, words and the document as it goes on


def committed(before: Document, edit: Edit, follow: Follow | None = None) -> Edit:
    """The words and the document an edit comes to once everything that always holds is kept.

    follow: what goes along with a change of the groove where the document has a form.
    """
    words, after = edit
    old, new = before.groove.pattern, after.groove.pattern
    if new is not old and new == old and new.hits == old.hits:
        after, new = after.with_groove(pattern=old), old
    if new is not old:
        said, after = _kept_and_keyed(before, after)
        words += said
    elif after.groove.tempo == before.groove.tempo and after.groove.feel == before.groove.feel:
        return words, after
    if after.form is None:
        return words, after
    if after.form is not before.form:
        if after.groove.pattern.hits == new.hits:
            return words, after
        before = after.with_groove(pattern=new)  # what the new form comes to; rules of the whole changed it
    if follow is None:
        return words, after
    said, following = follow(before, after)
    if following is not after:
        _, after = _kept_and_keyed(after, following, ruled=False)
    return words + said, after


def _kept_and_keyed(before: Document, after: Document, *, ruled: bool = True) -> Edit:
    """ruled: whether the pattern's rules are kept; what a form comes to keeps them already, or says otherwise."""
    words, old, new = "", before.groove.pattern, after.groove.pattern
    pattern = new
    found = _newcomers(old.hits, new.hits)
    # What was heard anew may hold two strokes on one spot, and what a form is laid out to holds none.
    if after.listening is before.listening and (after.form is before.form or after.form is None):
        pattern, gone = _one_a_spot(old, pattern, found)
        words += f" (in place of {count(gone, 'hit')})" if gone else ""
    if ruled:
        said, pattern = kept(old, pattern)
        words += said
    if pattern is not new:
        found = _newcomers(old.hits, pattern.hits)
    pattern, next_key = _keyed(pattern, found, range(before.next_key, after.next_key))
    if pattern is not new or next_key != after.next_key:
        after = replace(after.with_groove(pattern=pattern), next_key=next_key)
    return words, after


def window(old: Sequence[Hit], new: Sequence[Hit]) -> tuple[int, int, int]:
    """Where two rows begin and end to differ: first index, and the end in the old and in the new one."""
    low = _alike(old, new)
    back = _alike(old[low:][::-1], new[low:][::-1])
    return low, len(old) - back, len(new) - back


def _alike(one: Sequence[Hit], other: Sequence[Hit]) -> int:
    """How many of the first hits of two rows are the very same."""
    same = list(map(is_, one, other))
    return same.index(False) if False in same else len(same)


@dataclass(frozen=True)
class _Newcomers:
    """fresh: places in the new row of hits that are new or changed; left: keys of hits that are there no more."""

    fresh: list[int]
    left: set[int]


def _newcomers(old: Sequence[Hit], new: Sequence[Hit]) -> _Newcomers:
    """What is otherwise in a row of hits."""
    low, old_end, new_end = window(old, new)
    stayed = {id(h) for h in old[low:old_end]}
    here = {id(h) for h in new[low:new_end]}
    fresh = [i for i in range(low, new_end) if id(new[i]) not in stayed]
    return _Newcomers(fresh, {h.key for h in old[low:old_end] if id(h) not in here})


def _one_a_spot(old: Pattern, new: Pattern, found: _Newcomers) -> tuple[Pattern, int]:
    """Newcomers take the place of what their voice has on their spot; of two newcomers the harder stays."""
    fresh = found.fresh
    before = {h.key: h for h in old.hits} if len(fresh) > 64 else {h.key: h for h in _of_keys(old, new, fresh)}
    gone: set[int] = set()
    arrived = set(fresh)
    for i in fresh:
        h = new.hits[i]
        was = before.get(h.key)
        stays = was is not None and (was.position_ticks, was.voice, was.grace) == (h.position_ticks, h.voice, h.grace)
        if h.grace or stays:
            continue
        for j in new.between(h.position_ticks, h.position_ticks + 1):
            other = new.hits[j]
            if j == i or other.grace or other.voice != h.voice or j in gone:
                continue
            if j not in arrived or (other.velocity, -j) < (h.velocity, -i):
                gone.add(j)
    return (new.with_hits(gone, ()), len(gone)) if gone else (new, 0)


def _of_keys(old: Pattern, new: Pattern, fresh: list[int]) -> list[Hit]:
    """The hits that some of the new pattern were before: mostly they stand where they stood."""
    there = [old.hits[i] for i in fresh if i < len(old.hits) and old.hits[i].key == new.hits[i].key != 0]
    wanted = {new.hits[i].key for i in fresh} - {0} - {h.key for h in there}
    return there + [old.hits[i] for i in old.indices_of_keys(wanted)]


def _keyed(new: Pattern, found: _Newcomers, given: range) -> tuple[Pattern, int]:
    """New hits with keys of their own; a changed hit keeps the key of the one it was.

    `given` are keys that were handed out since the old pattern; who has one of them already went through here.
    """
    free = set(found.left)
    next_key = max(given.start, given.stop)
    gone: set[int] = set()
    named: list[Hit] = []
    handed: set[int] = set()
    for i in found.fresh:
        h = new.hits[i]
        if h.key in free:
            free.discard(h.key)
        elif h.key in given and h.key not in handed:
            handed.add(h.key)
        else:
            gone.add(i)
            named.append(h.moved(h.position_ticks, key=next_key))
            next_key += 1
    return (new.with_hits(gone, named), next_key) if gone else (new, next_key)
