"""A groove told in a line or two: how much is in it, and which of its bars are alike."""

from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANES
from ghoststep.music.pattern import Pattern
from ghoststep.music.touch import Role
from ghoststep.session.words import count, runs


def summary_line(groove: Groove) -> list[str]:
    """The count line, and a line for each set of bars that are alike."""
    pattern = groove.pattern
    main = [h for h in pattern.hits if not h.grace]
    counts = []
    for lane in LANES:
        number = sum(h.voice in lane.voices for h in main)
        if number:
            counts.append(f"{lane.label.lower()} {number}")
    ghosts, accents = (sum(h.role is role for h in main) for role in (Role.GHOST, Role.ACCENT))
    head = f"{count(pattern.bars, 'bar')}, {count(len(pattern.hits), 'hit')}: {', '.join(counts) or 'empty'}"
    touch = f"; {count(ghosts, 'ghost')}, {count(accents, 'accent')}" if main else ""
    return [head + touch, *(f"bars {runs(bars)} are alike" for bars in alike_bars(pattern))]


def alike_bars(pattern: Pattern) -> list[list[int]]:
    """Sets of bars that hold the same hits on the same spots with the same roles; empty bars are left out.

    Own deviations and exact velocities are a player's and not the part's, so they are not compared.
    """
    found: dict[tuple[object, ...], list[int]] = {}
    for bar, start, meter in pattern.frame.between(0, pattern.length_ticks):
        hits = [pattern.hits[i] for i in pattern.between(start, start + meter.bar_ticks)]
        key = tuple((h.position_ticks - start, h.voice, h.role, h.grace, h.ornament) for h in hits)
        if key:
            found.setdefault((meter, *key), []).append(bar)
    return [bars for bars in found.values() if len(bars) > 1]
