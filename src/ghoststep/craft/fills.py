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
    step of the path with every "cell" or "beat"; land: whether crash and kick stand on the beat behind it; last_short:
    the last cell is without its last stroke."""

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


def filled(pattern: Pattern, start: int, end: int, fill: Fill) -> tuple[set[int], list[Hit]]:
    """Indices of the hits that give way, and the new ones: the fill from one position up to another.

    Parameters
    ----------
    start, end
        In ticks; the fill takes the place of everything between but the hat pedal.

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
    landing = end % pattern.length_ticks
    if fill.land:
        here = [i for i in pattern.between(landing, landing + 1) if pattern.hits[i].voice in _TIME]
        gone.update(here)
        there = {pattern.hits[i].voice for i in pattern.between(landing, landing + 1)}
        hits += [hit(landing, name, _LANDING) for name in ("crash", "kick") if name not in there]
    return gone, hits


_TIME = ("hat_closed", "hat_half", "hat_open", "ride", "ride_bell")


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
