"""Pattern + Feel -> Performance."""

import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.looseness import deviations_ms
from ghoststep.music.groove import Groove
from ghoststep.music.kit import STROKE_INDEX, VOICE_INDEX
from ghoststep.music.pattern import Hit
from ghoststep.music.performance import Performance


def feel_times_s(groove: Groove) -> NDArray[np.float64]:
    """Where the feel alone puts each hit of the pattern, in seconds from the first bar line; shape (n,).

    The hit's own deviation is not in it, so an onset minus this is what has to be kept with the hit.
    """
    hits = groove.pattern.hits
    ticks = np.array([h.position_ticks for h in hits], float)
    straight_s = groove.tempo.seconds(ticks)
    played_s = groove.tempo.seconds(groove.feel.swing.bend(ticks))
    lean_s = np.array([groove.feel.lean_of(h.voice) for h in hits]) / 1000
    loose = deviations_ms(
        straight_s, [h.limb_letter for h in hits], loose_ms=groove.feel.loose_ms, take=groove.feel.take
    )
    out: NDArray[np.float64] = played_s + lean_s + loose / 1000
    return out


def perform(groove: Groove) -> Performance:
    """Play a groove: the performance holds one hit for each hit of the pattern, in the pattern's order."""
    hits: tuple[Hit, ...] = groove.pattern.hits
    own_s = np.array([h.offset_ms for h in hits], float) / 1000
    return Performance.of(
        feel_times_s(groove) + own_s if hits else [],
        [VOICE_INDEX[h.voice] for h in hits],
        [h.velocity for h in hits],
        stroke=[STROKE_INDEX[h.stroke] for h in hits],
        length_s=groove.length_s,
    )
