"""What single strokes of a kit measure: level, brightness, how fast they fall."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.sound.kit import Kit

_BRIGHT_S = 0.15
_PEAK_SHARE = 0.1


@dataclass(frozen=True)
class StrokeFigures:
    """level_db: of the first 150 ms; centroid_hz: there; fall_s: until all but a hundredth of the energy is past."""

    level_db: float
    centroid_hz: float
    fall_s: float


def stroke_figures(sound: NDArray[np.floating], rate: int) -> StrokeFigures:
    """Figures of a stroke of shape (n, channels), counted from its attack."""
    mono = np.asarray(sound, float).reshape(len(sound), -1).mean(axis=1)
    peak = np.abs(mono).max()
    mono = mono[max(0, int(np.argmax(np.abs(mono) > _PEAK_SHARE * peak)) - 22) :]
    first = mono[: round(_BRIGHT_S * rate)]
    power = np.abs(np.fft.rfft(first)) ** 2
    hz = np.fft.rfftfreq(len(first), 1 / rate)
    left = np.cumsum(mono[::-1] ** 2)[::-1]
    fall_s = float(np.argmax(left < 0.01 * left[0])) / rate
    return StrokeFigures(10 * float(np.log10((first**2).mean())), float((power * hz).sum() / power.sum()), fall_s)


def kit_figures(kit: Kit, voice: str, velocity: int, stroke: str = "plain", takes: int = 6) -> StrokeFigures:
    """The mean figures of some blows."""
    rows = [
        stroke_figures(kit.blow(voice, velocity, np.random.default_rng([7, n]), stroke), kit.rate) for n in range(takes)
    ]
    means = np.mean([(r.level_db, r.centroid_hz, r.fall_s) for r in rows], axis=0)
    return StrokeFigures(*(float(x) for x in means))
