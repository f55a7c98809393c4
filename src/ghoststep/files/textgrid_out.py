"""Text grids out: letters for what lies on the steps, lines for everything else."""

from collections.abc import Iterable
from fractions import Fraction
from pathlib import Path

from ghoststep.files.safe import write_text
from ghoststep.files.textgrid_feel import feel_lines, figure
from ghoststep.files.textgrid_hits import hit_line, played_lines
from ghoststep.files.textgrid_signs import LETTER_OF_ROLE, grid_of_bar
from ghoststep.music.frame import Bars
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANES
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.rules import GridPassage
from ghoststep.music.spots import exact_name
from ghoststep.music.time import TICKS_PER_QUARTER, TempoMap, step_ticks
from ghoststep.music.touch import Role


def write_grid(path: Path, groove: Groove) -> None:
    """Write a groove as a text grid; an InputError where it cannot be written."""
    write_text(path, grid_text(groove))


def grid_text(groove: Groove) -> str:
    """The groove as a text grid that says all of it but where its hits were heard."""
    pattern = groove.pattern
    grids, partly = _bar_grids(pattern)
    lanes, lettered = _lanes(pattern, grids)
    lines = _head(groove)
    if not lanes or _bars_of(lanes) != pattern.bars:
        lines.append(f"bars {pattern.bars}")
    lines += [f"bar {bar} meter {_meter(meter)}" for bar, meter in pattern.meter_changes]
    lines += [f"bar {bar} grid {grid}" for bar, grid in sorted(grids.items())]
    lines += _tempo_lines(groove.tempo, pattern.frame)
    lines += feel_lines(groove.feel)
    lines += _rule_lines(pattern)
    lines += [_passage_line(p, pattern.frame) for p in partly]
    written = {name for name, _, _ in lanes}
    lines += [f"lane_grid {name} {grid}" for name, grid in pattern.lane_grids if name not in written]
    width = max((len(label) for _, label, _ in lanes), default=4) + 2
    lines += [f"{label:<{width}}{text}" for _, label, text in lanes]
    lines += _hit_lines(pattern, lettered)
    return "\n".join(lines) + "\n"


def head_lines(groove: Groove, frame: Bars) -> list[str]:
    """What stands before the lanes and holds for all of them: name, tempo, meter, grids, feel and rules.

    frame: the bars that changes of tempo are counted in.
    """
    lane_grids = [f"lane_grid {name} {grid}" for name, grid in groove.pattern.lane_grids]
    rules = _rule_lines(groove.pattern)
    return [*_head(groove), *_tempo_lines(groove.tempo, frame), *feel_lines(groove.feel), *lane_grids, *rules]


def _head(groove: Groove) -> list[str]:
    pattern, tempo = groove.pattern, groove.tempo
    name = [f'name "{groove.name}"'] if groove.name and _plain(groove.name) else []
    return [*name, f"tempo {figure(tempo.bpm[0])}", f"meter {_meter(pattern.meter)}", f"grid {pattern.grid}"]


def _plain(name: str) -> bool:
    """Whether a name can stand in a line: what would break the line or begin a comment cannot."""
    return name.isprintable() and "#" not in name and name == name.strip()


def _meter(meter: Meter) -> str:
    usual = Meter(meter.numerator, meter.denominator) == meter
    return meter.full_name if usual else f"{meter} {'+'.join(map(str, meter.groups))}"


def _tempo_lines(tempo: TempoMap, frame: Bars) -> list[str]:
    out = []
    ends = (*tempo.ticks[1:], None)
    arrived: tuple[int, float] | None = None  # where the ramp before ends, and at which tempo
    for (tick, bpm, to), end in zip(tempo.parts, ends, strict=True):
        spot = frame.spot_at(tick)
        place = f"bar {spot.bar}" + (f" {exact_name(spot.tick, frame.meter_at(tick))}" if spot.tick else "")
        ramp = bpm != to and end is not None
        if ramp:
            out.append(f"{place} tempo {figure(bpm)} -> {figure(to)} over {_over(tick, end, frame)}")
        elif tick and arrived != (tick, bpm):
            out.append(f"{place} tempo {figure(bpm)}")
        arrived = (end, to) if ramp and end is not None else None
    return out


def _over(start: int, end: int | None, frame: Bars) -> str:
    assert end is not None
    a, b = frame.spot_at(start), frame.spot_at(end)
    if not a.tick and not b.tick:
        return str(b.bar - a.bar)
    quarters = Fraction(end - start, TICKS_PER_QUARTER)
    return f"{quarters} quarters"


def _rule_lines(pattern: Pattern) -> list[str]:
    rules = pattern.rules
    by_voice: dict[str, list[str]] = {}
    for name, role, level in rules.levels:
        by_voice.setdefault(name, []).append(f"{role.value} {level}")
    out = [f"levels {name} {', '.join(told)}" for name, told in by_voice.items()]
    for lane, ticks in rules.cycles:
        name = LANES[lane].voices[0]
        step = step_ticks(pattern.grid_of(name))
        anew = f" every {every}" if (every := rules.restart_of(lane)) else ""
        if own := rules.own_of(lane):
            anew += f" own {' '.join(str(n + 1) for n in sorted(own))}"
        out.append(f"cycle {name} {ticks // step}{anew}" if ticks % step == 0 else f"cycle {name} {ticks} ticks{anew}")
    if rules.linear:
        out.append("linear on")
    if not rules.ring_over:
        out.append("ring choke")
    return out


def _bar_grids(pattern: Pattern) -> tuple[dict[int, int], list[GridPassage]]:
    """Grids that hold from a bar on, as far as passages are whole bars one after the other; the other passages."""
    grids: dict[int, int] = {}
    partly: list[GridPassage] = []
    at = 0
    for p in sorted(pattern.passages, key=lambda p: p.start_ticks):
        first, behind = pattern.frame.spot_at(p.start_ticks), pattern.frame.spot_at(p.end_ticks)
        whole = not first.tick and not behind.tick and p.end_ticks <= pattern.length_ticks and p.grid != pattern.grid
        joins = grids.get(first.bar, pattern.grid) == p.grid
        if p.voices or not whole or p.start_ticks < at or joins:
            partly.append(p)
            continue
        grids[first.bar] = p.grid
        grids.setdefault(behind.bar, pattern.grid)
        at = p.end_ticks
    return {bar: grid for bar, grid in grids.items() if bar <= pattern.bars}, partly


def _passage_line(p: GridPassage, frame: Bars) -> str:
    def place(ticks: int) -> str:
        spot = frame.spot_at(ticks)
        return f"bar {spot.bar} {exact_name(spot.tick, frame.meter_at(ticks))}"

    whose = f" of {', '.join(p.voices)}" if p.voices else ""
    return f"passage {p.grid}{whose} from {place(p.start_ticks)} to {place(p.end_ticks)}"


Lettered = dict[int, Role]  # index of a hit -> the role its letter says


def _lanes(pattern: Pattern, grids: dict[int, int]) -> tuple[list[tuple[str, str, str]], Lettered]:
    """(voice, label, text) of the lanes that letters can write, and which hits they say."""
    lettered: Lettered = {}
    own = dict(pattern.lane_grids)
    out = []
    names = [n for n in (v for lane in LANES for v in lane.voices) if n in pattern.voices or n in own]
    for name in names or ["kick"]:
        text = _lane_text(name, own.get(name, 0), pattern, grids, lettered)
        if text is not None:
            out.append((name, f"{name}/{own[name]}" if name in own else name, text))
    return out, lettered


def _bars_of(lanes: Iterable[tuple[str, str, str]]) -> int:
    return max(text.count("|") + 1 for _, _, text in lanes)


def _lane_text(name: str, own: int, pattern: Pattern, grids: dict[int, int], lettered: Lettered) -> str | None:
    """One lane in letters; None where its grid does not divide every bar."""
    bars: list[list[str]] = []
    steps: list[int] = []
    for bar, _, meter in pattern.frame.between(0, pattern.length_ticks):
        step = step_ticks(own or grid_of_bar(grids, pattern.grid, bar))
        if meter.bar_ticks % step:
            return None
        steps.append(step)
        bars.append(["-"] * (meter.bar_ticks // step))
    taken: set[int] = set()
    for i, h in enumerate(pattern.hits):
        spot = pattern.frame.spot_at(h.position_ticks)
        if h.voice == name and not h.grace and h.position_ticks not in taken and not spot.tick % steps[spot.bar - 1]:
            taken.add(h.position_ticks)
            bars[spot.bar - 1][spot.tick // steps[spot.bar - 1]] = LETTER_OF_ROLE[h.role]
            lettered[i] = h.role
    return " | ".join("".join(letters) for letters in bars)


def _hit_lines(pattern: Pattern, lettered: Lettered) -> list[str]:
    """Lines for hits that letters do not say, or not all of: those of one lane and bar that differ in no more than how
    hard and how late they are stand on one line together."""
    out: list[str] = []
    played: dict[tuple[str, int], list[tuple[Hit, int | None]]] = {}
    # A second hit of a voice on a spot says so; the first one is the letter's, or the first of the lines.
    taken = {(pattern.hits[i].position_ticks, pattern.hits[i].voice) for i in lettered}
    for i, h in enumerate(pattern.hits):
        spot = (h.position_ticks, h.voice)
        also = i not in lettered and not h.grace and spot in taken
        if i in lettered and _is_plain(h):
            usual = pattern.rules.level_of(h.voice, h.role)
            if h.velocity != usual or h.offset_ms:
                bar = pattern.frame.spot_at(h.position_ticks).bar
                played.setdefault((h.voice, bar), []).append((h, h.velocity if h.velocity != usual else None))
            continue
        line = hit_line(h, pattern.frame, pattern.rules, letter=lettered.get(i), also=also)
        if not h.grace:
            taken.add(spot)
        if line:
            out.append(line)
    return [*_played(pattern, played), *out]


def _is_plain(h: Hit) -> bool:
    return h.stroke == "plain" and not (h.limb or h.ornament or h.length_ticks or h.fixed)


def _played(pattern: Pattern, played: dict[tuple[str, int], list[tuple[Hit, int | None]]]) -> list[str]:
    """One line a lane and bar, or (of a single hit) its own."""
    out = []
    for strokes in played.values():
        if len(strokes) > 1:
            out += played_lines(strokes, pattern.frame)
        else:
            h = strokes[0][0]
            out.append(hit_line(h, pattern.frame, pattern.rules, letter=h.role, also=False))
    return out
