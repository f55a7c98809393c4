"""The form of a groove whose sections somebody marked: parts by its bars, sections where the marks are."""

import re
from collections.abc import Sequence
from dataclasses import replace

from ghoststep.judge.form_found import FoundForm, FoundSection, found_form, told_apart
from ghoststep.music.form import Form
from ghoststep.music.groove import Groove
from ghoststep.session.form.exact import exact
from ghoststep.session.language.forms.proposed import form_of, plays_in_a_row
from ghoststep.session.language.forms.words import song

_LEAD = "before "


def marked_form(groove: Groove, marks: Sequence[tuple[int, str]]) -> Form | None:
    """The form with a section from each mark, (bar, name), to the next; None where no mark lies in the groove.

    Marks of one name are one section where the same is played; "before NAME" leads into the section NAME.
    """
    bars = groove.pattern.bars
    rows = sorted({bar: name for bar, name in marks if 1 <= bar <= bars}.items())
    if not rows:
        return None
    if rows[0][0] > 1:
        rows.insert(0, (1, "start"))
    found = told_apart(found_form(groove), groove)
    letters = [found.letter_of(k) for k in range(1, bars + 1)]
    ends = [bar for bar, _ in rows[1:]] + [bars + 1]
    pieces = [(bar, name, tuple(letters[bar - 1 : end - 1])) for (bar, name), end in zip(rows, ends, strict=True)]
    form = _with_leads(found, groove, pieces)
    if form.bars != bars:  # what leads in does not do so each time
        form = form_of(FoundForm(found.parts, tuple(_named(pieces))), groove)
    return form


Piece = tuple[int, str, tuple[str, ...]]  # first bar, name, letters


def _named(pieces: Sequence[Piece]) -> list[FoundSection]:
    """Sections with names of their own where the letters are others."""
    known: dict[str, tuple[str, ...]] = {}
    out = []
    for bar, told, letters in pieces:
        name = plain = _plain(told)
        number = 1
        while known.setdefault(name, letters) != letters:
            number += 1
            name = f"{plain}-{number}"
        out.append(FoundSection(name, bar, letters))
    return out


def _with_leads(found: FoundForm, groove: Groove, pieces: Sequence[Piece]) -> Form:
    """The form in which what is marked "before NAME" leads into the section that follows."""
    leads: dict[int, tuple[str, ...]] = {}
    kept: list[Piece] = []
    for piece, following in zip(pieces, [*pieces[1:], None], strict=True):
        if following is not None and piece[1] == _LEAD + following[1]:
            leads[following[0]] = piece[2]
        else:
            kept.append(piece)
    sections = _named(kept)
    form = form_of(FoundForm(found.parts, tuple(sections)), groove, bare=True)
    for section in sections:
        if section.first_bar in leads:
            own = form.section(section.name)
            form = form.with_section(replace(own, before=plays_in_a_row(leads[section.first_bar])))
    return exact(form, song(form, groove), groove) if form.bars == groove.pattern.bars else form


def _plain(name: str) -> str:
    """A name that a section can have."""
    plain = re.sub(r"[^\w'.-]+", "-", name.strip(), flags=re.ASCII).strip("-'.")[:40]
    return plain if plain and plain[0].isalnum() else f"s-{plain}" if plain else "section"
