"""The sticking exercises, read from their two tables."""

from dataclasses import dataclass
from pathlib import Path

from ghoststep.files.textgrid import parse_grid
from ghoststep.judge.names import Moment
from ghoststep.music.groove import Groove
from ghoststep.music.kit import OTHER_HAND
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit, Pattern, hit
from ghoststep.music.time import TempoMap, step_ticks

HERE = Path(__file__).parent / "data"


@dataclass(frozen=True)
class Exercise:
    """A groove and the limbs its hits are given, in the order of the pattern."""

    name: str
    groove: Groove
    limbs: tuple[str, ...]


def _rudiment(line: str, mirrored: bool = False, finer: int = 1) -> Exercise:
    name, bpm, steps, text = (part.strip() for part in line.split("|"))
    step = step_ticks(int(steps)) // finer
    hits: list[Hit] = []
    limbs, at, graces, buzz = [], 0, "", False
    for c in text.replace(" ", ""):
        if c in "'\"":
            graces = {"'": "flam", '"': "drag"}[c]
        elif c == "z":
            buzz = True
        else:
            if c != "-":
                velocity = 108 if c.isupper() else 72
                extra = {"ornament": graces} if graces else {}
                hits.append(hit(at, "snare", velocity, stroke="buzz" if buzz else "plain", **extra))
                limbs.append(OTHER_HAND[c.upper()] if mirrored else c.upper())
            at, graces, buzz = at + step, "", False
    pattern = Pattern(tuple(hits), Meter(4, 4), bars=-(-at // 80640))
    return Exercise(name, Groove(pattern, tempo=TempoMap.constant(float(bpm))), tuple(limbs))


def rudiments(mirrored: bool = False, finer: int = 1) -> list[Exercise]:
    """The forty, led by the right hand or mirrored, as they are or on a grid so many times as fine."""
    lines = (HERE / "exercises.txt").read_text("utf-8").splitlines()
    return [_rudiment(line, mirrored, finer) for line in lines if line.strip() and not line.startswith("#")]


def grooves() -> list[Exercise]:
    """Common grooves with their limbs."""
    out = []
    for block in (HERE / "grooves.txt").read_text("utf-8").split("== ")[1:]:
        lines = block.splitlines()
        groove = parse_grid("\n".join(x for x in lines[1:] if not x.startswith("limbs")))
        given = {x.split()[1]: list(x.split()[2]) for x in lines[1:] if x.startswith("limbs")}
        usual = {"kick": "K", "hat_pedal": "H"}
        limbs = tuple(usual.get(h.voice) or given[h.voice].pop(0) for h in groove.pattern.hits)
        assert not any(given.values()), f"{lines[0]}: more limbs than strokes"
        out.append(Exercise(lines[0], groove, limbs))
    return out


def moments(exercise: Exercise) -> list[Moment]:
    """The line of an exercise played by its limbs."""
    rows: dict[int, tuple[str, int, bool, bool]] = {}
    graces = {"": 0, "flam": 1, "drag": 2, "ruff": 3}
    for h, limb in zip(exercise.groove.pattern.hits, exercise.limbs, strict=True):
        letters, number, accent, _ = rows.get(h.position_ticks, ("", 0, False, False))
        rows[h.position_ticks] = (
            letters + limb,
            number + graces[h.ornament],
            accent or h.velocity > 95,
            h.stroke == "buzz",
        )
    return [Moment(t, *rows[t]) for t in sorted(rows)]
