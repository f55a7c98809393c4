"""What is struck around a stroke: grace notes ahead of it, a double in the space of a step, rolls up to a landing.

Leads of grace notes are the middle of what players do (15 to 40 ms for a flam); they are working assumptions, like the
softness of the strokes that lead.
"""

from dataclasses import dataclass

from ghoststep.music.errors import InputError


@dataclass(frozen=True)
class Ornament:
    """`leads_ms`: grace notes ahead of the stroke, nearest first. `strokes`: sticking of a roll without its landing.

    A roll has a length: its strokes fill it evenly and it lands at its end. `open_ended` rolls take as many strokes as
    their length has room for, two of each hand (`strokes` is then the cell that repeats).
    """

    name: str
    label: str
    leads_ms: tuple[float, ...] = ()
    strokes: str = ""
    open_ended: bool = False
    buzz: bool = False

    @property
    def rolls(self) -> bool:
        return bool(self.strokes)


ORNAMENTS: tuple[Ornament, ...] = (
    Ornament("flam", "flam", leads_ms=(28.0,)),
    Ornament("drag", "drag", leads_ms=(34.0, 66.0)),
    Ornament("ruff", "ruff", leads_ms=(32.0, 62.0, 92.0)),
    Ornament("double", "double", strokes="RR"),
    Ornament("roll5", "five-stroke roll", strokes="RRLL"),
    Ornament("roll6", "six-stroke roll", strokes="RLLRR"),
    Ornament("roll7", "seven-stroke roll", strokes="RRLLRR"),
    Ornament("roll", "double-stroke roll", strokes="RRLL", open_ended=True),
    Ornament("press", "buzz roll", strokes="RL", open_ended=True, buzz=True),
)
ORNAMENT_INDEX = {o.name: i for i, o in enumerate(ORNAMENTS)}
# Only what sticks play on drums takes an ornament.
ORNAMENTED_GROUPS = ("snare", "toms")


def ornament(name: str) -> Ornament:
    """The ornament of that name; an unknown name is an InputError."""
    if name not in ORNAMENT_INDEX:
        raise InputError(f"'{name}' is no ornament. The ornaments are: {', '.join(ORNAMENT_INDEX)}.")
    return ORNAMENTS[ORNAMENT_INDEX[name]]
