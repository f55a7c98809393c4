"""The set-up of a kit: where each drum stands, and how many pedals the kick has."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICES, voice

WAYS = ("right-handed", "left-handed", "open-handed")
MOST_ARMS = 5.0  # further away nothing stands
Stand = tuple[float, float]  # to the right of the player, and away, in arm's lengths

_STANDARD: dict[str, Stand] = {v.name: v.stand for v in VOICES if v.stand is not None}

# What is one instrument stands at one place.
_ONE_PLACE = (("hat_closed", "hat_half", "hat_open"), ("snare", "cross_stick"), ("ride", "ride_bell"))


def at_one_place(voice_name: str) -> tuple[str, ...]:
    """All voices struck where this one is."""
    return next((row for row in _ONE_PLACE if voice_name in row), (voice_name,))


@dataclass(frozen=True)
class KitSetup:
    """A right-handed player's kit; a left-handed one has it mirrored.

    stands: voice -> where it stands, in arm's lengths; kick_pedals: 1, 2 for a double pedal, 0 for none.
    """

    name: str = "standard"
    stands: Mapping[str, Stand] = field(default_factory=lambda: dict(_STANDARD))
    kick_pedals: int = 1

    def __post_init__(self) -> None:
        if self.kick_pedals not in (0, 1, 2):
            raise InputError(f"A kit has no, one or two kick pedals, not {self.kick_pedals}.")
        for name, (right, away) in self.stands.items():
            voice(name)
            if not (abs(right) <= MOST_ARMS and abs(away) <= MOST_ARMS):
                raise InputError(
                    f"{name} stands ({right:g}, {away:g}) arm's lengths away:"
                    f" no arm reaches further than {MOST_ARMS:g}."
                )

    def __hash__(self) -> int:
        return hash((self.name, self.kick_pedals))

    def stand_of(self, voice_name: str) -> Stand:
        """Where a voice is struck; what the set-up does not name stands in the middle."""
        return self.stands.get(voice_name, _STANDARD.get(voice_name, (0.0, 0.2)))

    def distance(self, one: str, other: str) -> float:
        """From one voice to another, in arm's lengths."""
        (a, b), (c, d) = self.stand_of(one), self.stand_of(other)
        return math.hypot(a - c, b - d)


STANDARD = KitSetup()
DOUBLE_PEDAL = KitSetup("double pedal", kick_pedals=2)
NO_PEDAL = KitSetup("no kick pedal", kick_pedals=0)
SETUPS = {s.name: s for s in (STANDARD, DOUBLE_PEDAL, NO_PEDAL)}


def with_pedals(number: int) -> KitSetup:
    """The standard kit with so many kick pedals."""
    return next(s for s in SETUPS.values() if s.kick_pedals == number)
