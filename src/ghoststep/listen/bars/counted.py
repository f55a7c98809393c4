"""How people count: what speaks for or against a reading of the bars beside the code for its hits, in nats.

Several tempi, meters and bar lines explain the same hits alike. Which of them people take depends on how usual a tempo
and a meter are, and on where backbeats, kicks and the hand that keeps time stand then. Weights were set on common
grooves (`tools/idioms.py`) and random ones.
"""

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bars.usual import CLASSES
from ghoststep.music.meter import Meter

_TEMPO_CENTRE_BPM, _THREE_CENTRE_BPM, _COMPOUND_CENTRE_BPM = 108.0, 116.0, 90.0
_TEMPO_NATS, _SLOW_SPREAD, _FAST_SPREAD = 6.0, 0.42, 0.42
_SIX_EIGHT_BPM = 80.0  # dotted quarters a minute around which 6/8 gives way to 12/8
# Where the halves of a 12/8 are alike it is told as 6/8, as marches are, ever less surely for each dotted quarter more.
_SIX_ALIKE_BPM, _SIX_AGAINST_TWELVE = 120.0, 0.25
_SWUNG_ODD = -4.0  # nats
_SWUNG_SIXTEENTHS = -2.0
_HALF_TIME, _HALF_TIME_BPM = -5.0, 110.0
_OFFBEATS, _OFFBEAT_SHARE, _OFFBEAT_BPM = -8.0, 0.7, 100.0
_SWUNG_RIDE, _RIDE_BPM, _RIDE_SHARE, _RIDE_NEVER = -12.0, 70.0, 0.35, 0.1
_ON_THREE = -7.0
_HALVED, _HALVED_SHARE = -8.0, 0.6
_NOT_IN_THREES, _THREES_LEAST, _THREES_MOST = -8.0, 8, 0.1
_OFF_DOTTED, _OFF_DOTTED_FEWEST, _OFF_DOTTED_MOST = -8.0, 4, 0.25
_SLOW_ODD, _SLOW_ODD_BPM = 14.0, 70.0
_OTHER_SPELLING = -14.0  # nats against writing a ternary beat the way people do not
# The least played third against the most played: up to the first it is a shuffle, from the second on all are counted.
_THIRDS = (0.2, 0.5)
TIMEKEEPERS = [CLASSES.index(c) for c in ("hat", "hat_open", "ride")]
_KEEPS_TIME = 0.35  # share of all hits


def thirds_counted(numbers: NDArray[np.int64], classes: NDArray[np.int64]) -> float:
    """How far all three parts of a three-step beat are played, 0 to 1: then people count 6/8 or 12/8 and not triplets.

    By the hand that keeps time, where one does: a shuffle whose middle triplets are ghosts is still a shuffle.
    """
    time = np.isin(classes, TIMEKEEPERS)
    kept = numbers[time] if time.mean() >= _KEEPS_TIME else numbers
    played = np.bincount(np.unique(kept) % 3, minlength=3)
    low, high = _THIRDS
    return float(np.clip((played.min() / max(int(played.max()), 1) - low) / (high - low), 0, 1))


def in_threes(numbers: NDArray[np.int64], classes: NDArray[np.int64]) -> bool:
    """Whether the hand that keeps time plays two of each three steps, the same two throughout, as in a shuffle.

    Parameters
    ----------
    numbers, classes
        Pulse step and class of each hit, shape (n,).
    """
    time = np.unique(numbers[np.isin(classes, TIMEKEEPERS)])
    least, middle, most = np.sort(np.bincount(time % 3, minlength=3)).tolist()
    return middle >= max(_THREES_LEAST, most / 2) and least <= _THREES_MOST * most


def in_threes_nats(meter: Meter, per_quarter: int) -> float:
    """What a reading has against it whose beats are not of three steps, where a hand plays in threes."""
    beat = per_quarter * 3 // 2 if meter.denominator == 8 and meter.numerator % 3 == 0 else per_quarter
    return 0.0 if beat % 3 == 0 else _NOT_IN_THREES


def thirds_nats(meter: Meter, per_quarter: int, counted: float) -> float:
    """A shuffle is written in quarters; a beat whose three parts are all played is written in 6/8 or 12/8."""
    if per_quarter % 3 == 0:
        return _OTHER_SPELLING * counted
    compound = meter.denominator == 8 and meter.numerator % 3 == 0
    return _OTHER_SPELLING * (1 - counted) if compound and per_quarter in (2, 4) else 0.0


def swing_nats(meter: Meter, per_quarter: int, swung: bool) -> float:
    """Hardly anybody swings the sixteenths of an odd number of eighths; late odd steps are swung eighths in four."""
    if not swung:
        return 0.0
    return (_SWUNG_ODD if meter.denominator == 8 and meter.numerator % 3 else 0.0) + _SWUNG_SIXTEENTHS * (
        per_quarter == 4
    )


def half_time_nats(loud: NDArray[np.int64], meter: Meter, per_quarter: int, shift: int, bpm: float) -> float:
    """Fast bars of four with a backbeat on one beat only are half of slower bars with two, which people count.

    `loud` are the steps of snare and cross stick, counted from the first hit, which stands `shift` steps into its bar.
    """
    if (meter.numerator, meter.denominator) != (4, 4) or bpm < _HALF_TIME_BPM or not len(loud):
        return 0.0
    beat, off = np.divmod((loud + shift) % (4 * per_quarter), per_quarter)
    on_beat = np.bincount(beat[off == 0], minlength=4)
    most = int(on_beat.max())
    return _HALF_TIME if most > 2 * (int(on_beat.sum()) - most) else 0.0


def kick_on_three_nats(
    kick: NDArray[np.int64], loud: NDArray[np.int64], meter: Meter, per_quarter: int, shifts: NDArray[np.int64]
) -> NDArray[np.float64]:
    """A kick on 3 of most bars and hardly ever on 1 is one on 1, unless the backbeat is on 3 too, as in a one drop.

    Parameters
    ----------
    kick, loud
        Steps, counted as in `half_time_nats`.
    shifts
        How many steps the first hit stands into its bar, by each place of the bar line; what is returned is as long.
    """
    out = np.zeros(len(shifts))
    if (meter.numerator, meter.denominator) != (4, 4) or not len(kick):
        return out
    bar, at = 4 * per_quarter, shifts[:, None]
    kicks, backbeats = (kick + at) % bar, (loud + at) % bar
    on_one, on_three = (kicks == 0).sum(axis=1), (kicks == 2 * per_quarter).sum(axis=1)
    bars = (max(kick.max(), loud.max(initial=0)) + shifts) // bar + 1
    backbeat = (backbeats == 2 * per_quarter).sum(axis=1)
    out[(on_three >= 0.6 * bars) & (2 * on_one <= on_three) & (2 * backbeat < on_three)] = _ON_THREE
    return out


def offbeat_nats(
    loud: NDArray[np.int64], low: NDArray[np.int64], meter: Meter, per_quarter: int, shift: int, bpm: float
) -> float:
    """Slow bars with a backbeat in each beat and kicks half a beat from it are fast ones, with backbeats on 2 and 4.

    `loud` and `shift` as in `half_time_nats`; `low` are the steps of the kick.
    """
    if meter.denominator != 4 or per_quarter % 2 or bpm > _OFFBEAT_BPM or not len(loud):
        return 0.0
    beats = (int(max(loud.max(), low.max(initial=0))) + shift) // per_quarter + 1
    backbeats, kicks = (
        [len(np.unique(s[(s + shift) % per_quarter == at])) for at in (0, per_quarter // 2)] for s in (loud, low)
    )
    at = int(np.argmax(backbeats))
    often, seldom = backbeats[at], len(np.unique(loud)) - backbeats[at]
    apart = often >= _OFFBEAT_SHARE * beats and often > 2 * seldom and kicks[1 - at] > kicks[at]
    return _OFFBEATS if apart else 0.0


def swung_ride_nats(time: NDArray[np.int64], per_quarter: int, swung: bool, shift: int, bpm: float) -> float:
    """A hand that swings one sixteenth of each pair of eighths and never the other plays swung eighths, twice as fast.

    `time` are the steps of the hand that keeps time, counted as in `half_time_nats`.
    """
    pair = {4: (1, 3) if swung else None, 6: (2, 5)}.get(per_quarter)
    if pair is None or bpm < _RIDE_BPM or not len(time):
        return 0.0
    beat, place = np.divmod(time + shift, per_quarter)
    beats = len(np.unique(beat))
    less, more = sorted(len(np.unique(beat[place == p])) for p in pair)
    return _SWUNG_RIDE if more >= _RIDE_SHARE * beats and less <= _RIDE_NEVER * beats else 0.0


def halved_nats(time: NDArray[np.int64], meter: Meter, per_quarter: int, shift: int) -> float:
    """Dotted quarters whose halves are played and not their thirds are quarters of shuffled sixteenths.

    `time` and `shift` as in `swung_ride_nats`.
    """
    if meter.denominator != 8 or meter.numerator % 3 or per_quarter != 4 or not len(time):
        return 0.0
    beat, place = np.divmod(time + shift, 6)
    played = np.bincount(place, minlength=6)
    thirds = int(min(played[2], played[4]))
    halved = played[3] >= _HALVED_SHARE * len(np.unique(beat)) and played[3] > 2 * thirds
    return _HALVED if halved else 0.0


def off_dotted_nats(loud: NDArray[np.int64], meter: Meter, per_quarter: int, shift: int) -> float:
    """Backbeats of dotted quarters stand on them; where hardly any does, the beat is another.

    `loud` and `shift` as in `half_time_nats`.
    """
    if meter.denominator != 8 or meter.numerator % 3 or len(loud) < _OFF_DOTTED_FEWEST:
        return 0.0
    on = (loud + shift) % (per_quarter * 3 // 2) == 0
    return _OFF_DOTTED if on.mean() < _OFF_DOTTED_MOST else 0.0


def two_or_four_nats(bpm: float, meter: Meter) -> float:
    """Slow pairs of dotted quarters may be 6/8 or half a 12/8; faster ones need bars that are alike (below)."""
    if (meter.numerator, meter.denominator) != (6, 8):
        return 0.0
    return -min(max((bpm / 1.5 - _SIX_EIGHT_BPM) / 10, 0.0) * 3.0, 12.0)


def six_after_all_nats(bpm: float) -> float:
    """What 6/8 may gain against a 12/8 of which it is half: its bars alone are told so up to a faster beat."""
    faster = max(bpm / 1.5 - _SIX_ALIKE_BPM, 0.0)
    return max(-two_or_four_nats(bpm, Meter(6, 8)) - _SIX_AGAINST_TWELVE * faster, 0.0)


def slow_odd_nats(bpm: float, meter: Meter) -> float:
    """Odd numbers of slow eighths are counted in quarters: 5/8 at 56 is 5/4 at 112."""
    if meter.denominator != 8 or meter.numerator % 3 == 0:
        return 0.0
    return -_SLOW_ODD * float(np.clip((_SLOW_ODD_BPM - bpm) / 25, 0, 1))


def tempo_nats(bpm: float, meter: Meter) -> float:
    """Prior of a tempo, by the beat people tap: the dotted quarter in compound time, which is slower.

    Fast beats are rarer than slow ones: a ballad at 60 is common, a beat of 250 hardly ever counted. Waltzes are
    faster.
    """
    compound = meter.denominator == 8 and meter.numerator % 3 == 0
    centre = _THREE_CENTRE_BPM if (meter.numerator, meter.denominator) == (3, 4) else _TEMPO_CENTRE_BPM
    beat, centre = (bpm / 1.5, _COMPOUND_CENTRE_BPM) if compound else (bpm, centre)
    away = np.log(beat / centre) / (_SLOW_SPREAD if beat < centre else _FAST_SPREAD)
    return float(-_TEMPO_NATS * away * away)
