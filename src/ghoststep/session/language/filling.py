"""Fills made to measure for a bar: a few that can be played there, each as a phrase of the language."""

from dataclasses import dataclass

from ghoststep.craft.fills import Fill, offers
from ghoststep.judge.check import Terms, impossible
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.time import step_ticks
from ghoststep.music.unrolled import bars_of
from ghoststep.session.document.document import Document
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext

MOST = 8
_OF_A_CELL = 2  # how often the same cell is offered


@dataclass(frozen=True)
class FillOffer:
    """phrase: what does it to its bar; groove: the bars around it as they would be; about: words."""

    phrase: str
    groove: Groove
    about: str


def fill_offers(groove: Groove, bar: int, beats: int, grid: int, terms: Terms) -> list[FillOffer]:
    """A few fills over the last beats of a bar, up to two bars long, that can be played at the groove's tempo.

    Parameters
    ----------
    bar
        Of the groove, from 1.
    beats
        How long; reaching back into the bar before where the bar is shorter.
    grid
        Strokes to a whole: how dense.

    Raises
    ------
    InputError
        Where no fill of that length and density fits.
    """
    around, at = _around(groove, bar)
    meter = around.pattern.frame.meter_of(at)
    strokes = min(beats * meter.unit_ticks, 2 * meter.bar_ticks) // step_ticks(grid)
    hard = impossible(around, terms)
    out: list[FillOffer] = []
    cells: dict[str, int] = {}
    for fill in offers(strokes, grid):
        if cells.get(fill.cell, 0) >= _OF_A_CELL:
            continue
        phrase = fill_phrase(fill, beats)
        last = " landing nothing" if at == around.pattern.bars else ""
        try:
            _, context = do(EditContext(Document("fill", around)), f"{phrase} in {at}{last}")
        except InputError:  # its strokes do not fit into this meter
            continue
        tried = context.document.groove
        if impossible(tried, terms) <= hard:
            cells[fill.cell] = cells.get(fill.cell, 0) + 1
            out.append(FillOffer(phrase, tried, _told(fill)))
        if len(out) == MOST:
            break
    if not out:
        raise InputError("No fill of this length and density can be played there: take a shorter or a plainer one.")
    return out


def fill_phrase(fill: Fill, beats: int) -> str:
    """The phrase that makes a fill."""
    cell = fill.cell + "!" * fill.last_short
    move = "" if fill.move == "beat" else f" move {fill.move}"
    grid = "" if fill.grid == 16 else f" grid {fill.grid}"
    return f"fill-in {beats} cell {cell} over {' '.join(fill.path)}{grid}{move}"


def _around(groove: Groove, bar: int) -> tuple[Groove, int]:
    """The bar with one before and one behind it, and which of them it is."""
    pattern = groove.pattern
    first, last = max(1, bar - 1), min(pattern.bars, bar + 1)
    return groove.changed(pattern=bars_of(pattern, first, last)), bar - first + 1


def _told(fill: Fill) -> str:
    over = ", ".join(name.replace("_", " ") for name in fill.path)
    short = ", the last time without its last stroke" if fill.last_short else ""
    return f"{fill.cell} over {over}{short}"
