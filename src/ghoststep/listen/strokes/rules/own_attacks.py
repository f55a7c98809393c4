"""The moment of each stroke, from the range of the sound that is its drum's own (`signal/attacks.py`)."""

from dataclasses import dataclass

import numpy as np

from ghoststep.listen.signal.attacks import METALS, SKINS, attacks_s
from ghoststep.listen.signal.filters import Band
from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.strokes.evidence import NOTHING, Evidence, Shift
from ghoststep.listen.strokes.network import MOST_LATE_S, likeliest_voices, probability_of
from ghoststep.listen.strokes.rules.rule import Idea, Rule
from ghoststep.music.kit import VOICES


@dataclass(frozen=True)
class Own:
    """Where the attacks of a group stand out.

    In the first of the `ranges` that holds any, unless what hides them is struck too. `alone_ms` and `together_ms` are
    how far off the network may be, as one deviation, where nothing else is struck and where something is; None where
    it knows better.
    """

    ranges: tuple[Band, ...]
    hidden_by: tuple[str, ...]
    alone_ms: float | None
    together_ms: float


_OWN = {
    "kick": Own(SKINS, ("snare", "toms"), 2.5, 2.5),
    "snare": Own(SKINS, ("kick", "toms"), 2.5, 2.5),
    "toms": Own(SKINS, ("kick", "snare"), 2.5, 2.5),
    "hat": Own(METALS, ("cymbals",), 6.0, 2.5),
    "cymbals": Own(METALS, ("hat",), None, 2.5),
}


@dataclass(frozen=True)
class OwnAttacks(Rule):
    """Each stroke at the attack of its own drum: moved in time, while what is struck stays."""

    name = "own attacks"
    why = "A hat that is struck with a drum leans to the louder one, unless its own range tells the moment."
    idea = Idea.EXPLAINED
    once = False
    struck: float = 0.5  # probability

    def shift(self, e: Evidence) -> Shift:
        if e.sound is None:
            return NOTHING
        probability, late_s = probability_of(e.heard.group_odds), e.heard.late_s.astype(np.float64)
        added = e.no_voices()
        for g, group in enumerate(NET_GROUPS):
            own = _OWN[group]
            hidden = probability[:, [NET_GROUPS.index(other) for other in own.hidden_by]].max(axis=1) >= self.struck
            together = np.delete(probability, g, axis=1).max(axis=1) >= self.struck
            known = ~together & (own.alone_ms is None)
            at = np.flatnonzero((probability[:, g] >= e.offered[group]) & ~hidden & ~known)
            voices = likeliest_voices(e.heard, group)[at]
            off_ms = np.where(together[at], own.together_ms, own.alone_ms or own.together_ms)
            found_s = attacks_s(e.sound, e.moments_s[at] + late_s[at, voices], off_ms, own.ranges)
            theirs = np.array([v for v, voice in enumerate(VOICES[: late_s.shape[1]]) if voice.group == group])
            later_s = np.clip(found_s - e.moments_s[at], -MOST_LATE_S, MOST_LATE_S)
            added[at[:, None], theirs] = later_s[:, None] - late_s[at[:, None], theirs]
        return Shift(late_s=added)
