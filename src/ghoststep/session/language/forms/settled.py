"""What changes of the whole (rules, grids, tempo) mean for the parts and sections of a form.

Parts keep the rules and grids of the whole, so that a form read from its own text is the one in memory.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

from ghoststep.music.form import Form, Part, Stretch
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Pattern
from ghoststep.music.time import TempoMap
from ghoststep.music.unrolled import tempo_of, usual_bpm
from ghoststep.session.form.exact import pairs_of
from ghoststep.session.language.forms.variation import changes_between
from ghoststep.session.language.forms.words import varied

OWN_NOW = "; the tempi of its sections are the song's own now"


def with_tempo(form: Form, groove: Groove) -> tuple[str, Form]:
    """Words, and the form whose sections say the tempo that the groove has."""
    if all(s.tempo_bpm is None for s in form.sections) or tempo_of(form, groove.tempo) == groove.tempo:
        return "", form
    tempi = {s.name: s.tempo_bpm for s in form.sections}
    start_of = groove.pattern.frame.start_of
    for played in reversed(form.passes):
        if tempi.get(played.section.name) is not None:
            tempi[played.section.name] = groove.tempo.bpm_at(start_of(played.body_bar))
    other = replace(form, sections=tuple(replace(s, tempo_bpm=tempi[s.name]) for s in form.sections))
    if tempo_of(other, groove.tempo) == groove.tempo:
        return "", other
    return OWN_NOW, replace(form, sections=tuple(replace(s, tempo_bpm=None) for s in form.sections))


def moved_tempo(before: Form, form: Form, tempo: TempoMap) -> TempoMap:
    """The tempo of the whole once rows changed: what changed in a playing goes where the playing goes."""
    old, new = list(before.stretches()), list(form.stretches())
    if tempo.steady or [(s.part, s.section) for s in old] == [(s.part, s.section) for s in new]:
        return tempo
    was: dict[Stretch, tuple[int, int]] = {}
    start = 0
    tempi = {s.name: s.tempo_bpm for s in before.played}
    for stretch in old:
        end = start + before.part(stretch.part).pattern.length_ticks
        was[stretch] = (start, end)
        start = end
    usual = usual_bpm(before, tempo)
    source = {now: stretch for stretch, now in pairs_of(old, new)}
    parts: list[tuple[int, float, float]] = []
    start = 0
    for stretch in new:
        length = form.part(stretch.part).pattern.length_ticks
        here = source.get(stretch)
        if here is None or tempi[here.section] is not None:
            parts.append((start, usual, usual))
        else:
            parts += [(t + start, a, b) for t, a, b in tempo.cut(*was[here]) if t < length]
        start += length
    parts.append((start, parts[-1][2], parts[-1][2]))
    return TempoMap.of(parts)


def of_the_whole(form: Form, whole: Pattern) -> Form:
    """The form whose parts, those that are new with it, keep the rules and the lanes' grids of the whole."""
    parts = tuple(_of_the_whole(p, whole) for p in form.parts)
    if all(a is b for a, b in zip(parts, form.parts, strict=True)):
        return form if not (whole.rules.linear or whole.rules.cycles) else said_again(form)
    return said_again(replace(form, parts=parts))


def _of_the_whole(part: Part, whole: Pattern) -> Part:
    lane_grids = tuple(sorted({**dict(whole.lane_grids), **dict(part.pattern.lane_grids)}.items()))
    if part.pattern.rules == whole.rules and part.pattern.lane_grids == lane_grids:
        return part
    return replace(part, pattern=replace(part.pattern, rules=whole.rules, lane_grids=lane_grids))


def with_rules(form: Form, old: Pattern, new: Pattern) -> Form:
    """The form whose parts keep the rules and grids of the whole; variations say the same changes, or are free."""
    grid_for_all = new.grid != old.grid or (old.passages and not new.passages and not new.lane_grids)
    parts: dict[str, Part] = {}
    for part in _bases_first(form.parts):
        own = replace(part.pattern, rules=new.rules)
        if new.lane_grids != old.lane_grids or grid_for_all:
            own = replace(own, lane_grids=new.lane_grids)
        if grid_for_all:
            own = replace(own, grid=new.grid, passages=())
        parts[part.name] = (
            _said(parts[part.base], replace(part, pattern=own)) if part.base else replace(part, pattern=own)
        )
    return replace(form, parts=tuple(parts[p.name] for p in form.parts))


def _said(base: Part, part: Part) -> Part:
    """A variation whose changes lead from its base to what it is: as they are, worked out anew, or none."""
    again = varied(base, part.name, part.changes)
    if not again.aside and _same(again.pattern, part.pattern):
        return part
    changes = changes_between(base.pattern, part.pattern)
    if changes.exact:
        return replace(part, changes=changes.phrases)
    return Part(part.name, part.pattern)


def _same(one: Pattern, other: Pattern) -> bool:
    return one == other and Counter(one.hits) == Counter(other.hits)


def _bases_first(parts: Sequence[Part]) -> list[Part]:
    out: list[Part] = []
    left = list(parts)
    known = {""}
    while left:
        ready = [p for p in left if p.base in known]
        out += ready
        known |= {p.name for p in ready}
        left = [p for p in left if p.name not in known]
    return out


def said_again(form: Form) -> Form:
    """The form in which every variation is what its changes make of its base; where they do not, it says others."""
    parts: dict[str, Part] = {}
    for part in _bases_first(form.parts):
        parts[part.name] = _said(parts[part.base], part) if part.base else part
    return replace(form, parts=tuple(parts[p.name] for p in form.parts))


def with_passages(form: Form, groove: Groove) -> Form:
    """The form whose parts have the grids that single bars of the groove were given."""
    wanted, pattern = groove.pattern.passages, groove.pattern
    done: set[str] = set()
    start = 0
    for stretch in form.stretches():
        part = form.part(stretch.part)
        end = start + part.pattern.length_ticks
        if stretch.part not in done:
            here = tuple(
                replace(p, start_ticks=max(p.start_ticks, start) - start, end_ticks=min(p.end_ticks, end) - start)
                for p in wanted
                if p.start_ticks < end and p.end_ticks > start
            )
            own = replace(part.pattern, passages=here, grid=pattern.grid, lane_grids=pattern.lane_grids)
            if own.passages != part.pattern.passages:
                form = form.with_part(replace(part, pattern=own))
                done.add(stretch.part)
        start = end
    return said_again(form)
