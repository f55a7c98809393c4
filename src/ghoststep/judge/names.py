"""Names in a sticking: rudiments, cells that repeat, groupings and mirrored halves.

The names are those of the shortest description: a stroke told by its letter costs one, a rudiment two, a cell its
letters and one for "so many times". So a cell of hands and feet is named as a cell, and not as the rudiments that
happen to lie across it (minimum description length, Rissanen 1978).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from itertools import pairwise
from typing import NamedTuple

from ghoststep.judge.rudiments import GRACE_NAMES, Rudiment, by_beginning
from ghoststep.music.kit import LIMB_LETTERS, OTHER_HAND
from ghoststep.music.time import TICKS_PER_QUARTER

_NUMBER_WORDS = {2: "twice", 3: "three times", 4: "four times", 5: "five times", 6: "six times"}
_BOUNCES = 4
_LONGEST_CELL, _LONGEST_UNIT = 8, TICKS_PER_QUARTER // 2
_RUDIMENT_COST, _TIMES_COST, _FRAME = 2.0, 1.0, 2
_SHORT = 6  # a rudiment of so few plain strokes is only heard as one from a beat or an accent on


class Moment(NamedTuple):
    """What the limbs do at one instant: letters in the order R L K H, grace notes before it, an accent."""

    tick: int
    letters: str
    graces: int = 0
    accent: bool = False
    buzz: bool = False

    @property
    def hands(self) -> str:
        return "".join(x for x in self.letters if x in "RL")


@dataclass(frozen=True)
class Named:
    """A stretch of the sticking and what it is called.

    kind: "rudiment", "cell", "bar" (what is said of a whole bar) or "" for grace notes; cell: moments of one round;
    times: rounds.
    """

    start_ticks: int
    end_ticks: int
    words: str
    kind: str = field(default="", repr=False)
    cell: int = field(default=1, repr=False)
    times: int = field(default=1, repr=False)


class _Token(NamedTuple):
    words: str
    size: int  # moments
    cost: float
    kind: str  # "", "rudiment", "cell"
    cell: int = 1  # moments of one round
    times: int = 1


def limb_order(letters: str) -> str:
    """Letters of limbs in the order R L K H, each once."""
    return "".join(x for x in LIMB_LETTERS if x in letters)


def named(line: Sequence[Moment], bars: Sequence[tuple[int, int]] = ()) -> list[Named]:
    """The names in a sticking line; `bars`: start and end (ticks) of its bars, for beats, groupings and halves."""
    return list(_named(tuple(line), tuple(bars)))


@lru_cache(maxsize=2048)
def _named(line: tuple[Moment, ...], bars: tuple[tuple[int, int], ...]) -> tuple[Named, ...]:
    tokens = _shortest(line)
    out: list[Named] = []
    at = 0
    for number, token in enumerate(tokens):
        start, end = line[at].tick, line[at + token.size - 1].tick
        if token.kind == "rudiment" and out and out[-1].words == token.words and number and tokens[number - 1].kind:
            out[-1] = replace(out[-1], end_ticks=end, cell=token.cell, times=out[-1].times + token.times)
        elif token.kind == "cell":
            out.append(_framed(line, tokens, number, at, bars))
            out += _cell_groups(line, token, at, bars)
        elif token.kind:
            out.append(Named(start, end, token.words, token.kind, token.cell, token.times))
        elif line[at].graces:
            out.append(Named(start, end, GRACE_NAMES.get(line[at].graces, "ruff")))
        at += token.size
    out += _of_bars(line, bars, out)
    return tuple(sorted(_once(out), key=lambda n: (n.start_ticks, -n.end_ticks)))


def _once(found: list[Named]) -> list[Named]:
    """Flams that come one after another are told once."""
    out: list[Named] = []
    last: dict[str, Named] = {}
    for n in sorted(found, key=lambda n: n.start_ticks):
        before = last.get(n.words)
        if n.words in GRACE_NAMES.values() and before and n.start_ticks - before.end_ticks <= 2 * TICKS_PER_QUARTER:
            out.remove(before)
            n = replace(before, end_ticks=n.end_ticks)
        last[n.words] = n
        out.append(n)
    return out


# -- the shortest description -------------------------------------------------------------------------------------


class _Line:
    """A line with its letters as text, of all limbs and of the hands alone; "?" where several strike."""

    def __init__(self, moments: Sequence[Moment]) -> None:
        self.moments = moments
        self.text = "".join(m.letters if len(m.letters) == 1 else "?" for m in moments)
        self.under = [m for m in moments if m.hands]
        self.under_text = "".join(m.hands if len(m.hands) == 1 else "?" for m in self.under)
        self.place: dict[int, int] = {}  # place in the line -> place among the hands
        self.back: list[int] = []
        for i, m in enumerate(moments):
            if m.hands:
                self.place[i] = len(self.back)
                self.back.append(i)


def _shortest(moments: Sequence[Moment]) -> list[_Token]:
    """The row of tokens that tells the line at the least cost."""
    number, line = len(moments), _Line(moments)
    best: list[tuple[float, int, _Token | None]] = [(0.0, 0, None)] * (number + 1)
    for i in range(number - 1, -1, -1):
        plain = _Token("", 1, float(len(moments[i].letters)), "")
        options = [plain, *_bounces(moments, i), *_rudiments(line, i), *_under_hands(line, i), *_cells(line, i)]
        costs = [
            (t.cost + best[i + t.size][0], t.kind != "rudiment", best[i + t.size][1] + bool(t.kind)) for t in options
        ]
        k = min(range(len(options)), key=lambda j: (costs[j], -options[j].size))
        best[i] = (costs[k][0], costs[k][2], options[k])
    out: list[_Token] = []
    at = 0
    while at < number:
        token = best[at][2]
        assert token is not None
        out.append(token)
        at += token.size
    return out


def _bounces(line: Sequence[Moment], at: int) -> list[_Token]:
    """A roll of bounced strokes: four or more of the hands in a row."""
    size = 0
    while at + size < len(line) and line[at + size].buzz and line[at + size].letters in ("R", "L"):
        size += 1
    return [_Token("multiple bounce roll", size, _RUDIMENT_COST, "rudiment")] if size >= _BOUNCES else []


def _rudiments(line: _Line, at: int) -> list[_Token]:
    """Rudiments that begin here, where one limb plays at a time, each as often as it comes."""
    out = []
    for r in by_beginning().get(line.text[at : at + 2], ()):
        if not _is(r, line.moments, line.text, at):
            continue
        times, size, other = 1, len(r.letters), r.mirrored()
        while any(_is(x, line.moments, line.text, at + times * size) for x in (r, other)):
            times += 1
        cost = _RUDIMENT_COST + (_TIMES_COST if times > 1 else 0.0)
        out.append(_Token(r.name, size * times, cost, "rudiment", size, times))
    return out


def _under_hands(line: _Line, at: int) -> list[_Token]:
    """Rudiments of the hands alone, where feet play below; the feet are told apart from them."""
    k = line.place.get(at)
    if k is None:
        return []
    out = []
    for r in by_beginning().get(line.under_text[k : k + 2], ()):
        if _is(r, line.under, line.under_text, k):
            last = line.back[k + len(r.letters) - 1]
            feet = sum(len(m.letters) - len(m.hands) for m in line.moments[at : last + 1])
            if feet:
                out.append(_Token(r.name, last + 1 - at, _RUDIMENT_COST + feet, "rudiment", last + 1 - at))
    return out


def _is(r: Rudiment, moments: Sequence[Moment], text: str, at: int) -> bool:
    """Whether the strokes from a place on are the rudiment's: letters, rhythm, grace notes, and what follows."""
    if not text.startswith(r.letters, at):
        return False
    size = len(r.letters)
    row = moments[at : at + size + 1]
    unit = (row[1].tick - row[0].tick) / (r.starts[1] - r.starts[0])
    if unit > _LONGEST_UNIT or any(m.tick - row[0].tick != s * unit for m, s in zip(row, r.starts, strict=False)):
        return False
    if len(row) > size and row[size].tick - row[size - 1].tick < r.landing * unit:
        return False
    if any(m.graces != g for m, g in zip(row, r.graces, strict=False)):
        return False
    if r.accented:
        return [m.accent for m in row[:size]] == list(r.accents)
    return size > _SHORT or any(r.graces) or _stands_out(row[:size], unit)


def _stands_out(row: Sequence[Moment], unit: float) -> bool:
    """Whether a short figure begins where one hears a beginning: on a round place, or on the only accent."""
    if row[0].tick % (2 * unit) == 0:
        return True
    return row[0].accent and not any(m.accent for m in row[1:])


def _cells(line: _Line, at: int) -> list[_Token]:
    """Cells of all limbs that repeat from here on, one limb at a time: "R L K twice"; of two from three on."""
    out: list[_Token] = []
    text, moments = line.text, line.moments
    for size in range(2, min(_LONGEST_CELL, (len(text) - at) // 2) + 1):
        letters = text[at : at + size]
        if "?" in letters:
            break
        single = len(set(letters)) == 1 or letters in ("RL", "LR")  # single strokes have a name
        if single or not text.startswith(letters, at + size):
            continue
        times = 1
        while _again(moments, at, size, times):
            times += 1
        if times >= (2 if size > 2 else 3):
            words = f"{' '.join(letters)} {_NUMBER_WORDS.get(times, f'{times} times')}"
            # Of two ways to cut the same strokes, the one that begins with a hand and ends with a foot is heard.
            cost = size + _TIMES_COST - (0.1 if letters[0] in "RL" else 0.0)
            out.append(_Token(words, size * times, cost, "cell", size, times))
    return out


def _again(line: Sequence[Moment], at: int, size: int, times: int) -> bool:
    """Whether one more round follows, in the same letters and rhythm."""
    start = at + times * size
    if start + size > len(line):
        return False
    period = line[at + size].tick - line[at].tick
    return all(
        line[start + k].letters == line[at + k].letters
        and line[start + k].tick - line[at + k].tick == times * period
        and line[start + k].graces == line[at + k].graces
        for k in range(size)
    )


def _framed(
    line: Sequence[Moment], tokens: Sequence[_Token], number: int, at: int, bars: Sequence[tuple[int, int]]
) -> Named:
    """A cell with what frames it in its bar, where that is a stroke or two: "K, R L K twice, K"."""
    token = tokens[number]
    end = at + token.size
    low, high = next(((a, b) for a, b in bars if a <= line[at].tick < b), (line[at].tick, line[end - 1].tick + 1))
    before = [m for m in line[:at] if m.tick >= low]
    after = [m for m in line[end:] if m.tick < high]
    plain = all(
        not t.kind for t in (*tokens[max(number - len(before), 0) : number], *tokens[number + 1 :][: len(after)])
    )
    if not plain or len(before) > _FRAME or len(after) > _FRAME or not before:
        return Named(line[at].tick, line[end - 1].tick, token.words, "cell", token.cell, token.times)
    words = ", ".join(x for x in (_said(before), token.words, _said(after)) if x)
    return Named(before[0].tick, (after or line[:end])[-1].tick, words, "cell", 1, token.times)


def _cell_groups(line: Sequence[Moment], token: _Token, at: int, bars: Sequence[tuple[int, int]]) -> list[Named]:
    """A cell that begins with the bar and does not fill it evenly, as groups: "3 3 3 3 4"."""
    for start, end in bars:
        row = [m for m in line if start <= m.tick < end]
        if not row or row[0] is not line[at] or token.size > len(row):
            continue
        times = token.size // token.cell
        rest = len(row) - token.size
        even = {b.tick - a.tick for a, b in pairwise(row)}
        if len(even) == 1 and times > 2 and 0 < rest < token.cell:
            sizes = [token.cell] * (times - 1) + [token.cell + rest]
            return [Named(row[0].tick, row[-1].tick, f"groups of {' '.join(map(str, sizes))}", "bar")]
    return []


def _said(row: Sequence[Moment]) -> str:
    return " ".join(m.letters for m in row)


# -- whole bars ---------------------------------------------------------------------------------------------------


def _of_bars(line: Sequence[Moment], bars: Sequence[tuple[int, int]], found: Sequence[Named]) -> list[Named]:
    out = []
    for start, end in bars:
        row = [m for m in line if start <= m.tick < end]
        groups = grouping([m.tick for m in row], [m.accent for m in row], end)
        if groups:
            out.append(Named(row[0].tick, row[-1].tick, f"groups of {' '.join(map(str, groups))}", "bar"))
        if _halves_mirror(row, start, end) and not any(
            n.start_ticks <= row[0].tick and n.end_ticks >= row[-1].tick for n in found
        ):
            out.append(Named(row[0].tick, row[-1].tick, "mirrored halves", "bar"))
    return out


def grouping(ticks: Sequence[int], accents: Sequence[bool], end: int) -> tuple[int, ...]:
    """How accents divide a run of even strokes up to `end`, as 3 3 3 3 4; empty where they do not, or all alike."""
    if len(ticks) < 8 or not accents[0]:
        return ()
    step = ticks[1] - ticks[0]
    if any(b - a != step for a, b in zip(ticks, (*ticks[1:], end), strict=True)):
        return ()
    at = [i for i, a in enumerate(accents) if a]
    sizes = tuple(b - a for a, b in zip(at, (*at[1:], len(ticks)), strict=True))
    return sizes if len(sizes) > 2 and min(sizes) > 1 and len(set(sizes)) > 1 and math.gcd(*sizes) == 1 else ()


def _halves_mirror(row: Sequence[Moment], start: int, end: int) -> bool:
    """Whether the second half of a bar is the first with the hands exchanged."""
    half = (end - start) // 2
    first = [m for m in row if m.tick < start + half]
    second = [m for m in row if m.tick >= start + half]
    if len(first) < 3 or len(first) != len(second) or not any(m.hands for m in first):
        return False
    return all(
        b.tick - a.tick == half and b.letters == limb_order("".join(OTHER_HAND.get(x, x) for x in a.letters))
        for a, b in zip(first, second, strict=True)
    )
