"""The sticking line of a groove: who strikes at each moment, with ornaments spelled out."""

from collections.abc import Mapping
from dataclasses import replace

from ghoststep.feel.ornaments import spelled_out
from ghoststep.judge.names import Moment, Named, limb_order, named
from ghoststep.judge.strokes import WINDOW_BARS
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Pattern
from ghoststep.music.touch import Role


def line(groove: Groove, limbs: Mapping[int, str] | None = None) -> list[Moment]:
    """The moments of a groove in order; `limbs`: index of a hit -> limb, else those the hits name."""
    hits = groove.pattern.hits
    if limbs is not None:
        changed = {i: replace(hits[i], limb=x) for i, x in limbs.items() if hits[i].limb != x}
        groove = groove.changed(pattern=groove.pattern.with_hits(changed.keys(), changed.values()))
    return _spelled(groove)


def _spelled(groove: Groove) -> list[Moment]:
    rows: dict[int, list[str | int | bool]] = {}
    for h in spelled_out(groove).pattern.hits:
        row = rows.setdefault(h.position_ticks, ["", 0, False, False])
        if h.grace:
            row[1] = int(row[1]) + 1
        else:
            row[0] = str(row[0]) + h.limb_letter
            row[2] = row[2] or h.role is Role.ACCENT
            row[3] = row[3] or h.stroke == "buzz"
    return [
        Moment(t, limb_order(str(letters)), int(number), bool(accent), bool(buzz))
        for t, (letters, number, accent, buzz) in sorted(rows.items())
        if letters
    ]


def names(groove: Groove, limbs: Mapping[int, str] | None = None) -> list[Named]:
    """The names in a groove's sticking, some bars at a time, so that an edit asks for those around it only."""
    return in_bars(line(groove, limbs), groove.pattern)


def in_bars(moments: list[Moment], pattern: Pattern) -> list[Named]:
    """The names in a line, in windows of bars."""
    frame = pattern.frame
    out: list[Named] = []
    bars = [(at, at + meter.bar_ticks) for _, at, meter in frame.between(0, pattern.length_ticks)]
    k = 0
    for first in range(0, len(bars), WINDOW_BARS):
        mine = bars[first : first + WINDOW_BARS]
        begin, end = mine[0][0], mine[-1][1]
        start = k
        while k < len(moments) and moments[k].tick < end:
            k += 1
        inside = [m._replace(tick=m.tick - begin) for m in moments[start:k]]
        found = named(inside, [(a - begin, b - begin) for a, b in mine])
        out += [replace(n, start_ticks=n.start_ticks + begin, end_ticks=n.end_ticks + begin) for n in found]
    return _joined(out, {begin for begin, _ in bars[::WINDOW_BARS]})


def _joined(found: list[Named], borders: set[int]) -> list[Named]:
    """The same name on both sides of a window's border is one."""
    out: list[Named] = []
    for n in found:
        if out and out[-1].words == n.words and n.start_ticks in borders:
            out[-1] = replace(out[-1], end_ticks=n.end_ticks, cell=n.cell, times=out[-1].times + n.times)
        else:
            out.append(n)
    return out
