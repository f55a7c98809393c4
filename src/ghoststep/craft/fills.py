"""Fills: cells of hands and feet moved over the drums, up to a landing.

A cell is a sticking ("RLLK"); it goes round as often as the length asks, or once without its last stroke at the end.
The hands move over a path of voices, a step of it with every cell or with every beat.
"""

from dataclasses import dataclass

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LIMB_LETTERS, voice
from ghoststep.music.pattern import Hit, Pattern, hit
from ghoststep.music.time import step_ticks

PATH = ("snare", "tom_high", "tom_low")
# Cells to choose from: plain ones first, then with the foot, then broken ones.
CELLS = ("RL", "RLRR", "RLLK", "RLK", "RLRK", "KRL", "RRLL", "RLRLKK", "RLKK", "RL-K")
_LOUD, _MIDDLE, _LANDING = 108, 72, 108


@dataclass(frozen=True)
class Fill:
    """cell: letters R, L, K, H and - for a rest; path: voices the hands move over; grid: strokes to a whole; move: a
    step of the path with every "cell" or "beat"; land: whether crash and kick stand behind it; last_short: the last
    cell is without its last stroke. Under crashes on the path goes a kick, unless the cell has kicks of its own."""

    cell: str
    path: tuple[str, ...] = PATH
    grid: int = 16
    move: str = "beat"
    land: bool = True
    last_short: bool = False

    def __post_init__(self) -> None:
        if not self.cell or set(self.cell) - {*LIMB_LETTERS, "-"}:
            raise InputError(f"'{self.cell}' is no cell: use R, L, K, H and - for a rest, like RLLK.")
        if not self.path:
            raise InputError("A fill moves over at least one voice.")
        for name in self.path:
            if voice(name).limb not in ("R", "L"):
                raise InputError(f"Hands do not play the {name}: name drums and cymbals, like snare tom_high tom_low.")
        step_ticks(self.grid)


def filled(
    pattern: Pattern, start: int, end: int, fill: Fill, *, landing: int | None = None
) -> tuple[set[int], list[Hit]]:
    """Indices of the hits that give way, and the new ones: the fill from one position up to another.

    A hat that is open when the hands leave it is closed by the foot.

    Parameters
    ----------
    start, end
        In ticks; the fill takes the place of everything between but the hat pedal.
    landing
        Where crash and kick stand, in ticks from the start; at the end of the fill where it is None. Behind the last
        bar it comes round to the first.

    Raises
    ------
    InputError
        Where there is no room, or the grid does not fit into it.
    """
    step = step_ticks(fill.grid)
    if end - start < step or start < 0 or end > pattern.length_ticks:
        raise InputError("A fill needs room for a stroke inside the part.")
    count = (end - start) // step
    letters = _letters(fill, count)
    gone = {i for i in pattern.between(start, end) if pattern.hits[i].voice != "hat_pedal"}
    unit = pattern.frame.meter_at(start).unit_ticks
    hits = [
        _stroke(pattern, start + k * step, letter, _voice(fill, k, k * step // unit), k * step % unit == 0, fill)
        for k, letter in enumerate(letters)
        if letter != "-"
    ]
    if "K" not in fill.cell:
        under = [h.position_ticks for h in hits if h.voice in _CRASHES]
        hits += [hit(tick, "kick", _LOUD, limb="K") for tick in under]
    if _open_before(pattern, start) and not any(h.voice == "hat_pedal" and h.position_ticks == start for h in hits):
        there = {pattern.hits[i].voice for i in pattern.between(start, start + 1)}
        hits += [hit(start, "hat_pedal", _MIDDLE - 20, limb="H")] if "hat_pedal" not in there else []
    if fill.land:
        spot = (end if landing is None else landing) % pattern.length_ticks
        if start <= spot < end:
            raise InputError("A fill lands behind its end, not inside it.")
        gone.update(i for i in pattern.between(spot, spot + 1) if pattern.hits[i].voice in _TIME)
        there = {pattern.hits[i].voice for i in pattern.between(spot, spot + 1)}
        hits += [hit(spot, name, _LANDING) for name in ("crash", "kick") if name not in there]
    return gone, hits


def _open_before(pattern: Pattern, start: int) -> bool:
    """Whether the last stroke on the hat before a place leaves it open."""
    hats = [h for h in pattern.hits[: pattern.between(start, start).start] if voice(h.voice).group == "hat"]
    return bool(hats) and hats[-1].voice in ("hat_open", "hat_half")


_CRASHES = ("crash", "crash_left", "china", "splash")
_TIME = ("hat_closed", "hat_half", "hat_open", "ride", "ride_bell")


PATHS = (PATH, ("snare",), ("snare", "tom_high", "tom_mid", "tom_low"), ("tom_low", "tom_high", "snare"),
         ("snare", "crash"))  # fmt: skip


def offers(strokes: int, grid: int = 16) -> list[Fill]:
    """Fills of so many strokes to choose from: cells that come out even first, over all paths in turn."""
    found = []
    for turn in range(len(PATHS)):
        for k, cell in enumerate(CELLS):
            if len(cell) > strokes:
                continue
            path = PATHS[(k + turn) % len(PATHS)]  # each cell on another path than the one before it
            move = "cell" if len(cell) > 2 else "beat"
            uneven = strokes % len(cell) != 0
            found.append((uneven, Fill(cell, path, grid, move)))
            if strokes >= 2 * len(cell):  # round and round, and the last time without its last stroke
                found.append((True, Fill(cell, path, grid, move, last_short=True)))
    return [fill for _, fill in sorted(found, key=lambda f: f[0])]


def _letters(fill: Fill, count: int) -> str:
    text = (fill.cell * (count // len(fill.cell) + 1))[:count]
    return text[:-1] + "-" if fill.last_short and len(text) > 1 else text


def _voice(fill: Fill, stroke: int, beat: int) -> str:
    """Where the hands are: further along the path with every cell or beat."""
    at = stroke // len(fill.cell) if fill.move == "cell" else beat
    return fill.path[min(at, len(fill.path) - 1)]


def _stroke(pattern: Pattern, tick: int, letter: str, name: str, beat: bool, fill: Fill) -> Hit:
    if letter == "K":
        return hit(tick, "kick", _MIDDLE, limb="K")
    if letter == "H":
        return hit(tick, "hat_pedal", _MIDDLE - 20, limb="H")
    return hit(tick, name, _LOUD if beat else _MIDDLE, limb=letter)
