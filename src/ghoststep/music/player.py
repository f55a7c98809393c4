"""What makes a player beside swing and lean: how strokes stray, how hard which stroke is, and what each spot gets.

All of it is measured in somebody, or set, and applied when a pattern is performed; none of it is written into hits.
"""

from dataclasses import dataclass

from ghoststep.music.errors import InputError
from ghoststep.music.kit import voice
from ghoststep.music.touch import Role

MOST_SPOTS = 4096
ROLE_ORDER = tuple(Role)  # ghost, normal, accent: the order of the levels of a spot


def _within(value: float, low: float, high: float, what: str) -> None:
    if not low <= value <= high:  # also catches NaN
        raise InputError(f"{what} of {value:g} is outside {low:g} to {high:g}.")


@dataclass(frozen=True)
class Wander:
    """How strokes stray around where they are meant; how far is the looseness of the feel.

    exponent: b of the spectrum 1/f^b, 0 is dice, players lie between 0.2 and 1.3 (Hennig et al. 2011; Räsänen et al.
    2015); shared: correlation between limbs, the part of the one inner clock; together: times the spread where limbs
    strike together; softer: by so much of its spread a stroke of no force is looser than a normal one; velocity:
    standard deviation of velocities; tempo_percent: standard deviation of the tempo from bar to bar; push_percent: how
    much faster the last of each `phrase_bars` bars ends, which the bar after it takes back.
    """

    exponent: float = 1.0
    shared: float = 0.64
    together: float = 1.0
    softer: float = 0.0
    velocity: float = 0.0
    tempo_percent: float = 0.0
    push_percent: float = 0.0
    phrase_bars: int = 4

    def __post_init__(self) -> None:
        _within(self.exponent, 0, 2, "An exponent")
        _within(self.shared, 0, 1, "A shared part")
        _within(self.together, 0, 2, "A spread where limbs strike together")
        _within(self.softer, 0, 3, "A looseness of soft strokes")
        _within(self.velocity, 0, 30, "A spread of velocities")
        _within(self.tempo_percent, 0, 5, "A drift of tempo in percent")
        _within(self.push_percent, -10, 10, "A push in percent")
        if not 1 <= self.phrase_bars <= 64:
            raise InputError(f"A phrase of {self.phrase_bars} bars does not fit: 1 to 64.")


@dataclass(frozen=True)
class SpotFeel:
    """What a player does with one voice on one spot of the bar.

    `bar_ticks` is the length of the bar it lies in, `at_ticks` the spot from its bar line. `late_ms` comes on top of
    the voice's lean. `levels` are velocities as ghost, normal and accent stroke, 0 where the player never plays one.
    """

    voice: str
    bar_ticks: int
    at_ticks: int
    late_ms: float = 0.0
    levels: tuple[float, float, float] = (0.0, 0.0, 0.0)

    def __post_init__(self) -> None:
        voice(self.voice)
        if not 0 <= self.at_ticks < self.bar_ticks:
            raise InputError(f"A spot of {self.voice} lies outside its bar.")
        _within(self.late_ms, -200, 200, f"A lean of {self.voice} on a spot")
        for level in self.levels:
            _within(level, 0, 127, f"A velocity of {self.voice} on a spot")

    def level_of(self, role: Role) -> float:
        """The velocity of a stroke of a role here; of another that is no ghost where none of its own is known; or 0."""
        ghost, normal, accent = self.levels
        if role is Role.GHOST:
            return ghost
        own, other = (accent, normal) if role is Role.ACCENT else (normal, accent)
        return own or other


@dataclass(frozen=True)
class Touch:
    """How hard a player strikes.

    levels: the velocity of a role in a voice where the spot says nothing; share: how much of the way to all these
    velocities a stroke is moved, 0 (as written) to 1.5; second: the share of its velocity that the second stroke of a
    double has; weaker: the same for strokes of the weaker hand.
    """

    levels: tuple[tuple[str, Role, float], ...] = ()
    share: float = 1.0
    second: float = 1.0
    weaker: float = 1.0
    weaker_hand: str = "L"

    def __post_init__(self) -> None:
        for name, _, velocity in self.levels:
            voice(name)
            _within(velocity, 1, 127, f"A level of {name}")
        ordered = sorted(self.levels, key=lambda row: (row[0], ROLE_ORDER.index(row[1])))
        object.__setattr__(self, "levels", tuple(ordered))
        _within(self.share, 0, 1.5, "A share of touch")
        _within(self.second, 0.3, 1.5, "A second stroke")
        _within(self.weaker, 0.3, 1.5, "A weaker hand")
        if self.weaker_hand not in ("R", "L"):
            raise InputError(f"'{self.weaker_hand}' is no hand: R or L.")


@dataclass(frozen=True)
class Spacing:
    """How far ahead grace notes lie, in ms; 0 is as the ornament says. `spread_ms`: how much that varies."""

    flam_ms: float = 0.0
    drag_ms: float = 0.0
    spread_ms: float = 0.0

    def __post_init__(self) -> None:
        _within(self.flam_ms, 0, 120, "A flam")
        _within(self.drag_ms, 0, 120, "A drag")
        _within(self.spread_ms, 0, 20, "A spread of grace notes")
