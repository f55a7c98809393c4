"""Grooves as drummers commonly play them, with the tempo and the bars that people count: for measuring, not for users.

Every second one served choices of `bars/counted.py`; the others are kept back
(`python -m tools.measure_fit --idioms kept`).
"""

from dataclasses import dataclass, replace

import numpy as np

from ghoststep.files.textgrid import parse_grid
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Pattern
from ghoststep.music.time import TempoMap


@dataclass(frozen=True)
class Idiom:
    """A groove in bars that people agree on; low and high are the tempi in quarters at which it is played."""

    name: str
    low_bpm: float
    high_bpm: float
    text: str
    swing: tuple[int, float] | None = None
    repeat: int = 2  # of the bars written


IDIOMS = (
    Idiom("eighths", 80, 140, """
        meter 4/4
        grid 8
        hat_closed  xxxxxxxx | xxxxxxxx
        snare       --X---X- | --X---X-
        kick        X---X--- | X---XX--
    """),
    Idiom("half time", 66, 90, """
        meter 4/4
        grid 16
        hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
        snare       --------X------- | --------X----o--
        kick        X-----x---x----- | X--x------x--x--
    """),
    Idiom("sixteenth hats with ghosts", 84, 108, """
        meter 4/4
        grid 16
        hat_closed  xxxxxxxxxxxxxxxx | xxxxxxxxxxxxxxxx
        snare       ----X--o-o--X--o | ----X--o-o--X-oo
        kick        X-x-----x-x----- | X-x----x--x-----
    """),
    Idiom("four on the floor", 112, 130, """
        meter 4/4
        grid 16
        hat_open    --x---x---x---x- | --x---x---x---x-
        snare       ----X-------X--- | ----X-------X---
        kick        X---X---X---X--- | X---X---X---X---
    """),
    Idiom("shuffle with middle triplets", 90, 130, """
        meter 4/4
        grid 12
        hat_closed  x-xx-xx-xx-x | x-xx-xx-xxxx
        snare       ---X--o--X-- | ---X--o--Xo-
        kick        X--x-xX--x-- | X--x-xX--x--
    """),
    Idiom("half-time shuffle", 80, 100, """
        meter 4/4
        grid 24
        hat_closed  x-xx-xx-xx-xx-xx-xx-xx-x | x-xx-xx-xx-xx-xx-xx-xx-x
        snare       -o--o--o--o-X-o--o--o-o- | -o--o--o--o-X----o--o-o-
        kick        X----x------------x----x | X----x----------x-------
    """),
    Idiom("samba", 96, 120, """
        meter 2/4
        grid 16
        hat_pedal   ----x--- | ----x---
        snare       x-xo-xx- | o-xx-x-x
        kick        X--xX--x | X--xX--x
    """, repeat=4),
    Idiom("polka", 100, 130, """
        meter 2/4
        grid 8
        hat_closed  -x-x | -x-x
        snare       -x-x | -x-X
        kick        X-X- | X-X-
    """, repeat=4),
    Idiom("march", 100, 120, """
        meter 2/4
        grid 16
        snare       X--xX-xx | X-xxX---
        kick        X---X--- | X---X---
    """, repeat=4),
    Idiom("bossa", 120, 150, """
        meter 4/4
        grid 8
        hat_closed  xxxxxxxx | xxxxxxxx
        cross_stick x--x--x- | --x--x--
        kick        x--xx--x | x--xx--x
    """),
    Idiom("swing ride", 130, 210, """
        meter 4/4
        grid 12
        ride        x--x-xx--x-x | x--x-xx--x-x
        hat_pedal   ---x-----x-- | ---x-----x--
        snare       -----o------ | --o---------
        kick        ------------ | ------x-----
    """),
    Idiom("slow twelve", 78, 105, """
        meter 12/8
        grid 8
        hat_closed  xxxxxxxxxxxx | xxxxxxxxxxxx
        snare       ---X-----X-- | ---X-----X--
        kick        X----xX----- | X----xX---x-
    """),
    Idiom("six", 84, 120, """
        meter 6/8
        grid 8
        hat_closed  xxxxxx | xxxxxx
        snare       ---X-- | ---X--
        kick        X----x | X-----
    """, repeat=4),
    Idiom("waltz", 130, 180, """
        meter 3/4
        grid 8
        ride        x-x-xx | x-x-x-
        snare       --x-x- | --x-x-
        kick        X----- | X-----
    """, repeat=3),
    Idiom("slow rock waltz", 80, 110, """
        meter 3/4
        grid 8
        hat_closed  xxxxxx | xxxxxx
        snare       --X--- | --X-X-
        kick        X---x- | X-----
    """, repeat=3),
    Idiom("two-beat", 180, 230, """
        meter 4/4
        grid 8
        hat_closed  x-x-x-x- | x-x-x-x-
        snare       --X---X- | --X---X-
        kick        X---X--- | X---X---
    """),
    Idiom("train", 110, 140, """
        meter 4/4
        grid 16
        snare       ooXoooXoooXoooXo | ooXoooXoooXooXXo
        kick        X---x---X---x--- | X---x---X---x---
        hat_pedal   ----x-------x--- | ----x-------x---
    """),
    Idiom("linear", 80, 105, """
        meter 4/4
        grid 16
        hat_closed  -x-xx-x-x--x-xx- | -x-xx-x-x--x-xx-
        snare       ----X--o-o--X--o | ----X--o-o--X--o
        kick        X-x------xx----- | X-x------xx-----
    """),
    Idiom("seven", 110, 170, """
        meter 7/8 2+2+3
        grid 8
        hat_closed  x-x-x-x | x-x-x-x
        snare       --X---X | --X---X
        kick        X---X-- | X---X--
    """, repeat=3),
    Idiom("five", 120, 170, """
        meter 5/4
        grid 8
        ride        x-xxx-x-x- | x-xxx-x-x-
        snare       ------X--- | ------X---
        kick        X--x----x- | X--x----x-
    """, repeat=3),
    Idiom("swung sixteenths", 84, 104, """
        meter 4/4
        grid 16
        hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
        snare       ----X--o-o--X--o | ----X--o----X--o
        kick        X--x---x--x----- | X--x---x--x--x--
    """, (16, 0.6)),
    Idiom("lazy eighths", 76, 96, """
        meter 4/4
        grid 16
        hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
        snare       ----X-------X--- | ----X-------X--o
        kick        X------x--X----- | X--x---x--X-----
    """, (16, 0.56)),
    Idiom("one drop", 66, 84, """
        meter 4/4
        grid 16
        hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-xx
        cross_stick --------X------- | --------X-----x-
        kick        --------X------- | --------X-------
    """, (16, 0.58)),
    Idiom("tom groove", 96, 124, """
        meter 4/4
        grid 16
        tom_low     X-x-x-xxX-x-x-xx | X-x-x-xxX-x-x---
        tom_mid     ---------------- | --------------xx
        snare       ----X-------X--- | ----X-------X---
        kick        X-------X-x----- | X-------X-x-----
    """),
    Idiom("fast eighths", 150, 185, """
        meter 4/4
        grid 8
        hat_open    xxxxxxxx | xxxxxxxx
        snare       --X---X- | --X---X-
        kick        X--xX--- | X--xX-x-
    """),
    Idiom("broken two-step", 126, 138, """
        meter 4/4
        grid 16
        hat_closed  --x---x---x---xx | --x---x---x--xx-
        snare       ----X-------X--- | ----X-------X---
        kick        X---------x----- | X------x--x-----
    """, (16, 0.57)),
    Idiom("fast breaks", 160, 176, """
        meter 4/4
        grid 16
        hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
        snare       ----X--o-o--X--- | ----X--o-o----X-
        kick        X-X-------XX---- | X-X-------X-----
    """),
    Idiom("songo", 90, 116, """
        meter 4/4
        grid 16
        hat_closed  x---x---x---x--- | x---x---x---x---
        snare       --xo-xo---xo-xoo | --xo-xo---xo-xoo
        kick        ---x--x----x--x- | ---x--x----x--x-
    """),
    Idiom("ballad", 58, 72, """
        meter 4/4
        grid 16
        hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
        snare       ----X-------X--- | ----X-------X--o
        kick        X-----x-X------- | X-----x-X-x-----
    """),
    Idiom("quarter hats", 96, 140, """
        meter 4/4
        grid 8
        hat_half    x-x-x-x- | x-x-x-x-
        snare       --X---X- | --X---X-
        kick        X--x-x-- | X--x-x-x
    """),
    Idiom("ride with bell", 100, 150, """
        meter 4/4
        grid 8
        ride        x-x-x-x- | x-x-x-x-
        ride_bell   -x-x-x-x | -x-x-x-x
        snare       --X---X- | --X---X-
        kick        X---X-x- | X--xX---
    """),
    Idiom("eleven", 120, 150, """
        meter 11/4 4+4+3
        grid 8
        hat_closed  xxxxxxxxxxxxxxxxxxxxxx | xxxxxxxxxxxxxxxxxxxxxx
        snare       --X---X---X---X---X--- | --X---X---X---X---X---
        kick        X---X---X---X---X----- | X---X---X---XX--X-----
    """),
)  # fmt: skip


def chosen(which: str) -> tuple[Idiom, ...]:
    """`used`, `kept` or `all`."""
    return IDIOMS if which == "all" else IDIOMS[0 if which == "used" else 1 :: 2]


def played(idiom: Idiom, rng: np.random.Generator) -> Groove:
    """The idiom at a tempo of its range, with the leans and looseness of a player."""
    pattern = parse_grid(idiom.text).pattern
    length = pattern.length_ticks
    hits = tuple(
        replace(h, position_ticks=h.position_ticks + i * length, key=0)
        for i in range(idiom.repeat)
        for h in pattern.hits
    )
    swing = Swing(*idiom.swing) if idiom.swing else Swing()
    lean = {"snare": float(rng.normal(0, 5)), "hat": float(rng.normal(0, 3))}
    feel = Feel(swing, lean, float(rng.uniform(1.5, 6)), int(rng.integers(1000)))
    longer = Pattern(hits, pattern.meter, pattern.bars * idiom.repeat, pattern.grid)
    tempo = TempoMap.constant(round(float(rng.uniform(idiom.low_bpm, idiom.high_bpm)), 1))
    return Groove(longer, feel, tempo, idiom.name)
