"""Loudness and peaks of sound as it goes by in blocks: ITU-R BS.1770-4 (2015).

Loudness is K-weighted energy over blocks of 400 ms that overlap by three quarters, gated at -70 LUFS and at 10 LU below
the mean of what is left. True peak is looked for at four times the rate. The filters for rates other than 48 kHz follow
from the analogue ones behind the two sections of the recommendation (B. De Man, 2014).
"""

import math

import numpy as np
import soxr
from numpy.typing import NDArray

Floats = NDArray[np.float64]
_STEP_S = 0.1
_STEPS = 4  # of a block
_GATE_LUFS, _RELATIVE_LU = -70.0, -10.0
_SHELF = (1681.974450955533, 3.999843853973347, 0.7071752369554196)  # Hz, dB, Q
_HIGH_PASS = (38.13547087602444, 0.5003270373238773)  # Hz, Q
_OVERSAMPLED = 4
_EDGE = 64  # samples of the block before, heard again so that no peak falls between two


class Meter:
    """Takes blocks of shape (n, channels) at one rate; tells what all of them together came to."""

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._sections = np.array([_shelf(rate), _high_pass(rate)])
        self._state: Floats | None = None
        self._step = round(_STEP_S * rate)
        self._rest = np.zeros(0)  # weighted power that fills no step yet
        self._steps: list[float] = []
        self._before = np.zeros((0, 1))
        self._peak = 0.0

    def add(self, block: NDArray[np.floating]) -> None:
        """Hear a block."""
        from scipy.signal import sosfilt  # takes a second to load

        sound = np.asarray(block, float).reshape(len(block), -1)
        if not len(sound):
            return
        if self._state is None:
            self._state = np.zeros((2, 2, sound.shape[1]))
            self._before = np.zeros((_EDGE, sound.shape[1]))
        weighted, self._state = sosfilt(self._sections, sound, axis=0, zi=self._state)
        power = np.concatenate([self._rest, (weighted**2).sum(axis=1)])
        whole = len(power) // self._step
        self._steps += power[: whole * self._step].reshape(whole, self._step).mean(axis=1).tolist()
        self._rest = power[whole * self._step :]
        heard = np.concatenate([self._before, sound])
        finer = soxr.resample(heard, self._rate, _OVERSAMPLED * self._rate)
        self._peak = max(self._peak, float(np.abs(sound).max()), float(np.abs(finer).max()))
        self._before = heard[-_EDGE:]

    @property
    def loudness_lufs(self) -> float:
        """Integrated loudness; -inf where all is below the gate. What is shorter than a block counts as one."""
        steps = [*self._steps]
        if len(steps) < _STEPS:
            steps += [float(self._rest.sum()) / self._step] if len(self._rest) else []
            steps += [0.0] * (_STEPS - len(steps))
        sums = np.convolve(steps, np.ones(_STEPS) / _STEPS, mode="valid")
        loud = sums[sums > _power(_GATE_LUFS)]
        if not len(loud):
            return -math.inf
        gate = _power(_lufs(float(loud.mean())) + _RELATIVE_LU)
        return _lufs(float(loud[loud > gate].mean()))

    @property
    def true_peak_dbtp(self) -> float:
        """Between the samples too; -inf for silence."""
        return 20 * math.log10(self._peak) if self._peak > 0 else -math.inf


def _lufs(power: float) -> float:
    return -0.691 + 10 * math.log10(power)


def _power(lufs: float) -> float:
    return float(10 ** ((lufs + 0.691) / 10))


def _shelf(rate: int) -> list[float]:
    hz, db, q = _SHELF
    k, high = math.tan(math.pi * hz / rate), 10 ** (db / 20)
    band = high**0.4996667741545416
    below = 1 + k / q + k * k
    return [
        (high + band * k / q + k * k) / below, 2 * (k * k - high) / below, (high - band * k / q + k * k) / below,
        1.0, 2 * (k * k - 1) / below, (1 - k / q + k * k) / below,
    ]  # fmt: skip


def _high_pass(rate: int) -> list[float]:
    hz, q = _HIGH_PASS
    k = math.tan(math.pi * hz / rate)
    below = 1 + k / q + k * k
    return [1.0, -2.0, 1.0, 1.0, 2 * (k * k - 1) / below, (1 - k / q + k * k) / below]
