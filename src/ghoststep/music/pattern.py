"""What is meant: hits on exact positions in a meter."""

from bisect import bisect_left, insort
from collections.abc import Iterable, Set
from dataclasses import dataclass, field, replace
from functools import cached_property

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LIMB_LETTERS, STROKE_INDEX, VOICE_INDEX, voice
from ghoststep.music.meter import Meter
from ghoststep.music.ornaments import ornament
from ghoststep.music.rules import GridPassage, Rules
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
    """One stroke. `offset_ms` is its own small deviation, late positive, beside what the feel does.

    `length_ticks` is when an open hat closes, a cymbal is choked or a roll lands, counted from the hit; 0 lets it ring.
    """

    position_ticks: int
    voice: str
    velocity: int
    role: Role
    stroke: str = "plain"
    limb: str = ""
    offset_ms: float = 0.0
    grace: bool = False
    origin: Origin | None = None
    ornament: str = ""
    length_ticks: int = 0

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
        if self.ornament:
            ornament(self.ornament)
        if self.length_ticks < 0:
            raise InputError("A hit cannot end before it begins.")

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

    `grid` is in notes to a whole; `lane_grids` names the voices that keep another one, `passages` stretches that do.
    """

    hits: tuple[Hit, ...] = ()
    meter: Meter = field(default_factory=Meter)
    bars: int = 1
    grid: int = 16
    lane_grids: tuple[tuple[str, int], ...] = ()
    passages: tuple[GridPassage, ...] = ()
    rules: Rules = field(default_factory=Rules)

    def __post_init__(self) -> None:
        if not 1 <= self.bars <= MAX_BARS:
            raise InputError(f"A pattern of {self.bars} bars does not fit: 1 to {MAX_BARS} bars.")
        step_ticks(self.grid)
        for name, grid in self.lane_grids:
            voice(name)
            step_ticks(grid)
        ordered = tuple(sorted(self.hits, key=lambda h: h.sort_key))
        object.__setattr__(self, "hits", ordered)
        self._check_end()

    def _check_end(self) -> None:
        if self.hits and self.hits[-1].position_ticks >= self.length_ticks:
            raise InputError(
                f"A hit lies at bar {self.hits[-1].position_ticks // self.meter.bar_ticks + 1},"
                f" but the pattern has only {self.bars}."
            )

    def with_hits(self, gone: Set[int], new: Iterable[Hit]) -> "Pattern":
        """A copy without the hits whose indices are `gone` and with some new ones.

        The order is kept without sorting everything, so that one hit of a pattern of thousands changes at once.
        """
        kept = [h for i, h in enumerate(self.hits) if i not in gone] if gone else list(self.hits)
        added = list(new)
        if len(added) > 64:
            kept += added
            kept.sort(key=lambda h: h.sort_key)
        else:
            for h in added:
                insort(kept, h, key=lambda x: x.sort_key)
        out = object.__new__(Pattern)
        for name in ("meter", "bars", "grid", "lane_grids", "passages", "rules"):
            object.__setattr__(out, name, getattr(self, name))
        object.__setattr__(out, "hits", tuple(kept))
        out._check_end()
        return out

    def without_hits(self) -> "Pattern":
        return replace(self, hits=())

    @property
    def length_ticks(self) -> int:
        return self.bars * self.meter.bar_ticks

    def between(self, start_ticks: float, end_ticks: float) -> range:
        """Indices of the hits from a position up to (without) another, found by halving."""
        low = bisect_left(self.hits, start_ticks, key=lambda h: h.position_ticks)
        return range(low, bisect_left(self.hits, end_ticks, lo=low, key=lambda h: h.position_ticks))

    def grid_of(self, voice_name: str) -> int:
        return dict(self.lane_grids).get(voice_name, self.grid)

    def grid_at(self, voice_name: str, ticks: int) -> int:
        """The grid a voice has at a position: its own, else the passage's, else the pattern's."""
        own = dict(self.lane_grids).get(voice_name)
        if own is not None:
            return own
        return next((p.grid for p in self.passages if p.start_ticks <= ticks < p.end_ticks), self.grid)

    def stretches(self, voice_name: str) -> list[tuple[int, int, int]]:
        """Where a voice has which step: (start, end, step) in ticks, in order, without gaps."""
        if voice_name in dict(self.lane_grids) or not self.passages:
            return [(0, self.length_ticks, step_ticks(self.grid_of(voice_name)))]
        out, at = [], 0
        for p in sorted(self.passages, key=lambda p: p.start_ticks):
            start, end = max(p.start_ticks, at), min(p.end_ticks, self.length_ticks)
            if start >= end:
                continue
            if start > at:
                out.append((at, start, step_ticks(self.grid)))
            out.append((start, end, step_ticks(p.grid)))
            at = end
        if at < self.length_ticks:
            out.append((at, self.length_ticks, step_ticks(self.grid)))
        return out

    @cached_property
    def voices(self) -> tuple[str, ...]:
        """The voices that have hits, in the order of the lanes."""
        used = {h.voice for h in self.hits}
        return tuple(name for name in VOICE_INDEX if name in used)

    def at(self, position_ticks: int, voice_name: str) -> Hit | None:
        """The first hit of a voice that is meant for exactly this position and is no grace note."""
        found = (self.hits[i] for i in self.between(position_ticks, position_ticks + 1))
        return next((h for h in found if h.voice == voice_name and not h.grace), None)
