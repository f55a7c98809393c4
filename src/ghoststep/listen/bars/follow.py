"""Following a pulse through a long performance: numbers for all hits from a pulse that was found in one stretch.

A tempo that wanders cannot be extrapolated over minutes. So the pulse is carried outward from the stretch in pieces of
eight steps; each piece corrects the place and the pace of the next by a small robust least squares (a Kalman filter of
two numbers in all but name).
"""

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bars.pulse import Pulse
from ghoststep.listen.fit.line import Line

Floats = NDArray[np.float64]
_PIECE = 8
_SIGMA_S, _PLACE_S, _PACE_SHARE = 0.010, 0.005, 0.012
_LOST_SHARE = 0.18  # of a step that hits may be away on average before the pulse counts as lost
_LOST_PIECES = 6


def followed(
    times_s: Floats, weights: Floats, pulse: Pulse, middle_s: float
) -> tuple[NDArray[np.int64], Line, float | None]:
    """Carry a pulse through all moments.

    Returns
    -------
    The step of each moment, shape (n,); the line of step numbers; and the second from which the pulse no longer fits
    (a new tempo or song), None where it fits throughout.
    """
    c0, c1, c2 = pulse.curve
    start = round(((middle_s - c0) / c1 if not c2 else _step_at(pulse, middle_s)) / 2) * 2
    origin = float(pulse.step_times_s(np.array([start]))[0])
    pace = c1 + 2 * c2 * start
    ahead, lost_ahead = _carried(times_s, weights, origin, pace, pulse.odd_s, forward=True)
    behind, lost_behind = _carried(times_s, weights, origin, pace, pulse.odd_s, forward=False)
    anchors = behind[:0:-1] + ahead
    steps = start + np.arange(-(len(behind) - 1), len(ahead)) * _PIECE
    line = Line(steps.astype(float), np.array(anchors))
    lost = lost_ahead if lost_ahead is not None else lost_behind
    return _numbers(times_s, line, pulse.odd_s), line, lost


def _step_at(pulse: Pulse, seconds: float) -> float:
    c0, c1, c2 = pulse.curve
    n = (seconds - c0) / c1
    for _ in range(6):
        n -= (c0 + c1 * n + c2 * n * n - seconds) / (c1 + 2 * c2 * n)
    return n


def _numbers(times_s: Floats, line: Line, odd_s: float) -> NDArray[np.int64]:
    near = np.rint(line.quarters(times_s)).astype(np.int64)
    options = near[:, None] + np.array([-1, 0, 1])
    ideal = line.seconds(options) + odd_s * (options % 2)
    return options[np.arange(len(near)), np.argmin(np.abs(ideal - times_s[:, None]), axis=1)]


def _carried(
    times_s: Floats, weights: Floats, origin: float, pace: float, odd_s: float, *, forward: bool
) -> tuple[list[float], float | None]:
    """Seconds of every eighth step from the origin outward to the last hit, and where the pulse was lost."""
    sign = 1.0 if forward else -1.0
    anchors, at, lost, away = [origin], origin, None, 0
    while (times_s[-1] - at if forward else at - times_s[0]) > 0:
        reach = sign * _PIECE * pace
        a, b = sorted((at - sign * 0.5 * pace, at + reach + sign * 0.5 * pace))
        inside = slice(np.searchsorted(times_s, a), np.searchsorted(times_s, b))
        place, slope, miss = _corrected(times_s[inside] - at, weights[inside], sign * pace, odd_s)
        away = away + 1 if miss > _LOST_SHARE * pace else 0
        if away == _LOST_PIECES and lost is None:
            lost = at - sign * _PIECE * pace * _LOST_PIECES
        at += place + sign * _PIECE * (pace + slope)
        pace += 0.7 * slope
        anchors.append(at)
    while len(anchors) < 2:
        anchors.append(anchors[-1] + sign * _PIECE * pace)
    return anchors, lost


def _corrected(away_s: Floats, weights: Floats, pace: float, odd_s: float) -> tuple[float, float, float]:
    """Correction of place and of the pace's size by the hits of one piece, and how far they are off on average."""
    if not len(away_s):
        return 0.0, 0.0, 0.0
    place = slope = 0.0
    sign, size = np.sign(pace), abs(pace)
    # Two halves of the same step are told apart by parity: pieces start on even steps.
    for _ in range(3):
        n = np.rint((away_s - place) / (sign * (size + slope)))
        rest = away_s - (place + n * sign * (size + slope) + odd_s * (n % 2))
        other = np.where(rest > 0, n + sign, n - sign)
        rest_other = away_s - (place + other * sign * (size + slope) + odd_s * (other % 2))
        closer = np.abs(rest_other) < np.abs(rest)
        n, rest = np.where(closer, other, n), np.where(closer, rest_other, rest)
        w = weights / (1 + (rest / 0.012) ** 2) / _SIGMA_S**2
        # Normal equations of place and slope, which are two: solved by hand, a fifth of the time.
        m, target = n * sign, rest + place + n * sign * slope
        weighted = w * m
        one, both, two = float(w.sum()) + 1 / _PLACE_S**2, float(weighted.sum()), float(weighted @ m)
        two += 1 / (_PACE_SHARE * size) ** 2
        right = float(w @ target), float(weighted @ target)
        whole = one * two - both * both
        place, slope = (two * right[0] - both * right[1]) / whole, (one * right[1] - both * right[0]) / whole
    return place, slope, float(np.abs(rest) @ weights / weights.sum())
