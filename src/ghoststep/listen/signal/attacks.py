"""The moment of each stroke, from the range of the sound that is its drum's own.

The network tells moments from all that sounds. A hat that is struck with a kick or a snare then leans towards the
louder drum by 2 to 4 ms, which is as much as what makes a feel. In the range that is mostly a drum's own, the steepest
rise of energy tells its moment: by energy after against energy before, as in `signal/onsets.py`, with a belief that it
is not far from where the network heard it.
"""

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.filters import GRAIN, Band, response
from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats, windows_at
from ghoststep.listen.signal.transforms import irfft, rfft

_WINDOW = 1024  # samples around a moment
_REACH, _SIDE = 44, 17  # grains to look to each side, and over which energy is taken before and after: 8 and 3 ms
_CLEAR = 1.0  # nats that energy rises at the attacks of a range, in the middle of them, where it holds attacks
# What no rise is measured under: of the usual energy, and energy of a sample, at -90 dB.
_FLOOR, _SILENT = 0.01, 1e-9
_GRAIN_MS = 1e3 * GRAIN / LISTEN_RATE


SKINS: tuple[Band, ...] = ((2, 300.0, 3000.0),)
METALS: tuple[Band, ...] = ((4, 12000.0, 0.0), (4, 9000.0, 0.0), (4, 6000.0, 0.0))


def attacks_s(
    sound: Floats, guess_s: NDArray[np.float64], off_ms: NDArray[np.float64], ranges: tuple[Band, ...]
) -> NDArray[np.float64]:
    """The attacks in the first of some ranges that holds any, near some moments; shape (n,).

    The moments come back as they are where no range holds attacks.

    Parameters
    ----------
    sound
        Mono at LISTEN_RATE.
    guess_s
        Where they are thought to be, in s, shape (n,).
    off_ms
        How far they may be from there in ms, as one deviation, shape (n,).
    """
    if not len(guess_s):
        return guess_s
    centres = np.rint(guess_s * LISTEN_RATE / GRAIN).astype(np.int64)
    away_ms = np.arange(-_REACH, _REACH + 1) * _GRAIN_MS
    belief = -0.5 * np.square(away_ms / off_ms[:, None])
    for band in ranges:
        rise = _rises(sound, centres, band)
        at = np.argmax(rise + belief, axis=1)
        if np.median(rise[np.arange(len(at)), at]) >= _CLEAR:
            return np.asarray(np.maximum((centres + at - _REACH) * (GRAIN / LISTEN_RATE), 0.0))
    return guess_s


def _rises(sound: Floats, centres: NDArray[np.int64], band: Band) -> NDArray[np.float64]:
    """How much the energy of a range rises near some grains, in nats; shape (n, 2 * _REACH + 1)."""
    half = _WINDOW // 2
    parts = []
    for windows in windows_at(sound, centres * GRAIN - half, _WINDOW):
        inside = irfft(rfft(windows) * response(band, _WINDOW), _WINDOW)
        parts.append(np.square(inside).reshape(len(inside), -1, GRAIN).sum(axis=2, dtype=np.float64))
    energy = np.concatenate(parts)
    total = np.concatenate([np.zeros((len(energy), 1)), np.cumsum(energy, axis=1)], axis=1)
    at = np.arange(half // GRAIN - _REACH, half // GRAIN + _REACH + 1)
    before, after = (total[:, at + max(0, s)] - total[:, at + min(0, s)] for s in (-_SIDE, _SIDE))
    floor = _SIDE * (_FLOOR * float(energy.mean()) + _SILENT * GRAIN)
    return np.asarray(np.log((after + floor) / (before + floor)))
