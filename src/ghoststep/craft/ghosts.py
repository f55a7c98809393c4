"""Ghost strokes for the snare: where a hand has the time for them and where players put them.

Steps: (1) every sixteenth where no accent and no other stroke of the ghosting hand stands is open; (2) an open spot is
worth more beside a backbeat (before it and after it), around a kick, and on the weak sixteenths; (3) the best spots are
taken in turn, as many a bar as are wanted, none so near to another stroke of the same hand that one hand could not play
both. The weights are working assumptions about drumming in general.
"""

from dataclasses import dataclass

from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice, voices_of
from ghoststep.music.pattern import Hit
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.music.touch import Role

STEP = TICKS_PER_QUARTER // 4
HAND = "L"
# One hand plays about 10 strokes a second in a short burst (Fujii et al. 2009 measured that of the fastest).
LEAST_GAP_S = 0.1
_BEFORE_BACKBEAT, _AFTER_BACKBEAT, _NEAR_BACKBEAT = 2.6, 3.0, 1.0
_BESIDE_KICK, _WEAK, _OFF_BEAT, _ON_BEAT = 1.6, 1.0, 0.2, -2.5
_SOFTEST, _LOUDEST = 24, 36


@dataclass(frozen=True)
class Proposal:
    """Ghosts to be added, with words for the user."""

    name: str
    hits: tuple[Hit, ...]


# How many a bar the alternatives have, and whether only every second bar has them.
_ALTERNATIVES = (
    ("A few", 2, False),
    ("A few, in every second bar", 2, True),
    ("Some", 4, False),
    ("Many", 7, False),
    ("As many as fit", 99, False),
)


def proposals(groove: Groove) -> tuple[Proposal, ...]:
    """Alternatives from few to many; those that come out like one before are left out."""
    out: list[Proposal] = []
    for name, most, second_only in _ALTERNATIVES:
        hits = ghosts(groove, most, second_only=second_only)
        if hits and all(hits != other.hits for other in out):
            out.append(Proposal(name, hits))
    return tuple(out)


def ghosts(groove: Groove, most: int, *, second_only: bool = False) -> tuple[Hit, ...]:
    """At most so many new ghosts a bar, in the order of time."""
    pattern = groove.pattern
    bar = pattern.meter.bar_ticks
    out: list[Hit] = []
    for number in range(1 if second_only else 0, pattern.bars, 2 if second_only else 1):
        ranked = sorted(
            ((_worth(groove, at), at) for at in range(number * bar, (number + 1) * bar, STEP) if _open(groove, at)),
            key=lambda pair: (-pair[0], pair[1]),
        )
        taken = 0
        for worth, at in ranked:
            if taken == most or worth <= 0:
                break
            if _has_time(groove, out, at):
                out.append(_ghost(at, worth))
                taken += 1
    return tuple(sorted(out, key=lambda h: h.position_ticks))


def _ghost(at: int, worth: float) -> Hit:
    """Softer where it matters less; no two neighbours alike."""
    share = min(max(worth / 6, 0.0), 1.0)
    velocity = round(_SOFTEST + share * (_LOUDEST - _SOFTEST - 3)) + at // STEP % 3
    return Hit(at, "snare", velocity, Role.GHOST, limb=HAND)


def _open(groove: Groove, at: int) -> bool:
    """No accent there, and the ghosting hand has nothing to do."""
    here = [h for h in groove.pattern.hits if abs(h.position_ticks - at) < STEP // 2]
    hands = [h for h in here if h.limb_letter in ("R", "L")]
    accent = any(h.role is Role.ACCENT for h in hands)
    return not accent and all(h.limb_letter != HAND and voice(h.voice).group != "snare" for h in here)


def _worth(groove: Groove, at: int) -> float:
    pattern = groove.pattern
    place = at % TICKS_PER_QUARTER
    worth = _ON_BEAT if place == 0 else _OFF_BEAT if place == TICKS_PER_QUARTER // 2 else _WEAK
    for h in pattern.hits:
        away = (h.position_ticks - at) / STEP
        away -= pattern.length_ticks / STEP * round(away / (pattern.length_ticks / STEP))  # a loop goes round
        backbeat = voice(h.voice).group == "snare" and h.role is not Role.GHOST
        if backbeat and abs(away) < 2.5:
            worth += _BEFORE_BACKBEAT if 0.5 < away < 1.5 else _AFTER_BACKBEAT if -1.5 < away < -0.5 else _NEAR_BACKBEAT
        if h.voice == "kick" and 0.5 < abs(away) < 1.5:
            worth += _BESIDE_KICK
    return worth


def _has_time(groove: Groove, new: list[Hit], at: int, hand: str = HAND) -> bool:
    """Whether the hand gets from its last stroke here and on to its next one."""
    reach = 2 * TICKS_PER_QUARTER  # at the fastest tempo still longer than the least gap
    near = [groove.pattern.hits[i] for i in groove.pattern.between(at - reach, at + reach)]
    also = [h for h in new if abs(h.position_ticks - at) < reach]
    mine = [h.position_ticks for h in (*near, *also) if h.limb_letter == hand]
    seconds = groove.tempo.seconds([at, *mine])
    return all(abs(s - seconds[0]) >= LEAST_GAP_S for s in seconds[1:])


def filled(groove: Groove, name: str, under: str = "") -> tuple[Hit, ...]:
    """Ghosts of a voice on every weak sixteenth where its hand is free.

    Never where a voice or group named by `under` has an accent: those stay alone above the ghosts.
    """
    pattern = groove.pattern
    hand = voice(name).limb
    covers = set(voices_of(under)) if under else set()
    out: list[Hit] = []
    for at in range(STEP, pattern.length_ticks, STEP):
        if at % (2 * STEP) == 0:  # the weak sixteenths are the e and the a
            continue
        here = [pattern.hits[i] for i in pattern.between(at, at + 1) if not pattern.hits[i].grace]
        over = [h for h in here if h.voice in covers]
        if any(h.role is Role.ACCENT for h in over):
            continue
        busy = any(h.limb_letter == hand or h.voice == name for h in here)
        accent = any(h.role is Role.ACCENT and h.limb_letter in ("R", "L") for h in here)
        if not busy and not accent and _has_time(groove, out, at, hand):
            velocity = _SOFTEST + 4 + at // STEP % 3 * 2
            out.append(Hit(at, name, velocity, Role.GHOST, limb=hand))
    return tuple(out)


def thinned(groove: Groove, hits: tuple[Hit, ...], percent: float) -> tuple[Hit, ...]:
    """Which of some ghosts to take away: the share that matters least."""
    ranked = sorted(hits, key=lambda h: (_worth(groove, h.position_ticks), h.velocity))
    count = min(len(ranked), max(1, round(len(ranked) * percent / 100)))
    return tuple(ranked[:count])
