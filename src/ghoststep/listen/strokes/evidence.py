"""What is known of a recording's candidates while it is judged: the one value that every rule reads and adds to."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bars.explain import Explained
from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.spectrum import Floats
from ghoststep.listen.strokes.limits import HAT_WITH_SNARE, LIMITS, PERHAPS, TAKEN_BACK
from ghoststep.listen.strokes.network import Heard, likeliest_voices, told_groups

KICK, SNARE, HAT, TOMS, CYMBALS = range(len(NET_GROUPS))


@dataclass(frozen=True, eq=False)
class Shift:
    """What a rule adds to what is heard; None where it adds nothing.

    groups: to the log-odds of NET_GROUPS, shape (n, groups); voices: to those of the voices, shape (n, voices);
    velocity: shape (n, voices); late_s: to how much later than its candidate each voice is struck, shape (n, voices).
    All in double precision, so that a sum comes out as if it had been set.
    """

    groups: NDArray[np.float64] | None = None
    voices: NDArray[np.float64] | None = None
    velocity: NDArray[np.float64] | None = None
    late_s: NDArray[np.float64] | None = None


NOTHING = Shift()


@dataclass(frozen=True, eq=False)
class Evidence:
    """Candidates in seconds, ascending, shape (n,), and what is known of them.

    sound: what was listened to, mono at LISTEN_RATE; explained: the groove, once bars are known; expected: which
    candidates were put in only because other bars have a stroke there, shape (n,); limits, offered: how likely a stroke
    of each group must be to be told and to be offered; earlier: the evidence as it was before each rule, by its name.
    """

    moments_s: NDArray[np.float64]
    heard: Heard
    sound: Floats | None = None
    explained: Explained | None = None
    expected: NDArray[np.bool_] | None = None
    limits: Mapping[str, float] = field(default_factory=lambda: LIMITS)
    offered: Mapping[str, float] = field(default_factory=lambda: PERHAPS)
    earlier: Mapping[str, "Evidence"] = field(default_factory=dict)

    @cached_property
    def told(self) -> NDArray[np.bool_]:
        """Which groups are told at each candidate, shape (n, groups)."""
        return told_groups(self.heard.group_odds, self.limits)

    @cached_property
    def odds_beside_snares(self) -> Floats:
        """Log-odds of NET_GROUPS, those of hats less where a snare is likelier than not; shape (n, groups)."""
        return less_of_hats_with_snares(self.heard.group_odds)

    @cached_property
    def told_beside_snares(self) -> NDArray[np.bool_]:
        """Which groups are told, hats beside a snare from better odds on; shape (n, groups)."""
        return told_groups(self.odds_beside_snares, self.limits)

    @cached_property
    def hat_voice(self) -> NDArray[np.int64]:
        """Index of the likeliest voice of the hats at each candidate, shape (n,)."""
        return likeliest_voices(self.heard, "hat")

    @cached_property
    def cymbal_voice(self) -> NDArray[np.int64]:
        """Index of the likeliest cymbal at each candidate, shape (n,)."""
        return likeliest_voices(self.heard, "cymbals")

    @cached_property
    def metal(self) -> tuple[NDArray[np.int64], NDArray[np.floating]]:
        """The voice of metal that each candidate is (the hat where both are told) and its velocity, shapes (n,)."""
        voice = np.where(self.told[:, HAT], self.hat_voice, self.cymbal_voice)
        return voice, self.heard.velocity[np.arange(len(voice)), voice]

    def before(self, rule: str) -> "Evidence":
        """The evidence as it was before a rule was heard; as it is now where that rule has not come yet."""
        return self.earlier.get(rule, self)

    def no_groups(self) -> NDArray[np.float64]:
        """Zeros of shape (n, groups), to be filled by a rule."""
        return np.zeros(self.heard.group_odds.shape)

    def no_voices(self) -> NDArray[np.float64]:
        """Zeros of shape (n, voices), to be filled by a rule."""
        return np.zeros(self.heard.voice_odds.shape)

    def taken_back(self, where: NDArray[np.bool_]) -> Shift:
        """What takes strokes back, whatever their odds; where: shape (n, groups)."""
        return Shift(groups=np.where(where, TAKEN_BACK - self.heard.group_odds.astype(np.float64), 0))

    def moved(self, shift: Shift, rule: str = "") -> "Evidence":
        """The evidence with what a rule adds; kept as it was under the rule's name."""
        heard = self.heard
        for name, added in (
            ("group_odds", shift.groups),
            ("voice_odds", shift.voices),
            ("velocity", shift.velocity),
            ("late_s", shift.late_s),
        ):
            if added is not None:
                heard = replace(heard, **{name: (getattr(heard, name) + added).astype(np.float32)})
        return replace(self, heard=heard, earlier={**self.earlier, rule: self} if rule else self.earlier)


def less_of_hats_with_snares(odds: NDArray[np.float32]) -> NDArray[np.float32]:
    """Log-odds of NET_GROUPS, shape (n, groups), with those of hats lowered where a snare is likelier than not.

    A snare has much of what a hat has: beside one a hat needs better odds.
    """
    out = odds.copy()
    out[odds[:, SNARE] > 0, HAT] -= HAT_WITH_SNARE
    return out
