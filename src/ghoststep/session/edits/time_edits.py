"""Changes of time as such: bars, insertions, meters, tempo, grids, lanes that repeat, and parts turned round.

Where bars or time come and go, everything that stands in them goes along: hits, grids, meters and tempo.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from ghoststep.music.errors import InputError
from ghoststep.music.frame import Bars
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANES
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import MAX_BARS, Hit, Pattern, copy_of
from ghoststep.music.rules import MAX_CYCLE_STEPS, GridPassage
from ghoststep.music.time import TICKS_PER_WHOLE, TempoMap, checked_tempo_bpm, step_ticks
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.words import count, these


@dataclass(frozen=True)
class Stretch:
    """Some bars with all that stands in them, counted from their first bar line."""

    hits: tuple[Hit, ...]
    passages: tuple[GridPassage, ...]
    meters: tuple[Meter, ...]
    tempo: TempoMap
    length_ticks: int


def _checked_bars(pattern: Pattern, first: int, last: int) -> tuple[int, int]:
    """The positions where bars `first` to `last` begin and end; an InputError where they are not all there."""
    for bar in (first, last):
        if not 1 <= bar <= pattern.bars:
            raise InputError(f"There is no bar {bar}: this groove has {pattern.bars}.")
    if last < first:
        raise InputError(f"Bars {first}-{last} end before they begin.")
    return pattern.frame.start_of(first), pattern.frame.start_of(last + 1)


def stretch_of(groove: Groove, first: int, last: int) -> Stretch:
    """Bars `first` to `last` as something that can be put in elsewhere; its hits are new ones."""
    pattern = groove.pattern
    start, end = _checked_bars(pattern, first, last)
    hits = tuple(
        copy_of(pattern.hits[i], position_ticks=pattern.hits[i].position_ticks - start)
        for i in pattern.between(start, end)
    )
    passages = tuple(
        replace(p, start_ticks=max(p.start_ticks, start) - start, end_ticks=min(p.end_ticks, end) - start)
        for p in pattern.passages
        if p.start_ticks < end and p.end_ticks > start
    )
    meters = tuple(pattern.frame.meter_of(bar) for bar in range(first, last + 1))
    tempo = groove.tempo.spliced(0, start, 0)
    return Stretch(hits, passages, meters, tempo, end - start)


def _spliced(groove: Groove, at: int, gone: int, new: int, frame: Bars, bars: int, inside: Stretch | None) -> Groove:
    """`gone` ticks from a position on taken out with all in them, `new` ticks put in there, empty or filled."""
    if not 1 <= bars <= MAX_BARS:
        raise InputError(f"A groove has 1 to {MAX_BARS} bars, not {bars}.")
    pattern = groove.pattern
    hits = [
        h if h.position_ticks < at else replace(h, position_ticks=h.position_ticks - gone + new)
        for h in pattern.hits
        if not at <= h.position_ticks < at + gone
    ]
    passages = [p for q in pattern.passages for p in _moved(q, at, gone, new)]
    if inside is not None:
        hits += [replace(h, position_ticks=h.position_ticks + at) for h in inside.hits]
        passages += [replace(p, start_ticks=p.start_ticks + at, end_ticks=p.end_ticks + at) for p in inside.passages]
    end = frame.start_of(bars + 1)
    return groove.changed(
        pattern=pattern.with_frame(
            frame,
            bars=bars,
            hits=tuple(h for h in hits if h.position_ticks < end),
            passages=joined(p for p in passages if p.start_ticks < end),
        ),
        tempo=groove.tempo.spliced(at, gone, new, inside.tempo if inside else None),
    )


def _moved(p: GridPassage, at: int, gone: int, new: int) -> list[GridPassage]:
    """A passage after time was taken out and put in; what is put in inside it parts it."""

    def behind(ticks: int) -> int:
        return max(ticks - gone, at) + new

    if p.end_ticks <= at:
        return [p]
    if p.start_ticks >= at:
        return _real(p, behind(p.start_ticks), behind(p.end_ticks))
    return [*_real(p, p.start_ticks, at), *_real(p, at + new, behind(p.end_ticks))]


def _real(p: GridPassage, start: int, end: int) -> list[GridPassage]:
    return [replace(p, start_ticks=start, end_ticks=end)] if start < end else []


def joined(passages: Iterable[GridPassage]) -> tuple[GridPassage, ...]:
    """In order, neighbours of one grid as one."""
    out: list[GridPassage] = []
    for p in sorted(passages, key=lambda p: (p.voices, p.start_ticks)):
        last = out[-1] if out else None
        if last is not None and (last.end_ticks, last.grid, last.voices) == (p.start_ticks, p.grid, p.voices):
            out[-1] = replace(last, end_ticks=p.end_ticks)
        else:
            out.append(p)
    return tuple(sorted(out, key=lambda p: (p.start_ticks, p.voices)))


# -- bars -------------------------------------------------------------------------------------------------------


def insert_bars(document: Document, before: int, inside: Stretch, words: str) -> Edit:
    """Bars put in before a bar (one past the last: at the end)."""
    pattern = document.groove.pattern
    at = pattern.frame.start_of(before)
    frame = pattern.frame.inserted(before, inside.meters)
    groove = _spliced(document.groove, at, 0, inside.length_ticks, frame, pattern.bars + len(inside.meters), inside)
    return words, replace(document, groove=groove)


def double_bars(document: Document, first: int, last: int) -> Edit:
    """The same bars once more behind them; what follows moves on."""
    inside = stretch_of(document.groove, first, last)
    return insert_bars(document, last + 1, inside, f"{these('bar', range(first, last + 1))} doubled")


def delete_bars(document: Document, first: int, last: int) -> Edit:
    """Take bars out; what follows moves up.

    Raises
    ------
    InputError
        Where no bar would be left, or there is no such bar.
    """
    pattern = document.groove.pattern
    start, end = _checked_bars(pattern, first, last)
    if last - first + 1 == pattern.bars:
        raise InputError("A groove has at least one bar.")
    frame = pattern.frame.deleted(first, last)
    groove = _spliced(document.groove, start, end - start, 0, frame, pattern.bars - (last - first + 1), None)
    return f"{these('bar', range(first, last + 1))} taken out", replace(document, groove=groove)


def move_bars(document: Document, first: int, last: int, before: int) -> Edit:
    """Bars to another place: before a bar, or (one past the last) to the end.

    Raises
    ------
    InputError
        Where there is no such place.
    """
    pattern = document.groove.pattern
    _checked_bars(pattern, first, last)
    size = last - first + 1
    if not 1 <= before <= pattern.bars + 1:
        raise InputError(f"There is no place before bar {before}: this groove has {pattern.bars} bars.")
    if first <= before <= last + 1:
        return "The bars stand there already", document
    start, end = _checked_bars(pattern, first, last)
    own = stretch_of(document.groove, first, last)
    kept = tuple(
        replace(pattern.hits[i], position_ticks=pattern.hits[i].position_ticks - start)
        for i in pattern.between(start, end)
    )
    words = f"{these('bar', range(first, last + 1))} moved before bar {before}"
    if size == pattern.bars:
        return words, document
    _, rest = delete_bars(document, first, last)
    return insert_bars(rest, before if before < first else before - size, replace(own, hits=kept), words)


def set_bars(document: Document, bars: int) -> Edit:
    """Longer (with empty bars) or shorter; hits in bars that go are dropped.

    Raises
    ------
    InputError
        Where a pattern cannot hold so many.
    """
    pattern = document.groove.pattern
    if not 1 <= bars <= MAX_BARS:
        raise InputError(f"A groove has 1 to {MAX_BARS} bars, not {bars}.")
    end = pattern.frame.start_of(bars + 1)
    keep = tuple(h for h in pattern.hits if h.position_ticks < end)
    passages = tuple(replace(p, end_ticks=min(p.end_ticks, end)) for p in pattern.passages if p.start_ticks < end)
    return count(bars, "bar"), document.with_groove(hits=keep, bars=bars, passages=passages)


# -- time -------------------------------------------------------------------------------------------------------


def insert_time(document: Document, at: int, length: int) -> Edit:
    """Room from a position on; what follows moves later and bars are added where needed.

    Whole bars on a bar line are bars of that place's meter. Less than that keeps the bar lines where they are, and
    lengthens the groove only where hits would fall off its end.

    Raises
    ------
    InputError
        Where there is nothing to insert.
    """
    if length <= 0:
        raise InputError("There is nothing to insert.")
    pattern = document.groove.pattern
    spot, meter = pattern.frame.spot_at(at), pattern.frame.meter_at(at)
    whole = length // meter.bar_ticks if length % meter.bar_ticks == 0 else 0
    frame, bars = pattern.frame, pattern.bars
    if whole and not spot.tick:
        frame, bars = frame.inserted(spot.bar, (meter,) * whole), bars + whole
    elif whole and not frame.changes:
        bars += whole
    else:
        last = max((h.position_ticks + length for h in pattern.hits if h.position_ticks >= at), default=0)
        bars = max(bars, frame.spot_at(last).bar)
    groove = _spliced(document.groove, at, 0, length, frame, bars, None)
    return f"{_span(length, meter)} inserted", replace(document, groove=groove)


def delete_time(document: Document, at: int, length: int) -> Edit:
    """Take time out from a position on; what follows moves earlier. Whole bars shorten the groove.

    Raises
    ------
    InputError
        Where it reaches past the end, or no bar would be left.
    """
    if length <= 0:
        raise InputError("There is nothing to take out.")
    pattern = document.groove.pattern
    if at + length > pattern.length_ticks:
        raise InputError("That would reach past the end of the groove.")
    frame, bars, meter = pattern.frame, pattern.bars, pattern.frame.meter_at(at)
    first, behind = frame.spot_at(at), frame.spot_at(at + length)
    if not first.tick and not behind.tick:
        bars -= behind.bar - first.bar
        frame = frame.deleted(first.bar, behind.bar - 1)
    elif length % meter.bar_ticks == 0 and not frame.changes:
        bars -= length // meter.bar_ticks
    if bars < 1:
        raise InputError("A groove has at least one bar.")
    groove = _spliced(document.groove, at, length, 0, frame, bars, None)
    return f"{_span(length, meter)} taken out", replace(document, groove=groove)


def _span(ticks: int, meter: Meter) -> str:
    bars = Fraction(ticks, meter.bar_ticks)
    if bars.denominator == 1:
        return count(int(bars), "bar")
    return f"{Fraction(ticks, TICKS_PER_WHOLE)} of a whole note"


def mirror(document: Document, hits: Sequence[Hit]) -> Edit:
    """The chosen hits backwards in time: the last comes first, between the same two spots.

    Raises
    ------
    InputError
        Where fewer than two spots are chosen.
    """
    if len({h.position_ticks for h in hits}) < 2:
        raise InputError("Choose hits on at least two spots to turn them round.")
    low, high = min(h.position_ticks for h in hits), max(h.position_ticks for h in hits)
    pattern = document.groove.pattern
    gone = pattern.indices_of(hits)
    new = [replace(h, position_ticks=low + high - h.position_ticks, origin=None) for h in hits]
    return f"{len(hits)} hits turned round", document.with_groove(pattern=pattern.with_hits(gone, new))


# -- meter and tempo --------------------------------------------------------------------------------------------


def set_meter(document: Document, meter: Meter) -> Edit:
    """Another meter over the same hits: bar lines move, hits stay where they sound."""
    pattern = document.groove.pattern
    frame = Bars(meter)
    if frame == pattern.frame:
        return str(meter), document
    last = max((h.position_ticks for h in pattern.hits), default=0)
    bars = min(frame.count_up_to(max(pattern.length_ticks, last + 1)), MAX_BARS)
    return f"Meter {meter.full_name}", document.with_groove(pattern=pattern.with_frame(frame, bars=bars))


def set_meter_of_bars(document: Document, meter: Meter, bars: Sequence[int]) -> Edit:
    """Some bars in another meter: each is cut or lengthened at its end, and the bars behind it stay as they are."""
    words = f"{these('bar', bars)} in {meter.full_name}"
    groove = document.groove
    for bar in sorted(bars):
        pattern = groove.pattern
        _checked_bars(pattern, bar, bar)
        end, old = pattern.frame.start_of(bar + 1), pattern.frame.length_of(bar)
        frame = pattern.frame.with_meter(meter, bar, bar)
        gone, new = max(old - meter.bar_ticks, 0), max(meter.bar_ticks - old, 0)
        groove = _spliced(groove, end - gone, gone, new, frame, pattern.bars, None)
    return words, document if groove == document.groove else replace(document, groove=groove)


def set_tempo(document: Document, bpm: float) -> Edit:
    """One tempo from start to end."""
    return f"Tempo {bpm:g} BPM", document.with_groove(tempo=TempoMap.constant(checked_tempo_bpm(bpm)))


def change_tempo(document: Document, *, by_bpm: float = 0.0, times: float = 1.0) -> Edit:
    """Every tempo of the groove faster or slower; its steps and ramps stay."""
    old = document.groove.tempo
    bpm, to = (tuple(checked_tempo_bpm(b * times + by_bpm) for b in row) for row in (old.bpm, old.to_bpm))
    words = f"Tempo {bpm[0]:g} BPM" if old.steady else f"Tempo from {old.bpm[0]:.4g} to {bpm[0]:.4g} BPM, and so on"
    return words, document.with_groove(tempo=TempoMap(old.ticks, bpm, to))


def set_tempo_of_bars(document: Document, first: int, last: int, bpm: float, to_bpm: float | None = None) -> Edit:
    """A tempo, or a ramp, for some bars; a ramp's end holds on up to the next change, a step goes back to what was."""
    pattern, old = document.groove.pattern, document.groove.tempo
    start, end = _checked_bars(pattern, first, last)
    here = TempoMap((0, end - start), (bpm, to_bpm), (to_bpm, to_bpm)) if to_bpm else TempoMap.constant(bpm)
    tempo = old.spliced(start, end - start, end - start, here)
    if to_bpm and end not in old.ticks:
        tempo = TempoMap.of([p for p in tempo.parts if p[0] != end] + [(end, to_bpm, to_bpm)])
    words = f"Tempo {bpm:g} → {to_bpm:g} BPM" if to_bpm else f"Tempo {bpm:g} BPM"
    return f"{words} in {these('bar', range(first, last + 1)).lower()}", document.with_groove(tempo=tempo)


# -- grids, lanes that repeat, rules ----------------------------------------------------------------------------


def set_grid(document: Document, grid: int, voices: Sequence[str] = (), bars: Sequence[int] = ()) -> Edit:
    """Another grid: for everything, for some voices, for some bars, or for some voices in some bars."""
    step_ticks(grid)
    pattern = document.groove.pattern
    if voices and not bars:
        others = tuple(row for row in pattern.lane_grids if row[0] not in voices)
        own = tuple((name, grid) for name in voices if grid != pattern.grid)
        return f"Grid {grid} for {', '.join(voices)}", document.with_groove(lane_grids=tuple(sorted(others + own)))
    if bars:
        passages = pattern.passages
        for number in sorted(bars):
            start, end = _checked_bars(pattern, number, number)
            plain = grid == pattern.grid and not voices
            own_grid = () if plain else (GridPassage(start, end, grid, tuple(sorted(voices))),)
            passages = (*_cut(passages, start, end, voices), *own_grid)
        whose = f" for {', '.join(voices)}" if voices else ""
        return f"Grid {grid} in {these('bar', bars).lower()}{whose}", document.with_groove(passages=joined(passages))
    return f"Grid {grid}", document.with_groove(grid=grid, passages=(), lane_grids=())


def _cut(
    passages: tuple[GridPassage, ...], start: int, end: int, voices: Sequence[str] = ()
) -> tuple[GridPassage, ...]:
    """Passages without what lies between two positions; with voices, only those of just these are cut."""
    out: list[GridPassage] = []
    for p in passages:
        if voices and p.voices != tuple(sorted(voices)):
            out.append(p)
            continue
        out += _real(p, p.start_ticks, min(p.end_ticks, start))
        out += _real(p, max(p.start_ticks, end), p.end_ticks)
    return tuple(out)


def set_cycle(document: Document, lane: int, steps: int, every: int = 0) -> Edit:
    """A lane that repeats after some steps of its grid, against the bar; 0 lets it run through again.

    Where `every` is given it begins anew every so many bars.

    Raises
    ------
    InputError
        Where the round is longer than the groove, or than a lane may have.
    """
    pattern = document.groove.pattern
    if not 0 <= steps <= MAX_CYCLE_STEPS:
        raise InputError(f"A lane repeats after 1 to {MAX_CYCLE_STEPS} steps, or 0 to run through.")
    ticks = steps * step_ticks(pattern.grid_at(LANES[lane].voices[0], 0))
    if ticks > pattern.length_ticks:
        raise InputError(f"{steps} steps are longer than the groove.")
    rules = pattern.rules.run_through(lane)
    if ticks:
        rules = replace(rules, cycles=tuple(sorted((*rules.cycles, (lane, ticks)))))
    if ticks and every:
        rules = replace(rules, restarts=tuple(sorted((*rules.restarts, (lane, every)))))
    words = f"{LANES[lane].label} repeats every {steps} step{'s' if steps != 1 else ''}"
    if every:
        words += f", anew every {'bar' if every == 1 else f'{every} bars'}"
    return words if steps else f"{LANES[lane].label} runs through", document.with_groove(rules=rules)


def set_own_rounds(document: Document, lane: int, bars: Iterable[int] | None) -> Edit:
    """The rounds of a lane that begin in some bars stand on their own: edits stay in them, and others miss them.

    None makes all rounds alike again, like the first that follows the others.

    Raises
    ------
    InputError
        Where the lane does not repeat.
    """
    pattern = document.groove.pattern
    rules, label = pattern.rules, LANES[lane].label
    if not rules.cycle_of(lane):
        raise InputError(f"The {label.lower()} does not repeat, so it has no rounds: say first after how many steps.")
    if bars is None:
        return f"{label}: all rounds alike", document.with_groove(rules=rules.without_own(lane))
    wanted = set(bars)
    spans = rules.rounds_of(lane, pattern.frame, pattern.length_ticks)
    begins = pattern.frame.bars_of([start for start, _ in spans])
    found = {n + 1 for n, bar in enumerate(begins) if int(bar) in wanted}
    if not found:
        raise InputError(f"No round of the {label.lower()} begins there.")
    own = tuple(sorted({*rules.own_rounds, *((lane, n) for n in found)}))
    numbers, many = ", ".join(str(n) for n in sorted(found)), len(found) > 1
    words = f"{label}: round{'s' if many else ''} {numbers} on {'their' if many else 'its'} own"
    return words, document.with_groove(rules=replace(rules, own_rounds=own))


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
