"""All rules, in the order in which they are heard: once when a recording is first heard, once when its bars are known.

A rule reads the evidence as the rules before it left it.
"""

from ghoststep.listen.strokes.rules.alike import MetalAlike
from ghoststep.listen.strokes.rules.beginning import Beginning, OnlyExpected
from ghoststep.listen.strokes.rules.clear_starts import ClearStarts
from ghoststep.listen.strokes.rules.foot import DoubtfulFeet, FeetOnBackbeats, HatsOfTheHand
from ghoststep.listen.strokes.rules.one_drum import OneDrum
from ghoststep.listen.strokes.rules.one_metal import OneMetal
from ghoststep.listen.strokes.rules.openness import ClosedHats
from ghoststep.listen.strokes.rules.other_bars import HatsWithSnares, OtherBars
from ghoststep.listen.strokes.rules.own_attacks import OwnAttacks
from ghoststep.listen.strokes.rules.own_ring import OwnRing, SecondSwell
from ghoststep.listen.strokes.rules.rule import Rule
from ghoststep.listen.strokes.rules.under_snares import OnlyUnderSnares

FIRST_HEARING: tuple[Rule, ...] = (Beginning(), OneDrum(), OwnRing(), SecondSwell())
SECOND_HEARING: tuple[Rule, ...] = (
    OnlyExpected(),
    *FIRST_HEARING,
    MetalAlike(),
    OtherBars(),
    OneMetal(),
    HatsWithSnares(),
    OnlyUnderSnares(),
    HatsOfTheHand(),
    DoubtfulFeet(),
    FeetOnBackbeats(),
    OwnAttacks(),
    ClosedHats(),
    ClearStarts(),
)
RULES = SECOND_HEARING
