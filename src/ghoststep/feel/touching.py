"""How hard each stroke of a pattern is played: what is written, moved towards what the player does there."""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.looseness import Pass, Strokes, velocity_deviations
from ghoststep.music.feel import Feel
from ghoststep.music.frame import Bars
from ghoststep.music.kit import VOICE_INDEX
from ghoststep.music.pattern import Hit
from ghoststep.music.player import Touch
from ghoststep.music.touch import Role

_DOUBLE_S = 0.35  # two strokes of one hand on one drum that come no later than this are a double, if the first is alone


def velocities(hits: tuple[Hit, ...], feel: Feel, frame: Bars, strokes: Strokes, which: Pass) -> list[int]:
    """Velocities as played, 1 to 127, in the order of the hits.

    Grace notes and strokes of rolls keep what their ornament gives them, and fixed hits what is written. The balance
    moves levels, 40 dB to a tenfold velocity (see `music.touch.level_db`).
    """
    out = np.array([h.velocity for h in hits], float)
    touch = feel.touch
    if touch.share and (feel.spots or touch.levels):
        wanted = _wanted(hits, feel, frame)
        out += np.where(wanted > 0, touch.share * (wanted - out), 0.0)
    if touch.second != 1 or touch.weaker != 1:
        out *= _hands(strokes, touch)
    if feel.wander.velocity:
        wandering = velocity_deviations(strokes, which, feel.wander)
        out += np.where([h.voice in feel.steady for h in hits], 0.0, wandering) if feel.steady else wandering
    fixed = [i for i, h in enumerate(hits) if h.fixed]
    if fixed:
        out[fixed] = [hits[i].velocity for i in fixed]
    if feel.balance_db:
        gain = {name: 10 ** (feel.balance_of(name) / 40) for name in VOICE_INDEX}
        out *= np.array([gain[h.voice] for h in hits])
    rounded: list[int] = np.clip(np.rint(out), 1, 127).astype(int).tolist()
    return rounded


def touched(feel: Feel) -> bool:
    """Whether a feel plays hits harder or softer than they are written, wander and balance left aside."""
    touch = feel.touch
    levels = touch.levels or any(any(s.levels) for s in feel.spots)
    return bool(touch.share and levels) or touch.second != 1 or touch.weaker != 1


def _wanted(hits: tuple[Hit, ...], feel: Feel, frame: Bars) -> NDArray[np.float64]:
    """The velocity the player gives each hit; 0 where nothing is known."""
    levels = {(name, role): velocity for name, role, velocity in feel.touch.levels}
    found = feel.spots_at([h.voice for h in hits], [h.position_ticks for h in hits], frame)
    out = np.zeros(len(hits))
    for i, (h, spot) in enumerate(zip(hits, found, strict=True)):
        if not h.grace and h.within is None:
            out[i] = (spot.level_of(h.role) if spot else 0.0) or _level(levels, h.voice, h.role)
    return out


def _level(levels: dict[tuple[str, Role], float], voice: str, role: Role) -> float:
    """The level of a role in a voice; of another that is no ghost where its own is not known; or 0."""
    own = levels.get((voice, role), 0.0)
    if own or role is Role.GHOST:
        return own
    other = Role.NORMAL if role is Role.ACCENT else Role.ACCENT
    return levels.get((voice, other), 0.0)


def _hands(strokes: Strokes, touch: Touch) -> NDArray[np.float64]:
    """Shares of velocity: softer where a hand strikes a second time at once, and for the weaker hand; shape (n,)."""
    letters = np.asarray(strokes.limbs)
    out = np.where(letters == touch.weaker_hand, touch.weaker, 1.0)
    if touch.second == 1:
        return out
    hands = np.flatnonzero((letters == "R") | (letters == "L"))
    order = hands[np.argsort(strokes.times_s[hands], kind="stable")]
    first_of_two = False
    for before, now in pairwise(order.tolist()):
        near = strokes.times_s[now] - strokes.times_s[before] < _DOUBLE_S
        first_of_two = bool(near and letters[now] == letters[before] and not first_of_two)
        if first_of_two:
            out[now] *= touch.second
    return out
