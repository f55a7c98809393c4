"""How hard each stroke of a pattern is played: what is written, moved towards what the player does there."""

from collections.abc import Sequence
from itertools import groupby

import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.looseness import Pass, Strokes, velocity_deviations
from ghoststep.music.feel import Feel
from ghoststep.music.frame import Bars
from ghoststep.music.kit import VOICE_INDEX
from ghoststep.music.pattern import Hit
from ghoststep.music.player import Touch
from ghoststep.music.touch import Role

_DOUBLE_S = 0.35  # two strokes of one hand on one drum that come no later than this may be a double


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
        out *= hand_shares(hits, strokes.times_s, touch)
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


def hand_shares(hits: Sequence[Hit], times_s: NDArray[np.float64], touch: Touch) -> NDArray[np.float64]:
    """Shares of velocity: softer where a hand strikes a second time at once, and for the weaker hand; shape (n,)."""
    letters = np.array([h.limb_letter for h in hits])
    out = np.where(letters == touch.weaker_hand, touch.weaker, 1.0)
    if touch.second != 1:
        out[second_strokes(hits, times_s)] *= touch.second
    return out


def second_strokes(hits: Sequence[Hit], times_s: NDArray[np.float64]) -> list[int]:
    """The second strokes of doubles: on a drum that both hands play, two of one hand between those of the other.

    A hand that plays a voice alone, such as the hat in eighths, plays single strokes however fast.
    """
    by_voice: dict[str, list[int]] = {}
    for i in np.argsort(times_s, kind="stable").tolist():
        if hits[i].limb_letter in "RL" and not hits[i].grace:
            by_voice.setdefault(hits[i].voice, []).append(i)
    out = []
    for row in by_voice.values():
        letters = [hits[i].limb_letter for i in row]
        if len(set(letters)) < 2:
            continue
        runs = [(letter, len(list(same))) for letter, same in groupby(letters)]
        at = 0
        for _, length in runs:
            if length == 2 and times_s[row[at + 1]] - times_s[row[at]] < _DOUBLE_S:
                out.append(row[at + 1])
            at += length
    return out
