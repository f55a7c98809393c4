"""The time line of a performance: which second a quarter falls on, with a tempo that may drift."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


_MOST_ANCHORS = 800  # of a line that bends: time and memory grow with their square and more


@dataclass(frozen=True, eq=False)
class Line:
    """Straight between anchors (quarter, second), both ascending; outside them it goes on at the pace of the ends."""

    anchor_q: Floats
    anchor_s: Floats

    @classmethod
    def curved(cls, curve: tuple[float, float, float], low_q: float, high_q: float) -> "Line":
        """c0 + c1 q + c2 q² seconds, with an anchor on every quarter of the range (two for a straight line)."""
        c0, c1, c2 = curve
        low, high = np.floor(low_q) - 1, np.ceil(high_q) + 1
        q = np.arange(low, high + 1) if c2 else np.array([low, high])
        return cls(q, c0 + c1 * q + c2 * q * q)

    def seconds(self, quarters: ArrayLike) -> Floats:
        return _through(np.asarray(quarters, float), self.anchor_q, self.anchor_s)

    def quarters(self, seconds: ArrayLike) -> Floats:
        return _through(np.asarray(seconds, float), self.anchor_s, self.anchor_q)

    def pace_s(self, quarters: ArrayLike) -> Floats:
        """Seconds a quarter takes at a place."""
        q = np.asarray(quarters, float)
        return np.asarray(self.seconds(q + 0.5) - self.seconds(q - 0.5))

    @property
    def usual_pace_s(self) -> float:
        """Seconds of a quarter on the whole."""
        return float((self.anchor_s[-1] - self.anchor_s[0]) / (self.anchor_q[-1] - self.anchor_q[0]))

    def shifted(self, seconds: ArrayLike) -> "Line":
        """The same anchors at other seconds: later by as much as given, one figure or one for each anchor."""
        return Line(self.anchor_q, self.anchor_s + np.asarray(seconds, float))

    def with_anchors(self, quarters: Floats) -> "Line":
        """The same line with anchors at these quarters, as far as they hold its shape."""
        return Line(quarters, self.seconds(quarters))


def _through(x: Floats, xs: Floats, ys: Floats) -> Floats:
    # Of few numbers: `np.clip` would take longer to begin.
    part = np.maximum(np.minimum(np.searchsorted(xs, x, side="right") - 1, len(xs) - 2), 0)
    slope = (ys[part + 1] - ys[part]) / (xs[part + 1] - xs[part])
    return np.asarray(ys[part] + (x - xs[part]) * slope)


def smoothed(line: Line, q: Floats, rest_s: Floats, *, bar_q: float, least_bars: int = 3) -> Line:
    """A line bent slowly towards what is left of the hits' times, where they prove that the tempo moves.

    A penalised piecewise linear curve with anchors on the bar lines: the pace may walk by some 0.3 % from bar to bar
    (a random walk, as a Kalman smoother would have it). The bend is taken only where it explains clearly more than as
    many free numbers would explain of noise.

    Parameters
    ----------
    q, rest_s
        Quarter and remainder of each hit against the line, shape (n,).
    """
    first, last = np.floor(q.min() / bar_q), np.ceil((q.max() + 1e-9) / bar_q)
    bars = int(last - first)
    if bars < least_bars or len(q) < 16:
        return line
    every = -(-bars // _MOST_ANCHORS)  # bars from anchor to anchor: one, but for hours of rest in between
    anchors = bar_q * np.arange(first, last + every, every)
    basis = _hats(q, anchors)
    sigma = max(1.4826 * float(np.median(np.abs(rest_s - np.median(rest_s)))), 0.003)
    walk = max(0.003 * bar_q * every * line.usual_pace_s, 0.003)
    second = np.diff(np.eye(len(anchors)), n=2, axis=0) / walk
    weight = np.ones(len(q))
    for _ in range(4):
        scaled = basis * (weight / sigma)[:, None]
        square = scaled.T @ scaled + second.T @ second + 1e-9 * np.eye(len(anchors))
        bend = np.linalg.solve(square, scaled.T @ (rest_s * weight / sigma))
        left = rest_s - basis @ bend
        weight = np.sqrt(1 / (1 + (left / (2.5 * sigma)) ** 2))
    freedom = float(np.trace(np.linalg.solve(square, scaled.T @ scaled)))
    before = float((weight**2 * (rest_s - np.average(rest_s, weights=weight)) ** 2).sum())
    after = float((weight**2 * left**2).sum())
    if np.ptp(bend) < 0.006 or (before - after) * len(q) < 4 * freedom * after:
        return line
    everywhere = np.union1d(line.anchor_q, anchors)
    bent = _hats(np.clip(everywhere, anchors[0], anchors[-1]), anchors) @ bend
    # Outside the hits the pace of the first and last bar goes on.
    ends = (bend[1] - bend[0]) / (bar_q * every), (bend[-1] - bend[-2]) / (bar_q * every)
    bent = bent + np.minimum(everywhere - anchors[0], 0) * ends[0] + np.maximum(everywhere - anchors[-1], 0) * ends[1]
    return Line(everywhere, line.seconds(everywhere) + bent)


def _hats(q: Floats, anchors: Floats) -> Floats:
    """Weights with which each place hangs between its two anchors; shape (n, anchors)."""
    part = np.clip(np.searchsorted(anchors, q, side="right") - 1, 0, len(anchors) - 2)
    share = np.clip((q - anchors[part]) / (anchors[part + 1] - anchors[part]), 0, 1)
    out = np.zeros((len(q), len(anchors)))
    rows = np.arange(len(q))
    out[rows, part], out[rows, part + 1] = 1 - share, share
    return out
