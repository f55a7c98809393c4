"""A form unrolled to one pattern, and bars of a pattern as a pattern of their own."""

from dataclasses import replace

from ghoststep.music.feel import Feel
from ghoststep.music.form import Form
from ghoststep.music.frame import Bars
from ghoststep.music.groove import Groove
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.rules import GridPassage
from ghoststep.music.time import TempoMap


def unrolled(form: Form, head: Groove, laid: tuple[Hit, ...] | None = None) -> Groove:
    """The form as one groove: the parts one after another, with the feel, rules and tempo of `head`.

    A section's own tempo holds as long as it is played, and that of `head` elsewhere. `laid` are the hits, in order,
    where somebody has them already.
    """
    meters: dict[int, Meter] = {}
    own_meter = {s.name: s.meter for s in form.played}
    hits: list[Hit] = []
    passages: list[GridPassage] = []
    start = 0
    for stretch in form.stretches():
        pattern = form.part(stretch.part).pattern
        frame = pattern.frame
        for k in range(stretch.bars):
            meters[stretch.first_bar + k] = counted(frame.meter_of(k + 1), own_meter[stretch.section])
        end = start + pattern.length_ticks
        if laid is None:
            hits += [h.moved(h.position_ticks + start, key=0) for h in pattern.hits]
        passages += _passages(pattern, head.pattern, start, end)
        start = end
    bars = Bars.of(meters)
    pattern = replace(
        head.pattern, hits=(), meter=bars.first, meter_changes=bars.changes, bars=max(form.bars, 1),
        passages=tuple(passages),
    )  # fmt: skip
    pattern = pattern.in_order(tuple(hits) if laid is None else laid)
    return replace(head, pattern=pattern, tempo=tempo_of(form, head.tempo), feels=feels_of(form, head.feel))


def _passages(pattern: Pattern, head: Pattern, start: int, end: int) -> list[GridPassage]:
    """The grids of a part from a position to another, as far as they are not those of the whole."""
    out = [
        replace(p, start_ticks=p.start_ticks + start, end_ticks=min(p.end_ticks, pattern.length_ticks) + start)
        for p in pattern.passages
    ]
    if pattern.grid != head.grid:
        out.append(GridPassage(start, end, pattern.grid))
    own, usual = dict(pattern.lane_grids), dict(head.lane_grids)
    for name in sorted(own.keys() | usual.keys()):
        grid = own.get(name, pattern.grid)
        if grid != usual.get(name, pattern.grid):
            out.append(GridPassage(start, end, grid, (name,)))
    return out


def own_regions(form: Form) -> list[tuple[int, int, float | None]]:
    """From where to where (ticks) a tempo of a section's own holds, or (None) that of the whole; in order."""
    tempi = {s.name: s.tempo_bpm for s in form.played}
    out: list[tuple[int, int, float | None]] = []
    start = 0
    for stretch in form.stretches():
        end = start + form.part(stretch.part).pattern.length_ticks
        bpm = tempi[stretch.section]
        if out and out[-1][2] == bpm:
            out[-1] = (out[-1][0], end, bpm)
        else:
            out.append((start, end, bpm))
        start = end
    return out


def tempo_of(form: Form, head: TempoMap) -> TempoMap:
    """The tempo of the whole: that of `head`, but for sections that have their own."""
    if all(s.tempo_bpm is None for s in form.played):
        return head
    parts: list[tuple[int, float, float]] = []
    for start, end, bpm in own_regions(form):
        parts += [(start, bpm, bpm)] if bpm is not None else [(t + start, a, b) for t, a, b in head.cut(start, end)]
    return TempoMap.of(parts)


def head_tempo(form: Form, tempo: TempoMap) -> TempoMap:
    """The tempo of the whole without what its sections have of their own: `tempo_of` gives `tempo` back."""
    if all(s.tempo_bpm is None for s in form.played):
        return tempo
    usual = usual_bpm(form, tempo)
    parts = [(0, usual, usual)]
    for start, end, bpm in own_regions(form):
        if bpm is None:
            parts += [(t + start, a, b) for t, a, b in tempo.cut(start, end)]
            parts.append((end, parts[-1][2], parts[-1][2]))
    return TempoMap.of(parts)


def usual_bpm(form: Form, tempo: TempoMap) -> float:
    """The tempo where the first section without one of its own begins."""
    return next((tempo.bpm_at(start) for start, _, bpm in own_regions(form) if bpm is None), tempo.main_bpm)


def feels_of(form: Form, usual: Feel) -> tuple[tuple[int, Feel], ...]:
    """The bars from which another feel holds, where sections have feels of their own."""
    if all(s.feel is None for s in form.sections):
        return ()
    out: list[tuple[int, Feel]] = []
    now = usual
    for played in form.passes:
        feel = played.section.feel or usual
        if feel != now:
            out.append((played.first_bar, feel))
            now = feel
    return tuple(out)


def felt_by(form: Form | None, groove: Groove) -> Groove:
    """The groove with the feels that the sections of its form have."""
    return replace(groove, feels=feels_of(form, groove.feel)) if form is not None else groove


def counted(meter: Meter, section: Meter | None) -> Meter:
    """The meter of a bar in a section: the section's, where the bar is as long."""
    return section if section is not None and section.bar_ticks == meter.bar_ticks else meter


def bars_of(pattern: Pattern, first: int, last: int) -> Pattern:
    """Some bars of a pattern as a pattern of their own."""
    frame = pattern.frame
    start, end = frame.start_of(first), frame.start_of(last + 1)
    meters = Bars.of({k - first + 1: frame.meter_of(k) for k in range(first, last + 1)})
    inside = pattern.between(start, end)
    hits = tuple(pattern.hits[i].moved(pattern.hits[i].position_ticks - start) for i in inside)
    passages = tuple(
        replace(p, start_ticks=max(p.start_ticks, start) - start, end_ticks=min(p.end_ticks, end) - start)
        for p in pattern.passages
        if p.start_ticks < end and p.end_ticks > start
    )
    return replace(
        pattern, hits=hits, meter=meters.first, meter_changes=meters.changes, bars=last - first + 1, passages=passages
    )
