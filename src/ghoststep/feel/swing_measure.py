"""The swing of what was played, for the whole and for each voice: off notes against on notes, by least squares.

A note is late by its voice's lean, and on the swung lattice by (2 ratio - 1) times a known share of the unit. The ratio
that leaves the least is the swing; a voice has one of its own where it differs by more than chance makes it.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.feel import SWING_LIMITS, SWING_UNITS, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Hit

Floats = NDArray[np.float64]
_LEAST_OFF = 4  # off notes from which a swing is told
_LEAST_OFF_OF_VOICE = 6
_SURE = 2.5  # times its standard error a swing, or what a voice differs by, has to be
_LEAST, _LEAST_APART = 0.004, 0.012


@dataclass(frozen=True)
class Swings:
    """The swing of the whole, and of the voices that have another."""

    swing: Swing
    own: dict[str, Swing] = field(default_factory=dict)

    def late_ms(self, hits: Sequence[Hit], groove: Groove) -> Floats:
        """How late swing alone makes each hit, in ms; shape (n,)."""
        return swing_late_ms(hits, lambda name: self.own.get(name, self.swing), groove)


def swing_late_ms(hits: Sequence[Hit], swing_of: Callable[[str], Swing], groove: Groove) -> Floats:
    """How late the swing of each hit's voice makes it, in ms; shape (n,)."""
    ticks = np.array([h.position_ticks for h in hits], float)
    voices = np.array([h.voice for h in hits])
    bent = ticks.copy()
    for name in dict.fromkeys(voices.tolist()):
        mine = voices == name
        bent[mine] = swing_of(name).bend(ticks[mine], groove.pattern.frame)
    return np.asarray(1000 * (groove.tempo.seconds(bent) - groove.tempo.seconds(ticks)))


def swings_of(hits: Sequence[Hit], late_ms: Floats, groove: Groove) -> Swings:
    """The swing behind latenesses from the straight grid.

    Parameters
    ----------
    late_ms
        Shape (n,), in the order of the hits.
    """
    known = groove.feel.swing
    units = (known.unit,) if not known.straight else tuple(SWING_UNITS)
    found = [(fit, unit) for unit in units if (fit := _fitted(hits, late_ms, groove, unit, _LEAST_OFF)) is not None]
    sure = [(fit, unit) for fit, unit in found if fit.ratio - 0.5 > max(_LEAST, _SURE * fit.error)]
    if not sure:
        return Swings(Swing(known.unit, 0.5))
    fit, unit = min(sure, key=lambda row: row[0].left)
    swing = Swing(unit, fit.ratio)
    own = {}
    for name in dict.fromkeys(h.voice for h in hits):
        mine = [i for i, h in enumerate(hits) if h.voice == name]
        alone = _fitted([hits[i] for i in mine], late_ms[mine], groove, unit, _LEAST_OFF_OF_VOICE)
        if alone is not None and abs(alone.ratio - fit.ratio) > max(_LEAST_APART, _SURE * (alone.error + fit.error)):
            own[name] = Swing(unit, alone.ratio)
    return Swings(swing, own)


@dataclass(frozen=True)
class _Fit:
    ratio: float
    error: float  # standard error of the ratio
    left: float  # sum of squares that remains


def _fitted(hits: Sequence[Hit], late_ms: Floats, groove: Groove, unit: int, least: int) -> _Fit | None:
    """The ratio that explains most, with a lean for each voice; None where there are too few off notes."""
    full = Swing(unit, 0.75)
    ticks = np.array([h.position_ticks for h in hits], float)
    bent = full.bend(ticks, groove.pattern.frame)
    # How late a note is for each unit of (2 ratio - 1), in ms.
    weight = 2 * 1000 * (groove.tempo.seconds(bent) - groove.tempo.seconds(ticks))
    off = weight > 0.5 * weight.max() if weight.max() > 0 else np.zeros(len(hits), bool)
    if off.sum() < least or (~off).sum() < least:
        return None
    voices = np.array([h.voice for h in hits])
    centred, rest = weight.copy(), late_ms.copy()
    for name in dict.fromkeys(voices.tolist()):
        mine = voices == name
        centred[mine] -= centred[mine].mean()
        rest[mine] -= rest[mine].mean()
    power = float(centred @ centred)
    if power < 1e-9:
        return None
    slope = float(centred @ rest) / power
    left = float(((rest - slope * centred) ** 2).sum())
    error = np.sqrt(left / max(len(hits) - 2, 1) / power)
    low, high = SWING_LIMITS
    return _Fit(float(np.clip((slope + 1) / 2, low, high)), float(error) / 2, left)
