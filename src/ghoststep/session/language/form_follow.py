"""What an edit of the unrolled groove means for the form.

A bar that was changed is changed in its part, and so wherever that part is played; variations of the part follow.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ghoststep.music.errors import InputError
from ghoststep.music.form import Form, Part, Stretch
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.unrolled import bars_of
from ghoststep.session.document.document import Document
from ghoststep.session.language.form_resung import changed_ticks, hits_of, resung, with_keys_kept
from ghoststep.session.language.form_words import followed, plain, song
from ghoststep.session.language.variation import changes_between


@dataclass(frozen=True)
class _Touched:
    """A playing of a part in which something changed, and where it lies, in ticks."""

    stretch: Stretch
    start: int
    end: int


def kept_in_form(before: Document, after: Document) -> tuple[str, Document]:
    """Words and document once the form says what the groove says.

    The form is let go where bars came or went, since no part says then what is played.
    """
    form, old, new = after.form, before.groove.pattern, after.groove.pattern
    if form is None or form is not before.form or new is old:
        return "", after
    if new.bars != old.bars or new.frame != old.frame:
        groove = replace(after.groove, feels=())
        return "; the form is let go, since bars came or went", replace(after, form=None, groove=groove)
    touched = _touched(form, old, new)
    if not touched:
        return "", after
    if before.only_here and form.sections:
        return _only_here(form, before, after)
    told: list[str] = []
    aside: list[Stretch] = []  # where strokes changed that no part has
    told_before = form  # what a part was, whatever its base has become meanwhile
    for here in touched:
        stretch = here.stretch
        pattern = _own(old, new, here, told_before)
        if pattern is None:
            aside.append(stretch)
            continue
        part = _changed_part(form, form.part(stretch.part), pattern)
        form, more = followed(form.with_part(part), part.name)
        told += more
    if aside:
        return _exceptions_too(form, before, after, aside)
    unfit: list[str] = []
    groove = resung(before.form or form, old, form, after.groove, unfit)
    told += [f"{words} no longer fits, and is kept" for words in unfit]
    names = ", ".join(dict.fromkeys(s.stretch.part for s in touched))
    return "; ".join(["", f"in part {names}", *told]), replace(after, form=form, groove=groove)


def _exceptions_too(form: Form, before: Document, after: Document, aside: Sequence[Stretch]) -> tuple[str, Document]:
    """Strokes that stand in a bar as an exception, changed: they are changed where they stand, and the parts stay."""
    if not form.sections:
        raise InputError("A stroke that no part has cannot be changed in one.")
    for stretch in aside:
        for played in form.passes:
            reached = (played.last_bar, played.last_bar + 1) if played.cues else ()
            if any(stretch.first_bar <= bar < stretch.first_bar + stretch.bars for bar in reached):
                raise InputError(
                    f"Bar {played.last_bar} has a cue of {played.section.name}: say it anew with 'cue "
                    f"{played.section.name} by …', or take it away with 'cue {played.section.name} by none'."
                )
    return _only_here(before.form or form, before, after)


def _only_here(form: Form, before: Document, after: Document) -> tuple[str, Document]:
    """The changed bars as exceptions of their sections: otherwise each time the section is played, and nowhere else."""
    old, new = before.groove.pattern, after.groove.pattern
    told: list[str] = []
    done: set[tuple[str, int]] = set()
    for played in form.passes:
        name = played.section.name
        for at in range(1, played.bars + 1):
            bar = played.body_bar + at - 1
            start, end = old.frame.start_of(bar), old.frame.start_of(bar + 1)
            if (name, at) in done or hits_of(old, start, end) == hits_of(new, start, end):
                continue
            done.add((name, at))
            was, now = (bars_of(p, bar, bar) for p in (old, new))
            changes = changes_between(was, now)
            if not changes.exact:
                raise InputError(f"What changed in bar {bar} cannot be said as an exception of {name}.")
            here = form.section(name)
            more = tuple((at, phrase) for phrase in changes.phrases)
            form = form.with_section(replace(here, exceptions=(*here.exceptions, *more)))
            told.append(f"only in bar {at} of {name}")
    if not told:
        raise InputError("What leads into a section has no exceptions: change it in its part (only-here off).")
    groove = with_keys_kept(song(form, after.groove), after.groove)
    return "; ".join(["", *told]), replace(after, form=form, groove=groove)


def _touched(form: Form, old: Pattern, new: Pattern) -> list[_Touched]:
    """The first playing of each part whose bars are not what they were."""
    found: dict[str, _Touched] = {}
    first, last = changed_ticks(old, new)
    end = 0
    for stretch in form.stretches():
        start, end = end, end + form.part(stretch.part).pattern.length_ticks
        if stretch.part in found or end <= first or start > last:
            continue
        if hits_of(old, start, end) != hits_of(new, start, end):
            found[stretch.part] = _Touched(stretch, start, end)
    return list(found.values())


def _own(old: Pattern, new: Pattern, here: _Touched, form: Form) -> Pattern | None:
    """The part with what changed in a playing of it; None where strokes changed that are not the part's own.

    What stands there as an exception of the section stays out of the part.
    """
    start = here.start
    was, now = (Counter(_placed(hits_of(p, start, here.end), start)) for p in (old, new))
    part = form.part(here.stretch.part).pattern
    left = Counter(plain(h) for h in part.hits)
    gone, come = was - now, now - was
    if gone - left:
        return None
    left = left - gone
    stands = {(h.position_ticks, h.voice, h.grace) for h in left}
    if any((h.position_ticks, h.voice, h.grace) in stands for h in come):  # it is left out here as an exception
        return None
    left = left + come
    return replace(part, hits=tuple(left.elements()))


def _placed(hits: Sequence[Hit], start: int) -> list[Hit]:
    """Hits counted from the start of their part."""
    return [replace(plain(h), position_ticks=h.position_ticks - start) for h in hits]


def _changed_part(form: Form, part: Part, pattern: Pattern) -> Part:
    """The part with another pattern; a variation keeps its base as long as the language can say the changes."""
    if part.base:
        changes = changes_between(form.part(part.base).pattern, pattern)
        if changes.exact:
            return replace(part, pattern=pattern, changes=changes.phrases, aside=())
        return Part(part.name, pattern)
    return replace(part, pattern=pattern)


def sections_of(form: Form, bar: int) -> Sequence[Stretch]:
    """The playings of the part that a bar belongs to."""
    here = next((s for s in form.stretches() if s.first_bar <= bar < s.first_bar + s.bars), None)
    return [] if here is None else [s for s in form.stretches() if s.part == here.part]
