"""Songs in the text grid: parts, variations of them, sections and the form.

part A                          the lanes that follow belong to it
part B = A                      a variation; each line below is a change in the words of the language
  move kick 2 to 1&
section verse = A B C x2 B      `x2` repeats the one before; below it may follow, each on a line of its own,
  tempo 120   meter 7/8   feel laid-back   bar 8 PHRASE   every bar PHRASE
  count-in 1  (bars of clicks)   before HITS x2   (parts that lead into it)   cue [to chorus] PHRASE   (in its last bar)
section last = A D x3 | ending A B
form = verse verse last
  hit snare bar 7 2a velocity 31 late 4      what one bar of the whole has for itself: all that the voice plays there
  hit kick bar 9 3& none
"""

import re
from collections.abc import Callable
from dataclasses import dataclass, field, replace

from ghoststep.files.textgrid_feel import FEEL_LINES, read_number
from ghoststep.files.textgrid_hits import Singles, read_single
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel
from ghoststep.music.form import (
    EVERY_BAR,
    MAX_DEPTH,
    MAX_PARTS,
    MAX_PHRASES,
    MAX_SECTIONS,
    Form,
    Part,
    Play,
    Section,
    Single,
)
from ghoststep.music.groove import Groove
from ghoststep.music.meter import Meter
from ghoststep.music.time import checked_tempo_bpm
from ghoststep.music.unrolled import unrolled
from ghoststep.session.form.count_in import MAX_COUNT_IN, with_count_in
from ghoststep.session.form.exact import with_singles
from ghoststep.session.form.plain import without_keys
from ghoststep.session.form.text import NAME, phrases_in, plays_of, section_of
from ghoststep.session.language.forms.words import song, varied
from ghoststep.session.named_feels import player_named

WORDS = ("part", "section", "form")
_ASIDE = "aside "  # before a change that no longer fits and is kept
Parse = Callable[[str], Groove]
_TEMPO_CHANGE = re.compile(r"bar\b.*\btempo\b")
_OF_THE_WHOLE = ("tempo", "name", "levels", "cycle", "linear", "ring", *FEEL_LINES)


@dataclass
class _Block:
    """A line that opens something, and those below it, each with its number."""

    number: int
    word: str
    rest: str
    lines: list[tuple[int, str]] = field(default_factory=list)


def is_song(text: str) -> bool:
    """Whether a text grid holds parts, sections or a form."""
    return any(_first(line) in WORDS for line in text.splitlines())


def _first(line: str) -> str:
    return line.split("#", 1)[0].strip().partition(" ")[0]


def parse_song(text: str, source: str, parse: Parse) -> tuple[Form, Groove]:
    """A song's form and the groove it is unrolled to.

    Parameters
    ----------
    parse
        Reads a text grid of bars; what it says of lines is turned into their place in the song.

    Raises
    ------
    InputError
        Naming source and line.
    """
    head, blocks = _blocks(text)
    reading = _Reading(head, source, parse)
    parts = [b for b in blocks if b.word == "part"]
    for block in blocks:
        reading.at(block.number, lambda block=block: reading.count(block))  # type: ignore[misc]
    reading.take_meters([b for b in blocks if b.word == "section"])
    for block in _bases_first(parts):
        reading.at(block.number, lambda block=block: reading.block(block))  # type: ignore[misc]
    reading.as_written([b.rest.split("=")[0].strip() for b in parts])
    for block in (b for b in blocks if b.word != "part"):
        reading.at(block.number, lambda block=block: reading.block(block))  # type: ignore[misc]
    reading.at(blocks[-1].number if blocks else 1, reading.build)
    if not reading.form.parts:
        raise InputError(f"{source} names no part: write 'part A' and its lanes below it.")
    if reading.order:
        reading.at(reading.order[0], reading.put_in_order)
    reading.at(_line_of_cues(blocks), reading.put_cues)
    reading.put_tempo()
    groove = song(reading.form, reading.head)
    reading.put_singles(groove)
    return reading.form, with_singles(groove, reading.form.singles)


def _blocks(text: str) -> tuple[list[tuple[int, str]], list[_Block]]:
    head: list[tuple[int, str]] = []
    blocks: list[_Block] = []
    for number, raw in enumerate(text.splitlines(), 1):
        line = raw.split("#", 1)[0].strip()
        if not line:
            continue
        word, _, rest = line.partition(" ")
        if word in WORDS:
            blocks.append(_Block(number, word, rest.strip()))
        elif blocks:
            blocks[-1].lines.append((number, line))
        else:
            head.append((number, line))
    return head, blocks


def _line_of_cues(blocks: list[_Block]) -> int:
    """The line of the first cue, or of the last block."""
    found = [n for b in blocks if b.word == "section" for n, line in b.lines if line.startswith("cue ")]
    return found[0] if found else blocks[-1].number


def _bases_first(parts: list[_Block]) -> list[_Block]:
    """Parts so that a base comes before its variations, wherever it stands; what has no base there is left as it is."""
    names = {b.rest.partition("=")[0].strip() for b in parts}
    waiting: dict[str, list[_Block]] = {}
    out: list[_Block] = []
    for block in parts:
        base = block.rest.partition("=")[2].strip()
        if base in names:
            waiting.setdefault(base, []).append(block)
        else:
            out.append(block)
    for block in out:  # it grows while it is walked
        out += waiting.pop(block.rest.partition("=")[0].strip(), [])
    return [*out, *(b for left in waiting.values() for b in left)]  # in a circle: reading them says what is wrong


class _Reading:
    def __init__(self, head: list[tuple[int, str]], source: str, parse: Parse) -> None:
        self.source, self._parse = source, parse
        self.form = Form(())
        self._parts: dict[str, Part] = {}
        self._sections: dict[str, Section] = {}
        self._counts = {"part": 0, "section": 0, "phrases": 0}
        self._depth: dict[str, int] = {}
        self.order: tuple[int, str] | None = None
        self.cues: dict[str, tuple[tuple[str, str], ...]] = {}
        self.singles: list[tuple[int, str]] = []
        self.meters: dict[str, str] = {}  # of parts that say none, from the sections that play them
        self._tempi = [(n, line) for n, line in head if _TEMPO_CHANGE.match(line)]
        self._head = [row for row in head if row not in self._tempi]  # they are counted in the bars of the whole
        self.head = self._grid([(1, "bars 1")], self._head)

    def at(self, number: int, work: Callable[[], None]) -> None:
        """Do something, with the line in what may be wrong."""
        try:
            work()
        except InputError as error:
            if str(error).startswith(f"{self.source}, line"):
                raise
            raise InputError(f"{self.source}, line {number}: {error}") from error

    def _grid(self, lines: list[tuple[int, str]], head: list[tuple[int, str]]) -> Groove:
        """A text grid of the head and some lines; errors name the lines of the song."""
        rows = [*head, *lines]
        try:
            return self._parse("\n".join(line for _, line in rows))
        except InputError as error:
            found = re.match(r"the text grid, line (\d+): (.*)", str(error))
            if found is None:
                raise
            raise InputError(f"{self.source}, line {rows[int(found[1]) - 1][0]}: {found[2]}") from error

    def count(self, block: _Block) -> None:
        """An InputError for more than a form holds, before any of it is worked out."""
        if block.word == "form":
            return
        self._counts[block.word] += 1
        if block.word == "section" or "=" in block.rest:
            self._counts["phrases"] += len(block.lines)
        for what, most in (("part", MAX_PARTS), ("section", MAX_SECTIONS), ("phrases", 2 * MAX_PHRASES)):
            if self._counts[what] > most:
                raise InputError(f"There are too many {what.removesuffix('s')}s here: at most {most} fit.")

    def as_written(self, names: list[str]) -> None:
        """The parts in the order in which they stand."""
        place = {name: k for k, name in enumerate(names)}
        self.form = Form(tuple(sorted(self._parts.values(), key=lambda p: place[p.name])))

    def build(self) -> None:
        """The form with its sections, once all are read."""
        self.form = replace(self.form, sections=tuple(self._sections.values()))

    def _base(self, name: str) -> Part:
        if name not in self._parts:
            known = ", ".join(self._parts) or "none yet"
            raise InputError(f"There is no part '{name}'. The parts are: {known}.")
        return self._parts[name]

    def block(self, block: _Block) -> None:
        """Read one block into the form."""
        {"part": self._part, "section": self._section, "form": self._form}[block.word](block)

    def _part(self, block: _Block) -> None:
        found = re.fullmatch(rf"({NAME})(?:\s*=\s*({NAME}))?", block.rest)
        if not found:
            raise InputError(f"'part {block.rest}' is no part: write it like 'part A' or 'part B = A'.")
        name, base = found[1], found[2] or ""
        if name in self._parts:
            raise InputError(f"There are two parts called {name}: each needs a name of its own.")
        if not base:
            if not block.lines:
                raise InputError(f"The part {name} has no lane below it.")
            lines = block.lines
            for number, line in lines:
                if _first(line) in _OF_THE_WHOLE or _TEMPO_CHANGE.match(line):
                    where = ", or below a section" if _first(line) in ("tempo", *FEEL_LINES) else ""
                    told = f"'{line}' holds for the whole song: write it before the first part{where}."
                    raise InputError(f"{self.source}, line {number}: {told}")
            if name in self.meters and not any(_first(line) == "meter" for _, line in lines):
                lines = [(block.number, f"meter {self.meters[name]}"), *lines]
            pattern = without_keys(self._grid(lines, self._head).pattern)
            # A lane that repeats is counted in steps of the whole's grid, whatever the part's own is.
            self._parts[name] = Part(name, replace(pattern, rules=self.head.pattern.rules))
            return
        if base == name:
            raise InputError(f"The part {name} cannot be a variation of itself.")
        aside = tuple(line.removeprefix(_ASIDE) for _, line in block.lines if line.startswith(_ASIDE))
        changes = [(n, line) for n, line in block.lines if not line.startswith(_ASIDE)]
        own = self._base(base)
        self._depth[name] = self._depth.get(base, 0) + 1
        if self._depth[name] > MAX_DEPTH:
            raise InputError(f"{name} is a variation of a variation more than {MAX_DEPTH} times over.")
        part = varied(own, name, [line for _, line in changes])
        if part.aside:
            number = next(n for n, line in changes if line == part.aside[0])
            raise InputError(f"{self.source}, line {number}: '{part.aside[0]}' does not fit {base}.")
        self._parts[name] = replace(part, aside=aside)

    def _section(self, block: _Block) -> None:
        name, equals, told = (x.strip() for x in block.rest.partition("="))
        if not equals or not re.fullmatch(NAME, name):
            raise InputError(f"'section {block.rest}' is no section: write it like 'section verse = A B C x2 B'.")
        if name in self._sections:
            raise InputError(f"There are two sections called {name}: each needs a name of its own.")
        section = section_of(name, told)
        for play in (*section.plays, *(p for ending in section.endings for p in ending)):
            self.form.part(play.part)
        for number, line in block.lines:
            found: list[Section] = []
            self.at(number, lambda line=line, s=section, found=found: found.append(self._detail(s, line)))  # type: ignore[misc]
            section = found[0]
        cues, section = section.cues, replace(section, cues=())  # they may name sections that come later
        self.cues[name] = cues
        self._sections[name] = section

    def _detail(self, section: Section, line: str) -> Section:
        """A line below a section: its tempo, its feel, or what is different in one bar."""
        word, _, rest = line.partition(" ")
        if word == "tempo":
            bpm = checked_tempo_bpm(read_number(rest, "a tempo: write it like 'tempo 96'"))
            return replace(section, tempo_bpm=bpm)
        if word == "feel":
            return replace(section, feel=player_named(rest.strip())[0])
        if word == "meter":
            return replace(section, meter=Meter.parse(rest))
        if word == "before":
            return replace(section, before=plays_of(rest))
        if word == "count-in":
            return self._counted_in(section, rest.strip() or "1")
        if word == "cue":
            to = re.match(rf"to\s+({NAME})\s+", rest)
            phrase = rest[to.end() :].strip() if to else rest.strip()
            if not phrase or re.fullmatch(rf"to(\s+{NAME})?", phrase):
                raise InputError(
                    f"'{line}' says no phrase: write it like 'cue fill-in 2' or 'cue to chorus fill-in 2'."
                )
            told = tuple((to[1] if to else "", p) for p in phrases_in(phrase))
            return replace(section, cues=(*section.cues, *told))
        if word in FEEL_LINES:
            return replace(section, feel=FEEL_LINES[word](rest.strip(), section.feel or Feel()))
        found = re.fullmatch(r"(?:bar\s+([1-9]\d{0,4})|every\s+bar)\s+(.+)", line)
        if found:
            bar = int(found[1] or EVERY_BAR)
            phrases = tuple((bar, phrase) for phrase in phrases_in(found[2]))
            return replace(section, exceptions=(*section.exceptions, *phrases))
        raise InputError(
            f"'{line}' says nothing of a section: write 'tempo 120', 'meter 7/8', 'feel laid-back', 'bar 8 PHRASE', "
            "'every bar PHRASE', "
            "'before HITS', 'count-in 1' or 'cue PHRASE'."
        )

    def _counted_in(self, section: Section, bars: str) -> Section:
        """A section with bars of clicks before it, in its own meter."""
        if not re.fullmatch(r"\d{1,2}", bars) or not 1 <= int(bars) <= MAX_COUNT_IN:
            raise InputError(f"'count-in {bars}' does not fit: 1 to {MAX_COUNT_IN} bars.")
        meter = section.meter or self.form.part(section.row[0]).pattern.meter
        self.form, name = with_count_in(self.form, meter)
        return replace(section, before=(Play(name, int(bars)),))

    def _form(self, block: _Block) -> None:
        rest = block.rest.removeprefix("=").strip()
        if self.order is not None:
            raise InputError("The form stands here a second time.")
        if not rest or any(_first(line) != "hit" for _, line in block.lines):
            raise InputError("A form is one line of sections: write it like 'form = verse verse last'.")
        self.order = (block.number, rest)
        self.singles = block.lines

    def put_in_order(self) -> None:
        """The form line, once all sections are known."""
        assert self.order is not None
        names = tuple(p.part for p in plays_of(self.order[1]) for _ in range(p.times))
        self.form = replace(self.form, order=names)

    def put_tempo(self) -> None:
        """Changes of the tempo, once it is known where the bars of the whole lie."""
        if not self._tempi:
            return
        frame, bars = unrolled(self.form, self.head).pattern.frame, self.form.bars
        meters = [f"meter {frame.first.full_name}", *(f"bar {bar} meter {m.full_name}" for bar, m in frame.changes)]
        whole = [(self._tempi[0][0], line) for line in (*meters, f"bars {bars}")]
        self.head = replace(self.head, tempo=self._grid([*whole, *self._tempi], self._head).tempo)

    def put_singles(self, groove: Groove) -> None:
        """What single bars have for themselves, once it is known where all bars lie."""
        known: Singles = {}
        pattern = groove.pattern

        def read(line: str) -> None:
            read_single(line.partition(" ")[2].strip(), pattern.frame, pattern.bars, pattern.rules, pattern.grid, known)

        for number, line in self.singles:
            self.at(number, lambda line=line: read(line))  # type: ignore[misc]
        singles = []
        for (bar, tick, name), hits in sorted(known.items()):
            start = pattern.frame.start_of(bar)
            here = sorted((h.moved(h.position_ticks - start) for h in hits), key=lambda h: h.sort_key)
            singles.append(Single(bar, tick, name, tuple(here)))
        if singles:
            self.at(self.singles[-1][0], lambda: self._take(tuple(singles)))

    def _take(self, singles: tuple[Single, ...]) -> None:
        self.form = replace(self.form, singles=singles)

    def put_cues(self) -> None:
        """The cues, once all sections are known."""
        self.form = replace(
            self.form, sections=tuple(replace(s, cues=self.cues.get(s.name, ())) for s in self.form.sections)
        )

    def take_meters(self, sections: list[_Block]) -> None:
        """Meters that sections give to their parts; where two sections give two, a part has that of the whole."""
        told: dict[str, set[str]] = {}
        for block in sections:
            lines = [line.partition(" ")[2].strip() for _, line in block.lines if line.startswith("meter ")]
            names = set(re.findall(rf"(?<![\w'.-]){NAME}", block.rest.partition("=")[2].replace("|", " "))) - {"ending"}
            for name in names:
                told.setdefault(name, set()).add(lines[-1] if lines else "")
        self.meters = {name: found for name, some in told.items() if len(some) == 1 and (found := next(iter(some)))}
