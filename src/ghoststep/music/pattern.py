"""What is meant: hits on exact positions in a meter."""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Set
from dataclasses import dataclass, field, fields, replace
from functools import cached_property
from itertools import pairwise
from operator import attrgetter
from typing import Any

from ghoststep.music.errors import InputError
from ghoststep.music.frame import Bars, MeterChanges
from ghoststep.music.kit import LIMB_LETTERS, STROKE_INDEX, VOICE_INDEX, voice
from ghoststep.music.meter import Meter
from ghoststep.music.ornaments import ornament
from ghoststep.music.rules import GridPassage, Rules
from ghoststep.music.time import TICKS_PER_WHOLE, step_ticks
from ghoststep.music.touch import Role, role_of

MAX_BARS = 4096
MAX_OFFSET_MS = 2000.0
MAX_LENGTH_TICKS = 64 * TICKS_PER_WHOLE
MAX_TICKS = MAX_BARS * 64 * TICKS_PER_WHOLE
# Keys below this name hits by their number in what was heard; the others were put in by the user.
FIRST_OWN_KEY = 1 << 32


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
    `key` names the hit in its document through all changes, 0 before it has one; `within` is the roll (start, landing
    in ticks) whose stroke it is, set only where an ornament is spelled out. A `fixed` hit is played as it is written,
    whatever the feel does: the feel was printed into it.
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
    key: int = field(default=0, compare=False)
    within: tuple[int, int] | None = None
    fixed: bool = False

    def __post_init__(self) -> None:
        if self.voice not in VOICE_INDEX:
            voice(self.voice)  # says which voices there are
        if not 1 <= self.velocity <= 127:
            raise InputError(f"A velocity of {self.velocity} is outside 1 to 127.")
        if not 0 <= self.position_ticks <= MAX_TICKS:
            raise InputError(f"A hit at {self.position_ticks} ticks lies outside what a pattern can hold.")
        if self.stroke not in STROKE_INDEX:
            raise InputError(f"'{self.stroke}' is no stroke. The strokes are: {', '.join(STROKE_INDEX)}.")
        if self.limb and self.limb not in LIMB_LETTERS:
            raise InputError(f"'{self.limb}' is no limb: use R, L, K or H.")
        if not abs(self.offset_ms) <= MAX_OFFSET_MS:
            raise InputError(f"A deviation of {self.offset_ms:g} ms is outside ±{MAX_OFFSET_MS:g} ms.")
        if self.ornament:
            ornament(self.ornament)
        if not 0 <= self.length_ticks <= MAX_LENGTH_TICKS:
            raise InputError("A hit lasts from nothing (it rings) to 64 whole notes.")

    def moved(self, position_ticks: int, *, key: int | None = None) -> "Hit":
        """The same hit at another position, under another name where one is given; made without checking it anew,
        since forms of thousands of hits are laid out by it.

        Raises
        ------
        InputError
            Where the position lies outside what a pattern can hold.
        """
        if not 0 <= position_ticks <= MAX_TICKS:
            raise InputError(f"A hit at {position_ticks} ticks lies outside what a pattern can hold.")
        out = object.__new__(Hit)
        for read, write in _SLOTS:
            write(out, read(self))
        _PLACE(out, position_ticks)
        if key is not None:
            _KEY(out, key)
        return out

    def struck(self, velocity: int, role: Role) -> "Hit":
        """The same hit, louder or softer and with a role; the rest is not checked anew.

        Raises
        ------
        InputError
            Where the velocity is outside 1 to 127.
        """
        if not 1 <= velocity <= 127:
            raise InputError(f"A velocity of {velocity} is outside 1 to 127.")
        out = object.__new__(Hit)
        for read, write in _SLOTS:
            write(out, read(self))
        _VELOCITY(out, velocity)
        _ROLE(out, role)
        return out

    @property
    def limb_letter(self) -> str:
        """The limb set for the hit, else the usual one of its voice."""
        return self.limb or voice(self.voice).limb

    @property
    def sort_key(self) -> tuple[int, int, float, bool, int, str, str]:
        """The order of hits in a pattern; beyond position and lane only so that there is one order."""
        at, lane = self.position_ticks, VOICE_INDEX[self.voice]
        return (at, lane, self.offset_ms, not self.grace, self.velocity, self.role, self.stroke)


# How the fields of a hit are read and written past its checks, for copies of hits that passed them.
_SLOTS = tuple((getattr(Hit, f.name).__get__, getattr(Hit, f.name).__set__) for f in fields(Hit))
_WRITE = {f.name: write for f, (_, write) in zip(fields(Hit), _SLOTS, strict=True)}
_PLACE, _KEY, _VELOCITY, _ROLE = (_WRITE[name] for name in ("position_ticks", "key", "velocity", "role"))


def hit(position_ticks: int, voice_name: str, velocity: int, **rest: object) -> Hit:
    """A hit whose role is read off its velocity unless given."""
    role = rest.pop("role", None) or role_of(velocity)
    return Hit(position_ticks, voice_name, velocity, role, **rest)  # type: ignore[arg-type]


def copy_of(h: Hit, **changes: object) -> Hit:
    """A hit like another one, but one of its own: it was not heard, and gets a name of its own."""
    return replace(h, origin=None, key=0, **changes)  # type: ignore[arg-type]


_position = attrgetter("position_ticks")
_MANY = 256  # hits from which on all of a pattern are gone through, instead of looking for each


def _put_in_order(hits: list[Hit], h: Hit) -> None:
    """A hit put where it belongs: found by its position, and among those on it by the whole order."""
    at = bisect_left(hits, h.position_ticks, key=_position)
    end = bisect_right(hits, h.position_ticks, lo=at, key=_position)
    if at < end:
        at = bisect_right(hits, h.sort_key, lo=at, hi=end, key=lambda x: x.sort_key)
    hits.insert(at, h)


@dataclass(frozen=True)
class Pattern:
    """Hits in the order of position and lane, a number of bars, and a grid.

    `meter` is that of bar 1, `meter_changes` names the bars from which on another holds. `grid` is in notes to a whole;
    `lane_grids` names the voices that keep another one, `passages` stretches that do.

    Raises
    ------
    InputError
        Where a hit lies behind the last bar, or a number is out of its range.
    """

    hits: tuple[Hit, ...] = ()
    meter: Meter = field(default_factory=Meter)
    bars: int = 1
    grid: int = 16
    lane_grids: tuple[tuple[str, int], ...] = ()
    passages: tuple[GridPassage, ...] = ()
    rules: Rules = field(default_factory=Rules)
    meter_changes: MeterChanges = ()

    def __post_init__(self) -> None:
        if not 1 <= self.bars <= MAX_BARS:
            raise InputError(f"A pattern of {self.bars} bars does not fit: 1 to {MAX_BARS} bars.")
        step_ticks(self.grid)
        for name, grid in self.lane_grids:
            voice(name)
            step_ticks(grid)
        object.__setattr__(self, "lane_grids", tuple(sorted(self.lane_grids)))
        in_order = sorted(self.passages, key=lambda p: (p.start_ticks, p.voices, p.end_ticks, p.grid))
        object.__setattr__(self, "passages", tuple(in_order))
        if self.meter_changes:
            Bars(self.meter, self.meter_changes)  # tells what is wrong with them
            tidy = Bars.of({1: self.meter, **dict(self.meter_changes)}).up_to(self.bars)
            object.__setattr__(self, "meter_changes", tidy.changes)
        ordered = tuple(sorted(self.hits, key=lambda h: h.sort_key))
        object.__setattr__(self, "hits", ordered)
        self._check_end()

    def _check_end(self) -> None:
        if self.hits and self.hits[-1].position_ticks >= self.length_ticks:
            bar = self.frame.spot_at(self.hits[-1].position_ticks).bar
            raise InputError(f"A hit lies at bar {bar}, but the pattern has only {self.bars}.")

    def with_hits(self, gone: Set[int], new: Iterable[Hit]) -> "Pattern":
        """A copy without the hits whose indices are `gone` and with some new ones.

        The order is kept without sorting everything, so that one hit of a pattern of thousands changes at once.
        """
        kept = [h for i, h in enumerate(self.hits) if i not in gone] if gone else list(self.hits)
        added = list(new)
        if 8 * len(added) > len(kept):
            kept += added
            kept.sort(key=lambda h: h.sort_key)
        else:
            for h in added:
                _put_in_order(kept, h)
        return self.in_order(tuple(kept))

    def in_order(self, ordered: tuple[Hit, ...]) -> "Pattern":
        """A copy with other hits, which are in the order of the pattern already."""
        out = object.__new__(Pattern)
        for f in fields(Pattern):
            object.__setattr__(out, f.name, getattr(self, f.name))
        object.__setattr__(out, "hits", ordered)
        out.__dict__["frame"] = self.frame
        out._check_end()
        return out

    def with_frame(self, frame: Bars, **changes: Any) -> "Pattern":
        """A copy with other bars, and whatever else changes with them."""
        return replace(self, meter=frame.first, meter_changes=frame.changes, **changes)

    @cached_property
    def frame(self) -> Bars:
        """Where the bar lines lie."""
        return Bars(self.meter, self.meter_changes)

    def without_hits(self) -> "Pattern":
        return replace(self, hits=())

    @cached_property
    def length_ticks(self) -> int:
        return self.frame.start_of(self.bars + 1)

    def between(self, start_ticks: float, end_ticks: float) -> range:
        """Indices of the hits from a position up to (without) another, found by halving."""
        low = bisect_left(self.hits, start_ticks, key=_position)
        return range(low, bisect_left(self.hits, end_ticks, lo=low, key=_position))

    def indices_of(self, hits: Iterable[Hit]) -> set[int]:
        """Where in the row these hits stand, by their keys; what has no key, or is not here, is passed over.

        Each is looked for where it stands, since a pattern may hold tens of thousands.
        """
        out: set[int] = set()
        wanted = list(hits)
        if len(wanted) > _MANY:
            by_key = {h.key: h.position_ticks for h in wanted if h.key}
            known = set(map(id, wanted))
            return {i for i, h in enumerate(self.hits) if id(h) in known or by_key.get(h.key, -1) == h.position_ticks}
        for h in wanted:
            near = self.between(h.position_ticks, h.position_ticks + 1)
            out.update(i for i in near if self.hits[i] is h or (h.key and self.hits[i].key == h.key))
        return out

    def indices_of_keys(self, keys: Set[int]) -> list[int]:
        """Where in the row the hits of these keys stand, in order."""
        return [i for i, h in enumerate(self.hits) if h.key in keys] if keys else []

    def grid_of(self, voice_name: str) -> int:
        return dict(self.lane_grids).get(voice_name, self.grid)

    def grid_at(self, voice_name: str, ticks: int) -> int:
        """The grid a voice has at a position: a passage's of its own, its own, a passage's, the pattern's."""
        here = [p for p in self.passages if p.start_ticks <= ticks < p.end_ticks]
        for p in here:
            if voice_name in p.voices:
                return p.grid
        own = dict(self.lane_grids).get(voice_name)
        if own is not None:
            return own
        return next((p.grid for p in here if not p.voices), self.grid)

    def stretches(self, voice_name: str) -> list[tuple[int, int, int]]:
        """Where a voice has which step: (start, end, step) in ticks, in order, without gaps."""
        length = self.length_ticks
        mine = [p for p in self.passages if not p.voices or voice_name in p.voices]
        edges = sorted({0, length, *(t for p in mine for t in (p.start_ticks, p.end_ticks) if t < length)})
        out: list[tuple[int, int, int]] = []
        for start, end in pairwise(edges):
            step = step_ticks(self.grid_at(voice_name, start))
            if out and out[-1][2] == step and (start - out[-1][0]) % step == 0:
                out[-1] = (out[-1][0], end, step)
            else:
                out.append((start, end, step))
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
