"""When an open hi-hat is closed again: the end of its ring, heard in the recording.

An open hat rings until the foot or the next stroke closes it. Where a stroke follows, that stroke closes it. Where none
does, the foot's closing shows as a fall of the highest range far steeper than the ring's own.
"""

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.filters import bands
from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats

_HIGH = (4, 6000.0, 0.0)  # order and edges in Hz of the range that falls
_STEP_S = 0.005
_LONGEST_S = 2.5
_FALL_DB, _FALL_STEPS = 14.0, 8  # within 40 ms
_LEAST_S = 0.06


def closings_s(sound: Floats, open_s: NDArray[np.float64], stroke_s: NDArray[np.float64]) -> NDArray[np.float64]:
    """The moment each open hat is closed, nan where it rings out; shape (n,).

    Parameters
    ----------
    sound
        Mono at LISTEN_RATE.
    open_s
        Onsets of open and half-open hats, in s.
    stroke_s
        Onsets of everything that closes them (all hats, the pedal), ascending, in s.
    """
    out = np.full(len(open_s), np.nan)
    step = round(_STEP_S * LISTEN_RATE)
    for i, start in enumerate(open_s):
        following = stroke_s[stroke_s > start + 0.002]
        until = min(float(following[0]) if len(following) else np.inf, start + _LONGEST_S, len(sound) / LISTEN_RATE)
        ring = sound[round(start * LISTEN_RATE) : round(until * LISTEN_RATE)]
        closed = _fall_s(bands(ring, [_HIGH])[0], step)
        if closed is not None:
            out[i] = start + closed
        elif len(following) and following[0] <= start + _LONGEST_S:
            out[i] = following[0]
    return out


def _fall_s(high: NDArray[np.floating], step: int) -> float | None:
    """Where the level falls by _FALL_DB within 40 ms and stays down, in s from the start."""
    count = len(high) // step
    if count <= _FALL_STEPS + round(_LEAST_S / _STEP_S):
        return None
    power = (high[: count * step].astype(float).reshape(count, step) ** 2).mean(axis=1)
    level = 10 * np.log10(power + 1e-12)
    first = round(_LEAST_S / _STEP_S)
    falls = level[first:-_FALL_STEPS] - level[first + _FALL_STEPS :]
    for at in np.flatnonzero(falls >= _FALL_DB):
        rest = level[first + at + _FALL_STEPS :]
        if rest.max(initial=-120.0) <= level[first + at] - 0.6 * _FALL_DB:
            return float((first + at + _FALL_STEPS / 2) * _STEP_S)
    return None
