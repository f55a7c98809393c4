"""What an edit of the unrolled groove means for the form.

A bar that was changed is changed in its part, and so wherever that part is played; variations of the part follow.
"""

from collections.abc import Sequence
from dataclasses import replace

from ghoststep.music.errors import InputError
from ghoststep.music.form import Form, Part, Stretch, bars_of
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.session.document.document import Document
from ghoststep.session.language.form_words import followed, song, without_keys
from ghoststep.session.language.variation import changes_between


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
    for stretch in touched:
        part = _changed_part(form, form.part(stretch.part), _own(new, stretch, form))
        form, more = followed(form.with_part(part), part.name)
        told += more
    unfit: list[str] = []
    groove = _with_keys_kept(song(form, after.groove, unfit), after.groove)
    told += [f"{words} no longer fits, and is kept" for words in unfit]
    names = ", ".join(dict.fromkeys(s.part for s in touched))
    return "; ".join(["", f"in part {names}", *told]), replace(after, form=form, groove=groove)


def _only_here(form: Form, before: Document, after: Document) -> tuple[str, Document]:
    """The changed bars as exceptions of their sections: otherwise each time the section is played, and nowhere else."""
    old, new = before.groove.pattern, after.groove.pattern
    bar, told = 1, []
    done: set[tuple[str, int]] = set()
    for section in form.played:
        bars = sum(form.part(name).pattern.bars for name in section.row)
        for at in range(1, bars + 1):
            was, now = (bars_of(p, bar + at - 1, bar + at - 1) for p in (old, new))
            if (section.name, at) in done or was.hits == now.hits:
                continue
            done.add((section.name, at))
            changes = changes_between(was, now)
            if not changes.exact:
                raise InputError(
                    f"What changed in bar {bar + at - 1} cannot be said as an exception of {section.name}."
                )
            here = form.section(section.name)
            more = tuple((at, phrase) for phrase in changes.phrases)
            form = form.with_section(replace(here, exceptions=(*here.exceptions, *more)))
            told.append(f"only in bar {at} of {section.name}")
        bar += bars
    groove = _with_keys_kept(song(form, after.groove), after.groove)
    return "; ".join(["", *told]), replace(after, form=form, groove=groove)


def _touched(form: Form, old: Pattern, new: Pattern) -> list[Stretch]:
    """The first playing of each part whose bars are not what they were."""
    found: dict[str, Stretch] = {}
    for stretch in form.stretches():
        if stretch.part not in found and _hits(old, stretch) != _hits(new, stretch):
            found[stretch.part] = stretch
    return list(found.values())


def _hits(pattern: Pattern, stretch: Stretch) -> tuple[Hit, ...]:
    start = pattern.frame.start_of(stretch.first_bar)
    inside = pattern.between(start, pattern.frame.start_of(stretch.first_bar + stretch.bars))
    return pattern.hits[inside.start : inside.stop]


def _own(pattern: Pattern, stretch: Stretch, form: Form) -> Pattern:
    """What a playing of a part plays now, as the part's own pattern."""
    bars = bars_of(pattern, stretch.first_bar, stretch.first_bar + stretch.bars - 1)
    part = form.part(stretch.part).pattern
    return replace(without_keys(bars), grid=part.grid, passages=part.passages, rules=part.rules)


def _changed_part(form: Form, part: Part, pattern: Pattern) -> Part:
    """The part with another pattern; a variation keeps its base as long as the language can say the changes."""
    if part.base:
        changes = changes_between(form.part(part.base).pattern, pattern)
        if changes.exact:
            return replace(part, pattern=pattern, changes=changes.phrases, aside=())
        return Part(part.name, pattern)
    return replace(part, pattern=pattern)


def _with_keys_kept(new: Groove, old: Groove) -> Groove:
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
    if replace(old, key=0, origin=None) == h:
        return old
    return replace(h, key=old.key)


def sections_of(form: Form, bar: int) -> Sequence[Stretch]:
    """The playings of the part that a bar belongs to."""
    here = next((s for s in form.stretches() if s.first_bar <= bar < s.first_bar + s.bars), None)
    return [] if here is None else [s for s in form.stretches() if s.part == here.part]
