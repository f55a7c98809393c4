"""Phrases of the language drawn at random, as people and tests say them."""

import random

from ghoststep.session.commands import COMMANDS

WITH_WORDS = (
    "velocity {n}", "scale {n}", "nudge {n}", "move {n} steps", "tilt {n}", "line {n} 90", "level ghost 30",
    "fill snare", "level accent 110 kick", "replace kick with snare", "replace ghosts with nothing",
    "grid 32 bars 1", "grid triplets hat", "cycle 3 hat", "cycle 0 hat", "insert 1/8", "insert 1 bar",
    "delete 1/4", "meter 7/8 2+2+3", "meter 4/4", "bars 3", "ornament roll on snare", "ornament flam on toms",
    "length 1/8 on hat_open", "length 1/4 on crash", "hands RLRR", "sticking open-handed",
    "accents-to tom_high on snare", "select kick", "select everything", "select ghosts", "go 2a", "go bar 2 1",
    "go crash 3", "keep one", "back-to one", "ghosts 2", "place crash 1", "place hat_open 4& as accent",
    "swing 16:0.6", "lean snare 9", "tempo 133", "loose 4", "stroke rim on snare",
    "voice hat_open on hat_closed",
)  # fmt: skip


def phrases(dice: random.Random) -> str:
    rows = [c.name for c in COMMANDS.values() if c.phrase]
    text = dice.choice(rows) if dice.random() < 0.6 else dice.choice(WITH_WORDS)
    return text.format(n=dice.randint(-20, 140))
