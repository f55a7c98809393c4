"""Accent shapes: which of a row of hits are accented.

Shapes are told by place ("beat", "off-beat", "backbeat", "groups") or by counting hits ("every 3"). A shape may be laid
over what is there (others stay as they are) or take its place (others become normal).
"""

import re
from collections.abc import Sequence

from ghoststep.music.errors import InputError
from ghoststep.music.frame import Bars
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit

SHAPES = ("beat", "off-beat", "backbeat", "groups", "every 2", "every 3", "every 4", "every 5")


def accented(hits: Sequence[Hit], shape: str, bars: Bars) -> set[int]:
    """Positions (in ticks) of the hits that a shape accents.

    "every N" counts moments at which something is struck; "every 3 from 2" begins with the second. "1,3,4" are beats.

    Raises
    ------
    InputError
        Where the words name no shape.
    """
    beats = re.fullmatch(r"\d{1,4}(?:\s*,\s*\d{1,4})*", shape)
    counted = re.fullmatch(r"every (\d{1,3})(?: from (\d{1,3}))?", shape)
    moments = sorted({h.position_ticks for h in hits if not h.grace})
    if counted and int(counted[1]) and (counted[2] is None or int(counted[2])):
        return set(moments[int(counted[2] or 1) - 1 :: int(counted[1])])
    if beats:
        wanted = {int(n) for n in shape.split(",")}
        return {m for m in moments if m == bars.beat_start_at(m) and bars.beat_at(m) in wanted}
    if shape not in SHAPES:
        raise InputError(
            f"'{shape}' is no accent shape. There are: {', '.join(SHAPES[:4])}, every 3, every 3 from 2, 1,3,4."
        )
    return {m for m in moments if _stands(bars.spot_at(m).tick, shape, bars.meter_at(m))}


def _stands(tick: int, shape: str, meter: Meter) -> bool:
    if shape == "groups":
        return tick in meter.group_starts
    # In eighths people tap the groups, in quarters every quarter, however these are grouped (4+4+3).
    pulses = meter.group_starts if meter.denominator >= 8 else tuple(range(0, meter.bar_ticks, meter.unit_ticks))
    if shape == "beat":
        return tick in pulses
    if shape == "backbeat":
        # Every second pulse: 2 and 4 of four, 4 of six eighths, 2 4 6 8 10 of eleven quarters.
        return tick in pulses[1::2]
    ends = [*pulses[1:], meter.bar_ticks]
    middles = {(a + b) // 2 for a, b in zip(pulses, ends, strict=True)}
    return tick in middles
