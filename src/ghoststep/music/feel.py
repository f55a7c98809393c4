"""How it is played: swing, lean, looseness. Applied to a pattern, never written into it."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ghoststep.music.errors import InputError
from ghoststep.music.frame import Bars
from ghoststep.music.kit import GROUPS, VOICE_INDEX, voice, voices_of
from ghoststep.music.player import MOST_SPOTS, Spacing, SpotFeel, Touch, Wander
from ghoststep.music.time import TICKS_PER_WHOLE, step_ticks

SWING_UNITS = {8: "8th", 16: "16th"}
SWING_LIMITS = (0.5, 0.8)
_FINEST = TICKS_PER_WHOLE // 256  # 2^8 is the highest power of two in the whole note: halves end there


@dataclass(frozen=True)
class Swing:
    """The share `ratio` that the first note of each pair of `unit` notes takes; 0.5 is straight.

    The off note is late by (2 ratio - 1) units; what halves the pair's notes is bent along with them.
    """

    unit: int = 16
    ratio: float = 0.5

    def __post_init__(self) -> None:
        if self.unit not in SWING_UNITS:
            raise InputError(f"Swing acts on eighths (8) or sixteenths (16), not on {self.unit}.")
        low, high = SWING_LIMITS
        if not low <= self.ratio <= high:
            raise InputError(
                f"A swing of {self.ratio:g} is outside {low:g} (straight) to {high:g}; triplet swing is 0.667."
            )

    @classmethod
    def parse(cls, text: str) -> "Swing":
        """Read "16:0.57" or "8:67%".

        Raises
        ------
        InputError
            Where it is no swing.
        """
        unit, _, ratio = text.partition(":")
        try:
            share = float(ratio.rstrip("%")) / (100 if ratio.endswith("%") else 1)
            return cls(int(unit), share)
        except ValueError as error:
            if isinstance(error, InputError):
                raise
            raise InputError(f"'{text}' is no swing: write it like 16:0.57 or 8:67%.") from error

    @property
    def straight(self) -> bool:
        return self.ratio == 0.5

    def bend_one(self, tick: float, bars: Bars) -> float:
        """`bend` for one position, without the cost of an array."""
        if self.straight:
            return tick
        unit = step_ticks(self.unit)
        whole = math.floor(tick)
        start, end = bars.group_at(whole)
        pair, inside = divmod(tick - start, 2 * unit)
        pair_start = start + pair * 2 * unit
        if inside % _FINEST or pair_start + 2 * unit > end:
            return tick
        if inside <= unit:
            return pair_start + inside * 2 * self.ratio
        return pair_start + 2 * unit * self.ratio + (inside - unit) * 2 * (1 - self.ratio)

    def bend(self, ticks: ArrayLike, bars: Bars) -> NDArray[np.float64]:
        """Score ticks to played ticks; scalars or arrays, shape as given.

        What stands on the swung lattice (the unit and its binary halves) moves. Triplets, quintuplets and whatever else
        stands off it stays even, as does the note that is left alone at the end of a group of odd length.

        Parameters
        ----------
        bars
            Where bars and groups begin, from each of which pairs are counted anew.
        """
        at = np.asarray(ticks, float)
        if self.straight:
            return at
        unit = step_ticks(self.unit)
        start, end = bars.groups_of(np.floor(at).astype(np.int64))
        pair, inside = np.divmod(at - start, 2 * unit)
        pair_start = start + pair * 2 * unit
        first = inside * 2 * self.ratio
        second = 2 * unit * self.ratio + (inside - unit) * 2 * (1 - self.ratio)
        bent = pair_start + np.where(inside <= unit, first, second)
        even = (np.mod(inside, _FINEST) != 0) | (pair_start + 2 * unit > end)
        out: NDArray[np.float64] = np.where(even, at, bent)
        return out


def _by_voice(lean_ms: Mapping[str, float]) -> dict[str, float]:
    """Leans of voices and groups as leans of voices; what is said of a voice overrides what is said of its group."""
    spread: dict[str, float] = {}
    for name, ms in sorted(lean_ms.items(), key=lambda item: item[0] in VOICE_INDEX):
        if not abs(ms) <= 200:
            raise InputError(f"A lean of {ms:g} ms for {name} is outside ±200 ms.")
        spread.update(dict.fromkeys(voices_of(name), float(ms)))
    return {name: ms for name, ms in sorted(spread.items()) if ms}


@dataclass(frozen=True)
class Feel:
    """How a pattern is played: applied to it, never written into it unless asked.

    swing, and `swings` of voices that have one of their own; lean per voice in ms (late positive); looseness in ms
    (standard deviation) and how it `wander`s; `spots` that have a lean or a force of their own; touch; spacing of grace
    notes; `balance_db` moves the level of groups of voices against each other. `seed` is the player's dice and `take`
    counts what they are thrown for; a `frozen` take is the same in every pass of a loop, or in all but every
    `another_every`th, which is another one. Of the deviations that hits
    have of their own, `own_share` is played. `steady` voices are played without looseness: theirs was written down.
    """

    swing: Swing = field(default_factory=Swing)
    lean_ms: Mapping[str, float] = field(default_factory=dict)
    loose_ms: float = 0.0
    take: int = 1
    balance_db: Mapping[str, float] = field(default_factory=dict)
    swings: Mapping[str, Swing] = field(default_factory=dict)
    spots: tuple[SpotFeel, ...] = ()
    wander: Wander = field(default_factory=Wander)
    touch: Touch = field(default_factory=Touch)
    spacing: Spacing = field(default_factory=Spacing)
    seed: int = 0
    frozen: bool = False
    own_share: float = 1.0
    steady: tuple[str, ...] = ()
    another_every: int = 0

    def __post_init__(self) -> None:
        object.__setattr__(self, "lean_ms", _by_voice(self.lean_ms))
        if not 0 <= self.loose_ms <= 50:
            raise InputError(f"A looseness of {self.loose_ms:g} ms is outside 0 to 50 ms.")
        if not 0 <= self.take < 2**31:
            raise InputError(f"Take {self.take} does not exist: takes count from 0.")
        if not 0 <= self.seed < 2**31:
            raise InputError(f"A seed of {self.seed} does not exist: seeds count from 0.")
        if not 0 <= self.own_share <= 2:
            raise InputError(f"{self.own_share:g} of the hits' own deviations does not fit: 0 to 2.")
        for name, db in self.balance_db.items():
            if name not in GROUPS:
                raise InputError(f"'{name}' is no group of voices. The groups are: {', '.join(GROUPS)}.")
            if not abs(db) <= 24:
                raise InputError(f"A balance of {db:g} dB for {name} is outside ±24 dB.")
        object.__setattr__(self, "balance_db", {n: float(db) for n, db in sorted(self.balance_db.items()) if db})
        if not 0 <= self.another_every <= 64:
            raise InputError(f"Another take every {self.another_every} passes does not fit: 0 to 64.")
        for name in self.steady:
            voice(name)
        own = {name: s for name, s in sorted(self.swings.items()) if voice(name) and s != self.swing}
        object.__setattr__(self, "swings", own)
        if len(self.spots) > MOST_SPOTS:
            raise InputError(f"A feel with {len(self.spots)} spots is too large: at most {MOST_SPOTS}.")
        ordered = sorted(self.spots, key=lambda s: (s.voice, s.bar_ticks, s.at_ticks))
        object.__setattr__(self, "spots", tuple(ordered))

    @cached_property
    def spot_table(self) -> dict[tuple[str, int, int], SpotFeel]:
        """The spots by voice, length of the bar and place in it (ticks)."""
        return {(s.voice, s.bar_ticks, s.at_ticks): s for s in self.spots}

    def swing_of(self, voice_name: str) -> Swing:
        return self.swings.get(voice_name, self.swing)

    def lean_of(self, voice_name: str) -> float:
        return self.lean_ms.get(voice_name, 0.0)

    def late_of(self, voice_name: str, ticks: int, bars: Bars) -> float:
        """What lean and spot together make of a voice at a position, in ms."""
        lean = self.lean_of(voice_name)
        here = self.spots_at([voice_name], [ticks], bars)[0]
        return lean + here.late_ms if here else lean

    def spots_at(self, names: Sequence[str], ticks: ArrayLike, bars: Bars) -> list[SpotFeel | None]:
        """What is known of voices at positions, for each None or its spot."""
        if not self.spots:
            return [None] * len(names)
        at = np.asarray(ticks, np.int64)
        numbers = bars.bars_of(at)
        places = (at - bars.start_of(numbers)).tolist()
        lengths = (bars.start_of(numbers + 1) - bars.start_of(numbers)).tolist()
        found = self.spot_table.get
        return [found(key) for key in zip(names, lengths, places, strict=True)]

    def balance_of(self, voice_name: str) -> float:
        """What the balance does to a voice, in dB."""
        return self.balance_db.get(voice(voice_name).group, 0.0)

    def __hash__(self) -> int:
        tables = (self.lean_ms, self.balance_db, self.swings)
        plain = (self.swing, self.loose_ms, self.take, self.spots, self.wander, self.touch, self.spacing, self.seed)
        more = (self.frozen, self.own_share, self.steady, self.another_every)
        return hash((plain, more, *(tuple(t.items()) for t in tables)))
