"""Which voices are struck at a candidate moment, how hard and exactly when: a small dense network run by NumPy.

Trained on playing we composed ourselves, on random synthesised kits and on kits of a free bank, through random rooms
and recording chains (`tools/training`, docs/training.md).
"""

from dataclasses import dataclass
from functools import lru_cache
from importlib import resources

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.patches import PATCH_SIZE
from ghoststep.music.kit import VOICES

Floats = NDArray[np.float32]
# The order of the group outputs, fixed by the training.
NET_GROUPS = ("kick", "snare", "hat", "toms", "cymbals")
_LATE_SCALE_S = 0.010


@dataclass(frozen=True)
class Heard:
    """What the network says of n candidates; voice arrays (n, voices), group arrays (n, groups)."""

    voice_odds: Floats  # log-odds of being struck
    velocity: Floats  # 1 to 127, meaningful where struck
    late_s: Floats  # true moment minus candidate
    group_odds: Floats
    level_db: NDArray[np.float64]  # (n, groups); zeros until it is measured


@lru_cache(maxsize=1)
def _weights() -> dict[str, Floats]:
    with (resources.files("ghoststep.listen") / "data" / "voices.npz").open("rb") as file, np.load(file) as stored:
        weights = {name: stored[name].astype(np.float32) for name in stored.files}
    assert weights["w0"].shape[1] == PATCH_SIZE, "voices.npz was trained for other patches"
    return weights


def hear(patches: Floats) -> Heard:
    """Run the network on patches of shape (n, PATCH_SIZE)."""
    w, voices = _weights(), len(VOICES)
    x = np.maximum(patches @ w["w0"].T + w["b0"], 0)
    x = np.maximum(x @ w["w1"].T + w["b1"], 0)
    out = x @ w["w2"].T + w["b2"]
    velocity = np.clip(out[:, voices : 2 * voices] * 127, 1, 127)
    late = np.clip(out[:, 2 * voices : 3 * voices] * _LATE_SCALE_S, -0.025, 0.025)
    groups = out[:, 3 * voices :]
    return Heard(out[:, :voices], velocity, late, groups, np.zeros(groups.shape))
