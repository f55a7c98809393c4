"""Claves and time lines, with their sides and turns, laid on a voice and found again in what is played.

Positions are sixteenths of a cycle: of two bars of 2/4 (or one of 4/4 in sixteenths) for the claves.
"""

from collections.abc import Iterable
from dataclasses import dataclass

from ghoststep.music.errors import InputError
from ghoststep.music.pattern import Pattern
from ghoststep.music.time import TICKS_PER_QUARTER


@dataclass(frozen=True)
class TimeLine:
    """steps: where it is struck, in steps of which `length` make a cycle; unit: ticks of a step; turns: whether it has
    sides that can be exchanged."""

    name: str
    steps: tuple[int, ...]
    length: int = 16
    unit: int = TICKS_PER_QUARTER // 2
    turns: bool = True

    def turned(self) -> tuple[int, ...]:
        """The other side first."""
        half = self.length // 2
        return tuple(sorted((s + half) % self.length for s in self.steps))


TIME_LINES: tuple[TimeLine, ...] = (
    TimeLine("son", (0, 3, 6, 10, 12)),
    TimeLine("rumba", (0, 3, 7, 10, 12)),
    TimeLine("bossa", (0, 3, 6, 10, 13)),
    TimeLine("tresillo", (0, 3, 6), 8, turns=False),
    TimeLine("baiao", (0, 3, 4), 8, turns=False),
    TimeLine("samba", (0, 2, 4, 5, 7, 9, 11, 12, 14)),
    TimeLine("cascara", (0, 2, 3, 5, 7, 8, 10, 11, 13, 15)),
    TimeLine("six-eight-bell", (0, 2, 4, 5, 7, 9, 11), 12, turns=False),
)
SIDES = ("3-2", "2-3")
VOICES = ("cross_stick", "ride_bell", "cowbell", "shaker", "snare")


def time_line(name: str) -> TimeLine:
    """The time line of that name.

    Raises
    ------
    InputError
        Naming those there are.
    """
    found = next((t for t in TIME_LINES if t.name == name), None)
    if found is None:
        raise InputError(f"'{name}' is no time line. There are: {', '.join(t.name for t in TIME_LINES)}.")
    return found


def positions(line: TimeLine, length_ticks: int, side: str = SIDES[0], unit: int = 0, *, vary: int = 0) -> list[int]:
    """Where a time line is struck in so many ticks, cycle after cycle.

    Parameters
    ----------
    unit
        Ticks of a step, else the line's own.
    vary
        How many strokes of every second cycle are a step later, so that the line is still known by the others; never
        its first stroke, and never onto another one. Of a single cycle those are of its second half.
    """
    step = unit or line.unit
    steps = line.turned() if side == SIDES[1] and line.turns else line.steps
    cycle = line.length * step
    found = []
    cycles = -(-length_ticks // cycle)
    for number in range(cycles):
        here = steps
        if number % 2 or cycles == 1:
            here = _varied(steps, line.length, vary, number, first=line.length // 2 if cycles == 1 else 1)
        found += [number * cycle + s * step for s in here]
    return [t for t in found if t < length_ticks]


def _varied(steps: tuple[int, ...], length: int, vary: int, number: int, first: int) -> tuple[int, ...]:
    """Some strokes from a step on a step later, other ones from cycle to cycle."""
    own = [k for k in range(1, len(steps)) if steps[k] >= first]
    free = [k for k in own if steps[k] + 1 < length and steps[k] + 1 not in steps]
    start = number // 2
    late = {free[(start + k) % len(free)] for k in range(min(vary, len(free)))}
    return tuple(s + (k in late) for k, s in enumerate(steps))


@dataclass(frozen=True)
class Recognised:
    """A time line that was found: on which voice, which side, and the share of its strokes that are there."""

    line: str
    side: str
    voice: str
    share: float

    @property
    def words(self) -> str:
        side = f"{self.side} " if self.side else ""
        return f"{side}{self.line} on the {self.voice.replace('_', ' ')}"


def recognised(pattern: Pattern, voices: Iterable[str] = VOICES, least: float = 0.9) -> list[Recognised]:
    """Time lines that voices of a pattern play, the surest first; strokes that are no part of one count against it."""
    out = []
    for name in voices:
        struck = {h.position_ticks for h in pattern.hits if h.voice == name and not h.grace}
        if len(struck) < 3:
            continue
        for line in TIME_LINES:
            for side in SIDES if line.turns else ("",):
                for unit in (TICKS_PER_QUARTER // 2, TICKS_PER_QUARTER // 4):
                    wanted = set(positions(line, pattern.length_ticks, side or SIDES[0], unit))
                    share = len(wanted & struck) / max(len(wanted | struck), 1)
                    if share >= least and line.length * unit <= pattern.length_ticks:
                        out.append(Recognised(line.name, side, name, round(share, 3)))
    return sorted(out, key=lambda r: -r.share)
