"""What the voice network sees of each candidate moment.

Per candidate: (1) 48 log bands at 18 moments from 30 ms before to 300 ms after it; (2) 24 fine low bands before and
after, which tell kick from tom by pitch; (3) the energy in four ranges in 2 ms steps around it, which tells the exact
moment; and the same for every candidate of the file: (4) the mean and the loudest of its attack spectra, so that the
network knows the kit and room it is in. Levels are relative to the loudest attacks of the file.
"""

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from ghoststep.listen.spectrum import LISTEN_RATE, Floats, band_matrix, log_bands, magnitudes_at

OFFSETS_MS = (-30, -20, -10, -3, 4, 10, 16, 23, 30, 38, 48, 60, 80, 105, 140, 180, 230, 300)
ENVELOPE_STEPS = 24
_ENVELOPE_STEP_S = 0.002
_BANDS, _LOW_BANDS = 48, 24
_RANGE_EDGES_HZ = ((0, 150), (150, 1500), (1500, 6000), (6000, 0))
_RANGE_DB_SPAN = 8.0  # natural-log units below the loudest attack that are told apart: 69 dB
PATCH_SIZE = len(OFFSETS_MS) * _BANDS + 2 * _LOW_BANDS + 4 * ENVELOPE_STEPS + 2 * _BANDS


def patches(sound: Floats, moments_s: NDArray[np.float64]) -> Floats:
    """Features of each moment, shape (n, PATCH_SIZE), about 0 to 3.

    Parameters
    ----------
    sound
        Mono at LISTEN_RATE.
    moments_s
        Ascending moments, as `onsets.candidates_s` gives them.
    """
    if not len(moments_s):
        return np.zeros((0, PATCH_SIZE), np.float32)
    centres = np.rint(moments_s * LISTEN_RATE).astype(np.int64)
    offsets = np.rint(np.array(OFFSETS_MS) * LISTEN_RATE / 1000).astype(np.int64)
    fine = np.concatenate(
        [
            log_bands(magnitudes_at(sound, part[:, None] + offsets, 1024), band_matrix(1024, _BANDS, 30, 18000))
            for part in np.array_split(centres, 1 + len(centres) // 512)
        ]
    )
    low_at = centres[:, None] + np.rint(np.array([-0.050, 0.048]) * LISTEN_RATE).astype(np.int64)
    low = log_bands(magnitudes_at(sound, low_at, 4096), band_matrix(4096, _LOW_BANDS, 25, 450))
    envelopes = _envelopes(sound, centres)
    attack = fine[:, 5:7].max(axis=1)
    reference = np.percentile(attack.max(axis=1), 95)
    floor = reference - _RANGE_DB_SPAN
    context = np.concatenate([attack.mean(axis=0), np.percentile(attack, 95, axis=0)])
    parts = [
        (fine.reshape(len(centres), -1) - floor) / 4,
        (low.reshape(len(centres), -1) - floor) / 4,
        (envelopes - floor) / 4,
        np.broadcast_to((context - floor) / 4, (len(centres), len(context))),
    ]
    return np.clip(np.concatenate(parts, axis=1), 0, 3).astype(np.float32)


def _envelopes(sound: Floats, centres: NDArray[np.int64]) -> Floats:
    """Log energy in four ranges around each centre; shape (n, 4 * ENVELOPE_STEPS)."""
    step = round(_ENVELOPE_STEP_S * LISTEN_RATE)
    reach = step * ENVELOPE_STEPS // 2
    starts = centres[:, None] - reach + step * np.arange(ENVELOPE_STEPS)
    out = []
    for low, high in _RANGE_EDGES_HZ:
        if low and high:
            design = butter(2, (low, high), "bandpass", fs=LISTEN_RATE, output="sos")
        else:
            design = butter(2, low or high, "highpass" if low else "lowpass", fs=LISTEN_RATE, output="sos")
        band = sosfilt(design, sound)
        total = np.concatenate([[0.0], np.cumsum(band.astype(float) ** 2)])
        at = np.clip(starts, 0, len(sound))
        power = (total[np.clip(at + step, 0, len(sound))] - total[at]) / step
        out.append(np.log(np.sqrt(np.maximum(power, 1e-10)) / 1e-5))
    return np.concatenate(out, axis=1).astype(np.float32)
