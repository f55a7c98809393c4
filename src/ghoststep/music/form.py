"""Parts with names, variations of them, sections in an order: from a bar to a song's drum part.

A form says what is played; unrolled it is one pattern like any other, so that sound, MIDI, pictures and checks need to
know nothing of it.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel
from ghoststep.music.frame import Bars
from ghoststep.music.groove import Groove
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import MAX_BARS, Hit, Pattern
from ghoststep.music.rules import GridPassage
from ghoststep.music.time import TempoMap

MAX_PARTS, MAX_TIMES = 999, 999


@dataclass(frozen=True)
class Part:
    """pattern: its own bars, from bar 1. A variation names its base and the changes, phrases of the language, that lead
    there; `aside` are changes that no longer fit the base, which are kept."""

    name: str
    pattern: Pattern
    base: str = ""
    changes: tuple[str, ...] = ()
    aside: tuple[str, ...] = ()


@dataclass(frozen=True)
class Play:
    """A part, so many times in a row."""

    part: str
    times: int = 1


@dataclass(frozen=True)
class Section:
    """An order of parts. Each ending is played after one pass of the body, so that with two the body comes twice.

    tempo_bpm, feel: its own, where they differ; exceptions: (bar of the section, phrase) for one bar of every pass.
    """

    name: str
    plays: tuple[Play, ...]
    endings: tuple[tuple[Play, ...], ...] = ()
    tempo_bpm: float | None = None
    feel: Feel | None = None
    exceptions: tuple[tuple[int, str], ...] = ()

    @property
    def row(self) -> tuple[str, ...]:
        """The parts in the order they are played."""
        body = _spread(self.plays)
        if not self.endings:
            return body
        return tuple(name for ending in self.endings for name in (*body, *_spread(ending)))


def _spread(plays: Sequence[Play]) -> tuple[str, ...]:
    return tuple(p.part for p in plays for _ in range(p.times))


@dataclass(frozen=True)
class Stretch:
    """One playing of a part in the unrolled form: section, its how-manieth pass, part, and bars of the whole."""

    section: str
    number: int
    part: str
    first_bar: int
    bars: int


@dataclass(frozen=True)
class Form:
    """Parts and sections by name; order: sections as they are played.

    Raises
    ------
    InputError
        Where something is named that does not exist or exists twice, variations go in a circle, or it grows too long.
    """

    parts: tuple[Part, ...]
    sections: tuple[Section, ...] = ()
    order: tuple[str, ...] = ()
    _known: dict[str, Part] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        _unique([p.name for p in self.parts], "part")
        _unique([s.name for s in self.sections], "section")
        if len(self.parts) > MAX_PARTS:
            raise InputError(f"A form of {len(self.parts)} parts does not fit: at most {MAX_PARTS}.")
        object.__setattr__(self, "_known", {p.name: p for p in self.parts})
        for part in self.parts:
            self._check_base(part)
        for section in self.sections:
            for play in (*section.plays, *(p for ending in section.endings for p in ending)):
                self.part(play.part)
                if not 1 <= play.times <= MAX_TIMES:
                    raise InputError(f"'{play.part} x{play.times}' does not fit: 1 to {MAX_TIMES} times.")
            if not section.row:
                raise InputError(f"The section {section.name} plays nothing.")
        for name in self.order:
            self.section(name)
        if self.bars > MAX_BARS:
            raise InputError(f"The form has {self.bars} bars; at most {MAX_BARS} fit.")

    def _check_base(self, part: Part) -> None:
        seen, at = [part.name], part
        while at.base:
            if at.base not in self._known:
                raise InputError(f"The part {at.name} is a variation of {at.base}, and there is no part {at.base}.")
            if at.base in seen:
                raise InputError(f"The parts {' and '.join(seen)} are variations of each other in a circle.")
            at = self._known[at.base]
            seen.append(at.name)

    def part(self, name: str) -> Part:
        """The part of that name; InputError names those there are."""
        if name not in self._known:
            raise InputError(f"There is no part '{name}'. The parts are: {', '.join(self._known) or 'none yet'}.")
        return self._known[name]

    def section(self, name: str) -> Section:
        """The section of that name; InputError names those there are."""
        found = next((s for s in self.sections if s.name == name), None)
        if found is None:
            known = ", ".join(s.name for s in self.sections) or "none yet"
            raise InputError(f"There is no section '{name}'. The sections are: {known}.")
        return found

    @property
    def played(self) -> tuple[Section, ...]:
        """The sections as they are played; without an order all of them, without any the parts one after another."""
        if self.order:
            return tuple(self.section(name) for name in self.order)
        if self.sections:
            return self.sections
        return (Section("all", tuple(Play(p.name) for p in self.parts)),)

    @property
    def bars(self) -> int:
        """How many bars it has unrolled."""
        return sum(self._known[name].pattern.bars for section in self.played for name in section.row)

    def stretches(self) -> Iterator[Stretch]:
        """Every playing of a part, in order."""
        bar = 1
        passes: dict[str, int] = {}
        for section in self.played:
            passes[section.name] = passes.get(section.name, 0) + 1
            for name in section.row:
                bars = self._known[name].pattern.bars
                yield Stretch(section.name, passes[section.name], name, bar, bars)
                bar += bars

    def with_part(self, part: Part) -> "Form":
        """The same with a part put in the place of that of its name, or added."""
        if part.name in self._known:
            return replace(self, parts=tuple(part if p.name == part.name else p for p in self.parts))
        return replace(self, parts=(*self.parts, part))

    def with_section(self, section: Section) -> "Form":
        """The same with a section put in the place of that of its name, or added."""
        if any(s.name == section.name for s in self.sections):
            return replace(self, sections=tuple(section if s.name == section.name else s for s in self.sections))
        return replace(self, sections=(*self.sections, section))


def letters_of(form: Form) -> tuple[str, ...]:
    """The part that each bar of the unrolled form plays."""
    return tuple(s.part for s in form.stretches() for _ in range(s.bars))


def _unique(names: Sequence[str], what: str) -> None:
    seen: set[str] = set()
    for name in names:
        if name in seen:
            raise InputError(f"There are two {what}s called {name}: each needs a name of its own.")
        seen.add(name)


def unrolled(form: Form, head: Groove) -> Groove:
    """The form as one groove: the parts one after another, with the feel, rules and tempo of `head`.

    A section's own tempo holds as long as it is played, and that of `head` after it.
    """
    meters: dict[int, Meter] = {}
    hits: list[Hit] = []
    passages: list[GridPassage] = []
    tempi: list[tuple[int, float, float]] = []
    own_bpm = {s.name: s.tempo_bpm for s in form.played}
    start = 0
    for stretch in form.stretches():
        pattern = form.part(stretch.part).pattern
        frame = pattern.frame
        for k in range(stretch.bars):
            meters[stretch.first_bar + k] = frame.meter_of(k + 1)
        end = start + pattern.length_ticks
        hits += [replace(h, position_ticks=h.position_ticks + start, key=0) for h in pattern.hits]
        passages += [
            replace(p, start_ticks=p.start_ticks + start, end_ticks=min(p.end_ticks, pattern.length_ticks) + start)
            for p in pattern.passages
        ]
        if pattern.grid != head.pattern.grid:
            passages.append(GridPassage(start, end, pattern.grid))
        bpm = own_bpm[stretch.section] or head.tempo.main_bpm
        tempi.append((start, bpm, bpm))
        start = end
    bars = Bars.of(meters)
    pattern = replace(
        head.pattern, hits=tuple(hits), meter=bars.first, meter_changes=bars.changes, bars=max(form.bars, 1),
        passages=tuple(passages),
    )  # fmt: skip
    tempo = TempoMap.of(tempi) if any(own_bpm.values()) else head.tempo
    return replace(head, pattern=pattern, tempo=tempo, feels=feels_of(form, head.feel))


def feels_of(form: Form, usual: Feel) -> tuple[tuple[int, Feel], ...]:
    """The bars from which another feel holds, where sections have feels of their own."""
    if all(s.feel is None for s in form.sections):
        return ()
    out: list[tuple[int, Feel]] = []
    bar, now = 1, usual
    for section in form.played:
        feel = section.feel or usual
        if feel != now:
            out.append((bar, feel))
            now = feel
        bar += sum(form.part(name).pattern.bars for name in section.row)
    return tuple(out)


def bars_of(pattern: Pattern, first: int, last: int) -> Pattern:
    """Some bars of a pattern as a pattern of their own."""
    frame = pattern.frame
    start, end = frame.start_of(first), frame.start_of(last + 1)
    meters = Bars.of({k - first + 1: frame.meter_of(k) for k in range(first, last + 1)})
    inside = pattern.between(start, end)
    hits = tuple(replace(pattern.hits[i], position_ticks=pattern.hits[i].position_ticks - start) for i in inside)
    passages = tuple(
        replace(p, start_ticks=max(p.start_ticks, start) - start, end_ticks=min(p.end_ticks, end) - start)
        for p in pattern.passages
        if p.start_ticks < end and p.end_ticks > start
    )
    return replace(
        pattern, hits=hits, meter=meters.first, meter_changes=meters.changes, bars=last - first + 1, passages=passages
    )
