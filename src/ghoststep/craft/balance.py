"""Which drum leads: the balance of voices as one choice.

Levels are measured on the groove (the middle of what is no ghost, as 40 log10 of velocity), and each group is moved so
that it stands where the choice wants it. The loudest group named stays as it was played, so nothing is pushed up. How
far the others lie below the leading group is a working assumption.
"""

import numpy as np

from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice
from ghoststep.music.touch import Role, level_db

# Decibels below (negative) the group that leads. "played" leaves everything as it was played.
BALANCES: dict[str, dict[str, float]] = {
    "played": {},
    "level": {"kick": 0.0, "snare": 0.0, "hat": -5.0, "cymbals": -3.0, "toms": -1.0},
    "kick-led": {"kick": 0.0, "snare": -3.0, "hat": -8.0, "cymbals": -6.0, "toms": -2.0},
    "snare-led": {"snare": 0.0, "kick": -3.0, "hat": -8.0, "cymbals": -6.0, "toms": -2.0},
    "hat-led": {"hat": 0.0, "cymbals": 0.0, "kick": -4.0, "snare": -4.0, "toms": -4.0},
}


def balanced(groove: Groove, name: str) -> dict[str, float]:
    """What has to be added to each group of voices, in dB, for a balance of that name."""
    if name not in BALANCES:
        raise InputError(f"'{name}' is no balance. There are: {', '.join(BALANCES)}.")
    wanted = BALANCES[name]
    now = {group: level for group in wanted if (level := _level(groove, group)) is not None}
    if not now:
        return {}
    moves = {group: wanted[group] - level for group, level in now.items()}
    top = max(moves.values())
    return {group: round(max(move - top, -24.0), 1) for group, move in moves.items()}


def _level(groove: Groove, group: str) -> float | None:
    """The usual level of a group, without ghosts; None where it does not play."""
    found = [h.velocity for h in groove.pattern.hits if voice(h.voice).group == group and not h.grace]
    loud = [
        h.velocity
        for h in groove.pattern.hits
        if voice(h.voice).group == group and not h.grace and h.role is not Role.GHOST
    ]
    return float(level_db(float(np.median(loud or found)))) if found else None


def current(groove: Groove) -> str:
    """The balance a groove has now, "own" where it is none of ours."""
    for name in BALANCES:
        if {g: db for g, db in balanced(groove, name).items() if db} == dict(groove.feel.balance_db):
            return name
    return "own"
