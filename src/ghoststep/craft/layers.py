"""Layers: what a hand or a foot plays through a bar, laid under or over what stands there.

A layer is written for one quarter or for a whole bar of four, in sixteenths (or in eighth triplets); it goes round as
often as the bar asks. Where both hands are busy already it leaves the stroke out.
"""

from dataclasses import dataclass

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, voice
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.music.touch import Role

_ROLES = {"X": Role.ACCENT, "x": Role.NORMAL, "o": Role.GHOST}


@dataclass(frozen=True)
class Layer:
    """rows: (voice, letters), each letter `quarter / parts` long; about: words; hands: which hand plays, in turn, ""
    for the usual one."""

    name: str
    about: str
    rows: tuple[tuple[str, str], ...]
    parts: int = 4
    hands: str = ""


def _layer(name: str, about: str, *rows: str, parts: int = 4, hands: str = "") -> Layer:
    return Layer(name, about, tuple((r.split()[0], r.split()[1]) for r in rows), parts, hands)


LAYERS: tuple[Layer, ...] = (
    _layer("hat-quarters", "the hat on every quarter", "hat_closed x---"),
    _layer("hat-eighths", "the hat in eighths, the beat stronger", "hat_closed X-x-"),
    _layer("hat-sixteenths", "the hat in sixteenths, with one hand", "hat_closed Xxxx", hands="R"),
    _layer("hat-sixteenths-two", "the hat in sixteenths, hand to hand", "hat_closed Xxxx", hands="RL"),
    _layer("hat-off-open", "the hat open off the beat", "hat_open --x-"),
    _layer("hat-open-on-beat", "open on the beat, two closed between", "hat_open x---", "hat_closed --xx"),
    _layer("hat-broken", "broken sixteenths", "hat_closed X-xx"),
    _layer("hat-gallop", "two sixteenths and an eighth", "hat_closed Xxx-"),
    _layer("hat-three-over-four", "sixteenths with an accent on every third", "hat_closed XxxXxxXxxXxxXxxX"),
    _layer("ride-eighths", "the ride in eighths", "ride X-x-"),
    _layer("ride-jazz", "the ride as jazz has it, in triplets", "ride X--x-x", parts=3),
    _layer("ride-bell", "the bell on every beat, the ride between", "ride_bell x---", "ride --x-"),
    _layer("samba-feet", "kick and pedal rolling", "kick X--x", "hat_pedal --x-"),
    _layer("pedal-quarters", "the hat pedal on every quarter", "hat_pedal x---"),
    _layer("pedal-two-and-four", "the hat pedal on 2 and 4", "hat_pedal ----x---"),
    _layer("kick-four", "a kick on every beat", "kick X---"),
    _layer("kick-one-and-three", "kicks on 1 and 3", "kick X-------"),
    _layer("kick-tresillo", "three kicks in a half", "kick X--x--x-"),
)


def layer(name: str) -> Layer:
    """The layer of that name.

    Raises
    ------
    InputError
        Naming those there are.
    """
    found = next((x for x in LAYERS if x.name == name), None)
    if found is None:
        raise InputError(f"'{name}' is no layer. There are: {', '.join(x.name for x in LAYERS)}.")
    return found


def laid(pattern: Pattern, chosen: Layer) -> tuple[set[int], list[Hit], int]:
    """Indices of the hits that give way (of the same lanes), the hits of the layer, and how many strokes of it were
    left out, as hands are busy there. What goes hand to hand leaves a hand for another drum wherever one is struck;
    claps and shakers are somebody else's hands."""
    lanes = {LANE_OF_VOICE[name] for name, _ in chosen.rows}
    if any(voice(name).limb in ("R", "L") for name, _ in chosen.rows):  # time moves over: hat and ride at once are none
        lanes |= {LANE_OF_VOICE["hat_closed"], LANE_OF_VOICE["ride"]}
    gone = {i for i, h in enumerate(pattern.hits) if LANE_OF_VOICE[h.voice] in lanes}
    busy: dict[int, int] = {}
    for i, h in enumerate(pattern.hits):
        if i not in gone and not h.grace and voice(h.voice).limb in ("R", "L") and voice(h.voice).group != "perc":
            busy[h.position_ticks] = busy.get(h.position_ticks, 0) + 1
    step = TICKS_PER_QUARTER // chosen.parts
    most = 0 if len(set(chosen.hands)) == 2 else 1
    new, left = [], 0
    for _, start, meter in pattern.frame.between(0, pattern.length_ticks):
        for name, letters in chosen.rows:
            by_hand = voice(name).limb in ("R", "L")
            for k in range(meter.bar_ticks // step):
                role = _ROLES.get(letters[k % len(letters)])
                if role is None:
                    continue
                if by_hand and busy.get(start + k * step, 0) > most:
                    left += 1
                else:
                    limb = chosen.hands[k % len(chosen.hands)] if by_hand and chosen.hands else ""
                    new.append(Hit(start + k * step, name, pattern.rules.level_of(name, role), role, limb=limb))
    return gone, new, left
