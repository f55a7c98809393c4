"""How a stroke sounds that a sampled kit has no recording of: the plain one in another colour.

Working assumptions, the same for every kit: what the stick's shoulder, its tip, the rim or a brush add and take away.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.sound.sampled.filters import filtered
from ghoststep.sound.sampled.region import Filter
from ghoststep.sound.strokes import BUZZ_BLOWS as BUZZ_BLOWS

Sound = NDArray[np.float32]


@dataclass(frozen=True)
class Colour:
    """gain_db over all; a shelf of `shelf_db` above `shelf_hz`; `faster`: nepers a second; `attack_s`: how it rises."""

    gain_db: float = 0.0
    shelf_db: float = 0.0
    shelf_hz: float = 2500.0
    faster: float = 0.0
    attack_s: float = 0.0


COLOURS: dict[str, Colour] = {
    "edge": Colour(-2.0, 3.0, 1200.0),
    "rim": Colour(1.5, 4.0, 1500.0),
    "buzz": Colour(-2.0, 1.0, faster=8.0),
    "brush": Colour(-6.0, 2.0, 2000.0, faster=2.0, attack_s=0.02),
    "tip": Colour(-1.5, -2.0, 4000.0, faster=1.5),
    "shoulder": Colour(1.5, -2.5, 7000.0),
    "splash": Colour(0.0, -2.0, 6000.0, attack_s=0.004),
}


def coloured(sound: Sound, colour: Colour, rate: int) -> Sound:
    """Sound of shape (n, 2) in a colour, the same length."""
    out = np.asarray(sound, np.float32)
    if colour.shelf_db and len(out):
        high = filtered(out, (Filter("hpf_1p", colour.shelf_hz),), (colour.shelf_hz,), rate)
        out = out + np.float32(10 ** (colour.shelf_db / 20) - 1) * high
    time_s = np.arange(len(out)) / rate
    shape = 10 ** (colour.gain_db / 20) * np.exp(-colour.faster * time_s)
    if colour.attack_s:
        shape *= 1 - np.exp(-time_s / colour.attack_s)
    return np.asarray(out * shape[:, None].astype(np.float32), np.float32)
