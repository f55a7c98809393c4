"""Verbs that correct a form that was found: the same as another, not the same, a section begins here."""

from dataclasses import replace
from typing import Annotated

from ghoststep.music.errors import InputError
from ghoststep.music.form import Form, Part, Play, Section
from ghoststep.music.unrolled import bars_of
from ghoststep.session.form.plain import without_keys
from ghoststep.session.language.edit_context import Done, EditContext
from ghoststep.session.language.kinds import Amount, Number, Text
from ghoststep.session.language.verb import After, verb
from ghoststep.session.language.verbs.forming import done, name_of, the_form

_BAR = Number("a bar", low=1, high=4096, whole=True, signed=False, name="BAR")


def _rows(form: Form) -> list[tuple[Section, list[str], int]]:
    """Each section that is played, once: the section, its row, and the first bar where it is played."""
    out: list[tuple[Section, list[str], int]] = []
    for played in form.passes:
        if all(played.section.name != s.name for s, _, _ in out):
            out.append((played.section, list(played.section.row), played.body_bar))
    return out


def _plain(section: Section, row: list[str]) -> Section:
    """The section with another row; its endings are in the row."""
    return replace(section, plays=tuple(Play(name) for name in row), endings=())


@verb("same", "a part is the same as another: it is played in its place, and is gone", example="same C as B")
def _same(
    context: EditContext, name: Annotated[str, Text("NAME")], other: Annotated[str, After("as", Text("NAME"))]
) -> Done:
    form = the_form(context)
    part, kept = form.part(name), form.part(other)
    if name == other:
        raise InputError(f"{name} is the same as itself already.")
    if part.pattern.bars != kept.pattern.bars:
        raise InputError(f"{name} and {other} have not as many bars: they are not the same.")
    parts = []
    for p in form.parts:
        if p.name == name:
            continue
        base = p.base if p.base != name else ""  # what varied the part that goes is free
        parts.append(replace(p, base=base, changes=p.changes if base else (), aside=p.aside if base else ()))
    sections = tuple(
        replace(
            s,
            plays=tuple(replace(p, part=other) if p.part == name else p for p in s.plays),
            endings=tuple(tuple(replace(p, part=other) if p.part == name else p for p in e) for e in s.endings),
        )
        for s in form.sections
    )
    return done(context, f"{name} is the same as {other}", replace(form, parts=tuple(parts), sections=sections))


@verb(
    "not-same",
    "a bar is not the same as the others of its part: it becomes a part of its own",
    example="not-same 7 as D",
)
def _not_same(
    context: EditContext, bar: Annotated[Amount, _BAR], name: Annotated[str, After("as", Text("NAME"))]
) -> Done:
    form, name = the_form(context), name_of(name)
    if any(p.name == name for p in form.parts):
        raise InputError(f"There is a part {name} already: give this one another name.")
    stretch = next((s for s in form.stretches() if s.first_bar <= bar.value < s.first_bar + s.bars), None)
    if stretch is None:
        raise InputError(f"There is no bar {bar.value:g} in the form.")
    pattern = bars_of(context.document.groove.pattern, stretch.first_bar, stretch.first_bar + stretch.bars - 1)
    new = form.with_part(Part(name, without_keys(pattern)))
    for section, row, first in _rows(form):
        at = first
        for k, part in enumerate(row):
            if at == stretch.first_bar:
                row[k] = name
                return done(
                    context, f"Bar {bar.value:g} is {name}, and not {part}", new.with_section(_plain(section, row))
                )
            at += form.part(part).pattern.bars
    raise InputError(f"Bar {bar.value:g} is played by a section that is played before: say it there, or with 'but'.")


@verb(
    "begins",
    "a section begins at a bar, with a name; what was before it keeps the old one",
    example="begins 9 as chorus",
)
def _begins(
    context: EditContext, bar: Annotated[Amount, _BAR], name: Annotated[str, After("as", Text("NAME"))]
) -> Done:
    form, name = the_form(context), name_of(name)
    if any(s.name == name for s in form.sections):
        raise InputError(f"There is a section {name} already: give this one another name.")
    order, sections, cut = [], list(form.sections), False
    for played in form.passes:
        section, start = played.section, played.body_bar
        row = list(section.row)
        order.append(section.name)
        if cut or not start < bar.value <= played.last_bar:
            continue
        place, k = start, 0
        while place < bar.value:
            place, k = place + form.part(row[k]).pattern.bars, k + 1
        if place != bar.value:
            raise InputError(f"Bar {bar.value:g} lies inside the part {row[k - 1]}: a section begins with a part.")
        head = f"{section.name}-1" if form.played.count(section) > 1 else section.name
        if head != section.name and any(s.name == head for s in sections):
            raise InputError(f"There is a section {head} already: name the sections by hand.")
        order[-1:] = [head, name]
        first = replace(_plain(section, row[:k]), cues=())
        second = replace(_plain(section, row[k:]), name=name, exceptions=(), before=())
        sections = [s for s in sections if s.name != head or head != section.name]
        sections += [replace(first, name=head), second]
        cut = True
    if not cut:
        raise InputError(f"A section begins at bar {bar.value:g} already, or the form has no such bar.")
    used = set(order)
    kept = tuple(s for s in sections if s.name in used or s not in form.sections)
    return done(context, f"{name} begins at bar {bar.value:g}", replace(form, sections=kept, order=tuple(order)))
