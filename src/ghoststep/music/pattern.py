"""What is meant: hits on exact positions in a meter."""

from dataclasses import dataclass, field

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LIMB_LETTERS, STROKE_INDEX, VOICE_INDEX, voice
from ghoststep.music.meter import Meter
from ghoststep.music.time import step_ticks
from ghoststep.music.touch import Role, role_of

MAX_BARS = 4096
MAX_OFFSET_MS = 2000.0


@dataclass(frozen=True)
class Origin:
    """Where a hit came from: the moment in the recording, how sure the listening was (0 to 1), and the voice heard."""

    time_s: float
    confidence: float
    voice: str = ""


@dataclass(frozen=True, slots=True)
class Hit:
    """One stroke. `offset_ms` is its own small deviation, late positive, beside what the feel does."""

    position_ticks: int
    voice: str
    velocity: int
    role: Role
    stroke: str = "plain"
    limb: str = ""
    offset_ms: float = 0.0
    grace: bool = False
    origin: Origin | None = None

    def __post_init__(self) -> None:
        if self.voice not in VOICE_INDEX:
            voice(self.voice)  # says which voices there are
        if not 1 <= self.velocity <= 127:
            raise InputError(f"A velocity of {self.velocity} is outside 1 to 127.")
        if self.position_ticks < 0:
            raise InputError(f"A hit at {self.position_ticks} ticks lies before the first bar.")
        if self.stroke not in STROKE_INDEX:
            raise InputError(f"'{self.stroke}' is no stroke. The strokes are: {', '.join(STROKE_INDEX)}.")
        if self.limb and self.limb not in LIMB_LETTERS:
            raise InputError(f"'{self.limb}' is no limb: use R, L, K or H.")
        if not abs(self.offset_ms) <= MAX_OFFSET_MS:
            raise InputError(f"A deviation of {self.offset_ms:g} ms is outside ±{MAX_OFFSET_MS:g} ms.")

    @property
    def limb_letter(self) -> str:
        """The limb set for the hit, else the usual one of its voice."""
        return self.limb or voice(self.voice).limb

    @property
    def sort_key(self) -> tuple[int, int, float]:
        return (self.position_ticks, VOICE_INDEX[self.voice], self.offset_ms)


def hit(position_ticks: int, voice_name: str, velocity: int, **rest: object) -> Hit:
    """A hit whose role is read off its velocity unless given."""
    role = rest.pop("role", None) or role_of(velocity)
    return Hit(position_ticks, voice_name, velocity, role, **rest)  # type: ignore[arg-type]


@dataclass(frozen=True)
class Pattern:
    """Hits in the order of position and lane, a number of bars of one meter, and a grid.

    `grid` is in notes to a whole; `lane_grids` names the voices that keep another one.
    """

    hits: tuple[Hit, ...] = ()
    meter: Meter = field(default_factory=Meter)
    bars: int = 1
    grid: int = 16
    lane_grids: tuple[tuple[str, int], ...] = ()

    def __post_init__(self) -> None:
        if not 1 <= self.bars <= MAX_BARS:
            raise InputError(f"A pattern of {self.bars} bars does not fit: 1 to {MAX_BARS} bars.")
        step_ticks(self.grid)
        for name, grid in self.lane_grids:
            voice(name)
            step_ticks(grid)
        ordered = tuple(sorted(self.hits, key=lambda h: h.sort_key))
        object.__setattr__(self, "hits", ordered)
        if ordered and ordered[-1].position_ticks >= self.length_ticks:
            raise InputError(
                f"A hit lies at bar {ordered[-1].position_ticks // self.meter.bar_ticks + 1},"
                f" but the pattern has only {self.bars}."
            )

    @property
    def length_ticks(self) -> int:
        return self.bars * self.meter.bar_ticks

    def grid_of(self, voice_name: str) -> int:
        return dict(self.lane_grids).get(voice_name, self.grid)

    @property
    def voices(self) -> tuple[str, ...]:
        """The voices that have hits, in the order of the lanes."""
        used = {h.voice for h in self.hits}
        return tuple(name for name in VOICE_INDEX if name in used)

    def at(self, position_ticks: int, voice_name: str) -> Hit | None:
        """The first hit of a voice that is meant for exactly this position and is no grace note."""
        return next(
            (h for h in self.hits if h.position_ticks == position_ticks and h.voice == voice_name and not h.grace),
            None,
        )
