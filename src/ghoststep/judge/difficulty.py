"""How hard a part is: rate, coordination, syncopation and control in one figure, to sort parts from easy to hard."""

import math
from collections import Counter
from dataclasses import dataclass

from ghoststep.judge.limits import Limit
from ghoststep.judge.names import limb_order
from ghoststep.judge.played import Played
from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice
from ghoststep.music.meter import Meter
from ghoststep.music.touch import Role

# Weights of the four parts, and what counts as full marks in each (working assumptions).
_WEIGHTS = {"rate": 0.35, "coordination": 0.3, "syncopation": 0.2, "control": 0.15}
_BITS, _SYNCOPATION_A_BAR, _NEAR_S = 3.0, 12.0, 0.2


@dataclass(frozen=True)
class Difficulty:
    """Each part from 0 (nothing to it) to 1, and the whole from 0 to 10.

    rate: how near the fastest limb is to its limit; coordination: bits of news in the combinations of limbs;
    syncopation: of kick and snare, a bar (Longuet-Higgins & Lee 1984); control: ghosts close to accents of one hand.
    """

    rate: float
    coordination: float
    syncopation: float
    control: float

    @property
    def whole(self) -> float:
        """From 0 to 10."""
        return round(10 * sum(w * getattr(self, name) for name, w in _WEIGHTS.items()), 1)

    @property
    def words(self) -> str:
        parts = ", ".join(f"{name} {10 * getattr(self, name):.0f}" for name in _WEIGHTS)
        return f"difficulty {self.whole:g} of 10 ({parts})"


def difficulty(played: Played, limits: list[Limit]) -> Difficulty:
    """The difficulty of a groove as its limbs play it; limits are those of `judge.limits`."""
    rate = max((row.now_bpm / row.bpm for row in limits if row.bpm > 0), default=0.0)
    bars = max(played.groove.pattern.bars, 1)
    return Difficulty(
        round(min(rate, 1.0), 3),
        round(min(news(played) / _BITS, 1.0), 3),
        round(min(syncopation(played.groove) / bars / _SYNCOPATION_A_BAR, 1.0), 3),
        round(control(played), 3),
    )


def news(played: Played) -> float:
    """Bits that a moment's combination of limbs tells on average, given the one before it and all that came so far.

    An adaptive code: each pair of combinations has been met so often, and the first time it costs most.
    """
    seen: Counter[tuple[str, str]] = Counter()
    after: Counter[str] = Counter()
    kinds: set[str] = set()
    bits, before = 0.0, ""
    row = [limb_order("".join(played.limbs[i] for i in played.moments[t])) for t in sorted(played.moments)]
    for now in row:
        kinds.add(now)
        chance = (seen[before, now] + 0.5) / (after[before] + 0.5 * (len(kinds) + 1))
        bits -= math.log2(chance)
        seen[before, now] += 1
        after[before] += 1
        before = now
    return bits / len(row) if row else 0.0


def weights(meter: Meter, ticks: tuple[int, ...]) -> dict[int, int]:
    """Metrical weights of places in a bar: 0 for its start, -1 for groups, -2 for beats, -1 more for each halving."""
    out = {}
    starts = {*meter.group_starts}
    for t in ticks:
        if t == 0:
            out[t] = 0
        elif t in starts or (len(starts) < 2 and 2 * t == meter.bar_ticks):
            out[t] = -1
        else:
            level, unit = -2, meter.unit_ticks
            while t % unit and level > -7:
                unit, level = unit // 2, level - 1
            out[t] = level
    return out


def syncopation(groove: Groove) -> float:
    """The sum over the part of kick and snare: a stroke before a rest on a stronger place counts by how much stronger.

    Longuet-Higgins & Lee (1984), on a grid of sixteenths, round the end of the loop.
    """
    pattern = groove.pattern
    step = pattern.meter.unit_ticks // max(1, 16 // pattern.meter.denominator)
    struck = {
        h.position_ticks for h in pattern.hits if voice(h.voice).group in ("kick", "snare") and h.role is not Role.GHOST
    }
    places: list[tuple[int, int]] = []  # position, weight
    for _, start, meter in pattern.frame.between(0, pattern.length_ticks):
        ticks = tuple(range(0, meter.bar_ticks, step))
        known = weights(meter, ticks)
        places += [(start + t, known[t]) for t in ticks]
    notes = [k for k, (t, _) in enumerate(places) if t in struck]
    total = 0.0
    for n, k in enumerate(notes):
        end = notes[n + 1] if n + 1 < len(notes) else notes[0] + len(places)
        rests = [places[j % len(places)][1] for j in range(k + 1, min(end, k + len(places)))]
        strongest = max(rests, default=-9)
        total += max(strongest - places[k][1], 0)
    return total


def control(played: Played) -> float:
    """The share of ghosts that one hand plays close to an accent or a normal stroke of its own."""
    strikes = played.strikes
    ghosts = near = 0
    for letter in "RL":
        mine = strikes.of_limb(letter)
        hits = [played.hits[i] for i in strikes.index[mine]]
        seconds = strikes.second[mine]
        for k, h in enumerate(hits):
            if h.role is Role.GHOST:
                ghosts += 1
                near += any(
                    0 <= j < len(hits) and hits[j].role is not Role.GHOST and abs(seconds[j] - seconds[k]) < _NEAR_S
                    for j in (k - 1, k + 1)
                )
    return near / ghosts if ghosts else 0.0
