"""How far the middle range of the sound has fallen some time after a stroke: what rings on is no snare."""

import numpy as np

from ghoststep.listen.signal.patches import BANDS, OFFSETS_MS, PARTS
from ghoststep.listen.signal.spectrum import Floats

_EARLY_MS, _LATE_MS = (16, 23, 30), (140, 180)
_MIDDLE = slice(14, 42)  # of the bands: about 400 Hz to 9 kHz
_LEAST_OVER = 0.7  # natural-log units of amplitude that the late part stands over what was before


def falls(raw: Floats) -> Floats:
    """How far the middle range has fallen after 150 ms, in natural-log units of amplitude; shape (n,).

    Infinite where it is not clearly above what sounded before the stroke: then it may be that, and not the stroke.

    Parameters
    ----------
    raw
        What surrounds n candidates, as `patches.raw_patches` gives it.
    """
    fine = raw[:, : PARTS[0]].reshape(len(raw), len(OFFSETS_MS), BANDS)[:, :, _MIDDLE]
    early = fine[:, [OFFSETS_MS.index(ms) for ms in _EARLY_MS]].max(axis=1)
    late = fine[:, [OFFSETS_MS.index(ms) for ms in _LATE_MS]].mean(axis=1)
    before = fine[:, : OFFSETS_MS.index(-10) + 1].mean(axis=1)
    over = (late - before).mean(axis=1)
    return np.where(over > _LEAST_OVER, (early - late).mean(axis=1), np.inf).astype(np.float32)
