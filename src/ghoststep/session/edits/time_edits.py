"""Changes of time as such: bars, insertions, meter, grids, lanes that repeat, and parts turned round."""

from collections.abc import Sequence
from dataclasses import replace

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANES
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import MAX_BARS, Hit, Pattern
from ghoststep.music.rules import MAX_CYCLE_STEPS, GridPassage
from ghoststep.music.time import TICKS_PER_WHOLE, step_ticks
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit


def _shifted(passages: tuple[GridPassage, ...], at: int, by: int) -> tuple[GridPassage, ...]:
    """Passages with their own grid after time was put in (by > 0) or taken out at a position."""

    def moved(ticks: int) -> int:
        return ticks + by if by > 0 and ticks >= at else max(at, ticks + by) if ticks >= at else ticks

    found = [(moved(p.start_ticks), moved(p.end_ticks), p.grid) for p in passages]
    return tuple(GridPassage(a, b, grid) for a, b, grid in found if a < b)


def insert_time(document: Document, at: int, length: int) -> Edit:
    """Room from a position on; what follows moves later and bars are added where needed."""
    if length <= 0:
        raise InputError("There is nothing to insert.")
    pattern = document.groove.pattern
    hits = [h if h.position_ticks < at else replace(h, position_ticks=h.position_ticks + length) for h in pattern.hits]
    bar = pattern.meter.bar_ticks
    last = max((h.position_ticks for h in hits), default=0)
    # Whole bars always lengthen the groove; less than a bar only does where hits would fall off its end.
    bars = pattern.bars + length // bar if length % bar == 0 else max(pattern.bars, last // bar + 1)
    if bars > MAX_BARS:
        raise InputError(f"A groove has at most {MAX_BARS} bars.")
    passages = _shifted(pattern.passages, at, length)
    return f"{_span(length, pattern)} inserted", document.with_groove(hits=tuple(hits), bars=bars, passages=passages)


def delete_time(document: Document, at: int, length: int) -> Edit:
    """Take time out from a position on; what follows moves earlier. Whole bars shorten the groove."""
    if length <= 0:
        raise InputError("There is nothing to take out.")
    pattern = document.groove.pattern
    bar = pattern.meter.bar_ticks
    if at + length > pattern.length_ticks:
        raise InputError("That would reach past the end of the groove.")
    bars = pattern.bars - (length // bar if length % bar == 0 else 0)
    if bars < 1:
        raise InputError("A groove has at least one bar.")
    stay = [h for h in pattern.hits if h.position_ticks < at]
    later = [
        replace(h, position_ticks=h.position_ticks - length) for h in pattern.hits if h.position_ticks >= at + length
    ]
    passages = _shifted(pattern.passages, at, -length)
    return f"{_span(length, pattern)} taken out", document.with_groove(
        hits=(*stay, *later), bars=bars, passages=passages
    )


def _span(ticks: int, pattern: Pattern) -> str:
    from fractions import Fraction

    bars = Fraction(ticks, pattern.meter.bar_ticks)
    if bars.denominator == 1:
        return f"{bars} bar{'s' if bars != 1 else ''}"
    return f"{Fraction(ticks, TICKS_PER_WHOLE)} of a whole note"


def mirror(document: Document, hits: Sequence[Hit]) -> Edit:
    """The chosen hits backwards in time: the last comes first, between the same two spots."""
    if len({h.position_ticks for h in hits}) < 2:
        raise InputError("Choose hits on at least two spots to turn them round.")
    low, high = min(h.position_ticks for h in hits), max(h.position_ticks for h in hits)
    wanted = {id(h) for h in hits}
    pattern = document.groove.pattern
    gone = {i for i, h in enumerate(pattern.hits) if id(h) in wanted}
    new = [replace(h, position_ticks=low + high - h.position_ticks, origin=None) for h in hits]
    return f"{len(hits)} hits turned round", document.with_groove(pattern=pattern.with_hits(gone, new))


def set_meter(document: Document, meter: Meter) -> Edit:
    """Another meter over the same hits: bar lines move, hits stay where they sound."""
    pattern = document.groove.pattern
    if meter == pattern.meter:
        return str(meter), document
    last = max((h.position_ticks for h in pattern.hits), default=0)
    length = max(pattern.length_ticks, last + 1)
    bars = min(-(-length // meter.bar_ticks), MAX_BARS)
    return f"Meter {meter.full_name}", document.with_groove(meter=meter, bars=bars)


def set_grid(document: Document, grid: int, voices: Sequence[str] = (), bars: Sequence[int] = ()) -> Edit:
    """Another grid: for everything, for some voices, or for some bars."""
    step_ticks(grid)
    pattern = document.groove.pattern
    if voices and bars:
        raise InputError("Give a lane or bars their own grid, not both at once.")
    if voices:
        others = tuple(row for row in pattern.lane_grids if row[0] not in voices)
        own = tuple((name, grid) for name in voices if grid != pattern.grid)
        return f"Grid {grid} for {', '.join(voices)}", document.with_groove(lane_grids=tuple(sorted(others + own)))
    if bars:
        bar = pattern.meter.bar_ticks
        passages = pattern.passages
        for number in sorted(bars):
            passages = (
                *_cut(passages, (number - 1) * bar, number * bar),
                *_own((number - 1) * bar, bar, grid, pattern),
            )
        joined = tuple(sorted(passages, key=lambda p: p.start_ticks))
        return f"Grid {grid} in bar {', '.join(map(str, sorted(bars)))}", document.with_groove(passages=joined)
    return f"Grid {grid}", document.with_groove(grid=grid, passages=(), lane_grids=())


def _own(start: int, length: int, grid: int, pattern: Pattern) -> tuple[GridPassage, ...]:
    return () if grid == pattern.grid else (GridPassage(start, start + length, grid),)


def _cut(passages: tuple[GridPassage, ...], start: int, end: int) -> tuple[GridPassage, ...]:
    """Passages without what lies between two positions."""
    out = []
    for p in passages:
        for a, b in ((p.start_ticks, min(p.end_ticks, start)), (max(p.start_ticks, end), p.end_ticks)):
            if a < b:
                out.append(GridPassage(a, b, p.grid))
    return tuple(out)


def set_cycle(document: Document, lane: int, steps: int) -> Edit:
    """A lane that repeats after some steps of its grid, against the bar; 0 lets it run through again."""
    pattern = document.groove.pattern
    if not 0 <= steps <= MAX_CYCLE_STEPS:
        raise InputError(f"A lane repeats after 1 to {MAX_CYCLE_STEPS} steps, or 0 to run through.")
    ticks = steps * step_ticks(pattern.grid_at(LANES[lane].voices[0], 0))
    if ticks > pattern.length_ticks:
        raise InputError(f"{steps} steps are longer than the groove.")
    cycles = tuple(row for row in pattern.rules.cycles if row[0] != lane)
    if ticks:
        cycles = tuple(sorted((*cycles, (lane, ticks))))
    rules = replace(pattern.rules, cycles=cycles)
    words = f"{LANES[lane].label} repeats every {steps} step{'s' if steps != 1 else ''}"
    return words if steps else f"{LANES[lane].label} runs through", document.with_groove(rules=rules)


def set_rule(document: Document, **rules: bool) -> Edit:
    """Linear or not, ringing over the loop point or not."""
    new = replace(document.groove.pattern.rules, **rules)  # type: ignore[arg-type]
    if new == document.groove.pattern.rules:
        return "", document
    said = {
        ("linear", True): "Linear: no two limbs together",
        ("linear", False): "Limbs may strike together",
        ("ring_over", True): "Sounds ring over the loop point",
        ("ring_over", False): "Cymbals are choked at the loop point",
    }
    return said[next(iter(rules.items()))], document.with_groove(rules=new)
