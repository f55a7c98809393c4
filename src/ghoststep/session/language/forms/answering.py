"""Answers to a part: small changes of it, from near to far, that a drummer can play and that are told truly."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

from ghoststep.craft.answers import Idea, ideas
from ghoststep.judge.check import Terms, impossible
from ghoststep.judge.relatedness import bar_of, distance
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Pattern
from ghoststep.session.form.plain import without_keys
from ghoststep.session.language.forms.variation import changes_between
from ghoststep.session.language.forms.words import changed_by

# How far an answer may be from the question, by its weighted share of what is different (working assumptions).
STRICTNESS = {"near": (0.0, 0.14), "middle": (0.08, 0.28), "far": (0.2, 0.7)}
_MOST_PAIRS = 30
_FINE = 0.1  # what another opening or role of the same stroke counts


@dataclass(frozen=True)
class Answer:
    """phrases: what leads there from the question; apart: 0 (the same) to 1; about: words."""

    pattern: Pattern
    phrases: tuple[str, ...]
    apart: float
    about: str


def answers(groove: Groove, terms: Terms, *, strictness: str = "", most: int = 12) -> list[Answer]:
    """Answers to a part, of one bar or more, nearest first: its last bar changed.

    Parameters
    ----------
    strictness
        near, middle or far; else from near to far.

    Raises
    ------
    InputError
        Where there is no such strictness.
    """
    if strictness and strictness not in STRICTNESS:
        raise InputError(f"'{strictness}' is no strictness. There are: {', '.join(STRICTNESS)}.")
    question = without_keys(groove.pattern)
    low, high = STRICTNESS.get(strictness, (0.0, 1.0))
    single = ideas(question, question.bars)
    hard = impossible(groove.changed(pattern=question), terms)
    out: list[Answer] = []
    for chosen in _sets(single, pairs=strictness != "near"):
        found = _answer(groove, question, chosen, terms, hard)
        if found is not None and low <= found.apart <= high and all(found.pattern != a.pattern for a in out):
            out.append(found)
    out.sort(key=lambda a: (a.apart, len(a.phrases)))
    return _spread(out, most)


def _sets(single: Sequence[Idea], *, pairs: bool) -> list[tuple[Idea, ...]]:
    """Each idea alone, and some of them two at once."""
    alone = [(idea,) for idea in single]
    both = [pair for pair in combinations(single, 2) if pair[0].about.split()[0:2] != pair[1].about.split()[0:2]]
    step = max(1, len(both) // _MOST_PAIRS)
    return [*alone, *(both[::step] if pairs else ())]


def _answer(groove: Groove, question: Pattern, chosen: Sequence[Idea], terms: Terms, hard: int) -> Answer | None:
    """The answer of some ideas; None where it cannot be done, cannot be played, or its way back cannot be said."""
    phrases = tuple(p for idea in chosen for p in idea.phrases)
    try:
        pattern = changed_by(question, phrases)
    except InputError:  # an idea that does not fit after another
        return None
    back = changes_between(pattern, question)
    if pattern == question or not back.exact:
        return None
    if impossible(groove.changed(pattern=pattern), terms) > hard:
        return None
    return Answer(pattern, phrases, _apart(question, pattern), " and ".join(idea.about for idea in chosen))


def _apart(one: Pattern, other: Pattern) -> float:
    """How far two parts are apart in their last bar."""
    start, ticks = one.frame.start_of(one.bars), one.frame.length_of(one.bars)
    rows = [[p.hits[i] for i in p.between(start, start + ticks)] for p in (one, other)]
    weighed = distance(bar_of(rows[0], start, ticks), bar_of(rows[1], start, ticks))
    struck = [
        {(h.position_ticks, h.voice, h.role) for h in row} for row in rows
    ]  # open or closed, loud or soft: a little
    finer = len(struck[0] ^ struck[1]) / max(len(struck[0] | struck[1]), 1)
    return round(weighed + _FINE * finer, 4)


def _spread(found: list[Answer], most: int) -> list[Answer]:
    """At most so many, spread from the nearest to the furthest."""
    if len(found) <= most:
        return found
    return [found[round(k * (len(found) - 1) / (most - 1))] for k in range(most)]


@dataclass(frozen=True)
class Phrase:
    """A row of playings: 0 is the question, k the kth of the answers."""

    row: tuple[int, ...]
    answers: tuple[Answer, ...]
    about: str


PHRASE_LENGTHS = (2, 4, 8)
_MOST_PHRASES = 8


def phrases(groove: Groove, terms: Terms, length: int, *, strictness: str = "") -> list[Phrase]:
    """Question and answer over so many bars: first the part as it is all through, then from near to far.

    Of two playings the second answers; of four the second and, otherwise, the fourth; of eight the second and the
    sixth, the fourth, and the eighth, each otherwise.

    Raises
    ------
    InputError
        Where a phrase is not that long, or no answer can be played.
    """
    if length not in PHRASE_LENGTHS:
        raise InputError(f"A phrase has {', '.join(map(str, PHRASE_LENGTHS))} bars, not {length}.")
    times = max(length // groove.pattern.bars, 2)
    kept = Phrase((0,) * times, (), f"the {'bar' if groove.pattern.bars == 1 else 'part'} as it is, {times} times")
    needed = {2: 1, 4: 2}.get(times, 3)
    found = answers(groove, terms, strictness=strictness)
    out = [kept]
    for first in range(len(found) - needed + 1):
        # The later an answer the further it is from the question.
        spread = [first + (k * (len(found) - 1 - first)) // max(needed, 2) for k in range(needed)]
        chosen = tuple(found[k] for k in dict.fromkeys(spread))
        if len(chosen) < needed:
            break
        out.append(Phrase(_row_of(times), chosen, ", then ".join(a.about for a in chosen)))
    if len(out) == 1:
        raise InputError(f"There are not answers enough so {strictness or 'near or far'}.")
    return out[:_MOST_PHRASES]


def _row_of(times: int) -> tuple[int, ...]:
    """Questions, and which answer stands in the place of every second playing."""
    row = [0] * times
    for k in range(1, times, 2):
        row[k] = 3 if k == 7 else 2 if k % 4 == 3 else 1
    return tuple(row)
