"""Which drum leads: the balance of groups of voices as one choice, judged by what is heard.

The loudness of each group over the whole groove is measured (ITU-R BS.1770, see `sound.loudness`), and each group is
moved so that it stands where the choice wants it against the others. The whole stays as loud as it was played, so that
comparing two balances is fair, as far as velocities reach. How far the others lie below the leading group is a working
assumption.
"""

import math
from dataclasses import replace
from functools import lru_cache

from ghoststep.feel.perform import perform
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICES
from ghoststep.music.touch import level_db
from ghoststep.sound.loudness import group_energies

# Decibels of loudness below (negative) the group that leads. "played" leaves everything as it was played.
BALANCES: dict[str, dict[str, float]] = {
    "played": {},
    "level": {"kick": 0.0, "snare": 0.0, "hat": -12.0, "cymbals": -8.0, "toms": -1.0},
    "kick-led": {"kick": 0.0, "snare": -5.0, "hat": -15.0, "cymbals": -12.0, "toms": -3.0},
    "snare-led": {"snare": 0.0, "kick": -5.0, "hat": -15.0, "cymbals": -12.0, "toms": -3.0},
    "hat-middle": {"kick": 0.0, "snare": 0.0, "hat": -7.0, "cymbals": -6.0, "toms": -1.0},
    "hat-led": {"hat": 0.0, "cymbals": 0.0, "kick": -3.0, "snare": -3.0, "toms": -4.0},
}
_LIMIT_DB = 24.0
_ROUNDS = 6
_MEASURED_BARS = 32  # a long groove is judged by its beginning


def balanced(groove: Groove, name: str) -> dict[str, float]:
    """What has to be added to each group of voices, in dB, for a balance of that name.

    Raises
    ------
    InputError
        Where there is no such balance.
    """
    if name not in BALANCES:
        raise InputError(f"'{name}' is no balance. There are: {', '.join(BALANCES)}.")
    return dict(_balanced(_beginning(groove), name))


def _beginning(groove: Groove) -> Groove:
    """The bars that are measured, as they are played without a balance and without what does not change loudness."""
    pattern = groove.pattern
    if pattern.bars > _MEASURED_BARS:
        end = pattern.frame.start_of(_MEASURED_BARS + 1)
        hits = tuple(pattern.hits[i] for i in pattern.between(0, end))
        pattern = replace(pattern, hits=hits, bars=_MEASURED_BARS, passages=())
    return Groove(pattern, Feel(), groove.tempo)


@lru_cache(maxsize=32)
def _balanced(groove: Groove, name: str) -> tuple[tuple[str, float], ...]:
    wanted = BALANCES[name]
    played = _levels(groove, {})
    present = [g for g in wanted if g in played]
    if not present:
        return ()
    total, room_db = _sum(played), _headroom_db(groove)
    moves = dict.fromkeys(present, 0.0)
    # Velocities end at 127 and are whole, so what a move does is measured and mended, a few times over.
    for _ in range(_ROUNDS):
        now = _levels(groove, moves)
        others = {g: x for g, x in now.items() if g not in wanted}
        room = 10 ** (total / 10) - sum(10 ** (x / 10) for x in others.values())
        lift = 10 * math.log10(max(room, 1e-12)) - _sum({g: wanted[g] for g in present})
        moves = {g: min(max(moves[g] + wanted[g] + lift - now[g], -_LIMIT_DB), room_db[g]) for g in present}
    # A group that would have to be louder than it can be: all come down together, the balance before the loudness.
    now = _levels(groove, moves)
    reached = [now[g] - wanted[g] for g in present]
    if max(reached) - min(reached) > 0.75:
        lift = min(reached)
        for _ in range(_ROUNDS):
            now = _levels(groove, moves)
            moves = {g: min(max(moves[g] + wanted[g] + lift - now[g], -_LIMIT_DB), room_db[g]) for g in present}
    return tuple((g, round(db, 1)) for g, db in moves.items())


def _headroom_db(groove: Groove) -> dict[str, float]:
    """How far each group can be raised until its hardest stroke is as hard as can be: the roles keep their distance."""
    played = perform(groove.changed(feel=Feel()))
    groups = [VOICES[v].group for v in played.voice]
    hardest = {g: max(x for x, own in zip(played.velocity, groups, strict=True) if own == g) for g in set(groups)}
    return {g: -float(level_db(float(v))) for g, v in hardest.items()}


def _levels(groove: Groove, balance_db: dict[str, float]) -> dict[str, float]:
    """Loudness of each group under a balance, in dB."""
    found = group_energies(perform(groove.changed(feel=Feel(balance_db=balance_db))))
    return {group: 10 * math.log10(max(e, 1e-12)) for group, e in found.items()}


def _sum(levels_db: dict[str, float]) -> float:
    return 10 * math.log10(max(sum(10 ** (x / 10) for x in levels_db.values()), 1e-12))


def louder_db(groove: Groove, name: str) -> float:
    """How much louder (negative: softer) the whole is under a balance than as it was played, in dB.

    A group that should lead and cannot be struck harder makes all others softer.
    """
    short = _beginning(groove)
    return _sum(_levels(short, balanced(groove, name))) - _sum(_levels(short, {}))


def current(groove: Groove) -> str:
    """The balance a groove has now, "own" where it is none of ours."""
    if not groove.feel.balance_db:
        return "played"
    for name in BALANCES:
        if {g: db for g, db in balanced(groove, name).items() if db} == dict(groove.feel.balance_db):
            return name
    return "own"
