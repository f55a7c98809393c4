"""The road map as places on a plane, without drawing: a row for each section, a cell for each playing of a part."""

from dataclasses import dataclass
from typing import NamedTuple

from ghoststep.judge.relatedness import nearness
from ghoststep.music.form import EVERY_BAR, Form, Pass
from ghoststep.music.pattern import Pattern

CELL_H, HEAD_H, GAP, LEFT, TOP = 62.0, 22.0, 6.0, 14.0, 10.0
BAR_W, WIDEST_BAR_W, LEAST_BAR_W = 92.0, 190.0, 44.0


class Cell(NamedTuple):
    """One playing of a part.

    nth: its place in the section's row, below 0 for what leads into it; section: which of the sections that are
    played, from 0; first_bar: of the whole; apart: how far the part is from its base, 0 to 1; other: whether a bar of
    it is otherwise in this section, by an exception or a cue, or has hits of its own.
    """

    section: int
    nth: int
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

    def gap_at(self, x: float, y: float) -> tuple[int, bool] | None:
        """Where something dropped at a point would go: beside which cell, and whether behind it."""
        row = [i for i, c in enumerate(self.cells) if c.y - GAP <= y <= c.y + CELL_H + GAP]
        if not row:
            return None
        before = next((i for i in row if x < self.cells[i].x + self.cells[i].w / 2), None)
        return (row[-1], True) if before is None else (before, False)

    def of_bar(self, bar: int) -> int | None:
        """The cell that plays a bar."""
        return next((i for i, c in enumerate(self.cells) if c.first_bar <= bar < c.first_bar + c.bars), None)


def road(form: Form, width: float) -> Road:
    """The map of a form in so many pixels of width; sections wrap to further lines."""
    heads: list[Head] = []
    cells: list[Cell] = []
    apart = {p.name: _apart(form, p.name) for p in form.parts}
    y = TOP
    bar_w, single = _bar_width(form, width), {s.bar for s in form.singles}
    for number, played in enumerate(form.passes):
        x, line, bar = LEFT, y + HEAD_H, played.first_bar
        other = {played.body_bar + at - 1 for at, _ in played.section.exceptions if at != EVERY_BAR}
        other |= {played.last_bar} if played.cues else set()
        other |= single
        for nth, name in enumerate(played.row, -len(played.lead)):
            part = form.part(name)
            w = max(bar_w * part.pattern.bars, LEAST_BAR_W)
            w = min(w, width - 2 * LEFT)
            if x > LEFT and x + w > width - LEFT:
                x, line = LEFT, line + CELL_H + GAP
            changed = not other.isdisjoint(range(bar, bar + part.pattern.bars))
            cells.append(Cell(number, nth, name, part.base, bar, part.pattern.bars, apart[name], changed, x, line, w))
            x, bar = x + w + GAP, bar + part.pattern.bars
        heads.append(Head(number, _title(played), played.body_bar, played.bars, y))
        y = line + CELL_H + 2 * GAP + 4
    return Road(tuple(heads), tuple(cells), y)


def _title(played: Pass) -> str:
    """What stands above a section: its name, with what it has of its own."""
    section = played.section
    own = [f"{section.tempo_bpm:g} BPM"] if section.tempo_bpm else []
    own += [section.meter.full_name] if section.meter is not None else []
    own += ["its own feel"] if section.feel is not None else []
    return f"{section.name}  ({', '.join(own)})" if own else section.name


def _bar_width(form: Form, width: float) -> float:
    """How wide a bar is: the longest section in one line where that can be read, else the usual width."""
    rows = [(p.lead_bars + p.bars, len(p.row)) for p in form.passes]
    fits = min(((width - 2 * LEFT - GAP * cells) / bars for bars, cells in rows), default=BAR_W)
    return min(max(fits, BAR_W), WIDEST_BAR_W)


_known: dict[str, tuple[Pattern, Pattern, float]] = {}  # of every part the last answer, and what it was for


def _apart(form: Form, name: str) -> float:
    """How far a part is from its base: the mean over its bars."""
    part = form.part(name)
    if not part.base:
        return 0.0
    one, other = form.part(part.base).pattern, part.pattern
    if name not in _known or _known[name][0] is not one or _known[name][1] is not other:
        _known[name] = (one, other, 1 - nearness(one, other)[0])
    return _known[name][2]
