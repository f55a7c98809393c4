"""Settings of a pattern that say how it is written and kept, beside its hits."""

from dataclasses import dataclass

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANES, voice
from ghoststep.music.time import step_ticks
from ghoststep.music.touch import ROLE_VELOCITY, Role

MAX_CYCLE_STEPS = 256


@dataclass(frozen=True)
class GridPassage:
    """A stretch of the pattern with a grid of its own, in ticks from its start; `grid` in notes to a whole."""

    start_ticks: int
    end_ticks: int
    grid: int

    def __post_init__(self) -> None:
        step_ticks(self.grid)
        if not 0 <= self.start_ticks < self.end_ticks:
            raise InputError("A passage with its own grid ends before it begins.")


@dataclass(frozen=True)
class Rules:
    """How a pattern is kept.

    levels: velocities of roles by voice where they differ from the usual ones; cycles: lanes (by index) that repeat
    after a number of ticks against the bar; linear: no two limbs together; ring_over: sounds ring over the loop point.
    """

    levels: tuple[tuple[str, Role, int], ...] = ()
    cycles: tuple[tuple[int, int], ...] = ()
    linear: bool = False
    ring_over: bool = True

    def __post_init__(self) -> None:
        for name, _, velocity in self.levels:
            voice(name)
            if not 1 <= velocity <= 127:
                raise InputError(f"A level of {velocity} is outside 1 to 127.")
        for lane, ticks in self.cycles:
            if not 0 <= lane < len(LANES) or ticks < 1:
                raise InputError("A lane that repeats needs at least one step.")

    def level_of(self, voice_name: str, role: Role) -> int:
        """The velocity a hit of a role gets in a voice."""
        for name, said, velocity in self.levels:
            if name == voice_name and said is role:
                return velocity
        return ROLE_VELOCITY[role]

    def cycle_of(self, lane: int) -> int:
        """After how many ticks a lane repeats; 0 where it does not."""
        return dict(self.cycles).get(lane, 0)
