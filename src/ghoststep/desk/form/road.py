"""The road map as places on a plane, without drawing: a row for each section, a cell for each playing of a part."""

from dataclasses import dataclass

from ghoststep.judge.relatedness import bar_of, distance
from ghoststep.music.form import Form
from ghoststep.music.pattern import Pattern

CELL_H, HEAD_H, GAP, LEFT, TOP = 62.0, 22.0, 6.0, 14.0, 10.0
BAR_W, WIDEST_BAR_W, LEAST_BAR_W = 92.0, 190.0, 44.0


@dataclass(frozen=True)
class Cell:
    """One playing of a part.

    index: its place in the section's row; section: which of the sections that are played, from 0; first_bar: of the
    whole; apart: how far the part is from its base, 0 to 1; other: whether a bar of it is otherwise in this section.
    """

    section: int
    index: int
    part: str
    base: str
    first_bar: int
    bars: int
    apart: float
    other: bool
    x: float
    y: float
    w: float


@dataclass(frozen=True)
class Head:
    """The line above a section's cells."""

    section: int
    name: str
    first_bar: int
    bars: int
    y: float


@dataclass(frozen=True)
class Road:
    """Everything that stands on the map, and how high it is."""

    heads: tuple[Head, ...]
    cells: tuple[Cell, ...]
    height: float

    def at(self, x: float, y: float) -> int | None:
        """The cell under a point, as an index."""
        for i, c in enumerate(self.cells):
            if c.x <= x <= c.x + c.w and c.y <= y <= c.y + CELL_H:
                return i
        return None

    def beside(self, index: int, rows: int) -> int:
        """The cell in a row above or below that stands nearest."""
        here = self.cells[index]
        lines = sorted({c.y for c in self.cells})
        y = lines[min(max(lines.index(here.y) + rows, 0), len(lines) - 1)]
        middle = here.x + here.w / 2
        return min((i for i, c in enumerate(self.cells) if c.y == y), key=lambda i: abs(self.cells[i].x - middle))

    def of_bar(self, bar: int) -> int | None:
        """The cell that plays a bar."""
        return next((i for i, c in enumerate(self.cells) if c.first_bar <= bar < c.first_bar + c.bars), None)


def road(form: Form, width: float) -> Road:
    """The map of a form in so many pixels of width; sections wrap to further lines."""
    heads: list[Head] = []
    cells: list[Cell] = []
    apart = {p.name: _apart(form, p.name) for p in form.parts}
    bar, y = 1, TOP
    bar_w = _bar_width(form, width)
    for number, section in enumerate(form.played):
        first = bar
        x, line = LEFT, y + HEAD_H
        other = {at for at, _ in section.exceptions}
        for index, name in enumerate(section.row):
            part = form.part(name)
            w = max(bar_w * part.pattern.bars, LEAST_BAR_W)
            w = min(w, width - 2 * LEFT)
            if x > LEFT and x + w > width - LEFT:
                x, line = LEFT, line + CELL_H + GAP
            here = set(range(bar - first + 1, bar - first + 1 + part.pattern.bars))
            where = (bar, part.pattern.bars)
            cells.append(Cell(number, index, name, part.base, *where, apart[name], bool(here & other), x, line, w))
            x, bar = x + w + GAP, bar + part.pattern.bars
        heads.append(Head(number, section.name, first, bar - first, y))
        y = line + CELL_H + 2 * GAP + 4
    return Road(tuple(heads), tuple(cells), y)


def _bar_width(form: Form, width: float) -> float:
    """How wide a bar is: the longest section in one line where that can be read, else the usual width."""
    rows = [(sum(form.part(n).pattern.bars for n in s.row), len(s.row)) for s in form.played]
    fits = min(((width - 2 * LEFT - GAP * cells) / bars for bars, cells in rows), default=BAR_W)
    return min(max(fits, BAR_W), WIDEST_BAR_W)


def _apart(form: Form, name: str) -> float:
    """How far a part is from its base: the mean over its bars."""
    part = form.part(name)
    if not part.base:
        return 0.0
    one, other = form.part(part.base).pattern, part.pattern
    bars = min(one.bars, other.bars)
    return sum(_of_bar(one, other, bar) for bar in range(1, bars + 1)) / bars


def _of_bar(one: Pattern, other: Pattern, bar: int) -> float:
    rows = []
    for pattern in (one, other):
        start, ticks = pattern.frame.start_of(bar), pattern.frame.length_of(bar)
        rows.append(bar_of([pattern.hits[i] for i in pattern.between(start, start + ticks)], start, ticks))
    return distance(*rows)
