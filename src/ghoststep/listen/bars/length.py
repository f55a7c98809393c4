"""What the length of a file says about its bars: what was cut to be looped is its own best witness."""

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bars.bars import Reading
from ghoststep.listen.fit.line import Line
from ghoststep.music.time import TICKS_PER_QUARTER

# How near a loop's first bar line is to its start, and its length to a whole number of bars.
_START_S, _WHOLE_BARS_S = 0.035, 0.012
_WHOLE_BARS_NATS = {1: 2.0, 2: 5.0, 4: 5.0, 8: 5.0, 16: 3.0}
# What was cut to be looped is nearly always a whole number of beats long, and mostly one, two, four or eight bars.
_LOOP_BEATS, _LOOP_BPM = (2, 3, 4, 5, 6, 7, 8, 12, 16, 24, 32, 64), (64.0, 190.0)
_LOOP_NATS = {1: 16.0, 2: 16.0, 4: 16.0, 8: 16.0, 16: 13.0}
_LOOP_START_S = 0.045
LOOP_OTHER_NATS, _LOOP_BEATS_NATS, _LOOP_SHARE = 9.0, 4.0, 0.02


def loop_steps_s(length_s: float) -> tuple[float, ...]:
    """Steps in seconds by which a loop of that length lasts a usual number of beats at a usual tempo."""
    beats = [n for n in _LOOP_BEATS if _LOOP_BPM[0] <= 60 * n / length_s <= _LOOP_BPM[1]]
    return tuple(length_s / n / per for n in beats for per in (4, 3))


def loop_nats(r: Reading, line: Line, numbers: NDArray[np.int64], length_s: float) -> float:
    """Belief in a reading of what was cut to be looped: it lasts whole bars, or at least whole beats, from its start.

    Its own length is the best witness of a loop's tempo: the hits may miss it by some per cent.

    Parameters
    ----------
    numbers
        Pulse step of each hit, shape (n,).
    length_s
        Of the whole file, above 0.
    """
    bar_s = _bar_s(r, line)
    begins = abs(_start_s(r, line, numbers)) < _LOOP_START_S
    bars = round(length_s / bar_s)
    beat_s, quarter_s = (bar_s * ticks / r.meter.bar_ticks for ticks in (r.meter.unit_ticks, TICKS_PER_QUARTER))
    off_s = abs(length_s - bars * bar_s)
    # As much of a quarter in every meter: else bars of quarters would be whole where those of eighths are not.
    if bars and begins and off_s < min(_LOOP_SHARE * length_s, quarter_s / 4):
        return _LOOP_NATS.get(bars, LOOP_OTHER_NATS)
    beats = round(length_s / beat_s)
    return _LOOP_BEATS_NATS if begins and abs(length_s / (max(beats, 1) * beat_s) - 1) < _LOOP_SHARE / 2 else 0.0


def whole_bars_nats(r: Reading, line: Line, numbers: NDArray[np.int64], length_s: float) -> float:
    """Belief in a reading by which the file is a loop: begins on a bar line and lasts a whole number of bars.

    Parameters are those of `loop_nats`; a length of 0 is not known and says nothing.
    """
    bar_s = _bar_s(r, line)
    if not length_s or length_s < 0.9 * bar_s:
        return 0.0
    bars = round(length_s / bar_s)
    if abs(length_s - bars * bar_s) > _WHOLE_BARS_S * max(bars, 1) ** 0.5:
        return 0.0  # as for most readings, of which there are many: where they begin takes longer to tell
    return _WHOLE_BARS_NATS.get(bars, 1.0) if abs(_start_s(r, line, numbers)) < _START_S else 0.0


def _bar_s(r: Reading, line: Line) -> float:
    """How long a bar is, in seconds."""
    return r.meter.bar_ticks * r.steps_per_quarter / TICKS_PER_QUARTER * line.usual_pace_s


def _start_s(r: Reading, line: Line, numbers: NDArray[np.int64]) -> float:
    """Where the bar line nearest to the first hit lies, in seconds."""
    steps = r.meter.bar_ticks * r.steps_per_quarter / TICKS_PER_QUARTER
    return float(line.seconds(round((numbers.min() - r.first) / steps) * steps + r.first))
