"""Rim shots on the snare, told from the plain strokes of the same recording.

A rim shot adds the crack of the rim (some 1 to 2 kHz) to the drum's whole body. How bright a snare is differs from drum
to drum and from take to take, so nothing is told by a number alone: the strokes must fall into two kinds that lie far
apart. Strokes near the edge are not told: how much longer the body rings is less than what plain strokes of other
recordings differ by among themselves.
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.filters import Band, energies, grains
from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats
from ghoststep.music.kit import STROKE_INDEX, VOICES
from ghoststep.music.performance import Performance
from ghoststep.music.touch import ROLES

_PLAIN, _RIM = STROKE_INDEX["plain"], STROKE_INDEX["rim"]
_LEAST_VELOCITY = ROLES[1].lowest  # ghosts are left plain: they are too soft to have a crack
_BODY: Band = (2, 150.0, 400.0)
_CRACK: Band = (2, 900.0, 2200.0)
_BEFORE_S, _AFTER_S = 0.001, 0.025
_FEWEST = 2  # strokes of each kind
_GAP_DB, _TIMES_SPREAD = 6.0, 2.0  # between the two kinds, and against the spread of the wider one
_LESS_BODY_DB = 4.0  # than plain strokes, at most: a stick that lies across the rim has far less


def with_rim_shots(played: Performance, sound: Floats) -> Performance:
    """What was played, with rim shots told where a snare plainly has two kinds of strokes.

    Parameters
    ----------
    sound
        Mono at LISTEN_RATE.
    """
    snare = np.array([VOICES[v].name == "snare" for v in played.voice], bool)
    mine = np.flatnonzero(snare & (played.stroke == _PLAIN) & (played.velocity >= _LEAST_VELOCITY))
    if len(mine) < 2 * _FEWEST:
        return played
    energy = energies(sound, [_BODY, _CRACK])
    body_db, crack_db = (_start_db(energy[band], played.onset_s[mine]) for band in (_BODY, _CRACK))
    rim = upper_kind(crack_db - body_db)
    if not rim.any() or np.median(body_db[rim]) < np.median(body_db[~rim]) - _LESS_BODY_DB:
        return played
    stroke = played.stroke.copy()
    stroke[mine[rim]] = _RIM
    return replace(played, stroke=stroke)


def upper_kind(values_db: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which values are of the upper of two kinds that lie far apart, shape as given; none where there is one kind."""
    ordered = np.sort(values_db)
    gaps = np.diff(ordered)[_FEWEST - 1 : len(ordered) - _FEWEST]
    if not len(gaps):
        return np.zeros(len(values_db), bool)
    cut = _FEWEST + int(gaps.argmax())
    spread_db = max(float(np.std(ordered[:cut])), float(np.std(ordered[cut:])))
    if gaps.max() < max(_GAP_DB, _TIMES_SPREAD * spread_db):
        return np.zeros(len(values_db), bool)
    return np.asarray(values_db >= ordered[cut])


def _start_db(energy: NDArray[np.float64], at_s: NDArray[np.float64]) -> NDArray[np.float64]:
    """Energy at the start of each stroke, in dB against any level; shape (n,)."""
    samples = (np.round(s * LISTEN_RATE).astype(np.int64) for s in (at_s - _BEFORE_S, at_s + _AFTER_S))
    first, end = (grains(s, len(energy)) for s in samples)
    return np.asarray(10 * np.log10(np.maximum(energy[end] - energy[first], 1e-12)))
