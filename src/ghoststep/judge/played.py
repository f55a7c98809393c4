"""Everything the limbs do in a groove, as arrays: what limits, findings and likeness are worked out from."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.ornaments import spelled_out
from ghoststep.feel.perform import perform
from ghoststep.judge.strokes import Cut
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LIMB_LETTERS, VOICE_INDEX
from ghoststep.music.pattern import Hit
from ghoststep.music.spots import name_at
from ghoststep.music.touch import Role

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
LIMB_NAMES = {"R": "right hand", "L": "left hand", "K": "right foot", "H": "left foot"}
_OTHER = {"R": "L", "L": "R", "K": "H", "H": "K"}


@dataclass(frozen=True, eq=False)
class Strikes:
    """Every stroke a limb makes, rolls spelled out, in the order of time; arrays of shape (n,).

    index: the hit of the pattern it belongs to; second: where it is meant; limb: index into LIMB_LETTERS.
    """

    index: Ints
    second: Floats
    voice: Ints
    limb: Ints
    bar: Ints
    crowded: Ints  # hits of moments that ask for more than two hands

    def of_limb(self, letter: str) -> Ints:
        """The places of one limb's strokes in the arrays, in the order of time."""
        return np.flatnonzero(self.limb == LIMB_LETTERS.index(letter))


@dataclass(frozen=True, eq=False)
class Played:
    """A groove with its limbs: what every judgement reads.

    limbs: index of a hit -> limb; strikes: all strokes; main: indices of the hits that are no grace notes.
    """

    groove: Groove
    cuts: Sequence[Cut]
    limbs: Mapping[int, str]

    @cached_property
    def hits(self) -> tuple[Hit, ...]:
        return self.groove.pattern.hits

    @cached_property
    def bars(self) -> Ints:
        """The bar of each hit of the pattern, from 1."""
        ticks = np.array([h.position_ticks for h in self.hits], np.int64)
        return self.groove.pattern.frame.bars_of(ticks) if len(ticks) else ticks

    @cached_property
    def moments(self) -> dict[int, list[int]]:
        """Indices of the hits that are no grace notes, by the tick they are meant for."""
        by: dict[int, list[int]] = {}
        for i, h in enumerate(self.hits):
            if not h.grace:
                by.setdefault(h.position_ticks, []).append(i)
        return by

    @cached_property
    def strikes(self) -> Strikes:
        rows: list[tuple[float, int, int, int]] = []
        hits, limbs = self.hits, self.limbs
        seconds = self.groove.tempo.seconds([h.position_ticks for h in hits]).tolist()
        for cut in self.cuts:
            for i, s in zip(cut.indices, cut.window.strokes, strict=False):
                limb, name = LIMB_LETTERS.index(limbs[i]), VOICE_INDEX[hits[i].voice]
                rows.append((seconds[i], i, name, limb))
                other = LIMB_LETTERS.index(_OTHER[limbs[i]])
                rows += [(seconds[i] + later, i, name, limb if same else other) for later, same in s.roll]
        rows.sort()
        table = np.array(rows, float).reshape(-1, 4)
        index = table[:, 1].astype(np.int64)
        bars = self.bars[index] if len(index) else index
        voices, limbs_of = table[:, 2].astype(np.int64), table[:, 3].astype(np.int64)
        return Strikes(index, table[:, 0], voices, limbs_of, bars, np.array(self._crowded(), np.int64))

    def _crowded(self) -> list[int]:
        hands = ([i for i in found if self.limbs[i] in ("R", "L")] for found in self.moments.values() if len(found) > 2)
        return [i for found in hands if len(found) > 2 for i in found]

    @cached_property
    def sounded(self) -> "Sounded":
        """What is heard of the hits that are no grace notes and no strokes of a roll behind its first."""
        spelled = spelled_out(self.groove)
        played = perform(self.groove)
        straight_s = self.groove.tempo.seconds(np.array([h.position_ticks for h in spelled.pattern.hits], float))
        main = [i for i, h in enumerate(spelled.pattern.hits) if not h.grace and h.within is None]
        hits = tuple(spelled.pattern.hits[i] for i in main)
        late_ms = (played.onset_s - straight_s)[main] * 1000 if main else np.zeros(0)
        return Sounded(hits, late_ms, played.velocity[main].astype(float) if main else np.zeros(0))

    def spot(self, tick: int) -> str:
        """The counted name of a position in its bar."""
        return name_at(tick, self.groove.pattern.frame)


@dataclass(frozen=True, eq=False)
class Sounded:
    """Hits as they are heard: ms from the straight grid, and velocities; arrays of shape (n,)."""

    hits: tuple[Hit, ...]
    late_ms: Floats
    velocity: Floats

    @cached_property
    def voices(self) -> NDArray[np.str_]:
        return np.array([h.voice for h in self.hits], dtype=str)

    @cached_property
    def ticks(self) -> Ints:
        return np.array([h.position_ticks for h in self.hits], np.int64)

    @cached_property
    def roles(self) -> NDArray[np.str_]:
        return np.array([h.role.value for h in self.hits], dtype=str)

    def of(self, voice: str, role: Role | None = None) -> Ints:
        """The places of a voice's strokes, of one role or of all."""
        mine = self.voices == voice
        return np.flatnonzero(mine if role is None else mine & (self.roles == role.value))
