"""Changes of whole bars: copied over others, exchanged, put in empty, repeated, turned round, cleared."""

from collections.abc import Sequence
from dataclasses import replace

from ghoststep.music.errors import InputError
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import MAX_BARS, Hit, Pattern, copy_of
from ghoststep.music.rules import GridPassage
from ghoststep.music.time import step_ticks
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.edits.time_edits import (
    Stretch,
    delete_bars,
    insert_bars,
    joined,
    move_bars,
    set_bars,
    stretch_of,
)
from ghoststep.session.words import count, these


def copy_bars(document: Document, source: Sequence[int], goals: Sequence[int]) -> Edit:
    """What stands in some bars written over others, one after the other and round again; tempo and meters stay.

    Goals behind the end lengthen the groove; goals that are one bar are filled from there on.

    Raises
    ------
    InputError
        Where a bar is not there, or is of another meter than the one it is to be like.
    """
    bars = document.groove.pattern.bars
    if len(goals) == 1:
        goals = [goals[0] + n for n in range(len(source))]
    if max(goals) > bars and sorted(set(goals) | set(range(1, bars + 1))) != list(range(1, max(goals) + 1)):
        raise InputError(f"There is no bar {max(goals)}: this groove has {bars}.")
    if max(goals) > bars:
        _, document = set_bars(document, max(goals))
    before = document.groove.pattern
    after = before
    for n, goal in enumerate(goals):
        after = _written_over(before, after, source[n % len(source)], goal)
    pairs = f"{these('bar', list(source))} copied to {these('bar', list(goals)).lower()}"
    return pairs, document.with_groove(pattern=after)


def _written_over(before: Pattern, after: Pattern, source: int, goal: int) -> Pattern:
    frame = before.frame
    if frame.meter_of(source) != frame.meter_of(goal):
        raise InputError(
            f"Bar {goal} is in {frame.meter_of(goal)}, and bar {source} in {frame.meter_of(source)}: they cannot be"
            " alike."
        )
    if source == goal:
        return after
    start, end, to = frame.start_of(source), frame.start_of(source + 1), frame.start_of(goal)
    new = [
        copy_of(before.hits[i], position_ticks=before.hits[i].position_ticks - start + to)
        for i in before.between(start, end)
    ]
    gone = set(after.between(to, to + end - start))
    passages = [q for p in after.passages for q in _outside(p, to, to + end - start)]
    for p in before.passages:
        if p.start_ticks < end and p.end_ticks > start:
            inside = max(p.start_ticks, start), min(p.end_ticks, end)
            passages.append(replace(p, start_ticks=inside[0] - start + to, end_ticks=inside[1] - start + to))
    return replace(after.with_hits(gone, new), passages=joined(passages))


def _outside(p: GridPassage, start: int, end: int) -> list[GridPassage]:
    """What of a passage lies outside a stretch."""
    if p.end_ticks <= start or p.start_ticks >= end:
        return [p]
    out = [replace(p, end_ticks=start)] if p.start_ticks < start else []
    return out + ([replace(p, start_ticks=end)] if p.end_ticks > end else [])


def swap_bars(document: Document, one: int, other: int) -> Edit:
    """Two bars change places, with all that stands in them.

    Raises
    ------
    InputError
        Where there is no such bar.
    """
    a, b = sorted((one, other))
    if a == b:
        raise InputError(f"Bar {a} cannot change places with itself.")
    _, moved = move_bars(document, b, b, a)
    _, moved = move_bars(moved, a + 1, a + 1, b + 1)
    return f"Bars {a} and {b} exchanged", moved


def insert_empty(document: Document, number: int, before: int) -> Edit:
    """Empty bars put in before a bar (one past the last: at the end), in the meter of the bar in front.

    Raises
    ------
    InputError
        Where there is no such place, or a pattern cannot hold so many.
    """
    groove = document.groove
    pattern = groove.pattern
    if not 1 <= before <= pattern.bars + 1:
        raise InputError(f"There is no place before bar {before}: this groove has {pattern.bars} bars.")
    if pattern.bars + number > MAX_BARS:
        raise InputError(f"A groove has 1 to {MAX_BARS} bars, not {pattern.bars + number}.")
    like = max(before - 1, 1)
    meter: Meter = pattern.frame.meter_of(like)
    tempo = stretch_of(groove, like, like).tempo
    empty = Stretch((), (), (meter,) * number, tempo, meter.bar_ticks * number)
    return insert_bars(document, before, empty, f"{count(number, 'empty bar')} put in before bar {before}")


def repeat_bars(document: Document, first: int, last: int, times: int) -> Edit:
    """The groove becomes some of its bars, so many times.

    Raises
    ------
    InputError
        Where there are no such bars, or a pattern cannot hold so many.
    """
    bars = document.groove.pattern.bars
    size = last - first + 1
    if size * times > MAX_BARS:
        raise InputError(f"A groove has 1 to {MAX_BARS} bars, not {size * times}.")
    inside = stretch_of(document.groove, first, last)
    if last < bars:
        _, document = delete_bars(document, last + 1, bars)
    if first > 1:
        _, document = delete_bars(document, 1, first - 1)
    for _ in range(times - 1):
        _, document = insert_bars(document, document.groove.pattern.bars + 1, inside, "")
    return f"{these('bar', range(first, last + 1))}, {count(times, 'time')}: {count(size * times, 'bar')}", document


def reverse_bars(document: Document, first: int, last: int) -> Edit:
    """The steps of some bars backwards: what was struck on the last step comes on the first.

    Raises
    ------
    InputError
        Where there are no such bars.
    """
    pattern = document.groove.pattern
    start, end = pattern.frame.start_of(first), pattern.frame.start_of(last + 1)
    inside = pattern.between(start, end)

    def turned(h: Hit) -> Hit:
        step = step_ticks(pattern.grid_at(h.voice, h.position_ticks))
        return replace(h, position_ticks=max(start + end - h.position_ticks - step, start), origin=None)

    new = [turned(pattern.hits[i]) for i in inside]
    words = f"{these('bar', range(first, last + 1))} turned round"
    return words, document.with_groove(pattern=pattern.with_hits(set(inside), new))
