"""Lanes as project files number them: a number stays, whatever lanes come between."""

from collections.abc import Iterable

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANES

_INDEX = {lane.number: index for index, lane in enumerate(LANES)}


def lanes_out(rows: Iterable[tuple[int, int]]) -> list[tuple[int, int]]:
    """Rows of (index into LANES, value) with the numbers that files have for lanes."""
    return [(LANES[lane].number, value) for lane, value in rows]


def lanes_in(rows: Iterable[tuple[int, int]]) -> tuple[tuple[int, int], ...]:
    """The way back.

    Raises
    ------
    InputError
        Where a number is no lane's.
    """
    out = []
    for lane, value in rows:
        if lane not in _INDEX:
            raise InputError(f"A lane {lane} that repeats is none.")
        out.append((_INDEX[lane], value))
    return tuple(sorted(out))
