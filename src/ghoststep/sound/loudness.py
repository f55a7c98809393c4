"""Loudness as it is heard: the energy of sound behind the ear's filter, of single strokes and of whole parts.

The filter is the K-weighting of ITU-R BS.1770-4 (2015): a shelf for the head and a high-pass, given there as two
biquads for 48 kHz; here their response is laid over the spectrum, so any rate will do. What single strokes of the
built-in kit measure stands in a table that ships (`data/loudness.csv`, made by `make kit-loudness`), so that the
loudness of a part is known without rendering it: strokes add up by energy, and a sound that is choked loses what would
have followed.
"""

import csv
from dataclasses import dataclass
from functools import cache
from importlib import resources

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.kit import VOICES, Voice, voice, with_trait
from ghoststep.music.performance import Performance
from ghoststep.sound.render import choke_times_s

Floats = NDArray[np.float64]
MEASURED_VELOCITIES = (16, 40, 64, 96, 127)
# b0 b1 b2 a1 a2 of the two stages at 48 kHz (BS.1770-4, tables 1 and 2).
_STAGES = (
    (1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585),
    (1.0, -2.0, 1.0, -1.99004745483398, 0.99007225036621),
)
_TABLE_RATE = 48000


def weighting(hz: Floats) -> Floats:
    """The power gain of the K-weighting at some frequencies, shape as given."""
    z = np.exp(-2j * np.pi * np.minimum(hz, 0.499 * _TABLE_RATE) / _TABLE_RATE)
    gain = np.ones(np.shape(hz))
    for b0, b1, b2, a1, a2 in _STAGES:
        gain = gain * np.abs((b0 + b1 * z + b2 * z * z) / (1 + a1 * z + a2 * z * z)) ** 2
    return gain


def energy(samples: NDArray[np.floating], rate: int) -> float:
    """K-weighted energy (square of full scale times seconds) of samples of shape (n,) or (n, channels), summed."""
    sound = np.asarray(samples, float).reshape(len(samples), -1)
    if not len(sound):
        return 0.0
    power: Floats = np.abs(np.fft.rfft(sound, axis=0)) ** 2
    power[1:] *= 2
    if len(sound) % 2 == 0:
        power[-1] /= 2
    hz: Floats = np.asarray(np.fft.rfftfreq(len(sound), 1 / rate), float)
    return float((power * weighting(hz)[:, None]).sum() / len(sound) / rate)


@dataclass(frozen=True)
class StrokeLoudness:
    """Energy of a stroke at the measured velocities, in dB, and the seconds in which it falls to a third (1/e)."""

    energy_db: tuple[float, ...]
    decay_s: float


@cache
def kit_loudness() -> dict[str, StrokeLoudness]:
    """The table of the built-in kit, by voice."""
    text = (resources.files("ghoststep.sound") / "data" / "loudness.csv").read_text("utf-8")
    rows = csv.DictReader(text.splitlines())
    return {
        r["voice"]: StrokeLoudness(tuple(float(r[f"v{v}_db"]) for v in MEASURED_VELOCITIES), float(r["decay_s"]))
        for r in rows
    }


def _like(row: Voice) -> str:
    """A voice that is measured in the place of one that is not: the first of those it takes after, or of its group."""
    group = [name for name in with_trait("first") if voice(name).group == row.group]
    return next(name for name in (*row.takes_after, *group, "snare") if name in kit_loudness())


def voice_energies(performance: Performance) -> Floats:
    """Energy that each hit of a performance has, shape (n,), by the table of the built-in kit."""
    out = np.zeros(len(performance))
    ring_s = choke_times_s(performance) - performance.onset_s
    for index, played in enumerate(VOICES):
        mine = np.flatnonzero(performance.voice == index)
        if len(mine):
            row = kit_loudness()[played.name if played.name in kit_loudness() else _like(played)]
            level = np.interp(np.log(performance.velocity[mine]), np.log(MEASURED_VELOCITIES), row.energy_db)
            out[mine] = 10 ** (level / 10) * (1 - np.exp(-np.maximum(ring_s[mine], 0) / row.decay_s))
    return out


def group_energies(performance: Performance) -> dict[str, float]:
    """Energy of each group of voices that sounds."""
    found = voice_energies(performance)
    out: dict[str, float] = {}
    for index in np.unique(performance.voice):
        group = VOICES[index].group
        out[group] = out.get(group, 0.0) + float(found[performance.voice == index].sum())
    return out
