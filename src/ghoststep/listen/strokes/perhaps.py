"""Strokes that may be ones: not played, but offered, at the place where they would stand."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bars.explain import Explained
from ghoststep.listen.fit.snap import snapped
from ghoststep.music.time import TICKS_PER_QUARTER


@dataclass(frozen=True)
class Perhaps:
    """A stroke that may be one: its moment in the recording, voice, velocity 1 to 127, and probability."""

    time_s: float
    voice: str
    velocity: int
    probability: float


def spots_of(perhaps: Sequence[Perhaps], explained: Explained) -> NDArray[np.int64]:
    """The spot of each in an explained groove, in ticks; shape (n,)."""
    if not perhaps:
        return np.zeros(0, np.int64)
    groove = explained.groove
    pattern, swing = groove.pattern, groove.feel.swing
    lean_s = np.array([groove.feel.lean_of(p.voice) / 1000 for p in perhaps])
    ticks = groove.tempo.to_ticks(np.array([p.time_s for p in perhaps]) - lean_s - explained.start_s)
    kind = "triplet" if pattern.grid in (12, 24) else "straight" if swing.straight else "swung"
    quarter_s = groove.tempo.tick_seconds(0) * TICKS_PER_QUARTER
    found = snapped(np.asarray(ticks), swing, kind, quarter_s=quarter_s, bars=pattern.frame).ticks
    return np.clip(found, 0, pattern.length_ticks - 1)
