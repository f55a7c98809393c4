"""How far what is struck sounds like a drum kit at all: hand drums, bells and noises are told as the nearest voice, but
are less sure.

One stroke tells little, all strokes that are told as one group much: what the small network says of each is averaged
over them. Trained on strokes of kits and of other things that are struck (`tools/training/no_kit.py`).
"""

from collections.abc import Mapping
from functools import lru_cache
from importlib import resources

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.patches import BANDS
from ghoststep.listen.signal.spectrum import Floats
from ghoststep.listen.strokes.network import Heard

WEIGHTS = "no-kit.npz"
_MOST = 8.0  # log-odds beyond which one stroke tells no more
# Few strokes of a group are pulled to what all strokes of the recording are, and that to what a kit's are.
_ALL_COUNT, _KIT_COUNT, _A_KIT = 4, 2, -7.0
# From the first of these mean log-odds on a group is less sure, from the second on as little as it gets: kits as they
# are lie under -5, but for toms, which are near to hand drums.
_UNLIKE, _STRANGE = -4.5, -1.0
_TOMS_NEARER = 2.0
_LEAST_SURE = 0.4
# Where nothing sounds in these bands (4.7 to 8 kHz), as in files of 8 kHz, kits are hardly told from what is none, and
# nothing is judged.
_TOP, _LEAST_TOP = slice(38, 42), 0.05


@lru_cache(maxsize=1)
def _weights() -> Mapping[str, Floats]:
    with (resources.files("ghoststep.listen") / "data" / WEIGHTS).open("rb") as file, np.load(file) as stored:
        return {key: stored[key].astype(np.float32) for key in stored.files}


def outputs(weights: Mapping[str, Floats], fine: Floats) -> NDArray[np.float64]:
    """Log-odds of each stroke being of no kit, shape (n,); `fine` (n, FINE) as `patches.patches` gives it."""
    inner = np.maximum(fine @ weights["first"].T + weights["bias"], 0)
    return np.asarray(inner @ weights["last"] + weights["level"], float)


def sureness(heard: Heard, told: NDArray[np.bool_]) -> NDArray[np.float64]:
    """By what each stroke's certainty is multiplied: 1 for a kit's, less for what is none; shape (n, groups).

    Parameters
    ----------
    told
        Which candidates are struck, by group; shape (n, groups).
    """
    out = np.ones(told.shape)
    any_told = np.flatnonzero(told.any(axis=1))
    if not len(any_told):
        return out
    fine = heard.fine[any_told].astype(np.float32)
    if fine.reshape(len(fine), -1, BANDS)[:, :, _TOP].max() < _LEAST_TOP:
        return out
    odds = np.zeros(len(told))
    odds[any_told] = np.clip(outputs(_weights(), fine), -_MOST, _MOST)
    pull = _ALL_COUNT * odds[any_told].mean() + _KIT_COUNT * _A_KIT
    for g, group in enumerate(NET_GROUPS):
        mine = odds[told[:, g]]
        if len(mine):
            usual = (mine.sum() + pull) / (len(mine) + _ALL_COUNT + _KIT_COUNT)
            nearer = _TOMS_NEARER if group == "toms" else 0.0
            out[:, g] = np.interp(usual - nearer, [_UNLIKE, _STRANGE], [1, _LEAST_SURE])
    return out
