"""How strokes stray in time and force: one slow inner clock shared by all limbs, and a part of each limb.

Deviations of players are correlated over many hits, with a spectrum near 1/f^b (Hennig et al. 2011; Räsänen et
al. 2015), and one drummer has one clock. Independent dice per note would sound like neither. All of it is a function of
time, so that a hit put in or taken out moves no other. Over a pass its mean is 0 and its spread is the one that is set:
what is constant is lean, and has its own figure.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.kit import LIMB_LETTERS
from ghoststep.music.player import Wander

Floats = NDArray[np.float64]
_SHORTEST_S = 0.06  # shorter than two strokes ever are apart: below it everything is dice
_FINEST_S, _MOST_MARKS = 0.02, 4096  # of the even moments over which a pass is centred and measured
_SHORT = 0.25  # waves up to this share of a pass come often enough in it to be scaled one by one
_CLOCK, _FORCE, _TEMPO = 0, 20, 40  # which dice a part throws; the limbs count on from each


@dataclass(frozen=True)
class Pass:
    """Which time of the player's a performance is: the length of a pass in s, its number, and the dice."""

    length_s: float
    number: int = 0
    seed: tuple[int, int] = (0, 1)  # player and take


def waves(times_s: Floats, which: Pass, exponent: float, parts: Sequence[int]) -> Floats:
    """For each part, values at times of a pass, with a spectrum 1/f^exponent; shape (parts, n).

    Over the pass each has mean 0 and variance 1, and none has anything in common with those before it; so what is set
    of spread and of the limbs' correlation is what comes out.

    Waves whose lengths double add up to such a spectrum where the variance of each goes with its length to the power of
    exponent - 1 (van der Ziel 1950 for first-order processes). Each is drawn on marks of its length and blended between
    them at constant variance, and short ones have exactly their share over the pass, so that the exponent comes out.

    Parameters
    ----------
    times_s
        Shape (n,), from the start of the pass; hits a little before it or behind its end belong to it too.
    parts
        Which dice each throws.
    """
    length_s = max(which.length_s, 4 * _SHORTEST_S)
    even = np.linspace(0, length_s, int(min(max(length_s / _FINEST_S, 64), _MOST_MARKS)), endpoint=False)
    at_times, at_even = _thrown(times_s, even, length_s, which, exponent, parts)
    for n in range(len(parts)):
        middle = at_even[n].mean()
        at_times[n] -= middle
        at_even[n] -= middle
        for before in range(n):
            common = float(at_even[n] @ at_even[before]) / len(even)
            at_even[n] -= common * at_even[before]
            at_times[n] -= common * at_times[before]
        spread = float(at_even[n].std()) or 1.0
        at_even[n] /= spread
        at_times[n] /= spread
    return at_times


def _thrown(
    times_s: Floats, even_s: Floats, length_s: float, which: Pass, exponent: float, parts: Sequence[int]
) -> tuple[Floats, Floats]:
    """The parts at times and at even moments of the pass, as they come; shapes (parts, n), (parts, even moments)."""
    start_s = which.number * length_s
    moments, back = np.unique(times_s, return_inverse=True)  # limbs strike together a lot
    every = np.concatenate([moments, even_s]) + start_s
    spans = _SHORTEST_S * 2.0 ** np.arange(int(np.ceil(np.log2(2 * length_s / _SHORTEST_S))) + 1)
    inner = float(np.interp(exponent, _EXPONENTS, _INNER))
    heights = np.sqrt(spans ** (inner - 1))
    heights /= np.sqrt((heights**2).sum())
    out = np.zeros((len(parts), len(every)))
    for number, (span, height) in enumerate(zip(spans, heights, strict=True)):
        first = int(np.floor((start_s - span) / span)) - 1
        count = int(np.ceil((start_s + length_s + span) / span)) + 3 - first
        marks = np.clip(every / span - first, 0, count - 2)
        low = np.minimum(marks.astype(np.int64), count - 2)
        angle = (marks - low) * (np.pi / 2)
        one, two = np.cos(angle), np.sin(angle)
        for row, part in zip(out, parts, strict=True):
            dice = _dice([*which.seed, part, number], first, count)
            wave = one * dice[low] + two * dice[low + 1]
            if span <= _SHORT * length_s:  # as strong as it is meant, whatever was thrown
                wave /= float(np.sqrt((wave[len(moments) :] ** 2).mean())) or 1.0
            row += height * wave
    return out[:, : len(moments)][:, back], out[:, len(moments) :]


def _dice(seed: list[int], first: int, count: int) -> Floats:
    """What is thrown at marks of a wave from `first` on; shape (count,).

    Thrown in blocks that have seeds of their own, so that a late pass need not throw for all before it.
    """
    blocks = range(first // _BLOCK, (first + count) // _BLOCK + 1)
    thrown = [np.random.default_rng([*seed, b + _BLOCKS_BEFORE]).standard_normal(_BLOCK) for b in blocks]
    return np.concatenate(thrown)[first - blocks[0] * _BLOCK :][:count]


# Marks before the first pass count too, and a seed may not be negative.
_BLOCK, _BLOCKS_BEFORE = 256, 1 << 20
# What comes out where the waves are weighted for an exponent, at strokes 0.15 s apart (mean of detrended fluctuation
# and periodogram, 5 takes of 5000): near 0 every length adds a little, so that the weights have to fall faster.
_EXPONENTS = (0.02, 0.06, 0.125, 0.175, 0.24, 0.33, 0.45, 0.66, 1.0, 2.0)
_INNER = (-2.0, -1.0, -0.5, -0.3, -0.1, 0.1, 0.3, 0.6, 1.0, 2.0)


@dataclass(frozen=True, eq=False)
class Strokes:
    """What is known of strokes that stray: times in s (n,), limb letters, velocities (n,), all in the order of hits."""

    times_s: Floats
    limbs: Sequence[str]
    velocities: Floats


def time_deviations_ms(strokes: Strokes, which: Pass, wander: Wander, loose_ms: float) -> Floats:
    """Deviation of each stroke in ms; shape (n,). The same seed, take and pass give the same deviations.

    Strokes of all limbs at one instant share the inner clock exactly; `wander.shared` is their correlation.
    """
    if not loose_ms or not len(strokes.times_s):
        return np.zeros(len(strokes.times_s))
    unit = _of_limbs(strokes, which, wander, _CLOCK)
    return np.asarray(loose_ms * _steadiness(strokes, wander) * unit)


def velocity_deviations(strokes: Strokes, which: Pass, wander: Wander) -> Floats:
    """Deviation of each velocity, wandering as time does but by itself; shape (n,)."""
    if not wander.velocity or not len(strokes.times_s):
        return np.zeros(len(strokes.times_s))
    return np.asarray(wander.velocity * _of_limbs(strokes, which, wander, _FORCE))


def tempo_drift_s(bar_starts_s: Floats, times_s: Floats, which: Pass, wander: Wander) -> Floats:
    """How far the player's tempo has run away from the written one at times, in s; shape (n,).

    Tempi of bars differ by `tempo_percent`, slowly; the last bar of a phrase runs ahead by `push_percent` at its end
    and the bar after it settles. Where a pass begins and ends it is where it is written.

    Parameters
    ----------
    bar_starts_s
        Ascending, shape (bars + 1,), the end of the last bar included.
    """
    bars = len(bar_starts_s) - 1
    away = np.zeros(bars + 1)
    if wander.tempo_percent and bars > 1:
        middle = (bar_starts_s[:-1] + bar_starts_s[1:]) / 2
        tempo = wander.tempo_percent / 100 * waves(middle, which, 1.5, [_TEMPO])[0]
        away[1:] = -np.cumsum(tempo * np.diff(bar_starts_s))
        away -= np.linspace(0, 1, bars + 1) * away[-1]
    out = np.interp(times_s, bar_starts_s, away)
    if wander.push_percent and bars > wander.phrase_bars:
        out += _pushes_s(bar_starts_s, times_s, wander)
    return np.asarray(out)


def _pushes_s(bar_starts_s: Floats, times_s: Floats, wander: Wander) -> Floats:
    """Ahead within the last bar of each phrase, more and more; back on the line a bar later."""
    out = np.zeros(len(times_s))
    for last in range(wander.phrase_bars - 1, len(bar_starts_s) - 2, wander.phrase_bars):
        a, b, c = bar_starts_s[last : last + 3]
        most = wander.push_percent / 100 * (b - a) / 2
        into, after = (times_s - a) / (b - a), (times_s - b) / (c - b)
        out -= np.where((into >= 0) & (into < 1), most * np.clip(into, 0, 1) ** 2, 0)
        out -= np.where((after >= 0) & (after < 1), most * (1 - np.clip(after, 0, 1)) ** 2, 0)
    return out


def _of_limbs(strokes: Strokes, which: Pass, wander: Wander, part: int) -> Floats:
    """The inner clock and the limbs' own parts, of variance 1; shape (n,)."""
    letters = np.asarray(strokes.limbs)
    # Always all limbs, whichever play: else a foot that comes in would change what the hands do.
    parts = [part + n for n in range(1 + len(LIMB_LETTERS))] if wander.shared < 1 else [part]
    shared, *own = waves(strokes.times_s, which, wander.exponent, parts)
    out = np.sqrt(wander.shared) * shared
    for letter, mine in zip(LIMB_LETTERS, own, strict=False):
        out += np.where(letters == letter, np.sqrt(1 - wander.shared) * mine, 0.0)
    return np.asarray(out)


_NORMAL = 72.0  # the velocity of a normal stroke, which has the spread that is set
_LEAST = 0.3
_AT_ONCE_S = 0.003


def _steadiness(strokes: Strokes, wander: Wander) -> Floats | float:
    """Times the spread: more for soft strokes, less or more where limbs strike together."""
    out: Floats | float = 1.0
    if wander.softer:
        out = np.maximum(1 + wander.softer * (1 - strokes.velocities / _NORMAL), _LEAST)
    if wander.together != 1:
        order = np.argsort(strokes.times_s, kind="stable")
        near = np.diff(strokes.times_s[order]) < _AT_ONCE_S
        letters = np.asarray(strokes.limbs)[order]
        both = near & (letters[1:] != letters[:-1])
        joined = np.zeros(len(order), bool)
        joined[order[1:][both]] = joined[order[:-1][both]] = True
        out = out * np.where(joined, wander.together, 1.0)
    return out
