"""Settings of a pattern that say how it is written and kept, beside its hits."""

from dataclasses import dataclass, replace

from ghoststep.music.errors import InputError
from ghoststep.music.frame import Bars
from ghoststep.music.kit import LANES, voice
from ghoststep.music.time import step_ticks
from ghoststep.music.touch import ROLE_VELOCITY, Role

MAX_CYCLE_STEPS = 256
_MOST_RESTART_BARS = 64
_GHOST_SHARE, _NORMAL_SHARE = 0.35, 2 / 3


@dataclass(frozen=True)
class GridPassage:
    """A stretch of the pattern with a grid of its own, in ticks from its start; `grid` in notes to a whole.

    With `voices` it holds for these alone, and before a grid that they have on the whole.
    """

    start_ticks: int
    end_ticks: int
    grid: int
    voices: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        step_ticks(self.grid)
        for name in self.voices:
            voice(name)
        if not 0 <= self.start_ticks < self.end_ticks:
            raise InputError("A passage with its own grid ends before it begins.")


@dataclass(frozen=True)
class Rules:
    """How a pattern is kept.

    levels: velocities of roles by voice where they differ from the usual ones; cycles: lanes (by index) that repeat
    after a number of ticks against the bar; restarts: such lanes that begin anew every so many bars; own_rounds: rounds
    of such lanes (from 1) that are not kept like the others; linear: no two limbs together; ring_over: sounds ring over
    the loop point.
    """

    levels: tuple[tuple[str, Role, int], ...] = ()
    cycles: tuple[tuple[int, int], ...] = ()
    linear: bool = False
    ring_over: bool = True
    restarts: tuple[tuple[int, int], ...] = ()
    own_rounds: tuple[tuple[int, int], ...] = ()

    def __post_init__(self) -> None:
        for name, _, velocity in self.levels:
            voice(name)
            if not 1 <= velocity <= 127:
                raise InputError(f"A level of {velocity} is outside 1 to 127.")
            ghost, normal, accent = (self.level_of(name, role) for role in Role)
            if not ghost < normal < accent:
                raise InputError(
                    f"Levels of {name} have to rise from ghost to normal to accent, not {ghost}, {normal}, {accent}."
                )
        for lane, ticks in self.cycles:
            if not 0 <= lane < len(LANES) or ticks < 1:
                raise InputError("A lane that repeats needs at least one step.")
        for lane, bars in self.restarts:
            if lane not in dict(self.cycles) or not 1 <= bars <= _MOST_RESTART_BARS:
                raise InputError(f"Only a lane that repeats begins anew, every 1 to {_MOST_RESTART_BARS} bars.")
        for lane, number in self.own_rounds:
            if lane not in dict(self.cycles) or number < 1:
                raise InputError("Only a lane that repeats has rounds of their own, counted from 1.")

    def level_of(self, voice_name: str, role: Role) -> int:
        """The velocity a hit of a role gets in a voice."""
        for name, said, velocity in self.levels:
            if name == voice_name and said is role:
                return velocity
        return ROLE_VELOCITY[role]

    def bounds_of(self, voice_name: str) -> tuple[int, int]:
        """The softest normal stroke and the softest accent of a voice, between the levels it is set to.

        They stand as far between two levels as 46 and 96 stand between the usual 32, 72 and 108 (working assumptions).
        """
        ghost, normal, accent = (self.level_of(voice_name, role) for role in Role)
        return ghost + round(_GHOST_SHARE * (normal - ghost)), normal + round(_NORMAL_SHARE * (accent - normal))

    def band_of(self, voice_name: str, role: Role) -> tuple[int, int]:
        """The lowest and highest velocity of a role in a voice."""
        normal, accent = self.bounds_of(voice_name)
        return {Role.GHOST: (1, normal - 1), Role.NORMAL: (normal, accent - 1), Role.ACCENT: (accent, 127)}[role]

    def role_of(self, voice_name: str, velocity: int) -> Role:
        """The role a velocity is read as in a voice where nothing else is known."""
        normal, accent = self.bounds_of(voice_name)
        return Role.GHOST if velocity < normal else Role.NORMAL if velocity < accent else Role.ACCENT

    def cycle_of(self, lane: int) -> int:
        """After how many ticks a lane repeats; 0 where it does not."""
        return dict(self.cycles).get(lane, 0)

    def restart_of(self, lane: int) -> int:
        """Every how many bars a lane that repeats begins anew; 0 where it runs on."""
        return dict(self.restarts).get(lane, 0)

    def own_of(self, lane: int) -> frozenset[int]:
        """The rounds of a lane, counted from 0, that are not kept like the others."""
        return frozenset(number - 1 for row, number in self.own_rounds if row == lane)

    def without_own(self, lane: int) -> "Rules":
        """The same with all rounds of a lane alike again."""
        return replace(self, own_rounds=tuple(row for row in self.own_rounds if row[0] != lane))

    def run_through(self, lane: int) -> "Rules":
        """The same where a lane no longer repeats."""
        cycles, restarts = (tuple(r for r in rows if r[0] != lane) for rows in (self.cycles, self.restarts))
        return replace(self.without_own(lane), cycles=cycles, restarts=restarts)

    def rounds_of(self, lane: int, bars: Bars, length_ticks: int) -> list[tuple[int, int]]:
        """Start and end of each round of a lane that repeats, in ticks; one is cut where the lane begins anew."""
        ticks, every = self.cycle_of(lane), self.restart_of(lane)
        if not ticks:
            return []
        starts = [0]
        while every and (start := bars.start_of(1 + len(starts) * every)) < length_ticks:
            starts.append(int(start))
        out = []
        for start, end in zip(starts, [*starts[1:], length_ticks], strict=True):
            out += [(at, min(at + ticks, end)) for at in range(start, end, ticks)]
        return out
