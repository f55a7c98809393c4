"""The fastest even pulse behind a set of moments.

Steps: (1) the coherence of all moments with every frequency, in windows of four seconds so that a drifting tempo still
shows; (2) for the strongest frequencies, moments are numbered step by step outward from the middle and a straight or
gently curved line through (number, moment) is fitted robustly, with a constant shift of the odd steps, which is swing;
(3) each pulse is scored by how many nats it takes to write the moments down with its help: position among the steps
and remainder. A finer grid costs log 2 a moment for each halving.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
_LOWEST_HZ, _HIGHEST_HZ = 1.6, 15.0
_WINDOW_S = 4.0
_LINE_TURNS, _RIDGE = 3, 1e-12 * np.eye(4)
_TIGHT_S, _WIDE_S, _WIDE_SHARE = 0.007, 0.022, 0.12


@dataclass(frozen=True)
class Pulse:
    """Step n lies at curve(n) = c0 + c1 n + c2 n² seconds; steps of odd n are late by odd_s more."""

    curve: tuple[float, float, float]
    odd_s: float
    numbers: NDArray[np.int64]  # of each moment
    score: float
    time_nats: float  # the part of the score that the remainders alone make

    @property
    def step_s(self) -> float:
        return self.curve[1]

    def step_times_s(self, numbers: NDArray[np.int64] | Floats) -> Floats:
        c0, c1, c2 = self.curve
        n = np.asarray(numbers, float)
        return np.asarray(c0 + c1 * n + c2 * n * n)


def log_density(rest_s: Floats) -> Floats:
    """Log density of a player's deviation: mostly tight, now and then wide (a mixture of two normals)."""

    def normal(s: float) -> Floats:
        return np.exp(-0.5 * (rest_s / s) ** 2) / (s * np.sqrt(2 * np.pi))

    return np.log((1 - _WIDE_SHARE) * normal(_TIGHT_S) + _WIDE_SHARE * normal(_WIDE_S) + 1e-3)


def coherent_hz(times_s: Floats, weights: Floats, *, count: int) -> Floats:
    """The frequencies with which the moments agree best, strongest first."""
    span = max(float(times_s[-1] - times_s[0]), 0.5)
    hz = np.arange(_LOWEST_HZ, _HIGHEST_HZ, 0.02)
    total = np.zeros(len(hz))
    starts = np.arange(times_s[0], max(times_s[-1] - _WINDOW_S, times_s[0]) + 1e-9, _WINDOW_S / 2)
    for start in starts[:: max(1, len(starts) // 40)]:
        inside = (times_s >= start) & (times_s < start + _WINDOW_S)
        if inside.sum() >= 2:
            total += np.abs(np.exp(-2j * np.pi * np.outer(hz, times_s[inside])) @ weights[inside])
    smooth_total = total * hz**-0.15
    inner = smooth_total[1:-1]
    peaks = np.flatnonzero((inner >= smooth_total[:-2]) & (inner > smooth_total[2:])) + 1
    if not len(peaks):
        return np.array([2.0 if span < 1 else 1 / span * round(span * 2)])
    best = peaks[np.argsort(-smooth_total[peaks])]
    return hz[best[:count]]


def find_pulses(
    times_s: Floats,
    weights: Floats,
    *,
    near_step_s: tuple[float, ...] = (),
    also_step_s: tuple[float, ...] = (),
    count: int = 4,
    progress: Callable[[float], None] = lambda share: None,
) -> list[Pulse]:
    """Pulses that explain the moments, best first.

    Parameters
    ----------
    times_s, weights
        Ascending moments in seconds and how much each counts, shape (n,), n at least 2.
    near_step_s
        Steps that are given (from a known tempo); only pulses within 4 % of one are then tried.
    also_step_s
        Steps that are tried beside those that the moments suggest.
    progress
        Called with 0 to 0.5; may raise to stop.
    """
    if near_step_s:
        steps = list(near_step_s)
    else:
        base = 1 / coherent_hz(times_s, weights, count=7)
        wanted = list(also_step_s)
        wanted += [s * f for s in base for f in (1.0, 2.0, 0.5) if 1 / _HIGHEST_HZ <= s * f <= 1 / _LOWEST_HZ]
        # The line finds its way from a few per cent off, so one start of a neighbourhood is enough.
        steps = [s for i, s in enumerate(wanted) if all(abs(s / other - 1) > 0.012 for other in wanted[:i])]
    found: list[Pulse] = []
    for pulse in _tracked(times_s, weights, np.array(steps), progress):
        if not any(_same(pulse, other) for other in found):
            found.append(pulse)
    return sorted(found, key=lambda p: -p.score)[:count]


def _same(a: Pulse, b: Pulse) -> bool:
    return (
        abs(a.step_s / b.step_s - 1) < 0.004
        and abs(a.odd_s - b.odd_s) < 0.003
        and (np.array_equal(np.diff(a.numbers), np.diff(b.numbers)))
    )


def _tracked(times_s: Floats, weights: Floats, steps_s: Floats, progress: Callable[[float], None]) -> Iterator[Pulse]:
    """Number the moments outward from the densest window and fit, for all steps at once; a line that runs wild is left
    out. All steps see the same moments, so that each turn is one calculation for all of them.
    """
    middle = _densest(times_s)
    near = np.abs(times_s - times_s[middle]) < 1.6
    # With rests in between, what lies near the middle may be one hit: that one then is the beginning of the count.
    phase = np.angle(np.exp(2j * np.pi * times_s[near] / steps_s[:, None]) @ weights[near])
    curves = np.stack([phase / (2 * np.pi) * steps_s, steps_s, np.zeros(len(steps_s))], axis=1)
    curves[:, 0] += steps_s * np.rint((times_s[middle] - curves[:, 0]) / steps_s)
    odd_s, reach = np.zeros(len(steps_s)), 1.6
    span = max(times_s[-1] - times_s[middle], times_s[middle] - times_s[0])
    while True:
        progress(0.5 * min(1.0, reach / max(span, reach)))
        inside = np.abs(times_s - times_s[middle]) <= reach
        for _turn in range(2):
            numbers = _numbered(times_s[inside], curves, odd_s)
            curves, odd_s = _lines(numbers, times_s[inside], weights[inside], steps_s, curved=reach > 4.0)
        if reach >= span:
            break
        reach *= 2.0
    all_numbers = _numbered(times_s, curves, odd_s)
    for step_s, curve, odd, numbers in zip(steps_s, curves, odd_s, all_numbers, strict=True):
        if 0.9 < curve[1] / step_s < 1.1 and np.isfinite(curve).all() and abs(odd) <= 0.47 * curve[1]:
            yield _scored(times_s, weights, curve, float(odd), numbers)


def _scored(times_s: Floats, weights: Floats, curve: Floats, odd_s: float, numbers: NDArray[np.int64]) -> Pulse:
    if odd_s < 0:  # count from the other parity, so that the late steps are the odd ones
        shifted = curve[0] + curve[1] + curve[2] + odd_s, curve[1] + 2 * curve[2], curve[2]
        curve, odd_s, numbers = np.array(shifted), -odd_s, numbers - 1
    c0, c1, c2 = (float(c) for c in curve)
    ideal = c0 + c1 * numbers + c2 * numbers**2 + odd_s * (numbers % 2)
    share = weights / weights.mean()
    cost = 2.5 + (3.0 if odd_s > 0.02 * c1 else 0.0)
    time_nats = float((share * log_density(times_s - ideal)).sum() - cost)
    score = time_nats + float(share.sum() * np.log(c1))
    return Pulse((c0, c1, c2), odd_s, numbers, score, time_nats)


def _densest(times_s: Floats) -> int:
    counts = np.searchsorted(times_s, times_s + 2) - np.searchsorted(times_s, times_s - 2)
    centred = np.abs(times_s - times_s.mean()) / (np.ptp(times_s) + 1)
    return int(np.argmax(counts - centred))


def _numbered(times_s: Floats, curves: Floats, odd_s: Floats) -> NDArray[np.int64]:
    """The nearest step of each moment on each curve, given the shift of the odd steps; shape (curves, n)."""
    c0, c1, c2 = curves.T[:, :, None]
    n = (times_s - c0) / c1
    for _ in range(3):
        n = n - (c0 + c1 * n + c2 * n * n - times_s) / (c1 + 2 * c2 * n)
    near = np.rint(n).astype(np.int64)
    options = near + np.array([-1, 0, 1])[:, None, None]
    ideal = c0 + c1 * options + c2 * options**2 + odd_s[:, None] * (options % 2)
    nearest = np.argmin(np.abs(ideal - times_s), axis=0)
    return np.where(odd_s[:, None] == 0, near, near + nearest - 1)


def _lines(
    numbers: NDArray[np.int64], times_s: Floats, weights: Floats, steps_s: Floats, *, curved: bool
) -> tuple[Floats, Floats]:
    """Robust least squares of each curve and its shift of odd steps; weak priors keep them near the start.

    Numbers have the shape (curves, n); the curves come back in the shape (curves, 3), the shifts in (curves,).
    """
    origin = np.rint(numbers.sum(axis=1) / numbers.shape[1])
    n = numbers - origin[:, None]
    design = np.stack([np.ones(n.shape), n, numbers % 2, n * n], axis=1)
    # Weak priors: the step within about 3 %, little swing, and a tempo that bends slowly.
    scale = 0.010
    prior = np.zeros((len(steps_s), 4))
    prior[:, 1:] = scale / (np.array([0.03, 0.25, 0.0002]) * steps_s[:, None])
    if not curved:
        prior[:, 3] *= 1e4
    priors = prior[:, :, None] ** 2 * np.eye(4)
    goal = np.zeros((len(steps_s), 4))
    goal[:, 1] = prior[:, 1] ** 2 * steps_s
    base = weights * (len(weights) / weights.sum())
    # Normal equations of the four unknowns, scaled to unit columns: a tenth of the time of a general solver.
    unit = 1 / np.maximum(np.sqrt((design * design).sum(axis=2)), 1e-9)
    units = unit[:, :, None] * unit[:, None, :]
    weighted = design * base
    for turn in range(_LINE_TURNS):
        square, right = weighted @ design.transpose(0, 2, 1), weighted @ times_s
        scaled = (square + priors) * units + _RIDGE
        solution = unit * np.linalg.solve(scaled, (unit * (right + goal))[:, :, None])[:, :, 0]
        if turn < _LINE_TURNS - 1:
            rest = times_s - (solution[:, None, :] @ design)[:, 0]
            weighted = design * (base / (1 + (rest / 0.012) ** 2))[:, None, :]
    a, b, odd, c = solution.T
    return np.stack([a - b * origin + c * origin**2, b - 2 * c * origin, c], axis=1), odd
