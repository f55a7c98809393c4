"""The row of a section edited: a part put in, taken out, moved; exceptions stay with the playing they are meant for."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import groupby

from ghoststep.music.errors import InputError
from ghoststep.music.form import EVERY_BAR, Form, Play, Section


@dataclass(frozen=True)
class _Entry:
    """A part as it stands in the body of a section or in one of its endings; `own` tells it from its equals."""

    own: int
    part: str


_Lists = list[list[_Entry]]  # the body, then the endings


def inserted(form: Form, name: str, at: int, part: str) -> Section:
    """The section with a part put before its nth playing (from 0; behind the last where `at` is its length).

    Raises
    ------
    InputError
        Where there is no such part or no such place.
    """
    form.part(part)
    section = form.section(name)
    lists = _lists(section)
    row, offset = _place(lists, section, min(at, len(section.row) - 1))
    lists[row].insert(offset + (at >= len(section.row)), _Entry(-1, part))
    return _with(form, section, lists)


def taken_out(form: Form, name: str, at: int) -> Section:
    """The section without its nth playing (from 0); in the body of endings it goes from every pass.

    Raises
    ------
    InputError
        Where the body or an ending would play nothing.
    """
    section = form.section(name)
    lists = _lists(section)
    row, offset = _place(lists, section, at)
    del lists[row][offset]
    if not lists[0] or not all(lists):
        raise InputError("A section plays at least one part, and so does each of its endings.")
    return _with(form, section, lists)


def shifted(form: Form, name: str, at: int, to: int) -> Section:
    """The section with its nth playing moved to another place of its row (both from 0).

    Raises
    ------
    InputError
        Where the body or an ending would play nothing.
    """
    section = form.section(name)
    lists = _lists(section)
    row, offset = _place(lists, section, at)
    goal, there = _place(lists, section, to)
    if row != goal and len(lists[row]) == 1:
        raise InputError("A section plays at least one part, and so does each of its endings.")
    lists[goal].insert(there, lists[row].pop(offset))
    return _with(form, section, lists)


def put(form: Form, name: str, at: int, parts: Sequence[str]) -> Section:
    """The section with its nth playing (from 0) given over to some parts, one after another."""
    section = form.section(name)
    lists = _lists(section)
    row, offset = _place(lists, section, at)
    first, *more = parts
    lists[row][offset : offset + 1] = [
        replace(lists[row][offset], part=first), *(_Entry(-1 - k, p) for k, p in enumerate(more))
    ]  # fmt: skip
    return _with(form, section, lists)


def _lists(section: Section) -> _Lists:
    out: _Lists = []
    own = 0
    for plays in (section.plays, *section.endings):
        entries = []
        for name in (p.part for p in plays for _ in range(p.times)):
            entries.append(_Entry(own, name))
            own += 1
        out.append(entries)
    return out


def _row(lists: _Lists) -> list[tuple[int, int, int, _Entry]]:
    """What is played: (pass, list, place in the list, entry)."""
    body, *endings = lists
    out = []
    for k, ending in enumerate(endings or [[]]):
        out += [(k, 0, i, e) for i, e in enumerate(body)] + [(k, k + 1, i, e) for i, e in enumerate(ending)]
    return out


def _place(lists: _Lists, section: Section, at: int) -> tuple[int, int]:
    """The list and the place in it of the nth playing."""
    row = _row(lists)
    if not 0 <= at < len(row):
        raise InputError(f"The section {section.name} plays {len(row)} parts: there is no place {at + 1}.")
    return row[at][1], row[at][2]


def _with(form: Form, section: Section, lists: _Lists) -> Section:
    """The section with other lists; exceptions go where their playing went, and go with it."""
    before, after = _starts(form, _lists(section)), _starts(form, lists)
    exceptions = []
    for bar, phrase in section.exceptions:
        if bar == EVERY_BAR:
            exceptions.append((bar, phrase))
            continue
        key, start = max((item for item in before.items() if item[1] <= bar), key=lambda item: item[1])
        if key in after:
            exceptions.append((after[key] + bar - start, phrase))
    body, *endings = ([Play(part, len(list(same))) for part, same in groupby(e.part for e in row)] for row in lists)
    return replace(section, plays=tuple(body), endings=tuple(map(tuple, endings)), exceptions=tuple(exceptions))


def _starts(form: Form, lists: _Lists) -> dict[tuple[int, int], int]:
    """The bar of the section on which each playing begins, by (pass, entry)."""
    out, bar = {}, 1
    for number, _, _, entry in _row(lists):
        out[number, entry.own] = bar
        bar += form.part(entry.part).pattern.bars
    return out
