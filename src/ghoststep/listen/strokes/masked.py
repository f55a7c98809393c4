"""How hard a hat is struck under a loud snare cannot be heard: the snare's own brightness is measured with it.

On rendered kits hats under backbeats came back 9 to 14 louder than they were played, a third of them by more than 15.
So none is told as louder than the louder ones of the hats that are heard without a snare.
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.strokes.strokes import Stroke
from ghoststep.music.kit import VOICES
from ghoststep.music.touch import Role, role_of

_HATS = ("hat_closed", "hat_half", "hat_open")
_TOGETHER_S = 0.03
_FEWEST = 6  # hats alone from which on their louder ones are known
_LOUDER_ONES = 80  # per cent of the hats alone are softer


def hats_as_alone(strokes: Sequence[Stroke]) -> list[Stroke]:
    """The strokes, with no hat under a loud snare louder than the louder hats that sound without one."""
    loud = [s for s in strokes if VOICES[s.voice].group == "snare" and role_of(s.velocity) is not Role.GHOST]
    loud_s = np.sort([s.time_s for s in loud])
    hats = [i for i, s in enumerate(strokes) if VOICES[s.voice].name in _HATS]
    under = {i for i in hats if _near(loud_s, strokes[i].time_s)}
    alone = [strokes[i].velocity for i in hats if i not in under]
    if len(alone) < _FEWEST or not under:
        return list(strokes)
    most = round(float(np.percentile(alone, _LOUDER_ONES)))
    return [replace(s, velocity=min(s.velocity, most)) if i in under else s for i, s in enumerate(strokes)]


def _near(moments_s: NDArray[np.float64], second: float) -> bool:
    low, high = np.searchsorted(moments_s, [second - _TOGETHER_S, second + _TOGETHER_S])
    return bool(low < high)
