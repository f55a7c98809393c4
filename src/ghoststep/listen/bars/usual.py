"""What drummers usually do at each place of a bar, before anything is heard: working assumptions about drumming in
general, one table for each school.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.kit import voice
from ghoststep.music.meter import Meter
from ghoststep.music.time import TICKS_PER_QUARTER, TICKS_PER_WHOLE

Floats = NDArray[np.float64]
# What is told apart; a loud and a soft snare stand at different places.
CLASSES = ("kick", "snare", "ghost", "cross_stick", "hat", "hat_open", "hat_pedal", "ride", "crash", "tom")
# Voices that go by their kind.
_OF_KIND = {"ride": "ride", "crash": "crash", "splash": "crash", "tom": "tom"}
_LOUD_SNARE = 50  # velocity
_LEAST, _MOST = 0.004, 0.9
# Odd numbers of quarters by their halves: where there is one backbeat in them, it stands where the second begins.
_HALVES = {5: 3, 7: 4, 11: 4}


def class_of(name: str, velocity: int) -> int:
    """Index into CLASSES of a hit; a voice like no other counts as the hats."""
    row = voice(name)
    if row.counted_as:
        return class_of(row.counted_as, 127)  # a soft clap is no ghost
    if name == "snare":
        return CLASSES.index("snare" if velocity >= _LOUD_SNARE else "ghost")
    if name in ("hat_closed", "hat_half"):
        return CLASSES.index("hat")
    kind = _OF_KIND.get(row.kind, name)
    return CLASSES.index(kind if kind in CLASSES else "hat")


@lru_cache(maxsize=64)
def usual_chances(meter: Meter, steps_per_quarter: int) -> tuple[Floats, ...]:
    """Chance of each class at each step of the bar, shape (classes, steps), for each school of placing backbeats."""
    step_ticks = TICKS_PER_QUARTER // steps_per_quarter
    pulses = _pulses(meter)
    tables = []
    for backbeats in _schools(meter, pulses):
        columns = [
            list(_chances(meter, pulses, backbeats, tick).values()) for tick in range(0, meter.bar_ticks, step_ticks)
        ]
        tables.append(np.clip(np.array(columns).T, _LEAST, _MOST))
    return tuple(tables)


def _pulses(meter: Meter) -> tuple[int, ...]:
    """The ticks of a bar at which people tap."""
    if meter.denominator != 8:
        return tuple(range(0, meter.bar_ticks, TICKS_PER_QUARTER))
    return meter.group_starts


def _schools(meter: Meter, pulses: tuple[int, ...]) -> list[tuple[int, ...]]:
    """Where backbeats stand, by each school: at every second pulse, and in odd quarters maybe once, in their middle.

    In waltzes they stand on 2 and 3, or on 3 alone.
    """
    if (meter.numerator, meter.denominator) == (3, 4):
        return [pulses[1:], pulses[2:]]
    out = [pulses[1::2]]
    if meter.denominator == 4 and meter.numerator in _HALVES:
        out.append((_HALVES[meter.numerator] * TICKS_PER_QUARTER,))
    return out


def _chances(meter: Meter, pulses: tuple[int, ...], backbeats: tuple[int, ...], tick: int) -> dict[str, float]:
    """Chance of each class at one place of the bar."""
    first = tick == 0
    on_pulse = tick in pulses
    eighth = tick % (TICKS_PER_WHOLE // 8) == 0
    sixteenth = tick % (TICKS_PER_WHOLE // 16) == 0
    if tick % TICKS_PER_QUARTER == 2 * TICKS_PER_QUARTER // 3:
        eighth = sixteenth = True  # the swung eighth of a triplet grid
    back = tick in backbeats
    fine = 1.0 if sixteenth else 0.15
    strong = on_pulse and not back
    return {
        "kick": 0.85 if first else 0.45 if strong else 0.14 if back else (0.24 if eighth else 0.12 * fine),
        "snare": 0.03 if first else 0.82 if back else 0.06 if strong else (0.07 if eighth else 0.06 * fine),
        "ghost": 0.02 if on_pulse else 0.09 if eighth else 0.16 * fine,
        "cross_stick": 0.02 if first else 0.18 if back else 0.05 if on_pulse else 0.05 * fine,
        "hat": 0.72 if on_pulse else 0.62 if eighth else 0.26 * fine,
        "hat_open": 0.04 if on_pulse else 0.10 if eighth else 0.03 * fine,
        "hat_pedal": 0.25 if back else 0.05 if on_pulse else 0.03 * fine,
        "ride": 0.30 if on_pulse else 0.22 if eighth else 0.06 * fine,
        "crash": 0.16 if first else 0.015 * fine,
        "tom": 0.02 if first else _tom(tick, meter) * fine,
    }


def _tom(tick: int, meter: Meter) -> float:
    """Chance of a tom at a place of the bar: fills lead into the next one."""
    return 0.015 if 2 * tick < meter.bar_ticks else 0.05 if 4 * tick < 3 * meter.bar_ticks else 0.13
