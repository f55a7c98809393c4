"""Names in a sticking line: rudiments of the hands, and cells that repeat.

A rudiment is a run of single strokes of the hands at an even distance whose letters are its sticking, or that with left
and right exchanged. The longest name wins; a shorter one is not told inside it.
"""

from dataclasses import dataclass
from itertools import pairwise

_MIRROR = str.maketrans("RL", "LR")
# Name -> stickings. Rolls of an odd number of strokes are told from doubles by the single stroke they land on.
RUDIMENTS: tuple[tuple[str, str], ...] = (
    ("paradiddle-diddle", "RLRRLL"),
    ("paradiddle", "RLRRLRLL"),
    ("inverted paradiddle", "RLLRLRRL"),
    ("reversed paradiddle", "RRLRLLRL"),
    ("double paradiddle", "RLRLRRLRLRLL"),
    ("seven-stroke roll", "RRLLRRL"),
    ("five-stroke roll", "RRLLR"),
    ("double strokes", "RRLLRRLL"),
    ("single strokes", "RLRLRLRL"),
    ("paradiddle", "RLRR"),
)
_NUMBER_WORDS = {2: "twice", 3: "three times", 4: "four times", 5: "five times", 6: "six times"}
_LEAST_CELLS, _LONGEST_CELL = 3, 8


@dataclass(frozen=True)
class Named:
    """A stretch of the sticking line and what it is called."""

    start_ticks: int
    end_ticks: int
    words: str


def named(line: list[tuple[int, str]]) -> list[Named]:
    """Rudiments and repeating cells in a sticking line of (position, letters)."""
    found = _rudiments(line)
    for cell in _cells(line):
        if not any(r.start_ticks <= cell.start_ticks and cell.end_ticks <= r.end_ticks for r in found):
            found.append(cell)
    return sorted(found, key=lambda n: (n.start_ticks, -n.end_ticks))


def _rudiments(line: list[tuple[int, str]]) -> list[Named]:
    """The hands alone: feet may play below."""
    hands = [(t, "".join(x for x in letters if x in "RL")) for t, letters in line]
    hands = [(t, x) for t, x in hands if x]
    known = sorted({(s, name) for name, s in RUDIMENTS}, key=lambda x: -len(x[0]))
    out: list[Named] = []
    at = 0
    while at < len(hands):
        best = None
        for sticking, name in known:
            for letters in (sticking, sticking.translate(_MIRROR)):
                if best is None and _is(hands, at, letters):
                    best = (len(letters), name)
        if best is None:
            at += 1
            continue
        length, name = best
        if out and out[-1].words == name and out[-1].end_ticks == hands[at - 1][0]:
            out[-1] = Named(out[-1].start_ticks, hands[at + length - 1][0], name)
        else:
            out.append(Named(hands[at][0], hands[at + length - 1][0], name))
        at += length
    return out


def _is(hands: list[tuple[int, str]], at: int, letters: str) -> bool:
    run = hands[at : at + len(letters)]
    if len(run) < len(letters) or any(x != y for (_, x), y in zip(run, letters, strict=True)):
        return False
    gap = run[1][0] - run[0][0]
    return all(b[0] - a[0] == gap for a, b in pairwise(run))


def _cells(line: list[tuple[int, str]]) -> list[Named]:
    """Cells of all limbs that come at least three times in a row: "K R L three times"."""
    letters = [x for _, x in line]
    out: list[Named] = []
    at = 0
    while at < len(line):
        best: tuple[int, int] | None = None  # strokes of the cell, how often
        for size in range(2, _LONGEST_CELL + 1):
            cell = letters[at : at + size]
            if len(cell) < size or len(set(cell)) == 1:
                continue
            times = 1
            while letters[at + times * size : at + (times + 1) * size] == cell and _even(line, at, size, times):
                times += 1
            if times >= _LEAST_CELLS and (best is None or times * size > best[0] * best[1]):
                best = (size, times)
        if best is None:
            at += 1
            continue
        size, times = best
        words = f"{' '.join(letters[at : at + size])} {_NUMBER_WORDS.get(times, f'{times} times')}"
        out.append(Named(line[at][0], line[at + size * times - 1][0], words))
        at += size * times
    return out


def _even(line: list[tuple[int, str]], at: int, size: int, times: int) -> bool:
    """Whether the next round keeps the rhythm of the first."""
    first = [line[at + k][0] - line[at][0] for k in range(size)]
    start = at + times * size
    period = line[at + size][0] - line[at][0] if at + size < len(line) else 0
    if line[start][0] - line[at][0] != times * period:
        return False
    return [line[start + k][0] - line[start][0] for k in range(size) if start + k < len(line)] == first
