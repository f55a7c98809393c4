"""Slower or faster without change of pitch, made for drums.

The sound is cut at its hits and the pieces are moved, so every attack stays as sharp as it was. A piece that has to
last longer is drawn out from its own tail, in short overlapping grains that go on dying away.
"""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

Stereo = NDArray[np.float32]
_GRAIN_S = 0.060
_FADE_S = 0.004


def stretched(sound: Stereo, cuts_s: NDArray[np.float64], factor: float, rate: int) -> Stereo:
    """The sound lasting `factor` times as long.

    Parameters
    ----------
    sound
        Shape (n, channels).
    cuts_s
        Moments of the hits in seconds; cuts are made 2 ms ahead of them.
    """
    if factor == 1.0 or not len(sound):
        return sound
    edges = np.unique(np.rint((np.asarray(cuts_s) - 0.002) * rate).astype(int))
    edges = np.concatenate([[0], edges[(edges > rate // 100) & (edges < len(sound))], [len(sound)]])
    out = np.zeros((round(len(sound) * factor), sound.shape[1]), np.float32)
    fade = round(_FADE_S * rate)
    for number, (a, b) in enumerate(pairwise(edges)):
        start, end = round(a * factor), min(round(b * factor), len(out))
        piece = drawn_out(sound[a:b], end - start, rate, number)
        quiet = min(fade, len(piece))
        if quiet and b < len(sound):
            piece[len(piece) - quiet :] *= np.linspace(1, 0, quiet, dtype=np.float32)[:, None]
        out[start : start + len(piece)] += piece
    return out


def drawn_out(piece: Stereo, length: int, rate: int, number: int) -> Stereo:
    """The piece cut to a length, or drawn out to it."""
    if length <= len(piece):
        return piece[:length].copy()
    grain = min(round(_GRAIN_S * rate), len(piece) // 2)
    out = np.zeros((length, piece.shape[1]), np.float32)
    out[: len(piece)] = piece
    if grain < 32:
        return out
    half = grain // 2
    tail = piece[len(piece) // 2 :]
    level_end = float(np.sqrt((piece[-grain:] ** 2).mean()) + 1e-9)
    level_before = float(np.sqrt((tail[:grain] ** 2).mean()) + 1e-9)
    # How the tail dies away, in nepers a sample; it never grows.
    slope = min(0.0, np.log(level_end / level_before) / max(len(tail) - grain, grain))
    window = np.hanning(2 * half + 1)[:-1].astype(np.float32)[:, None]
    out[len(piece) - half : len(piece)] *= 1 - window[:half]
    dice = np.random.default_rng(number)
    for at in range(len(piece) - half, length, half):
        source = int(dice.integers(max(len(piece) - 2 * grain, 0), max(len(piece) - 2 * half, 0) + 1))
        decay = np.float32(np.exp(slope * (at - source)))
        end = min(at + 2 * half, length)
        out[at:end] += (piece[source : source + 2 * half] * window)[: end - at] * decay
    return out
