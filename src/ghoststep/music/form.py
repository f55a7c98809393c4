"""Parts with names, variations of them, sections in an order: from a bar to a song's drum part.

A form says what is played; unrolled it is one pattern like any other, so that sound, MIDI, pictures and checks need to
know nothing of it.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import MAX_BARS, Hit, Pattern

MAX_PARTS, MAX_TIMES, MAX_SECTIONS, MAX_PLAYED = 999, 999, 999, 4096
MAX_DEPTH = 64  # variations of variations
MAX_PHRASES = 4000  # changes, exceptions and cues together
MAX_WORKED = 8000  # how often phrases are done to bars when the form is unrolled
EVERY_BAR = 0  # an exception of this bar is one of all bars of a section in which it changes something
WHOLE = "all"  # the section that stands for parts one after another


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

    tempo_bpm, feel, meter: its own, where they differ (the meter counts those bars otherwise that are as long);
    exceptions: (bar of the section or EVERY_BAR, phrase), for each pass; before: what leads into it, a count-in or bars
    of hits, wherever it does not repeat itself; cues: (section that follows, or "" for any other, phrase) for its last
    bar.
    """

    name: str
    plays: tuple[Play, ...]
    endings: tuple[tuple[Play, ...], ...] = ()
    tempo_bpm: float | None = None
    feel: Feel | None = None
    exceptions: tuple[tuple[int, str], ...] = ()
    meter: Meter | None = None
    before: tuple[Play, ...] = ()
    cues: tuple[tuple[str, str], ...] = ()

    @property
    def lead(self) -> tuple[str, ...]:
        """The parts that lead into it, one after another."""
        return _spread(self.before)

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
class Pass:
    """One playing of a section: lead: parts played before it; first_bar: of those, or of the section where there are
    none; lead_bars, bars: how long both are; following: the section that comes next, "" at the end."""

    section: Section
    lead: tuple[str, ...]
    first_bar: int
    lead_bars: int
    bars: int
    following: str

    @property
    def row(self) -> tuple[str, ...]:
        """All parts in the order they are played."""
        return (*self.lead, *self.section.row)

    @property
    def body_bar(self) -> int:
        """The bar of the whole on which the section itself begins."""
        return self.first_bar + self.lead_bars

    @property
    def last_bar(self) -> int:
        return self.body_bar + self.bars - 1

    @property
    def cues(self) -> tuple[str, ...]:
        """The phrases for its last bar: those for what comes next."""
        if not self.following or self.following == self.section.name:
            return ()
        named = tuple(phrase for to, phrase in self.section.cues if to == self.following)
        return named or tuple(phrase for to, phrase in self.section.cues if not to)


@dataclass(frozen=True)
class Single:
    """One spot of the whole where a voice plays just these hits, whatever part, exceptions and cues say.

    bar: of the unrolled form, from 1; tick: from its bar line; hits: counted from the bar line too, none where the
    voice is silent there. So a form that was found in bars keeps what only one of them has.
    """

    bar: int
    tick: int
    voice: str
    hits: tuple[Hit, ...] = ()


@dataclass(frozen=True)
class Form:
    """Parts and sections by name; order: sections as they are played; singles: spots that are played otherwise once.

    Raises
    ------
    InputError
        Where something is named that does not exist or exists twice, variations go in a circle, or it grows too long.
    """

    parts: tuple[Part, ...]
    sections: tuple[Section, ...] = ()
    order: tuple[str, ...] = ()
    singles: tuple[Single, ...] = ()
    _known: dict[str, Part] = field(init=False, repr=False, compare=False)
    _named: dict[str, Section] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        _unique([p.name for p in self.parts], "part")
        _unique([s.name for s in self.sections], "section")
        if len(self.parts) > MAX_PARTS:
            raise InputError(f"A form of {len(self.parts)} parts does not fit: at most {MAX_PARTS}.")
        self._check_size()
        object.__setattr__(self, "_known", {p.name: p for p in self.parts})
        object.__setattr__(self, "_named", {s.name: s for s in self.sections})
        self._check_bases()
        for section in self.sections:
            for play in (*section.plays, *section.before, *(p for ending in section.endings for p in ending)):
                self.part(play.part)
                if not 1 <= play.times <= MAX_TIMES:
                    raise InputError(f"'{play.part} x{play.times}' does not fit: 1 to {MAX_TIMES} times.")
            if not section.row:
                raise InputError(f"The section {section.name} plays nothing.")
            for to, _ in section.cues:
                if to:
                    self.section(to)
        for name in self.order:
            self.section(name)
        if self.bars > MAX_BARS:
            raise InputError(f"The form has {self.bars} bars; at most {MAX_BARS} fit.")
        worked = sum(len(p.cues) + _worked(p.section, p.bars) for p in self.passes)
        if worked > MAX_WORKED:
            raise InputError(f"Exceptions and cues change bars {worked} times; at most {MAX_WORKED} can be worked out.")

    def _check_size(self) -> None:
        """InputErrors for more than can be unrolled in reasonable time; counted before anything is."""
        if len(self.sections) > MAX_SECTIONS:
            raise InputError(f"A form of {len(self.sections)} sections does not fit: at most {MAX_SECTIONS}.")
        if len(self.order) > MAX_PLAYED or any(_plays_of(s) > MAX_PLAYED for s in self.sections):
            raise InputError(f"A form or section plays at most {MAX_PLAYED} parts, one after another.")
        phrases = sum(len(p.changes) + len(p.aside) for p in self.parts)
        phrases += sum(len(s.exceptions) + len(s.cues) for s in self.sections)
        if phrases > MAX_PHRASES:
            raise InputError(f"The form has {phrases} changes, exceptions and cues; at most {MAX_PHRASES} fit.")

    def _check_bases(self) -> None:
        depth: dict[str, int] = {}
        for part in self.parts:
            row, at = [part.name], part
            while at.base and at.name not in depth:
                if at.base not in self._known:
                    raise InputError(f"The part {at.name} is a variation of {at.base}, and there is no part {at.base}.")
                if at.base in row:
                    raise InputError(f"The parts {' and '.join(row)} are variations of each other in a circle.")
                at = self._known[at.base]
                row.append(at.name)
            for name in reversed(row):
                known = self._known[name]
                depth[name] = depth[known.base] + 1 if known.base else 0
            if depth[part.name] > MAX_DEPTH:
                raise InputError(f"{part.name} is a variation of a variation more than {MAX_DEPTH} times over.")

    def has(self, name: str) -> bool:
        """Whether there is a part of that name."""
        return name in self._known

    def part(self, name: str) -> Part:
        """The part of that name; InputError names those there are."""
        if name not in self._known:
            raise InputError(f"There is no part '{name}'. The parts are: {', '.join(self._known) or 'none yet'}.")
        return self._known[name]

    def section(self, name: str) -> Section:
        """The section of that name; InputError names those there are."""
        if name not in self._named:
            known = ", ".join(self._named) or "none yet"
            raise InputError(f"There is no section '{name}'. The sections are: {known}.")
        return self._named[name]

    @property
    def played(self) -> tuple[Section, ...]:
        """The sections as they are played; without an order all of them, without any the parts one after another."""
        if self.order:
            return tuple(self.section(name) for name in self.order)
        if self.sections:
            return self.sections
        return (Section(WHOLE, tuple(Play(p.name) for p in self.parts)),)

    @cached_property
    def passes(self) -> tuple[Pass, ...]:
        """The sections as they are played, with their bars of the whole."""
        out: list[Pass] = []
        played, bar = self.played, 1
        for k, section in enumerate(played):
            again = k > 0 and played[k - 1].name == section.name
            lead = () if again else section.lead
            lead_bars, bars = self._bars_of(lead), self._bars_of(section.row)
            following = played[k + 1].name if k + 1 < len(played) else ""
            out.append(Pass(section, lead, bar, lead_bars, bars, following))
            bar += lead_bars + bars
        return tuple(out)

    def _bars_of(self, names: Sequence[str]) -> int:
        return sum(self._known[name].pattern.bars for name in names)

    @property
    def bars(self) -> int:
        """How many bars it has unrolled."""
        return sum(p.lead_bars + p.bars for p in self.passes)

    def stretches(self) -> Iterator[Stretch]:
        """Every playing of a part, in order."""
        times: dict[str, int] = {}
        for played in self.passes:
            name, bar = played.section.name, played.first_bar
            times[name] = times.get(name, 0) + 1
            for part in played.row:
                bars = self._known[part].pattern.bars
                yield Stretch(name, times[name], part, bar, bars)
                bar += bars

    def sectioned(self) -> "Form":
        """The form with sections: parts that only come one after another become one, called all."""
        if self.sections:
            return self
        return self.with_section(Section(WHOLE, tuple(Play(p.name) for p in self.parts)))

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


def _plays_of(section: Section) -> int:
    """How many parts a section plays, counted and not laid out."""
    body, before = (sum(p.times for p in plays) for plays in (section.plays, section.before))
    ends = [sum(p.times for p in ending) for ending in section.endings]
    return before + max(len(ends), 1) * body + sum(ends)


def _worked(section: Section, bars: int) -> int:
    """How often the exceptions of a section are done to a bar."""
    every = sum(at == EVERY_BAR for at, _ in section.exceptions)
    return every * bars + len(section.exceptions) - every


def bar_words(bar: int) -> str:
    """How the bar of an exception is written."""
    return "every bar" if bar == EVERY_BAR else f"bar {bar}"


def letters_of(form: Form) -> tuple[str, ...]:
    """The part that each bar of the unrolled form plays."""
    return tuple(s.part for s in form.stretches() for _ in range(s.bars))


def _unique(names: Sequence[str], what: str) -> None:
    seen: set[str] = set()
    for name in names:
        if name in seen:
            raise InputError(f"There are two {what}s called {name}: each needs a name of its own.")
        seen.add(name)
