"""Make the seven feels that ship, each from figures within published ranges (docs/feel-format.md names the sources)."""

from dataclasses import dataclass, field
from pathlib import Path

from ghoststep.feel.swing_advice import usual_swing_ratio
from ghoststep.files.feel_file import write_feel
from ghoststep.files.feels import shipped_folder
from ghoststep.files.places import FEEL_SUFFIX
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.player import Spacing, SpotFeel, Touch, Wander
from ghoststep.music.touch import Role

BAR, EIGHTH, SIXTEENTH = 80640, 10080, 5040
_TIMEKEEPERS = ("hat_closed", "ride")
_FLAM = Spacing(28.0, 30.0, 4.0)  # a flam lies 15 to 40 ms ahead


@dataclass(frozen=True)
class Shape:
    """How a hand shapes its accents: velocities on beats, on the eighths between, on the sixteenths between these."""

    beat: float = 82.0
    off: float = 62.0
    between: float = 50.0
    backbeats: tuple[float, float] = (112.0, 114.0)
    ghost: float = 30.0
    kick: float = 92.0
    late_four_ms: float = 0.0  # the backbeat on 4 later than that on 2
    late_off_ms: float = 0.0  # the off-beats of the hand that keeps time


@dataclass(frozen=True)
class Made:
    name: str
    about: str
    swing: Swing
    lean_ms: dict[str, float]
    loose_ms: float
    wander: Wander
    shape: Shape = field(default_factory=Shape)


FEELS = (
    Made(
        "Tight studio", "Straight and close to the click, level hands, a firm backbeat.",
        Swing(16, 0.5), {"snare": 2.0, "hat": -1.0}, 3.5,
        Wander(exponent=0.8, shared=0.7, together=0.8, softer=0.25, velocity=3.0),
    ),
    Made(
        "Laid-back", "The snare well behind, later still on 4; the hats a little.",
        Swing(16, 0.52), {"snare": 14.0, "cross_stick": 14.0, "hat": 5.0, "ride": 5.0, "kick": 2.0}, 5.5,
        Wander(exponent=1.0, shared=0.65, together=0.85, softer=0.35, velocity=4.5),
        Shape(beat=78, off=60, backbeats=(106.0, 110.0), late_four_ms=4.0),
    ),
    Made(
        "Pushing", "Ahead of the click, the hats most; it gains into the end of four bars and settles.",
        Swing(16, 0.5), {"hat": -9.0, "ride": -9.0, "snare": -6.0, "kick": -3.0}, 5.0,
        Wander(exponent=0.9, shared=0.7, together=0.85, softer=0.3, velocity=4.5, tempo_percent=0.3, push_percent=1.2),
        Shape(beat=90, off=72, backbeats=(116.0, 118.0), late_off_ms=-2.0),
    ),
    Made(
        "Loose bar band", "Wide and warm: much shared drift, a tempo that breathes, rough hands.",
        Swing(16, 0.53), {"snare": 7.0, "hat": -3.0, "kick": -2.0}, 12.0,
        Wander(exponent=1.1, shared=0.6, together=0.9, softer=0.5, velocity=8.0, tempo_percent=0.8, push_percent=1.5),
        Shape(beat=92, off=70, backbeats=(114.0, 118.0), ghost=36),
    ),
    Made(
        "In-between sixteenths", "Neither straight nor shuffled; ghosts soft and late.",
        Swing(16, 0.57), {"snare": 5.0, "hat": -2.0}, 5.0,
        Wander(exponent=1.0, shared=0.65, together=0.85, softer=0.45, velocity=5.0),
        Shape(beat=76, off=58, between=46, ghost=26),
    ),
    Made(
        "Slow triplets", "Broad triplet eighths, heavy on the beat, the backbeat late.",
        Swing(8, 2 / 3), {"snare": 10.0, "ride": -2.0, "hat": 2.0}, 7.0,
        Wander(exponent=1.0, shared=0.65, together=0.85, softer=0.4, velocity=5.5),
        Shape(beat=88, off=58, backbeats=(110.0, 113.0), late_four_ms=3.0),
    ),
    Made(
        "Brisk ride", "A ride a little ahead, its swing as usual at 220 BPM, feathered kick.",
        Swing(8, round(usual_swing_ratio(220), 3)), {"ride": -5.0, "hat_pedal": -2.0, "snare": 3.0}, 5.0,
        Wander(exponent=0.9, shared=0.7, together=0.8, softer=0.35, velocity=5.0, tempo_percent=0.25),
        Shape(beat=80, off=66, backbeats=(86.0, 90.0), ghost=24, kick=48),
    ),
)  # fmt: skip


def feel_of(made: Made) -> Feel:
    """The feel with the spots that its shape means, in a bar of 4/4."""
    shape, spots = made.shape, []
    for name in _TIMEKEEPERS:
        for at in range(0, BAR, SIXTEENTH):
            off = at % (2 * EIGHTH) == EIGHTH
            level = shape.off if off else shape.between if at % EIGHTH else shape.beat
            late = shape.late_off_ms if off else 0.0
            spots.append(SpotFeel(name, BAR, at, late, (min(level, 40.0), level, min(level + 22, 118.0))))
    for at, level, late in ((20160, shape.backbeats[0], 0.0), (60480, shape.backbeats[1], shape.late_four_ms)):
        spots.append(SpotFeel("snare", BAR, at, late, (shape.ghost, level - 26, level)))
    levels = (
        ("snare", Role.GHOST, shape.ghost), ("snare", Role.NORMAL, 74.0), ("snare", Role.ACCENT, shape.backbeats[0]),
        ("kick", Role.NORMAL, shape.kick), ("kick", Role.ACCENT, min(shape.kick + 14, 118.0)),
        ("hat_closed", Role.NORMAL, shape.off), ("ride", Role.NORMAL, shape.off), ("hat_open", Role.NORMAL, shape.beat),
    )  # fmt: skip
    touch = Touch(levels, second=0.9, weaker=0.95)
    return Feel(
        made.swing, made.lean_ms, made.loose_ms, spots=tuple(spots), wander=made.wander, touch=touch, spacing=_FLAM
    )


def file_name(name: str) -> str:
    return name.lower().replace(" ", "-") + FEEL_SUFFIX


def make(folder: Path) -> None:
    for made in FEELS:
        write_feel(folder / file_name(made.name), feel_of(made), made.name, made.about)


if __name__ == "__main__":
    shipped_folder().mkdir(parents=True, exist_ok=True)
    make(shipped_folder())
