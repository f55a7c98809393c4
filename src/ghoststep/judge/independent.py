"""Feet that go on by themselves under a sticking: what they play, and the line without them."""

from collections.abc import Iterator, Sequence
from itertools import combinations

from ghoststep.judge.names import Moment
from ghoststep.music.pattern import Pattern

_FEET = {"K": "the right foot", "H": "the left foot"}
_ROUNDS = 4  # a figure that came so often is an ostinato
_UNDER = 0.5  # so many of its strokes fall together with others, or it is part of their line
_STRAY = 0.1  # this share of the rounds may have a stroke more or less


def over_feet(moments: Sequence[Moment], pattern: Pattern) -> Iterator[tuple[str, list[Moment]]]:
    """The feet that repeat a figure of one or two beats, in words, and the line without them; each alone and both."""
    said = {foot: words for foot in _FEET if (words := _ostinato(moments, foot, pattern))}
    for size in range(1, len(said) + 1):
        for feet in combinations(said, size):
            rest = [m._replace(letters="".join(x for x in m.letters if x not in feet)) for m in moments]
            yield " and ".join(f"{_FEET[f]} {said[f]}" for f in feet), [m for m in rest if m.letters]


def _ostinato(moments: Sequence[Moment], foot: str, pattern: Pattern) -> str:
    """How a foot repeats itself in words, as "on every beat"; empty where it does not, or never strikes."""
    struck = [m.tick for m in moments if foot in m.letters]
    under = sum(foot in m.letters and len(m.letters) > 1 for m in moments)
    if not struck or under < _UNDER * len(struck):  # a foot in the hands' own line is no foot below it
        return ""
    beats = [t for t, _ in pattern.frame.beats(0, pattern.length_ticks)]
    for size, words in ((1, "every beat"), (2, "every second beat")):
        rounds = [(a, b) for a, b in zip(beats[::size], [*beats[size::size], pattern.length_ticks], strict=False)]
        figure = _figure(struck, rounds)
        if figure is None:
            continue
        unit = rounds[0][1] - rounds[0][0]
        on_beats = [t for t in figure if not t % (unit // size)]
        if len(figure) == 1 and on_beats:
            return f"on {words}"
        if len(figure) == 2 and size == 1 and not figure[1] * 2 % unit and figure[0] == 0:
            return "on every beat and between"
        return f"in a figure of {'one beat' if size == 1 else 'two beats'}"
    return ""


def _figure(struck: Sequence[int], rounds: Sequence[tuple[int, int]]) -> tuple[int, ...] | None:
    """The figure that nearly all rounds have, as ticks from their beginning; None where there is none."""
    if len(rounds) < _ROUNDS or len({b - a for a, b in rounds}) > 1:
        return None
    unit, first = rounds[0][1] - rounds[0][0], rounds[0][0]
    by: dict[int, list[int]] = {}
    for tick in struck:
        by.setdefault((tick - first) // unit, []).append((tick - first) % unit)
    figures = [tuple(by.get(k, ())) for k in range(len(rounds))]
    most = max(set(figures), key=figures.count)
    return most if most and figures.count(most) >= (1 - _STRAY) * len(rounds) else None
