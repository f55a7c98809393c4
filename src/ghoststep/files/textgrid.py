"""The text grid that people paste: one line a lane, one letter a step, and lines for what a letter cannot say.

    tempo 96
    meter 4/4
    grid 16
    bar 3 meter 7/8 2+2+3
    swing 16 0.57
    snare       ----X--o-o--X--o | ----X--o-o--X---
    hit kick bar 1 3.875 velocity 40

`X` accent, `x` normal, `o` ghost, `-` or `.` rest. A lane may keep its own grid: `hat_closed/12 ...`. What is written
says all that the groove holds but where its hits were heard (see `textgrid_out`); reading it gives the same groove.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from itertools import pairwise
from pathlib import Path

from ghoststep.files.safe import read_bytes, shown
from ghoststep.files.textgrid_feel import FEEL_LINES, read_number
from ghoststep.files.textgrid_hits import HitLine, PlayedLine, read_hit_line, read_played_line
from ghoststep.files.textgrid_signs import grid_of_bar
from ghoststep.files.textgrid_song import is_song, parse_song
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel
from ghoststep.music.form import Form
from ghoststep.music.frame import LAST_BAR, Bars
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANE_OF_VOICE, voice, voices_of
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import MAX_BARS, Hit, Pattern
from ghoststep.music.rules import GridPassage, Rules
from ghoststep.music.spots import parse_spot
from ghoststep.music.time import TICKS_PER_QUARTER, TempoMap, checked_tempo_bpm, step_ticks
from ghoststep.music.touch import ROLES, Role

MAX_BYTES = 2_000_000
_ROLE_OF_LETTER = {spec.grid_letter: spec.role for spec in ROLES}


def read_grid(path: Path) -> Groove:
    """Read a text grid file, a song's form unrolled; errors name line, lane and bar."""
    return read_song(path)[1]


def read_song(path: Path) -> tuple[Form | None, Groove]:
    """Read a text grid file, with its form where it has one; errors name line, lane and bar.

    Raises
    ------
    InputError
        Where it cannot be read.
    """
    data = read_bytes(path, limit_bytes=MAX_BYTES)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError(f"{shown(path)} is not a text file in UTF-8.") from error
    return parse_text(text, shown(path))


@dataclass
class _Lane:
    """A lane as it stands there, read once all that it hangs on is known."""

    line: int
    name: str
    own_grid: int
    text: str


@dataclass
class _TempoLine:
    """A tempo from a bar (and place in it) on, or a ramp over so many bars or quarters."""

    line: int
    bar: int
    spot: str
    bpm: float
    to_bpm: float | None = None
    over: str = ""


@dataclass
class _Reading:
    """What has been read so far."""

    name: str = ""
    tempo_bpm: float = 120.0
    grid: int = 16
    bars: int = 0
    meters: dict[int, Meter] = field(default_factory=lambda: {1: Meter()})
    grids: dict[int, int] = field(default_factory=dict)  # from a bar on
    tempi: list[_TempoLine] = field(default_factory=list)
    lanes: dict[str, _Lane] = field(default_factory=dict)
    lane_grids: dict[str, int] = field(default_factory=dict)
    passages: list[tuple[int, str]] = field(default_factory=list)
    hits: list[tuple[int, str]] = field(default_factory=list)
    played: list[tuple[int, str]] = field(default_factory=list)
    feel: Feel = field(default_factory=Feel)
    levels: dict[tuple[str, Role], int] = field(default_factory=dict)
    cycles: dict[str, str] = field(default_factory=dict)
    restarts: dict[str, int] = field(default_factory=dict)
    own_rounds: list[tuple[str, int]] = field(default_factory=list)
    linear: bool = False
    ring_over: bool = True


def parse_text(text: str, source: str = "the text grid") -> tuple[Form | None, Groove]:
    """A text grid's form, where it has parts, and its groove."""
    if is_song(text):
        return parse_song(text, source, parse_grid)
    return None, parse_grid(text, source)


def parse_grid(text: str, source: str = "the text grid") -> Groove:
    """Read a text grid; of a song its form unrolled.

    Raises
    ------
    InputError
        Naming source, line, and lane and bar where it is about one.
    """
    if is_song(text):
        return parse_song(text, source, parse_grid)[1]
    reading = _Reading()

    def at(number: int, work: Callable[[], None]) -> None:
        try:
            work()
        except InputError as error:
            raise InputError(f"{source}, line {number}: {error}") from error

    for number, raw in enumerate(text.splitlines(), 1):
        line = raw.split("#", 1)[0].strip()
        if line:
            at(number, lambda line=line, number=number: _line(line, number, reading))  # type: ignore[misc]
    if not reading.lanes and not reading.hits and not reading.bars:
        raise InputError(f"{source} holds no lane. A lane is a voice and its steps, like: kick  X---x---X---x---")
    return _groove(reading, at, source)


At = Callable[[int, Callable[[], None]], None]


def _groove(reading: _Reading, at: At, source: str) -> Groove:
    """Put together what was read, line by line where a line can be at fault."""
    frame = Bars.of(reading.meters)
    hits: list[Hit] = []
    rules = _rules(reading, source)
    counts = [reading.bars]
    for lane in reading.lanes.values():
        at(lane.line, lambda lane=lane: counts.append(_lane_hits(lane, reading, frame, rules, hits)))  # type: ignore[misc]
    lines: list[HitLine] = []
    for number, text in reading.hits:
        at(number, lambda text=text: lines.append(read_hit_line(text, frame, reading.grid)))  # type: ignore[misc]
    played: list[PlayedLine] = []
    for number, text in reading.played:
        at(number, lambda text=text: played.append(read_played_line(text, frame, reading.grid)))  # type: ignore[misc]
    bars = max([*counts, *(h.spot.bar for h in lines), 1])
    if bars > MAX_BARS:
        raise InputError(f"{source} has {bars} bars; at most {MAX_BARS} can be read.")
    for (number, _), row in zip(reading.played, played, strict=True):
        at(number, lambda row=row: row.lay_on(hits, frame))  # type: ignore[misc]
    for (number, _), line in zip(reading.hits, lines, strict=True):
        at(number, lambda line=line: line.lay_on(hits, frame, rules))  # type: ignore[misc]
    passages = _grid_lines(reading, frame, bars)
    for number, text in reading.passages:
        at(number, lambda text=text: passages.append(_passage(text, frame)))  # type: ignore[misc]
    tempo: list[TempoMap] = []
    number = reading.tempi[-1].line if reading.tempi else 0
    at(number, lambda: tempo.append(_tempo(reading, frame)))
    pattern = Pattern(
        tuple(hits), frame.first, bars, reading.grid, tuple(sorted(reading.lane_grids.items())),
        tuple(sorted(passages, key=lambda p: (p.start_ticks, p.voices))), rules, frame.changes,
    )  # fmt: skip
    return Groove(pattern, reading.feel, tempo[0], reading.name)


# -- lines ------------------------------------------------------------------------------------------------------


def _line(line: str, number: int, reading: _Reading) -> None:
    word, _, rest = line.partition(" ")
    rest = rest.strip()
    if word in _SETTINGS:
        if word in ("tempo", "meter", "grid") and reading.lanes:
            raise InputError(f"'{word}' has to stand before the first lane.")
        _SETTINGS[word](rest, reading)
    elif word in FEEL_LINES:
        reading.feel = FEEL_LINES[word](rest, reading.feel)
    elif word == "bar":
        _bar_line(rest, number, reading)
    elif word == "hit":
        reading.hits.append((number, rest))
    elif word == "played":
        reading.played.append((number, rest))
    elif word == "passage":
        reading.passages.append((number, rest))
    else:
        _lane_line(word, rest, number, reading)


def _lane_line(word: str, rest: str, number: int, reading: _Reading) -> None:
    name, _, own = word.partition("/")
    voice(name)
    if name in reading.lanes:
        raise InputError(f"the lane {name} stands here a second time; write its bars in one line.")
    grid = 0
    if own:
        grid = _whole_number(own, "a lane's own grid")
        step_ticks(grid)
        reading.lane_grids[name] = grid
    reading.lanes[name] = _Lane(number, name, grid, rest)


def _whole_number(text: str, what: str) -> int:
    if not re.fullmatch(r"\d{1,5}", text) or not int(text):
        raise InputError(f"'{text}' is not {what}: give the notes to a whole, such as 16, 32 or 12.")
    return int(text)


def _set_tempo(rest: str, reading: _Reading) -> None:
    reading.tempo_bpm = checked_tempo_bpm(read_number(rest, "a tempo: write it like 'tempo 96'"))


def _set_meter(rest: str, reading: _Reading) -> None:
    reading.meters[1] = Meter.parse(rest)


def _set_grid(rest: str, reading: _Reading) -> None:
    reading.grid = _whole_number(rest, "a grid")
    step_ticks(reading.grid)


def _set_bars(rest: str, reading: _Reading) -> None:
    if not re.fullmatch(r"\d{1,5}", rest) or not 1 <= int(rest) <= MAX_BARS:
        raise InputError(f"'{rest}' is no number of bars: give 1 to {MAX_BARS}.")
    reading.bars = int(rest)


def _set_levels(rest: str, reading: _Reading) -> None:
    name, _, told = rest.partition(" ")
    voices = voices_of(name)
    for part in told.split(","):
        words = part.split()
        if len(words) != 2 or words[0] not in [r.value for r in Role] or not re.fullmatch(r"\d{1,3}", words[1]):
            raise InputError(
                f"'{part.strip()}' is no level: write it like 'levels snare ghost 30, normal 50, accent 80'."
            )
        if not 1 <= int(words[1]) <= 127:
            raise InputError(f"A level of {words[1]} is outside 1 to 127.")
        reading.levels.update({(v, Role(words[0])): int(words[1]) for v in voices})


def _set_cycle(rest: str, reading: _Reading) -> None:
    words = rest.split()
    if "own" in words[2:]:
        voice(words[0])
        at = words.index("own", 2)
        reading.own_rounds += [(words[0], _whole_number(w, "the number of a round")) for w in words[at + 1 :]]
        words = words[:at]
    if len(words) > 2 and words[-2] == "every":
        voice(words[0])
        reading.restarts[words[0]] = _whole_number(words[-1], "a number of bars")
        words = words[:-2]
    if len(words) not in (2, 3):
        raise InputError(f"'{rest}' is no lane that repeats: write it like 'cycle hat_pedal 3', in steps of its grid.")
    voice(words[0])
    reading.cycles[words[0]] = " ".join(words[1:])


def _set_switch(field_name: str, words: dict[str, bool]) -> Callable[[str, _Reading], None]:
    def set_it(rest: str, reading: _Reading) -> None:
        if rest not in words:
            raise InputError(f"'{rest}' means nothing here: write {' or '.join(words)}.")
        setattr(reading, field_name, words[rest])

    return set_it


def _set_name(rest: str, reading: _Reading) -> None:
    reading.name = rest[1:-1] if len(rest) >= 2 and rest[0] == rest[-1] == '"' else rest


def _set_lane_grid(rest: str, reading: _Reading) -> None:
    name, _, grid = rest.partition(" ")
    voice(name)
    reading.lane_grids[name] = _whole_number(grid.strip(), "a lane's own grid")
    step_ticks(reading.lane_grids[name])


_SETTINGS: dict[str, Callable[[str, _Reading], None]] = {
    "name": _set_name, "tempo": _set_tempo, "meter": _set_meter, "grid": _set_grid, "bars": _set_bars,
    "levels": _set_levels, "cycle": _set_cycle, "lane_grid": _set_lane_grid,
    "linear": _set_switch("linear", {"on": True, "off": False}),
    "ring": _set_switch("ring_over", {"over": True, "choke": False}),
}  # fmt: skip


def _bar_line(rest: str, number: int, reading: _Reading) -> None:
    """ "5 tempo 120", "7 tempo 96 -> 120 over 2", "3 meter 7/8 2+2+3", "2 grid 12", "5 3.5 tempo 120"."""
    found = re.fullmatch(r"(\d{1,7})\s+(.*?)\s*\b(tempo|meter|grid)\s+(.+)", rest)
    if not found or not 1 <= int(found[1]) <= LAST_BAR:
        raise InputError(f"'bar {rest}' says nothing: write it like 'bar 5 tempo 120' or 'bar 3 meter 7/8 2+2+3'.")
    bar, spot, what, value = int(found[1]), found[2], found[3], found[4].strip()
    if reading.lanes:
        raise InputError("'bar' lines have to stand before the first lane.")
    if what == "tempo":
        reading.tempi.append(_tempo_line(bar, spot, value, number))
    elif spot:
        raise InputError(f"'{spot}' says nothing here: a {what} holds from a bar line on.")
    elif what == "meter":
        reading.meters[bar] = Meter.parse(value)
    else:
        reading.grids[bar] = _whole_number(value, "a grid")
        step_ticks(reading.grids[bar])


_TEMPO = re.compile(r"(\S+)(?:\s*->\s*(\S+)\s+over\s+(\d{1,5}|\d{1,9}(?:/\d{1,9})?\s+quarters?))?")


def _tempo_line(bar: int, spot: str, value: str, number: int) -> _TempoLine:
    found = _TEMPO.fullmatch(value)
    if not found:
        raise InputError(f"'{value}' is no tempo: write it like 'bar 5 tempo 120' or 'bar 7 tempo 96 -> 120 over 2'.")
    bpm = checked_tempo_bpm(read_number(found[1], "a tempo"))
    to = checked_tempo_bpm(read_number(found[2], "a tempo")) if found[2] else None
    return _TempoLine(number, bar, spot, bpm, to, found[3] or "")


# -- putting together -------------------------------------------------------------------------------------------


def _tempo(reading: _Reading, frame: Bars) -> TempoMap:
    parts: list[tuple[int, float, float]] = [(0, reading.tempo_bpm, reading.tempo_bpm)]
    for line in reading.tempi:
        at = frame.start_of(line.bar)
        if line.spot:
            at = frame.ticks_of(parse_spot(line.spot, frame, reading.grid, bar=line.bar))
        if line.to_bpm is None:
            parts.append((at, line.bpm, line.bpm))
            continue
        if "quarter" in line.over:
            over, _, under = line.over.split()[0].partition("/")
            if under and not int(under):
                raise InputError(f"'over {line.over}' is no length: nothing is divided by 0.")
            end = at + round(int(over) * TICKS_PER_QUARTER / int(under or 1))
        else:
            spot = frame.spot_at(at)
            end = frame.start_of(spot.bar + int(line.over)) + (spot.tick if line.spot else 0)
        if end <= at:
            raise InputError("A ramp of the tempo needs some time: 'over 1' or more.")
        parts += [(at, line.bpm, line.to_bpm), (end, line.to_bpm, line.to_bpm)]
    ramps = [(a, b) for (a, bpm, to), (b, _, _) in pairwise(parts) if bpm != to]
    if any(a < tick < b for a, b in ramps for tick, _, _ in parts):
        raise InputError("A tempo stands inside a ramp to another: end the ramp there.")
    # Of two that stand at one place the one that is said there holds, and not where a ramp arrives.
    return TempoMap.of(sorted(parts, key=lambda part: part[0]))


def _rules(reading: _Reading, source: str) -> Rules:
    levels = tuple(sorted((name, role, value) for (name, role), value in reading.levels.items()))
    cycles = []
    for name, text in reading.cycles.items():
        steps, _, ticks = text.partition(" ")
        if ticks == "ticks":
            length = int(steps) if steps.isdecimal() else 0
        else:
            grid = reading.lane_grids.get(name, reading.grid)
            length = (int(steps) if steps.isdecimal() else 0) * step_ticks(grid)
        if not length:
            raise InputError(f"{source}: '{name} {text}' is no lane that repeats: give a whole number of steps.")
        cycles.append((LANE_OF_VOICE[name], length))
    restarts = tuple(sorted((LANE_OF_VOICE[name], bars) for name, bars in reading.restarts.items()))
    own = tuple(sorted((LANE_OF_VOICE[name], number) for name, number in reading.own_rounds))
    return Rules(levels, tuple(sorted(cycles)), reading.linear, reading.ring_over, restarts, own)


def _grid_lines(reading: _Reading, frame: Bars, bars: int) -> list[GridPassage]:
    out: list[GridPassage] = []
    edges = sorted(reading.grids)
    for i, bar in enumerate(edges):
        end = min(edges[i + 1] if i + 1 < len(edges) else bars + 1, bars + 1)
        if reading.grids[bar] != reading.grid and bar < end:
            out.append(GridPassage(frame.start_of(bar), frame.start_of(end), reading.grids[bar]))
    return out


def _passage(text: str, frame: Bars) -> GridPassage:
    """ "12 from bar 1 2 to bar 1 3", "12 of hat_closed, hat_open from ..."."""
    found = re.fullmatch(r"(\d{1,5})(?:\s+of\s+(.+?))?\s+from\s+(bar\s.+?)\s+to\s+(bar\s.+)", text)
    if not found:
        raise InputError(f"'passage {text}' says nothing: write it like 'passage 12 from bar 1 2 to bar 1 3'.")
    voices = tuple(sorted(v.strip() for v in found[2].split(","))) if found[2] else ()
    start, end = (frame.ticks_of(parse_spot(found[i], frame)) for i in (3, 4))
    return GridPassage(start, end, _whole_number(found[1], "a grid"), voices)


def _lane_hits(lane: _Lane, reading: _Reading, frame: Bars, rules: Rules, hits: list[Hit]) -> int:
    """The hits of a lane's letters, added to the row; how many bars it has."""
    bars = re.sub(r"\s", "", lane.text).strip("|").split("|")
    for bar, letters in enumerate(bars, 1):
        grid = lane.own_grid or grid_of_bar(reading.grids, reading.grid, bar)
        step, meter = step_ticks(grid), frame.meter_of(bar)
        if meter.bar_ticks % step:
            raise InputError(
                f"a grid of {grid} does not divide a bar of {meter} into whole steps (lane {lane.name}, bar {bar})."
            )
        steps = meter.bar_ticks // step
        if len(letters) != steps:
            raise InputError(f"lane {lane.name}, bar {bar} has {len(letters)} steps, but a bar of {meter} has {steps}.")
        for i, letter in enumerate(letters):
            if letter in "-.":
                continue
            role = _ROLE_OF_LETTER.get(letter)
            if role is None:
                raise InputError(
                    f"lane {lane.name}, bar {bar}, step {i + 1}: '{letter}' means nothing; use X, x, o, - or ."
                )
            level = rules.level_of(lane.name, role)
            hits.append(Hit(frame.start_of(bar) + i * step, lane.name, level, role))
    return len(bars)
