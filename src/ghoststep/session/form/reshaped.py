"""A form after bars came, went, moved or got another meter: what is still there plays as it did.

Steps: (1) each bar of the new groove is matched to the bar of the old one that it is; (2) bars in a row that are the
whole of a part's playing are that part, others become parts of their own; (3) passes of sections that came through
whole stay, the others get a row of their own: the section's where it is played but once, else a new section's.
"""

from collections import Counter
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace
from itertools import groupby

from ghoststep.judge.form_found import letter
from ghoststep.music.form import EVERY_BAR, Form, Part, Pass, Play, Section
from ghoststep.music.pattern import Pattern
from ghoststep.music.unrolled import bars_of
from ghoststep.session.form.plain import without_keys


@dataclass(frozen=True)
class _Home:
    """Where an old bar was: its pass (from 0), its playing in that pass's row, its part, and its bar in it (from 0)."""

    number: int
    place: int
    part: str
    bar: int


@dataclass(frozen=True)
class _Piece:
    """A part as it is played now, and the pass (from 0) that it comes from."""

    part: str
    number: int
    home: _Home | None


def reshaped(form: Form, old: Pattern, new: Pattern) -> Form | None:
    """The form over the new bars; None where hardly anything is left of the old ones."""
    homes = _homes(form)
    source = _matched(old, new)
    if sum(k is not None for k in source) * 2 < min(new.bars, old.bars):
        return None
    pieces, form = _pieces(form, homes, source, new)
    return _with_rows(form, pieces)


def _homes(form: Form) -> list[_Home]:
    out = []
    for number, played in enumerate(form.passes):
        for place, name in enumerate(played.row):
            out += [_Home(number, place, name, k) for k in range(form.part(name).pattern.bars)]
    return out


def _sounds(pattern: Pattern) -> list[Hashable]:
    """Each bar as what it holds: its meter and its hits, however they are named."""
    out: list[Hashable] = []
    for _, start, meter in pattern.frame.between(0, pattern.length_ticks):
        inside = pattern.between(start, start + meter.bar_ticks)
        hits = pattern.hits[inside.start : inside.stop]
        own = frozenset((h.position_ticks - start, h.voice, h.velocity, h.role, h.stroke, h.offset_ms) for h in hits)
        out.append((meter, own))
    return out


def _matched(old: Pattern, new: Pattern) -> list[int | None]:
    """The old bar (from 0) that each new one is: by its hits where they are the same ones, else by what it holds.

    A row of bars that were copied is looked for as a whole, so that a section that is doubled is that section twice.
    """
    before, after = _sounds(old), _sounds(new)
    home = {h.key: old.frame.spot_at(h.position_ticks).bar - 1 for h in old.hits if h.key}
    source: list[int | None] = []
    for _, start, meter in new.frame.between(0, new.length_ticks):
        inside = new.between(start, start + meter.bar_ticks)
        homes = {home.get(new.hits[i].key) for i in inside}
        at = homes.pop() if len(homes) == 1 else None
        source.append(at if at is not None and before[at] == after[len(source)] else None)
    k = 0
    while k < len(source):
        end = k + 1
        if source[k] is None:
            while end < len(source) and source[end] is None:
                end += 1
            source[k:end] = _copied(before, after[k:end])
        k = end
    return source


def _copied(old: Sequence[Hashable], row: Sequence[Hashable]) -> list[int | None]:
    """The old bars that some bars in a row are copies of: those that stand in such a row, else each the first alike."""
    for start in range(len(old) - len(row) + 1):
        if list(old[start : start + len(row)]) == list(row):
            return list(range(start, start + len(row)))
    first: dict[Hashable, int] = {}
    for k, sound in enumerate(old):
        first.setdefault(sound, k)
    return [first.get(sound) for sound in row]


def _pieces(
    form: Form, homes: Sequence[_Home], source: Sequence[int | None], new: Pattern
) -> tuple[list[_Piece], Form]:
    """The parts that the new bars play, one after another; what is no whole part is one of its own."""
    out: list[_Piece] = []
    k, number = 0, 0
    while k < len(source):
        at = source[k]
        home = homes[at] if at is not None else None
        number = home.number if home else number
        length = form.part(home.part).pattern.bars if home and not home.bar else 0
        row = [source[k + i] if k + i < len(source) else None for i in range(length)]
        if home and at is not None and length and row == list(range(at, at + length)):
            out.append(_Piece(home.part, number, home))
            k += length
            continue
        form, name = _own_part(form, without_keys(bars_of(new, k + 1, k + 1)))
        out.append(_Piece(name, number, None))
        k += 1
    return out, form


def _own_part(form: Form, pattern: Pattern) -> tuple[Form, str]:
    """The form with a part of these bars, and its name: one that is there already, or a new one."""
    for part in form.parts:
        if part.pattern == pattern and part.pattern.hits == pattern.hits:
            return form, part.name
    name = free_name(form)
    return form.with_part(Part(name, pattern)), name


def free_name(form: Form) -> str:
    """The next letter that no part has."""
    return next(x for x in map(letter, range(9999)) if not form.has(x))


def _with_rows(form: Form, pieces: Sequence[_Piece]) -> Form:
    whole = form.sectioned()
    passes = whole.passes
    times = Counter(p.section.name for p in passes)
    sections, order = {s.name: s for s in whole.sections}, []
    for number, run in groupby(pieces, key=lambda p: p.number):
        row, played = list(run), passes[number]
        name = played.section.name
        if again := _whole_times(row, played):
            order += [name] * again
            continue
        if times[name] > 1 or name in order:
            name = next(n for n in (f"{name}-{k}" for k in range(2, 99_999)) if n not in sections)
        sections[name] = _section(form, played, row, name)
        order.append(name)
    gone = {p.section.name for p in passes} - set(order)
    kept = [s for s in sections.values() if s.name not in gone]
    kept = [replace(s, cues=tuple(c for c in s.cues if c[0] not in gone)) for s in kept]
    return replace(form, sections=tuple(kept), order=tuple(order), singles=())


def _whole_times(row: Sequence[_Piece], played: Pass) -> int:
    """How often a row is all of a pass, one after the other; 0 where it is something else."""
    places = [p.home.place if p.home else -1 for p in row]
    lead = len(played.lead)
    first, again = list(range(len(played.row))), list(range(lead, len(played.row)))
    count = 1 + (len(places) - len(first)) // len(again)
    return count if places == first + again * (count - 1) else 0


def _section(form: Form, played: Pass, row: Sequence[_Piece], name: str) -> Section:
    """A section for a row that is not what its pass was, with what led in, exceptions and cues where they still fit."""
    old, lead = played.section, len(played.lead)
    led = lead and [p.home.place if p.home else -1 for p in row[:lead]] == list(range(lead)) and len(row) > lead
    body = row[lead:] if led else row
    last = body[-1].home
    ends = last is not None and last.place == len(played.row) - 1
    return replace(
        old,
        name=name,
        plays=tuple(Play(part, len(list(same))) for part, same in groupby(p.part for p in body)),
        endings=(),
        before=old.before if led else (),
        cues=old.cues if ends else (),
        exceptions=_exceptions(form, played, body),
    )


def _exceptions(form: Form, played: Pass, body: Sequence[_Piece]) -> tuple[tuple[int, str], ...]:
    """The exceptions of a section, in the bars to which the playings went that have them."""
    starts, bar = [], 1
    for name in played.section.row:
        starts.append(bar)
        bar += form.part(name).pattern.bars
    out, bar = [e for e in played.section.exceptions if e[0] == EVERY_BAR], 1
    for piece in body:
        length = form.part(piece.part).pattern.bars
        place = piece.home.place - len(played.lead) if piece.home else -1
        if place >= 0:
            first = starts[place]
            out += [(bar + at - first, p) for at, p in played.section.exceptions if first <= at < first + length]
        bar += length
    return tuple(out)
