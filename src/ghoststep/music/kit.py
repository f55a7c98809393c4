"""The voices of the kit and the limbs of the player: one table each, everything else is read off it."""

from dataclasses import dataclass

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
    """One sound of the kit. `limb` is the usual one of a right-handed player; `choked_by` ends its sound."""

    name: str
    label: str
    group: str
    limb: str
    choked_by: tuple[str, ...] = ()


# In the order of a drum chart: cymbals high, kick and pedal low.
VOICES: tuple[Voice, ...] = (
    Voice("splash", "Splash", "cymbals", "R"),
    Voice("crash", "Crash", "cymbals", "R"),
    Voice("ride_bell", "Ride bell", "cymbals", "R"),
    Voice("ride", "Ride", "cymbals", "R"),
    Voice("hat_open", "Hat open", "hat", "R", ("hat_closed", "hat_half", "hat_open", "hat_pedal")),
    Voice("hat_half", "Hat half", "hat", "R", ("hat_closed", "hat_half", "hat_open", "hat_pedal")),
    Voice("hat_closed", "Hat closed", "hat", "R"),
    Voice("tom_high", "Tom high", "toms", "R"),
    Voice("tom_mid", "Tom mid", "toms", "R"),
    Voice("cross_stick", "Cross-stick", "snare", "L"),
    Voice("snare", "Snare", "snare", "L"),
    Voice("tom_low", "Tom low", "toms", "R"),
    Voice("kick", "Kick", "kick", "K"),
    Voice("hat_pedal", "Hat pedal", "hat", "H"),
    # What some kits have besides. Listening does not tell these: it hears them as the nearest of those above.
    Voice("crash_left", "Crash left", "cymbals", "L"),
    Voice("china", "China", "cymbals", "R"),
    Voice("stack", "Stack", "cymbals", "R"),
    Voice("tom_floor", "Tom floor", "toms", "R"),
    Voice("cowbell", "Cowbell", "perc", "R"),
    Voice("shaker", "Shaker", "perc", "R"),
    Voice("clap", "Clap", "perc", "R"),
)
HEARD_VOICES = VOICES[:14]  # in the order of the network's outputs
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


_TIPPED = ("hat_closed", "hat_half", "hat_open", "ride", "crash", "splash", "crash_left", "china", "stack")
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
    """A line of the grid: voices that share a place on a drum chart. The first voice is what a new hit gets."""

    label: str
    voices: tuple[str, ...]
    always: bool = False  # shown even when empty


LANES: tuple[Lane, ...] = (
    Lane("Crash left", ("crash_left",)),
    Lane("Crash", ("crash", "splash")),
    Lane("China", ("china", "stack")),
    Lane("Ride", ("ride", "ride_bell")),
    Lane("Hi-hat", ("hat_closed", "hat_half", "hat_open"), always=True),
    Lane("Tom high", ("tom_high",)),
    Lane("Tom mid", ("tom_mid",)),
    Lane("Snare", ("snare", "cross_stick"), always=True),
    Lane("Tom low", ("tom_low",)),
    Lane("Tom floor", ("tom_floor",)),
    Lane("Cowbell", ("cowbell", "shaker", "clap")),
    Lane("Kick", ("kick",), always=True),
    Lane("Hat pedal", ("hat_pedal",)),
)
LANE_OF_VOICE = {name: i for i, lane in enumerate(LANES) for name in lane.voices}
