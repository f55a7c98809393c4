"""Bars of a groove become a part with a name; what is around them stays, as parts of its own."""

from collections.abc import Sequence
from dataclasses import replace

from ghoststep.music.errors import InputError
from ghoststep.music.form import WHOLE, Form, Part, Pass, Play, Section
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Pattern
from ghoststep.music.unrolled import bars_of
from ghoststep.session.form.plain import without_keys
from ghoststep.session.form.reshaped import free_name


def named(form: Form | None, groove: Groove, name: str, first: int, last: int) -> Form:
    """The form in which bars `first` to `last` are the part `name`, and every bar is still played.

    Without a form the part is played wherever the groove has the same bars, and what lies between is parts of its own.

    Raises
    ------
    InputError
        Where the bars reach over the border of a section, or the name is that of a part that is played elsewhere.
    """
    own = without_keys(bars_of(groove.pattern, first, last))
    if form is None:
        return _of_bars(groove.pattern, name, own, first)
    whole = form.sectioned()
    played = next((p for p in whole.passes if p.body_bar <= first and last <= p.last_bar), None)
    if played is None:
        raise InputError(f"Bars {first}-{last} reach over the border of a section: name the bars of each.")
    cut = _Row(whole, name)
    row = cut.around(played, first - played.body_bar, last - played.body_bar)
    section = _with_row(played.section, row, first - played.body_bar + 1, last - played.body_bar + 1)
    new = cut.form.with_section(section) if whole.sections else Form(cut.form.parts, (section,), (section.name,))
    _check_elsewhere(form, new, name, own)
    parts = [replace(p, base="", changes=(), aside=()) if p.base == name else p for p in new.parts if p.name != name]
    at = next((k for k, p in enumerate(new.parts) if p.name == name), len(parts))
    new = replace(new, parts=(*parts[:at], Part(name, own), *parts[at:]))
    played_once = not whole.sections and len(set(row)) == len(row) == len(new.parts)
    return Form(tuple(new.part(x) for x in row)) if played_once else new


def _with_row(section: Section, row: Sequence[str], first: int, last: int) -> Section:
    """The section with another row; what was an exception in the named bars is in the part now."""
    kept = tuple(e for e in section.exceptions if not first <= e[0] <= last)
    return replace(section, plays=tuple(Play(x) for x in row), endings=(), exceptions=kept)


def _check_elsewhere(form: Form, new: Form, name: str, own: Pattern) -> None:
    """An InputError where another part of that name is still played somewhere."""
    if not form.has(name):
        return
    before = form.part(name).pattern
    if (before.hits, before.bars, before.frame) == (own.hits, own.bars, own.frame):  # empty bars behind count as well
        return
    often = sum(s.part == name for s in new.stretches())
    if often > 1:
        raise InputError(f"There is a part {name} already, which is played elsewhere: give this one another name.")


class _Row:
    """A section's row with some bars of it given over to a part; pieces that are left over become parts."""

    def __init__(self, form: Form, name: str) -> None:
        self.form = form if form.has(name) else form.with_part(Part(name, Pattern()))
        self._name = name

    def around(self, played: Pass, first: int, last: int) -> list[str]:
        """The row with the part instead of the bars `first` to `last` of the section (from 0)."""
        row: list[str] = []
        bar = 0
        for part in played.section.row:
            pattern = self.form.part(part).pattern
            end = bar + pattern.bars
            if end <= first or bar > last:
                row.append(part)
            else:
                row += self._piece(pattern, bar, bar, first)
                if bar <= first:
                    row.append(self._name)
                row += self._piece(pattern, bar, last + 1, end)
            bar = end
        return row

    def _piece(self, pattern: Pattern, at: int, start: int, end: int) -> list[str]:
        """A new part of the bars from `start` to `end` of the section (without), of a part that begins at `at`."""
        if start >= end:
            return []
        piece = free_name(self.form)
        own = bars_of(pattern, start - at + 1, end - at)
        self.form = self.form.with_part(Part(piece, own))
        return [piece]


def _of_bars(pattern: Pattern, name: str, own: Pattern, first: int) -> Form:
    """A first form: the part wherever its bars come, the stretches between as parts in letters."""
    form = Form((Part(name, own),))
    row: list[str] = []
    bar, rest = 1, 1
    found: list[tuple[int, int, bool]] = []  # first bar, last bar, whether it is the part
    while bar <= pattern.bars:
        here = bar == first or (bar + own.bars - 1 <= pattern.bars and not bar < first < bar + own.bars and (
            without_keys(bars_of(pattern, bar, bar + own.bars - 1)) == own
        ))  # fmt: skip
        if here:
            found += [(rest, bar - 1, False)] * (rest < bar) + [(bar, bar + own.bars - 1, True)]
            bar = rest = bar + own.bars
        else:
            bar += 1
    found += [(rest, pattern.bars, False)] * (rest <= pattern.bars)
    for start, end, is_it in found:
        if is_it:
            row.append(name)
            continue
        between = without_keys(bars_of(pattern, start, end))
        known = next((p.name for p in form.parts if p.name != name and p.pattern == between), None)
        if known is None:
            known = free_name(form)
            form = form.with_part(Part(known, between))
        row.append(known)
    if len(row) == len(set(row)):
        return Form(tuple(form.part(x) for x in row))
    return replace(form, sections=(Section(WHOLE, tuple(Play(x) for x in row)),), order=(WHOLE,))
