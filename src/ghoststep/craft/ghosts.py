"""Ghost strokes for the snare: where a hand has the time for them and where players put them.

Steps: (1) every sixteenth where no accent and no other stroke of the ghosting hand stands is open; (2) an open spot is
worth more beside a backbeat (before it and after it), around a kick, and on the weak sixteenths; (3) the best spots are
taken in turn, as many a bar as are wanted, none so near to another stroke of the same hand that one hand could not play
both. The weights are working assumptions about drumming in general.
"""

from bisect import bisect_left, insort
from collections.abc import Sequence
from dataclasses import dataclass

from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice
from ghoststep.music.pattern import Hit, Pattern
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
    """Alternatives, fewest ghosts first; those that come out like one before are left out."""
    found: list[Proposal] = []
    open_spots = _Open(groove)
    for name, most, second_only in _ALTERNATIVES:
        hits = _taken(open_spots, most, second_only=second_only)
        if hits and all(hits != other.hits for other in found):
            found.append(Proposal(name, hits))
    return tuple(sorted(found, key=lambda p: len(p.hits)))


def ghosts(groove: Groove, most: int, *, second_only: bool = False) -> tuple[Hit, ...]:
    """At most so many new ghosts a bar, in the order of time."""
    return _taken(_Open(groove), most, second_only=second_only)


class _Open:
    """The open spots of each bar, the best first, and where the ghosting hand strikes anyway (s)."""

    def __init__(self, groove: Groove) -> None:
        pattern = groove.pattern
        self.groove = groove
        self.bars: list[list[tuple[float, int]]] = []
        for _, start, meter in pattern.frame.between(0, pattern.length_ticks):
            spots = [at for at in range(start, start + meter.bar_ticks, STEP) if _open(pattern, at)]
            ranked = [(_worth(pattern, at), at) for at in spots]
            self.bars.append(sorted((pair for pair in ranked if pair[0] > 0), key=lambda pair: (-pair[0], pair[1])))
        self.busy_s = _strokes_s(groove, HAND)
        every = sorted(at for ranked in self.bars for _, at in ranked)
        self.seconds = dict(zip(every, groove.tempo.seconds(every).tolist(), strict=True))


def _strokes_s(groove: Groove, hand: str) -> list[float]:
    mine = [h.position_ticks for h in groove.pattern.hits if h.limb_letter == hand]
    return sorted(groove.tempo.seconds(mine).tolist()) if mine else []


def _taken(found: _Open, most: int, *, second_only: bool) -> tuple[Hit, ...]:
    busy = list(found.busy_s)
    out: list[Hit] = []
    for number, ranked in enumerate(found.bars, 1):
        if second_only and number % 2:
            continue
        taken = 0
        for worth, at in ranked:
            if taken == most:
                break
            if _has_time(busy, found.seconds[at]):
                insort(busy, found.seconds[at])
                out.append(_ghost(at, worth))
                taken += 1
    return tuple(sorted(out, key=lambda h: h.position_ticks))


def _has_time(busy_s: list[float], at_s: float) -> bool:
    """Whether a hand that strikes at these moments (ascending) gets here from its last stroke and on to its next."""
    place = bisect_left(busy_s, at_s)
    return all(abs(s - at_s) >= LEAST_GAP_S for s in busy_s[max(place - 1, 0) : place + 1])


def _ghost(at: int, worth: float) -> Hit:
    """Softer where it matters less; no two neighbours alike."""
    share = min(max(worth / 6, 0.0), 1.0)
    velocity = round(_SOFTEST + share * (_LOUDEST - _SOFTEST - 3)) + at // STEP % 3
    return Hit(at, "snare", velocity, Role.GHOST, limb=HAND)


def _open(pattern: Pattern, at: int) -> bool:
    """No accent there, and the ghosting hand has nothing to do."""
    low, high = at - STEP // 2 + 1, at + (STEP + 1) // 2
    here = [pattern.hits[i] for i in pattern.between(low, high)]
    hands = [h for h in here if h.limb_letter in ("R", "L")]
    accent = any(h.role is Role.ACCENT for h in hands)
    return not accent and all(h.limb_letter != HAND and voice(h.voice).group != "snare" for h in here)


def _worth(pattern: Pattern, at: int) -> float:
    """How much a ghost is worth on a spot, by what stands within three sixteenths; a loop goes round."""
    place = pattern.frame.spot_at(at).tick % TICKS_PER_QUARTER
    worth = _ON_BEAT if place == 0 else _OFF_BEAT if place == TICKS_PER_QUARTER // 2 else _WEAK
    length, reach = pattern.length_ticks, 3 * STEP
    for shift in (-length, 0, length):
        for i in pattern.between(at + shift - reach, at + shift + reach + 1):
            h = pattern.hits[i]
            away = (h.position_ticks - at - shift) / STEP
            backbeat = voice(h.voice).group == "snare" and h.role is not Role.GHOST
            if backbeat and abs(away) < 2.5:
                before, after = 0.5 < away < 1.5, -1.5 < away < -0.5
                worth += _BEFORE_BACKBEAT if before else _AFTER_BACKBEAT if after else _NEAR_BACKBEAT
            if h.voice == "kick" and 0.5 < abs(away) < 1.5:
                worth += _BESIDE_KICK
    return worth


def filled(groove: Groove, name: str, under: Sequence[str] = ()) -> tuple[Hit, ...]:
    """Ghosts of a voice on every weak sixteenth where its hand is free.

    Never where one of the voices `under` has an accent: those stay alone above the ghosts.
    """
    pattern = groove.pattern
    hand = voice(name).limb
    covers = {v for v in under if voice(v).limb in ("R", "L")}
    busy = _strokes_s(groove, hand)
    spots = list(range(STEP, pattern.length_ticks, STEP))
    out: list[Hit] = []
    for at, at_s in zip(spots, groove.tempo.seconds(spots).tolist(), strict=True):
        if at % (2 * STEP) == 0:  # the weak sixteenths are the e and the a
            continue
        here = [pattern.hits[i] for i in pattern.between(at, at + 1) if not pattern.hits[i].grace]
        if any(h.role is Role.ACCENT for h in here if h.voice in covers):
            continue
        taken = any(h.limb_letter == hand or h.voice == name for h in here)
        accent = any(h.role is Role.ACCENT and h.limb_letter in ("R", "L") for h in here)
        if not taken and not accent and _has_time(busy, at_s):
            velocity = _SOFTEST + 4 + at // STEP % 3 * 2
            out.append(Hit(at, name, velocity, Role.GHOST, limb=hand))
            insort(busy, at_s)
    return tuple(out)


def thinned(groove: Groove, hits: tuple[Hit, ...], percent: float) -> tuple[Hit, ...]:
    """Which of some ghosts to take away: the share that matters least."""
    ranked = sorted(hits, key=lambda h: (_worth(groove.pattern, h.position_ticks), h.velocity))
    count = min(len(ranked), max(1, round(len(ranked) * percent / 100)))
    return tuple(ranked[:count])
