"""The text grid that people paste: one line a lane, one letter a step.

    tempo 96
    meter 4/4
    grid 16
    snare       ----X--o-o--X--o | ----X--o-o--X---

`X` accent, `x` normal, `o` ghost, `-` or `.` rest. A lane may keep its own grid: `hat_closed/12 ...`.
"""

import re
from dataclasses import dataclass, field
from pathlib import Path

from ghoststep.files.safe import read_bytes, write_text
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel
from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.time import TempoMap, checked_tempo_bpm, step_ticks
from ghoststep.music.touch import ROLE_VELOCITY, ROLES

GRID_SUFFIXES = (".grid.txt", ".txt")
MAX_BYTES = 2_000_000
_ROLE_OF_LETTER = {spec.grid_letter: spec.role for spec in ROLES}
_LETTER_OF_ROLE = {spec.role: spec.grid_letter for spec in ROLES}
_GRIDS_TO_TRY = (8, 16, 12, 24, 32, 48, 64, 96, 20, 28)


def read_grid(path: Path) -> Groove:
    """Read a text grid file; errors name line, lane and bar."""
    data = read_bytes(path, limit_bytes=MAX_BYTES)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError(f"{path.name} is not a text file in UTF-8.") from error
    return parse_grid(text, path.name)


@dataclass
class _Reading:
    """What has been read so far."""

    tempo_bpm: float = 120.0
    meter: Meter = field(default_factory=Meter)
    grid: int = 16
    hits: list[Hit] = field(default_factory=list)
    lane_grids: dict[str, int] = field(default_factory=dict)
    bars: dict[str, int] = field(default_factory=dict)


def parse_grid(text: str, source: str = "the text grid") -> Groove:
    """Read a text grid.

    Raises
    ------
    InputError
        Naming source, line, and lane and bar where it is about one.
    """
    reading = _Reading()
    for number, raw in enumerate(text.splitlines(), 1):
        line = raw.split("#", 1)[0].strip()
        if line:
            try:
                _line(line, reading)
            except InputError as error:
                raise InputError(f"{source}, line {number}: {error}") from error
    if not reading.bars:
        raise InputError(f"{source} holds no lane. A lane is a voice and its steps, like: kick  X---x---X---x---")
    pattern = Pattern(
        tuple(reading.hits), reading.meter, max(reading.bars.values()), reading.grid, tuple(reading.lane_grids.items())
    )
    return Groove(pattern, Feel(), TempoMap.constant(reading.tempo_bpm))


def _line(line: str, reading: _Reading) -> None:
    word, _, rest = line.partition(" ")
    rest = rest.strip()
    if word in ("tempo", "meter", "grid"):
        if reading.bars:
            raise InputError(f"'{word}' has to stand before the first lane.")
        _setting(word, rest, reading)
        return
    name, _, own = word.partition("/")
    voice(name)
    if name in reading.bars:
        raise InputError(f"the lane {name} stands here a second time; write its bars in one line.")
    grid = reading.grid
    if own:
        grid = _whole_number(own, "a lane's own grid")
        reading.lane_grids[name] = grid
    step_ticks(grid)
    _lane(name, grid, rest, reading)


def _setting(word: str, rest: str, reading: _Reading) -> None:
    if word == "tempo":
        try:
            reading.tempo_bpm = checked_tempo_bpm(float(rest))
        except ValueError as error:
            if isinstance(error, InputError):
                raise
            raise InputError(f"'{rest}' is no tempo: write it like 'tempo 96'.") from error
    elif word == "meter":
        reading.meter = Meter.parse(rest)
    else:
        reading.grid = _whole_number(rest, "a grid")
        step_ticks(reading.grid)


def _whole_number(text: str, what: str) -> int:
    if not re.fullmatch(r"\d{1,5}", text) or not int(text):
        raise InputError(f"'{text}' is not {what}: give the notes to a whole, such as 16, 32 or 12.")
    return int(text)


def _lane(name: str, grid: int, text: str, reading: _Reading) -> None:
    step = step_ticks(grid)
    bar_ticks = reading.meter.bar_ticks
    if bar_ticks % step:
        raise InputError(f"a grid of {grid} does not divide a bar of {reading.meter} into whole steps (lane {name}).")
    steps = bar_ticks // step
    bars = re.sub(r"\s", "", text).strip("|").split("|")
    for bar, letters in enumerate(bars, 1):
        if len(letters) != steps:
            raise InputError(
                f"lane {name}, bar {bar} has {len(letters)} steps, but a bar of {reading.meter} has {steps}."
            )
        for i, letter in enumerate(letters):
            if letter in "-.":
                continue
            role = _ROLE_OF_LETTER.get(letter)
            if role is None:
                raise InputError(f"lane {name}, bar {bar}, step {i + 1}: '{letter}' means nothing; use X, x, o, - or .")
            reading.hits.append(Hit((bar - 1) * bar_ticks + i * step, name, ROLE_VELOCITY[role], role))
    reading.bars[name] = len(bars)


def grid_text(groove: Groove) -> str:
    """The groove as a text grid. What a grid cannot say (feel, own velocities, graces) is left out, and said so."""
    pattern = groove.pattern
    lines = [f"tempo {groove.tempo.main_bpm:.6g}", f"meter {pattern.meter.full_name}", f"grid {pattern.grid}"]
    width = max((len(n) for n in pattern.voices), default=4) + 4
    unsaid = []
    if any(h.grace for h in pattern.hits):
        unsaid.append("grace notes")
    if any(h.offset_ms for h in pattern.hits) or groove.feel != Feel():
        unsaid.append("timing")
    if any(h.velocity != ROLE_VELOCITY[h.role] for h in pattern.hits):
        unsaid.append("exact velocities")
    if any(h.ornament or h.length_ticks or h.stroke != "plain" for h in pattern.hits):
        unsaid.append("strokes and ornaments")
    if unsaid:
        lines.insert(0, f"# not written here: {', '.join(unsaid)}")
    for name in pattern.voices or ("kick",):
        hits = [h for h in pattern.hits if h.voice == name and not h.grace]
        grid = _grid_for(hits, pattern, name)
        label = name if grid == pattern.grid else f"{name}/{grid}"
        lines.append(f"{label:<{width}}{_lane_text(hits, pattern, grid)}")
    return "\n".join(lines) + "\n"


def _grid_for(hits: list[Hit], pattern: Pattern, name: str) -> int:
    """The lane's grid where all hits fall on it, else the coarsest that holds them, else the finest we write."""
    bar = pattern.meter.bar_ticks
    tried = [pattern.grid_of(name), *_GRIDS_TO_TRY]
    fitting = [g for g in tried if bar % step_ticks(g) == 0]
    for grid in fitting:
        if all(h.position_ticks % step_ticks(grid) == 0 for h in hits):
            return grid
    return max(fitting, default=64)


def _lane_text(hits: list[Hit], pattern: Pattern, grid: int) -> str:
    step = step_ticks(grid)
    letters = ["-"] * (pattern.length_ticks // step)
    for h in hits:
        letters[min(round(h.position_ticks / step), len(letters) - 1)] = _LETTER_OF_ROLE[h.role]
    steps = pattern.meter.bar_ticks // step
    return " | ".join("".join(letters[i : i + steps]) for i in range(0, len(letters), steps))


def write_grid(path: Path, groove: Groove) -> None:
    write_text(path, grid_text(groove))
