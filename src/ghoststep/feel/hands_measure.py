"""What the hands do to velocity, and what the player does to the tempo at the end of phrases, measured.

Hands: the second strokes of doubles against their first ones, and one hand against the other, each within a voice and a
role and only where the hands are known. Pushes: least squares of what a push would do, for phrases of 2, 4 and 8 bars.
Both are told only where they are clearly more than chance (three standard errors).
"""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.looseness import Pass, tempo_drift_s
from ghoststep.feel.touching import second_strokes
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Hit
from ghoststep.music.player import Touch, Wander

Floats = NDArray[np.float64]
_LEAST = 12  # strokes of each kind
_SURE = 3.0  # standard errors
_PHRASES = (4, 8, 2)
_LEAST_PUSH = 0.3  # percent


@dataclass(frozen=True)
class Hands:
    """second: the share of its velocity that a second stroke has; weaker: the same for the weaker hand."""

    second: float = 1.0
    weaker: float = 1.0
    weaker_hand: str = "L"

    def on(self, touch: Touch) -> Touch:
        """A touch with these hands."""
        return replace(touch, second=self.second, weaker=self.weaker, weaker_hand=self.weaker_hand)


def hands_of(hits: Sequence[Hit], velocity: Floats, times_s: Floats) -> Hands:
    """The hands of strokes whose limbs are named; where none is, both are alike.

    Parameters
    ----------
    velocity, times_s
        As played, shape (n,).
    """
    named = [i for i, h in enumerate(hits) if h.limb in ("R", "L") and not h.grace]
    if len(named) < 2 * _LEAST:
        return Hands()
    own = [hits[i] for i in named]
    level, moment = velocity[named], times_s[named]
    seconds = set(second_strokes(own, moment))
    second = _ratio(own, level, [i in seconds for i in range(len(own))])
    firsts = [i for i in range(len(own)) if i not in seconds]
    left = _ratio([own[i] for i in firsts], level[firsts], [own[i].limb == "L" for i in firsts])
    hand = "L" if left <= 1 else "R"
    return Hands(min(max(second, 0.3), 1.5), min(max(left if hand == "L" else 1 / left, 0.3), 1.0), hand)


def _ratio(hits: Sequence[Hit], velocity: Floats, of: Sequence[bool]) -> float:
    """How hard some strokes are against the others of the same voice and role; 1 where that may be chance."""
    groups: dict[tuple[str, str], tuple[list[float], list[float]]] = defaultdict(lambda: ([], []))
    for h, v, mine in zip(hits, velocity.tolist(), of, strict=True):
        groups[h.voice, h.role.value][not mine].append(v)
    found = [(np.array(a), np.array(b)) for a, b in groups.values() if min(len(a), len(b)) >= _LEAST]
    if not found:
        return 1.0
    logs, weights = [], []
    for a, b in found:
        logs.append(float(np.log(a.mean() / b.mean())))
        error = (a.std(ddof=1) / a.mean()) ** 2 / len(a) + (b.std(ddof=1) / b.mean()) ** 2 / len(b)
        weights.append(1 / max(float(error), 1e-8))
    mean = float(np.average(logs, weights=weights))
    return float(np.exp(mean)) if abs(mean) > _SURE / np.sqrt(sum(weights)) else 1.0


@dataclass(frozen=True, eq=False)
class Pushes:
    """percent into the last bar of every `bars`; late_ms: what that does to each stroke, shape (n,)."""

    percent: float
    bars: int
    late_ms: Floats


def pushes_of(groove: Groove, ticks: Floats, late_ms: Floats) -> Pushes:
    """The push into the ends of phrases that strokes share.

    Parameters
    ----------
    ticks, late_ms
        Where the strokes stand, and how late they are beyond what is usual for their spots, shape (n,). A tempo that
        was followed bar by bar is taken in.
    """
    pattern = groove.pattern
    starts = pattern.frame.start_of(np.arange(1, pattern.bars + 2))
    length_s = groove.length_s
    even_s = ticks / pattern.length_ticks * length_s
    followed = len(groove.tempo.bpm) >= 3
    beyond = late_ms + (1000 * (groove.tempo.seconds(ticks) - even_s) if followed else 0.0)
    none = Pushes(0.0, Wander().phrase_bars, np.zeros(len(ticks)))
    best, most = none, 0.0
    for bars in _PHRASES:
        if pattern.bars < 2 * bars + 1:
            continue
        wander = Wander(push_percent=1.0, phrase_bars=bars)
        bar_s = starts / pattern.length_ticks * length_s
        shape = 1000 * tempo_drift_s(bar_s, even_s, Pass(length_s, 0, (0, 0)), wander)
        found = _fitted(shape, beyond, np.floor(even_s / (bar_s[1] - bar_s[0])))
        if found is not None and found[1] > most and abs(found[0]) >= _LEAST_PUSH:
            percent = float(np.clip(found[0], -10, 10))
            best, most = Pushes(percent, bars, percent * shape if not followed else np.zeros(len(ticks))), found[1]
    return best if most > _SURE else none


def _fitted(shape: Floats, values: Floats, bars: Floats) -> tuple[float, float] | None:
    """How often a shape is in values, and by how many standard errors; these are taken between bars, since neighbours
    stray together."""
    x, y = shape - shape.mean(), values - values.mean()
    power = float(x @ x)
    if power < 1e-9 or len(np.unique(bars)) < 5:
        return None
    slope = float(x @ y) / power
    scores = np.bincount(bars.astype(int), x * (y - slope * x))
    error = float(np.sqrt((scores**2).sum())) / power
    return slope, abs(slope) / max(error, 1e-9)
