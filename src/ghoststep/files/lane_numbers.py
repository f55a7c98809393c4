"""Lanes as project files number them: a number stays, whatever lanes come between."""

from collections.abc import Iterable

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, LANES

# By their first voice. New lanes are added at the end.
_LANES = (
    "crash", "ride", "hat_closed", "tom_high", "tom_mid", "snare", "tom_low", "kick", "hat_pedal", "crash_left",
    "china", "tom_floor", "cowbell",
)  # fmt: skip


def lanes_out(rows: Iterable[tuple[int, int]]) -> list[tuple[int, int]]:
    """Rows of (index into LANES, value) with the numbers that files have for lanes."""
    return [(_LANES.index(LANES[lane].voices[0]), value) for lane, value in rows]


def lanes_in(rows: Iterable[tuple[int, int]]) -> tuple[tuple[int, int], ...]:
    """The way back; an InputError where a number is no lane's."""
    out = []
    for lane, value in rows:
        if not 0 <= lane < len(_LANES):
            raise InputError(f"A lane {lane} that repeats is none.")
        out.append((LANE_OF_VOICE[_LANES[lane]], value))
    return tuple(sorted(out))
