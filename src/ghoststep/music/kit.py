"""The voices of the kit and the limbs of the player: one table each, everything else is read off it."""

from dataclasses import dataclass
from functools import cached_property

from ghoststep.music.errors import InputError


@dataclass(frozen=True)
class Limb:
    letter: str
    name: str


LIMBS: tuple[Limb, ...] = (
    Limb("R", "right hand"),
    Limb("L", "left hand"),
    Limb("K", "right foot"),
    Limb("H", "left foot"),
)
LIMB_LETTERS = tuple(limb.letter for limb in LIMBS)
OTHER_HAND = {"R": "L", "L": "R"}


@dataclass(frozen=True)
class Voice:
    """One sound of the kit: all that is said of a voice anywhere, but for its recipe in a kit (`sound/recipe.py`).

    group, lane: whom it belongs to, and the line of the grid it stands in. limb: the usual one of a right-handed
    player. keys: of MIDI; the first is written, all are read, where no earlier voice has them. stand: to the right of
    the player and away, in arm's lengths; None for what the feet play. takes_after: voices it is most like, the
    nearest first. words: what people call it beside its name. head, mark: how it is drawn (`desk/look/stems.py`).
    kind: what it is among its group. counted_as: the voice it is like by where it stands in the bar, where that does
    not go by its kind. traits: see TRAITS. choked_by: what ends its sound. dice: the seed of its sounds, never used
    twice. output: its place among the outputs of the listening network, None where that hears it as the nearest of
    the others.
    """

    name: str
    label: str
    group: str
    lane: str
    limb: str
    keys: tuple[int, ...]
    stand: tuple[float, float] | None
    takes_after: tuple[str, ...]
    words: tuple[str, ...] = ()
    head: str = "round"
    mark: str = ""
    kind: str = ""
    counted_as: str = ""
    traits: tuple[str, ...] = ()
    choked_by: tuple[str, ...] = ()
    dice: int = 0
    output: int | None = None


# rings: until hand or foot stop it; tipped: struck with the tip or the shoulder of the stick; time: time is kept on it;
# first: what is meant where only its group is said.
TRAITS = ("rings", "tipped", "time", "first")
_METAL_TRAITS = ("rings", "tipped")
_ON_HATS = ("hat_closed", "hat_half", "hat_open", "hat_pedal")

# In the order of a drum chart: cymbals high, kick and pedal low. What some kits have besides comes after.
VOICES: tuple[Voice, ...] = (
    Voice("splash", "Splash", "cymbals", "Crash", "R", (55,), (-0.2, 0.5), ("crash", "ride", "hat_closed"),
          head="diamond", mark="dot", kind="splash", traits=_METAL_TRAITS, dice=0, output=0),
    Voice("crash", "Crash", "cymbals", "Crash", "R", (49,), (-0.5, 0.5), ("splash", "ride", "hat_open", "hat_closed"),
          ("cr", "crashes"), head="diamond", kind="crash", traits=(*_METAL_TRAITS, "first"), dice=1, output=1),
    Voice("ride_bell", "Ride bell", "cymbals", "Ride", "R", (53,), (1.1, 0.3),
          ("ride", "hat_closed", "hat_half", "hat_open"), ("bell",), head="diamond", mark="dot", kind="ride",
          traits=(*_METAL_TRAITS, "time"), dice=2, output=2),
    Voice("ride", "Ride", "cymbals", "Ride", "R", (51, 59), (1.1, 0.3),
          ("ride_bell", "hat_closed", "hat_half", "hat_open", "crash"), ("rd", "rides"), head="diamond", kind="ride",
          traits=(*_METAL_TRAITS, "time"), dice=3, output=3),
    Voice("hat_open", "Hat open", "hat", "Hi-hat", "R", (46,), (-0.6, 0.2), ("hat_half", "hat_closed", "ride"),
          ("ohh", "open", "open_hat", "open_hihat"), mark="arcs", traits=(*_METAL_TRAITS, "time"), choked_by=_ON_HATS,
          dice=4, output=4),
    Voice("hat_half", "Hat half", "hat", "Hi-hat", "R", (46,), (-0.6, 0.2), ("hat_open", "hat_closed", "ride"),
          ("half_open", "half"), mark="arc", traits=(*_METAL_TRAITS, "time"), choked_by=_ON_HATS, dice=5, output=5),
    Voice("hat_closed", "Hat closed", "hat", "Hi-hat", "R", (42,), (-0.6, 0.2),
          ("hat_half", "hat_open", "ride", "ride_bell"), ("chh", "closed", "closed_hat", "closed_hihat"),
          traits=("tipped", "time", "first"), dice=6, output=6),
    Voice("tom_high", "Tom high", "toms", "Tom high", "R", (50, 48), (0.1, 0.3), ("tom_mid", "tom_low", "snare"),
          ("ht", "high_tom"), kind="tom", dice=7, output=7),
    Voice("tom_mid", "Tom mid", "toms", "Tom mid", "R", (47, 45), (0.5, 0.3), ("tom_high", "tom_low", "snare"),
          ("mt", "mid_tom"), kind="tom", traits=("first",), dice=8, output=8),
    Voice("cross_stick", "Cross-stick", "snare", "Snare", "L", (37,), (-0.1, 0.0), ("snare",),
          ("xstick", "x_stick", "sidestick", "side_stick", "crossstick", "rim_click"), head="bar", dice=9, output=9),
    Voice("snare", "Snare", "snare", "Snare", "L", (38, 40), (-0.1, 0.0), ("cross_stick", "tom_high", "tom_mid"),
          ("sd", "snares", "sn"), dice=10, output=10),
    Voice("tom_low", "Tom low", "toms", "Tom low", "R", (43,), (1.0, 0.0), ("tom_mid", "tom_high", "snare"),
          ("lt", "low_tom"), kind="tom", dice=11, output=11),
    Voice("kick", "Kick", "kick", "Kick", "K", (36, 35), None, ("hat_pedal",),
          ("bd", "bass", "bass_drum", "kicks"), head="box", dice=12, output=12),
    Voice("hat_pedal", "Hat pedal", "hat", "Hat pedal", "H", (44,), None, ("kick", "hat_closed"),
          ("pedal", "foot", "foot_hat", "chick"), mark="foot", traits=("rings",), dice=13, output=13),
    Voice("crash_left", "Crash left", "cymbals", "Crash left", "L", (57,), (-0.9, 0.5), (), ("left_crash",),
          head="diamond", kind="crash", traits=_METAL_TRAITS, dice=14),
    Voice("china", "China", "cymbals", "China", "R", (52,), (1.3, 0.6), (), head="diamond", kind="crash",
          traits=_METAL_TRAITS, dice=15),
    Voice("stack", "Stack", "cymbals", "China", "R", (30,), (0.1, 0.6), (), head="diamond", mark="dot",
          kind="crash", traits=_METAL_TRAITS, dice=16),
    Voice("tom_floor", "Tom floor", "toms", "Tom floor", "R", (41,), (1.2, -0.2), (), ("ft", "floor_tom", "floor"),
          kind="tom", dice=17),
    Voice("cowbell", "Cowbell", "perc", "Cowbell", "R", (56,), (0.2, 0.4), (), head="bar", counted_as="ride",
          traits=("first",), dice=18),
    Voice("shaker", "Shaker", "perc", "Cowbell", "R", (70, 82), (0.0, -0.1), (), head="bar", mark="dot",
          counted_as="hat_closed", dice=19),
    Voice("clap", "Clap", "perc", "Cowbell", "R", (39,), (0.0, -0.1), (), ("claps",), head="bar", counted_as="snare",
          dice=20),
)  # fmt: skip
HEARD_VOICES = tuple(sorted((v for v in VOICES if v.output is not None), key=lambda v: v.output or 0))
VOICE_NAMES = tuple(v.name for v in VOICES)
VOICE_INDEX = {name: i for i, name in enumerate(VOICE_NAMES)}
GROUP_MEMBERS = {
    group: tuple(v.name for v in VOICES if v.group == group) for group in dict.fromkeys(v.group for v in VOICES)
}
# What rings on by itself: stopped by hand or foot.
METAL = tuple(i for i, v in enumerate(VOICES) if v.group in ("cymbals", "hat"))
GROUPS = tuple(GROUP_MEMBERS)
HEARD_GROUPS = tuple(dict.fromkeys(v.group for v in HEARD_VOICES))


def voice(name: str) -> Voice:
    """The voice of that name; an unknown name is an InputError."""
    if name not in VOICE_INDEX:
        raise InputError(f"'{name}' is no voice of the kit. The voices are: {', '.join(VOICE_NAMES)}.")
    return VOICES[VOICE_INDEX[name]]


def with_trait(trait: str) -> tuple[str, ...]:
    """The voices that have one of TRAITS."""
    return tuple(v.name for v in VOICES if trait in v.traits)


def of_kind(*kinds: str) -> tuple[str, ...]:
    """The voices that are of one of some kinds."""
    return tuple(v.name for v in VOICES if v.kind in kinds)


def voices_of(name: str) -> tuple[str, ...]:
    """The voices a name stands for: a voice's own name means that voice alone, else it is a group's.

    Raises
    ------
    InputError
        Where it is neither.
    """
    if name in VOICE_INDEX:
        return (name,)
    found = GROUP_MEMBERS.get(name, ())
    if not found:
        raise InputError(f"'{name}' is neither a voice nor a group. The groups are: {', '.join(GROUPS)}.")
    return found


@dataclass(frozen=True)
class Stroke:
    """A way of striking. `voices` are those it exists on."""

    name: str
    label: str
    voices: tuple[str, ...]


_TIPPED = with_trait("tipped")
STROKES: tuple[Stroke, ...] = (
    Stroke("plain", "plain", VOICE_NAMES),
    Stroke("edge", "edge", ("snare",)),
    Stroke("rim", "rim shot", ("snare", "tom_high", "tom_mid", "tom_low", "tom_floor")),
    Stroke("buzz", "buzz", ("snare",)),
    Stroke("brush", "brush sweep", ("snare",)),
    Stroke("tip", "tip", _TIPPED),
    Stroke("shoulder", "shoulder", _TIPPED),
    Stroke("splash", "foot splash", ("hat_pedal",)),
)
STROKE_NAMES = tuple(s.name for s in STROKES)
STROKE_INDEX = {name: i for i, name in enumerate(STROKE_NAMES)}


def strokes_of(voice_name: str) -> tuple[Stroke, ...]:
    """The strokes that exist on a voice."""
    return tuple(s for s in STROKES if voice_name in s.voices)


@dataclass(frozen=True)
class Lane:
    """A line of the grid: voices that share a place on a drum chart. The first voice is what a new hit gets.

    number: what project files call it, which stays whatever lanes come between.
    """

    label: str
    number: int
    always: bool = False  # shown even when empty
    order: str = ""  # of its voices, the first is that of a new hit; where it is not that of the table

    @cached_property
    def voices(self) -> tuple[str, ...]:
        mine = [v.name for v in VOICES if v.lane == self.label]
        order = {name: i for i, name in enumerate(self.order.split())}
        return tuple(sorted(mine, key=lambda name: order.get(name, len(order))))


LANES: tuple[Lane, ...] = (
    Lane("Crash left", 9),
    Lane("Crash", 0, order="crash splash"),
    Lane("China", 10),
    Lane("Ride", 1, order="ride ride_bell"),
    Lane("Hi-hat", 2, always=True, order="hat_closed hat_half hat_open"),
    Lane("Tom high", 3),
    Lane("Tom mid", 4),
    Lane("Snare", 5, always=True, order="snare cross_stick"),
    Lane("Tom low", 6),
    Lane("Tom floor", 11),
    Lane("Cowbell", 12),
    Lane("Kick", 7, always=True),
    Lane("Hat pedal", 8),
)
LANE_OF_VOICE = {name: i for i, lane in enumerate(LANES) for name in lane.voices}
