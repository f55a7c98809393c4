"""What rings on is no snare, and what bumps twice is struck once: checks by physics, for metal of a kind never heard.

A snare stroke has lost most of its middle range after 150 ms, in any room short of a cathedral; an open hat or a ride
has not. Where the network hears a snare by itself that goes on ringing, it is an open hat (or a ride, if it thinks that
likelier).
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.strokes.evidence import CYMBALS, HAT, NOTHING, SNARE, Evidence, Shift
from ghoststep.listen.strokes.limits import TAKEN_BACK
from ghoststep.listen.strokes.rules.rule import Idea, Rule
from ghoststep.music.kit import VOICE_INDEX

_SNARE_VOICE, _CROSS_STICK = VOICE_INDEX["snare"], VOICE_INDEX["cross_stick"]


@dataclass(frozen=True)
class RingingSnares(Rule):
    """Snares that ring on, with nothing else sounding at the time, become what rings."""

    name = "ringing snares"
    why = "A snare has died away after 150 ms; what sounds on is an open hat or a ride."
    idea = Idea.EXPLAINED
    longest_fall: float = 0.85  # natural-log units of amplitude between early and late: 7 dB
    undisturbed_s: float = 0.19
    fewest: int = 3  # in a recording: metal comes in rows, and a lone one may be a ghost in a ringing crash

    def shift(self, e: Evidence) -> Shift:
        heard, struck = e.heard, e.heard.group_odds > 0
        others = np.delete(struck, SNARE, axis=1).any(axis=1)
        at = e.moments_s[struck.any(axis=1)]
        following = np.append(at, np.inf)[np.searchsorted(at, e.moments_s + 0.03)]
        rings = struck[:, SNARE] & ~others & (heard.fall < self.longest_fall)
        rings &= following - e.moments_s > self.undisturbed_s
        rings &= heard.voice_odds[:, _SNARE_VOICE] > heard.voice_odds[:, _CROSS_STICK]
        if rings.sum() < self.fewest:
            return NOTHING
        # A kit with a hat to close has one to open; a recording without hats has a ride.
        group, name = (HAT, "hat_open") if struck[:, HAT].sum() >= struck[:, CYMBALS].sum() else (CYMBALS, "ride")
        voice = VOICE_INDEX[name]
        groups, voices = e.no_groups(), e.no_voices()
        velocity = e.no_voices()
        odds, by_voice = heard.group_odds[rings].astype(np.float64), heard.voice_odds[rings].astype(np.float64)
        groups[rings, SNARE] = TAKEN_BACK - odds[:, SNARE]
        groups[rings, group] = np.maximum(odds[:, SNARE] - odds[:, group], 0)
        voices[rings, voice] = by_voice.max(axis=1) + 1 - by_voice[:, voice]
        # As a snare it sounded soft, which it need not be as what it is: the louder of the two guesses is kept.
        velocity[rings, voice] = np.maximum(heard.velocity[rings, _SNARE_VOICE] - heard.velocity[rings, voice], 0)
        return Shift(groups=groups, voices=voices, velocity=velocity)


@dataclass(frozen=True)
class SecondBump(Rule):
    """Soft snares that follow nearly every stroke of the metal at one and the same lag are no snares.

    The two halves of a half-open hat meet a second time, as exactly as a machine; a hand is never that exact. A lag
    that is a step of the grid is left alone.
    """

    name = "second bump"
    why = "A soft snare at one lag after most strokes of the hats is the hats meeting once more."
    idea = Idea.EXPLAINED
    lag_s: tuple[float, float] = (0.045, 0.150)
    exact_s: float = 0.003
    step_s: float = 0.010  # nearer than this to a part of the quarter, the lag may be played
    fewest: int = 5
    share: float = 0.5  # of the strokes that have one
    soft: int = 64  # velocity

    def shift(self, e: Evidence) -> Shift:
        if e.explained is None:
            return NOTHING
        quarter_s = 60 / e.explained.groove.tempo.main_bpm
        struck = e.heard.group_odds > 0
        soft = np.flatnonzero(struck[:, SNARE] & (e.heard.velocity[:, _SNARE_VOICE] < self.soft))
        where = np.zeros_like(struck)
        for group in (HAT, CYMBALS):
            first = np.flatnonzero(struck[:, group])
            if len(first) < self.fewest or len(soft) < self.fewest:
                continue
            lag_s, theirs = self._common_lag(e.moments_s[first], e.moments_s[soft])
            rare = lag_s is None or len(theirs) < max(self.fewest, self.share * len(first))
            if not rare and lag_s is not None and not self._is_step(lag_s, quarter_s):
                where[soft[theirs], SNARE] = True
        return e.taken_back(where) if where.any() else NOTHING

    def _common_lag(
        self, first_s: NDArray[np.float64], later_s: NDArray[np.float64]
    ) -> tuple[float | None, NDArray[np.int64]]:
        """The lag at which most of the later moments follow one of the first, and which of them do."""
        before = np.searchsorted(first_s, later_s - self.lag_s[0], side="right") - 1
        lag = np.where(before >= 0, later_s - first_s[np.maximum(before, 0)], np.inf)
        inside = np.sort(lag[lag < self.lag_s[1]])
        if not len(inside):
            return None, np.zeros(0, np.int64)
        counts = np.searchsorted(inside, inside + 2 * self.exact_s, side="right") - np.arange(len(inside))
        start = inside[int(np.argmax(counts))]
        theirs = np.flatnonzero((lag >= start) & (lag <= start + 2 * self.exact_s))
        return float(np.median(lag[theirs])), theirs

    def _is_step(self, lag_s: float, quarter_s: float) -> bool:
        return any(abs(lag_s - quarter_s * part) < self.step_s for part in (1 / 2, 1 / 3, 1 / 4, 1 / 8))
