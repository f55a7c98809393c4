"""What players can do: rates of hands and feet, and the time a limb needs from drum to drum.

Working assumptions that can be edited, around published figures: one hand holds about 8 strokes a second and 12 in a
burst of two to four, one foot 4 to 8 in single strokes and a bounced or slid double 75 to 110 ms apart; the fastest
hands do about 10 (Fujii et al. 2009). Travel
between far drums takes 60 to 120 ms.
"""

from dataclasses import dataclass

from ghoststep.music.errors import InputError

# A burst is this many strokes of one limb; what goes on for longer than the second has to be held.
BURST_STROKES, HELD_STROKES = 4, 9


@dataclass(frozen=True)
class Player:
    """Rates in strokes a second of one limb: held for long, and in a burst of two to four strokes.

    `foot_double_s`: seconds between the two strokes of a bounced or slid double of one foot, where singles would fail;
    `travel_s`: seconds for an arm's length between two drums, beside `leave_s` for going to another drum at all.
    """

    name: str
    hand_held: float
    hand_burst: float
    foot_held: float
    foot_burst: float
    foot_double_s: float
    leave_s: float = 0.06
    travel_s: float = 0.03

    def gap_s(self, limb: str, strokes: int) -> float:
        """The least mean distance in seconds of so many strokes in a row by one limb ("R", "L", "K", "H")."""
        hand = limb in "RL"
        burst, held = (self.hand_burst, self.hand_held) if hand else (self.foot_burst, self.foot_held)
        if strokes <= BURST_STROKES:
            return 1 / burst
        share = min((strokes - BURST_STROKES) / (HELD_STROKES - BURST_STROKES), 1.0)
        return (1 - share) / burst + share / held

    def reach_s(self, distance: float) -> float:
        """The least seconds between a stroke on one drum and one on another, so many arm's lengths away."""
        return self.leave_s + self.travel_s * distance if distance > 0 else 0.0


PLAYERS: dict[str, Player] = {
    p.name: p
    for p in (
        Player(
            "learner",
            hand_held=5.5,
            hand_burst=8.0,
            foot_held=4.0,
            foot_burst=6.5,
            foot_double_s=0.125,
            leave_s=0.09,
            travel_s=0.05,
        ),
        Player("working", hand_held=8.0, hand_burst=12.5, foot_held=6.0, foot_burst=10.0, foot_double_s=0.085),
        Player(
            "virtuoso",
            hand_held=10.0,
            hand_burst=15.0,
            foot_held=8.0,
            foot_burst=12.0,
            foot_double_s=0.075,
            leave_s=0.05,
            travel_s=0.02,
        ),
    )
}


def player(name: str) -> Player:
    """The player of that name.

    Raises
    ------
    InputError
        Naming the players there are.
    """
    if name not in PLAYERS:
        raise InputError(f"'{name}' is no player. There are: {', '.join(PLAYERS)}.")
    return PLAYERS[name]
