"""What an edit of the unrolled groove means for the form.

A bar that was changed is changed in its part, and so wherever that part is played; variations of the part follow.
"""

from collections import Counter
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, replace

from ghoststep.music.form import Form, Part, Stretch
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.unrolled import bars_of, felt_by
from ghoststep.session.document.document import Document
from ghoststep.session.form.exact import Moves, exact, followed_by_singles, shifted, with_singles
from ghoststep.session.form.plain import plain
from ghoststep.session.form.reshaped import reshaped
from ghoststep.session.language.forms.settled import of_the_whole, with_passages, with_rules, with_tempo
from ghoststep.session.language.forms.unrolled_again import changed_ticks, hits_of, unrolled_again, with_keys_kept
from ghoststep.session.language.forms.variation import changes_between
from ghoststep.session.language.forms.words import Unfit, followed, song


@dataclass(frozen=True)
class _Touched:
    """A playing of a part in which something changed, and where it lies, in ticks."""

    stretch: Stretch
    start: int
    end: int

    @property
    def bars(self) -> range:
        """Its bars of the whole."""
        return range(self.stretch.first_bar, self.stretch.first_bar + self.stretch.bars)


def kept_in_form(before: Document, after: Document) -> tuple[str, Document]:
    """Words and document once the form says what the groove says."""
    form, old, new = after.form, before.groove.pattern, after.groove.pattern
    if form is None or form is not before.form:
        return "", after
    if new.bars != old.bars or new.frame != old.frame or _bars_moved(old, new):
        return _reshaped(form, before, after)
    words = ""
    if after.groove.feel != before.groove.feel:
        after = replace(after, groove=felt_by(form, after.groove))
    if after.groove.tempo != before.groove.tempo:
        words, form = with_tempo(form, after.groove)
        after = replace(after, form=form)
    if _frame_of_writing(old) != _frame_of_writing(new):
        said, after = _as_the_whole(form, before, after)
        return words + said, after
    if new is old:
        return words, after
    said, after = _hits_followed(form, before, after)
    return words + said, after


def _bars_moved(old: Pattern, new: Pattern) -> bool:
    """Whether all that is otherwise is that whole bars stand elsewhere."""
    if new.hits == old.hits or len(new.hits) != len(old.hits):
        return False
    was = {h.key: h for h in old.hits}
    moved = [(before, h) for h in new.hits if (before := was.get(h.key)) is None or before != h]
    bars: dict[int, set[int]] = {}
    for before, h in moved:
        if before is None or before.voice != h.voice or before.velocity != h.velocity:
            return False
        here, there = old.frame.spot_at(before.position_ticks), new.frame.spot_at(h.position_ticks)
        if here.tick != there.tick or here.bar == there.bar:
            return False
        bars.setdefault(here.bar, set()).add(there.bar)
    left = Counter(old.frame.spot_at(b.position_ticks).bar for b, _ in moved if b is not None)
    whole = all(len(to) == 1 for to in bars.values())
    return whole and all(_all_of(old, bar) == left[bar] for bar in bars)


def _all_of(pattern: Pattern, bar: int) -> int:
    return len(pattern.between(pattern.frame.start_of(bar), pattern.frame.start_of(bar + 1)))


def _frame_of_writing(pattern: Pattern) -> tuple[object, ...]:
    """What a part shares with the whole, beside its hits."""
    return pattern.rules, pattern.grid, pattern.lane_grids, pattern.passages


def _as_the_whole(form: Form, before: Document, after: Document) -> tuple[str, Document]:
    """Parts with the rules and grids that the whole was given; what they cannot say is said by single bars."""
    old, new = before.groove.pattern, after.groove.pattern
    form = with_rules(form, old, new)
    if new.passages != old.passages and new.passages:
        form = with_passages(form, after.groove)
    return "", _sung_as(form, after)


def _sung_as(form: Form, after: Document) -> Document:
    """The document with a form that, with its singles, comes to its groove hit for hit."""
    bare = song(replace(form, singles=()), after.groove)
    form = exact(form, bare, after.groove)
    groove = with_keys_kept(with_singles(bare, form.singles), after.groove)
    return replace(after, form=form, groove=groove)


def _reshaped(form: Form, before: Document, after: Document) -> tuple[str, Document]:
    """The form over other bars; it is let go where hardly a bar is what it was."""
    other = reshaped(form, before.groove.pattern, after.groove.pattern)
    other = of_the_whole(other, after.groove.pattern) if other is not None else None
    if other is None:
        groove = replace(after.groove, feels=())
        return "; the form is let go, since no bar is what it was", replace(after, form=None, groove=groove)
    words, other = with_tempo(other, after.groove)
    new = [name for name in (p.name for p in other.parts) if not form.has(name)]
    told = f"; {'a part' if len(new) == 1 else 'parts'} {', '.join(new)} for what is new" if new else ""
    return words + told, _sung_as(other, after)


def _hits_followed(form: Form, before: Document, after: Document) -> tuple[str, Document]:
    """Hits that were changed are changed in their part, and wherever that is played."""
    old, new = before.groove.pattern, after.groove.pattern
    touched = _touched(form, old, new)
    if not touched:
        return "", after
    edited = {bar for here in touched for bar in here.bars}
    if before.only_here:
        return _only_here(form.sectioned(), before, after, edited)
    told: list[str] = []
    told_before = form  # what a part was, whatever its base has become meanwhile
    moves: Moves = {}
    aside: set[int] = set()  # bars where strokes changed that no part has
    for here in _first_of_each(touched):
        stretch = here.stretch
        pattern = _own(old, new, here, told_before, moves)
        if pattern is None:
            aside.update(here.bars)
            continue
        part = _changed_part(form, form.part(stretch.part), pattern)
        form, more = followed(form.with_part(part), part.name)
        told += more
    if aside:
        return _only_here((before.form or form).sectioned(), before, after, edited)
    form = replace(form, singles=followed_by_singles(told_before, form, moves, edited))
    unfit: list[Unfit] = []
    groove = unrolled_again(told_before, old, form, after.groove, unfit)
    form, groove = _as_edited(form, groove, after.groove, edited)
    told += [f"{u.words} no longer fits, and is kept" for u in unfit]
    names = ", ".join(dict.fromkeys(s.stretch.part for s in touched))
    return "; ".join(["", f"in part {names}", *told]), replace(after, form=form, groove=groove)


def _as_edited(form: Form, sung: Groove, groove: Groove, edited: Collection[int]) -> tuple[Form, Groove]:
    """Form and groove with the edited bars just as they were edited: what the parts do not say are singles.

    sung: what the form comes to, its singles with it, with the names of hits kept.
    """
    if not form.singles and not _differ(sung.pattern, groove.pattern, edited):
        return form, sung
    bare = song(replace(form, singles=()), groove) if form.singles else sung
    form = exact(form, bare, groove, edited)
    return form, with_keys_kept(with_singles(bare, form.singles), groove)


def _differ(one: Pattern, other: Pattern, bars: Iterable[int]) -> bool:
    """Whether two patterns hold other hits in some bars."""
    for bar in bars:
        start, end = one.frame.start_of(bar), one.frame.start_of(bar + 1)
        if hits_of(one, start, end) != hits_of(other, start, end):
            here, there = ([plain(h) for h in hits_of(p, start, end)] for p in (one, other))
            if Counter(here) != Counter(there):
                return True
    return False


def _only_here(form: Form, before: Document, after: Document, edited: Collection[int]) -> tuple[str, Document]:
    """The changed bars as exceptions of their sections: otherwise each time the section is played, and nowhere else.

    What leads in, what a cue reaches, and what words cannot say is otherwise in its own bar alone.
    """
    old, new = before.groove.pattern, after.groove.pattern
    told: list[str] = []
    done: set[tuple[str, int]] = set()
    for played in form.passes:
        name = played.section.name
        for bar in range(played.first_bar, played.last_bar + 1):
            at = bar - played.body_bar + 1
            if bar not in edited or (at >= 1 and (name, at) in done):
                continue
            was, now = (bars_of(p, bar, bar) for p in (old, new))
            changes = changes_between(was, now)
            if at < 1 or not changes.exact or (played.cues and at == played.bars):
                told.append(f"only in bar {bar} of the whole")
                continue
            done.add((name, at))
            here = form.section(name)
            more = tuple((at, phrase) for phrase in changes.phrases)
            form = form.with_section(replace(here, exceptions=(*here.exceptions, *more)))
            told.append(f"only in bar {at} of {name}")
    bare = song(replace(form, singles=()), after.groove)
    form = exact(form, bare, after.groove, edited)
    groove = with_keys_kept(with_singles(bare, form.singles), after.groove)
    return "; ".join(["", *told]), replace(after, form=form, groove=groove)


def _touched(form: Form, old: Pattern, new: Pattern) -> list[_Touched]:
    """The playings whose bars are not what they were."""
    found: list[_Touched] = []
    first, last = changed_ticks(old, new)
    end = 0
    for stretch in form.stretches():
        start, end = end, end + form.part(stretch.part).pattern.length_ticks
        if end <= first or start > last:
            continue
        if hits_of(old, start, end) != hits_of(new, start, end):
            found.append(_Touched(stretch, start, end))
    return found


def _first_of_each(touched: Sequence[_Touched]) -> list[_Touched]:
    """The first playing of each part."""
    found: dict[str, _Touched] = {}
    for here in touched:
        found.setdefault(here.stretch.part, here)
    return list(found.values())


def _own(old: Pattern, new: Pattern, here: _Touched, form: Form, moves: Moves) -> Pattern | None:
    """The part with what changed in a playing of it; None where strokes changed that are not the part's own.

    What stands there as an exception of the section, or as a single, stays out of the part. `moves` gets where hits
    went.
    """
    part = form.part(here.stretch.part).pattern
    was, now = _as_the_part(old, new, here, form)
    for key, h in was.items():
        if key in now and (h.position_ticks, h.voice) != (now[key].position_ticks, now[key].voice):
            moves[h.position_ticks, h.voice] = (now[key].position_ticks, now[key].voice)
    before, after = Counter(was.values()), Counter(now.values())
    left = Counter(plain(h) for h in part.hits)
    gone, come = before - after, after - before
    if gone - left:
        return None
    left = left - gone
    stands = {(h.position_ticks, h.voice, h.grace) for h in left}
    if any((h.position_ticks, h.voice, h.grace) in stands for h in come):  # it is left out here as an exception
        return None
    left = left + come
    return replace(part, hits=tuple(left.elements()))


def _as_the_part(old: Pattern, new: Pattern, here: _Touched, form: Form) -> tuple[dict[int, Hit], dict[int, Hit]]:
    """The hits of a playing before and after, by their keys, as the part has them: what singles do to them undone.

    A hit of a single is that of the part on its spot, and an edit of it as much of an edit of the part's.
    """
    part = form.part(here.stretch.part).pattern
    apart = {(s.bar, s.tick, s.voice): s for s in form.singles if s.bar in here.bars}
    own: dict[tuple[int, str], list[Hit]] = {}
    for h in part.hits:
        own.setdefault((h.position_ticks, h.voice), []).append(plain(h))
    was: dict[int, Hit] = {}
    raw: dict[int, Hit] = {}
    nth: Counter[tuple[int, str]] = Counter()
    for h in hits_of(old, here.start, here.end):
        placed = _placed(h, here.start)
        spot = old.frame.spot_at(h.position_ticks)
        single = apart.get((spot.bar, spot.tick, h.voice))
        place = (placed.position_ticks, h.voice)
        mine = own.get(place, [])
        raw[h.key] = was[h.key] = placed
        if single is not None and len(mine) == len(single.hits):
            was[h.key] = mine[nth[place]]
            nth[place] += 1
    now: dict[int, Hit] = {}
    for k, h in enumerate(hits_of(new, here.start, here.end)):
        placed = _placed(h, here.start)
        if h.key in raw and raw[h.key] != was[h.key]:
            placed = shifted(was[h.key], raw[h.key], placed).moved(placed.position_ticks)
        now[h.key or -1 - k] = placed
    return was, now


def _placed(h: Hit, start: int) -> Hit:
    """A hit counted from the start of its part."""
    return plain(h).moved(h.position_ticks - start)


def _changed_part(form: Form, part: Part, pattern: Pattern) -> Part:
    """The part with another pattern; a variation keeps its base as long as the language can say the changes.

    What it says already stays where more behind it says as much in no more phrases: a fill stays one.
    """
    if not part.base:
        return replace(part, pattern=pattern)
    anew = changes_between(form.part(part.base).pattern, pattern)
    more = changes_between(part.pattern, pattern)
    found = [anew.phrases] if anew.exact else []
    found += [(*part.changes, *more.phrases)] if more.exact and not part.aside else []
    if not found:
        return Part(part.name, pattern)
    return replace(part, pattern=pattern, changes=min(found, key=len), aside=())


def sections_of(form: Form, bar: int) -> Sequence[Stretch]:
    """The playings of the part that a bar belongs to."""
    here = next((s for s in form.stretches() if s.first_bar <= bar < s.first_bar + s.bars), None)
    return [] if here is None else [s for s in form.stretches() if s.part == here.part]
