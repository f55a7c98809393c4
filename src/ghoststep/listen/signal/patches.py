"""What the voice network sees of each candidate moment.

Per candidate: (1) 48 log bands at 20 moments from 30 ms before to 600 ms after it; (2) 24 fine low bands before and
after, which tell kick from tom by pitch; (3) the energy in four ranges in 2 ms steps around it, which tells the exact
moment and grace notes ahead of it; (4) its level in the range of each voice group, and how far its neighbours are; and
the same for every candidate of the file: (5) the mean and the loudest of its attack spectra, so that the network knows
the kit and room it is in. Levels are relative to the loudest attacks of the file.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.filters import Band, Energies, energies, grains
from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats, band_matrix, bands_at

OFFSETS_MS = (-30, -20, -10, -3, 4, 10, 16, 23, 30, 38, 48, 60, 80, 105, 140, 180, 230, 300, 420, 600)
ENVELOPE_STEPS, ENVELOPE_BEFORE = 40, 28
_ENVELOPE_STEP_S = 0.002
BANDS, LOW_BANDS, RANGES, LEVELS = 48, 24, 4, 5
RANGES_OF_SOUND: tuple[Band, ...] = (
    (2, 0, 150),
    (2, 150, 1500),
    (2, 1500, 6000),
    (2, 6000, 0),
)  # order and edges in Hz
_RANGE_DB_SPAN = 8.0  # natural-log units below the loudest attack that are told apart: 69 dB
_NEIGHBOUR_S = 0.05
# How many numbers each part has, in their order.
PARTS = (len(OFFSETS_MS) * BANDS, 2 * LOW_BANDS, RANGES * ENVELOPE_STEPS, LEVELS, 2, 2 * BANDS)
PATCH_SIZE = sum(PARTS)


def raw_patches(sound: Floats, moments_s: NDArray[np.float64], energy: Energies | None = None) -> Floats:
    """What surrounds each moment, in absolute levels; shape (n, sum of the first three PARTS).

    Parameters
    ----------
    sound
        Mono at LISTEN_RATE; a piece of a longer one will do, if it holds a second more on either side.
    moments_s
        Ascending moments in the piece, as `onsets.candidates_s` gives them.
    energy
        Energies of the sound in RANGES_OF_SOUND, where they are there already.
    """
    if not len(moments_s):
        return np.zeros((0, sum(PARTS[:3])), np.float32)
    centres = np.rint(moments_s * LISTEN_RATE).astype(np.int64)
    offsets = np.rint(np.array(OFFSETS_MS) * LISTEN_RATE / 1000).astype(np.int64)
    fine = bands_at(sound, centres[:, None] + offsets, 1024, band_matrix(1024, BANDS, 30, 18000))
    low_at = centres[:, None] + np.rint(np.array([-0.050, 0.048]) * LISTEN_RATE).astype(np.int64)
    low = bands_at(sound, low_at, 4096, band_matrix(4096, LOW_BANDS, 25, 450))
    flat = (
        fine.reshape(len(centres), -1),
        low.reshape(len(centres), -1),
        _envelopes(energy or energies(sound, RANGES_OF_SOUND), centres),
    )
    return np.concatenate(flat, axis=1).astype(np.float32)


def attack_rises(raw: Floats) -> Floats:
    """How much the energy of the clearest range rises at each moment, in natural-log units of amplitude; shape (n,)."""
    envelopes = raw[:, -RANGES * ENVELOPE_STEPS :].reshape(len(raw), RANGES, ENVELOPE_STEPS)
    after = envelopes[:, :, ENVELOPE_BEFORE : ENVELOPE_BEFORE + 6].mean(axis=2)
    before = envelopes[:, :, ENVELOPE_BEFORE - 8 : ENVELOPE_BEFORE - 2].mean(axis=2)
    return np.asarray((after - before).max(axis=1))


@dataclass(frozen=True)
class Scene:
    """What all patches of a recording are measured by."""

    floor: float  # natural-log units, below the loudest attacks
    attacks: Floats  # the mean and the loudest of the attack spectra, (2 * BANDS,)
    levels_db: NDArray[np.float64]  # the highest of each group, (LEVELS,)

    @classmethod
    def of(cls, raw: Floats, levels_db: NDArray[np.float64]) -> "Scene":
        """Of all candidates of a recording; `raw` and `levels_db` as in `patches`, at least one row."""
        attack = raw[:, : PARTS[0]].reshape(len(raw), len(OFFSETS_MS), BANDS)[:, 5:7].max(axis=1)
        floor = float(np.percentile(attack.max(axis=1), 95) - _RANGE_DB_SPAN)
        attacks = np.concatenate([attack.mean(axis=0), np.percentile(attack, 95, axis=0)])
        return cls(floor, attacks, np.percentile(levels_db, 95, axis=0))


def patches(
    raw: Floats,
    moments_s: NDArray[np.float64],
    levels_db: NDArray[np.float64],
    scene: Scene | None = None,
    which: NDArray[np.bool_] | None = None,
) -> Floats:
    """Features of moments of a recording, relative to its loudest attacks; shape (n, PATCH_SIZE), about 0 to 3.

    Parameters
    ----------
    raw
        As `raw_patches` gives them, of the moments wanted.
    moments_s
        All moments of the recording, ascending: each is told how near its neighbours are.
    levels_db
        Levels of the moments wanted as `loudness.levels_db` gives them, shape (n, LEVELS).
    scene
        What they are measured by, if it is not to be told by these moments.
    which
        The moments wanted, one for each of `moments_s`; all, if not given.
    """
    if not len(raw):
        return np.zeros((0, PATCH_SIZE), np.float32)
    scene = scene or Scene.of(raw, levels_db)
    near = _neighbours(moments_s)
    parts = [
        (raw - scene.floor) / 4,
        2.5 + (levels_db - scene.levels_db) / 16,
        near if which is None else near[which],
        np.broadcast_to((scene.attacks - scene.floor) / 4, (len(raw), len(scene.attacks))),
    ]
    return np.clip(np.concatenate(parts, axis=1), 0, 3).astype(np.float32)


def _neighbours(moments_s: NDArray[np.float64]) -> NDArray[np.float64]:
    """How near the candidates before and after are: 3 for at once, falling to 0; shape (n, 2)."""
    gaps = np.diff(moments_s, prepend=moments_s[0] - 10, append=moments_s[-1] + 10)
    return 3 * np.exp(-np.stack([gaps[:-1], gaps[1:]], axis=1) / _NEIGHBOUR_S)


def _envelopes(energy: Energies, centres: NDArray[np.int64]) -> Floats:
    """Log energy in four ranges around each centre; shape (n, 4 * ENVELOPE_STEPS)."""
    step = round(_ENVELOPE_STEP_S * LISTEN_RATE)
    starts = centres[:, None] + step * (np.arange(ENVELOPE_STEPS) - ENVELOPE_BEFORE)
    out = []
    for total in (energy[band] for band in RANGES_OF_SOUND):
        power = (total[grains(starts + step, len(total))] - total[grains(starts, len(total))]) / step
        out.append(np.log(np.sqrt(np.maximum(power, 1e-10)) / 1e-5))
    return np.concatenate(out, axis=1).astype(np.float32)
