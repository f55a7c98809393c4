"""When the left foot has to be at the hat: it opens it, lets it sound and closes it, and is nowhere else meanwhile.

A foot that opens a hat is busy from some 80 ms before the stroke to the closing, and one that plays the pedal from as
long before it (working assumptions).
"""

from bisect import bisect_right
from collections.abc import Sequence

from ghoststep.music.kit import voice

FOOT_WAY_S = 0.08
_LONGEST_S = 2.0  # an open hat that nothing closes has rung off by then
OPEN = ("hat_open", "hat_half")
Busy = tuple[float, float, int]  # from, to (seconds), and the number of the stroke that asks for the foot


def busy(strokes: Sequence[tuple[float, str]], stops_s: Sequence[float] = ()) -> list[Busy]:
    """When the left foot has to be at the hat, in order; strokes are (second, voice) in the order of time.

    stops_s: when a stroke is stopped, inf where nothing says so.
    """
    hats = [i for i, (_, name) in enumerate(strokes) if voice(name).group == "hat"]
    out: list[Busy] = []
    for k, i in enumerate(hats):
        second, name = strokes[i]
        if name == "hat_pedal":
            out.append((second - FOOT_WAY_S, second, i))
        elif name in OPEN:
            after = strokes[hats[k + 1]][0] if k + 1 < len(hats) else second + _LONGEST_S
            end = min(after, stops_s[i] if stops_s else after, second + _LONGEST_S)
            out.append((second - FOOT_WAY_S, end, i))
    return out


def taken(found: Sequence[Busy], second: float) -> int | None:
    """The number of the stroke that asks for the foot at a moment; None where it is free."""
    at = bisect_right([b[0] for b in found], second) - 1
    near = [b for b in found[max(at - 2, 0) : at + 1] if b[0] < second < b[1] + 1e-9]
    return near[-1][2] if near else None
