"""What Form offers for the chosen playing: answers, phrases, fills; each is heard before it is taken."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from ghoststep.desk.form.road import Cell
from ghoststep.judge.check import Terms
from ghoststep.music.errors import InputError
from ghoststep.music.form import Form, Part
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Pattern
from ghoststep.session.document.document import Document
from ghoststep.session.language.filling import fill_offers
from ghoststep.session.language.forms.answering import Phrase, answers, phrases

ANY = ""  # however near or far


@dataclass(frozen=True)
class Offer:
    """words: what it does; groove: what is heard; phrases: of the language, which take it, {new} for a free name."""

    words: str
    groove: Groove
    phrases: tuple[str, ...]


Maker = Callable[[], list[Offer]]


@dataclass(frozen=True)
class At:
    """What is offered for: a playing of a part in the document."""

    document: Document
    form: Form
    cell: Cell

    @property
    def part(self) -> Part:
        return self.form.part(self.cell.part)

    @property
    def section(self) -> str:
        return self.form.sectioned().played[self.cell.section].name

    @property
    def place(self) -> int:
        """In the row of its section, from 1."""
        return self.cell.nth + 1

    @property
    def terms(self) -> Terms:
        return self.document.judged.terms

    def groove_of(self, pattern: Pattern) -> Groove:
        return self.document.groove.changed(pattern=pattern, feels=())


def answer_offers(at: At, length: int, strictness: str) -> list[Offer]:
    """Answers to the part (length 1), or phrases of so many bars, of which the first keeps it a loop.

    Raises
    ------
    InputError
        Where nothing that small can be played.
    """
    question = at.part.pattern
    groove = at.groove_of(question)
    if length == 1:
        found = answers(groove, at.terms, strictness=strictness)
        if not found:
            raise InputError(f"No small change of {at.part.name} can be played.")
        by = f" by {strictness}" if strictness else ""
        return [
            Offer(
                f"{a.about} ({100 * a.apart:.0f} % away)",
                groove.changed(pattern=one_after_another([question, a.pattern])),
                (
                    f"answer {at.part.name} as {{new}}{by} choice {k}",
                    f"instead {{new}} in {at.section} place {at.place}",
                ),
            )
            for k, a in enumerate(found, 1)
        ]
    told = phrases(groove, at.terms, length, strictness=strictness)
    return [_phrase(at, groove, phrase, k, length, strictness) for k, phrase in enumerate(told)]


def _phrase(at: At, groove: Groove, phrase: Phrase, number: int, length: int, strictness: str) -> Offer:
    patterns = [groove.pattern, *(a.pattern for a in phrase.answers)]
    heard = groove.changed(pattern=one_after_another([patterns[k] for k in phrase.row]))
    by = f" by {strictness}" if strictness else ""
    take = f"phrase {length} of {at.part.name}{by} choice {number} in {at.section} place {at.place}"
    words = phrase.about if number else f"Keep it a loop: {phrase.about}"
    return Offer(words[:1].upper() + words[1:], heard, (take,) if number else ())


def fill_choices(at: At, beats: int, grid: int, *, cue: bool) -> list[Offer]:
    """Fills over the last beats of the playing, taken as an exception of its bar, or as the cue of what comes next.

    Raises
    ------
    InputError
        Where a cue is asked for that is not in the last bar of a section.
    """
    bar = at.cell.first_bar + at.cell.bars - 1
    played = at.form.sectioned().passes[at.cell.section]
    found = fill_offers(at.document.groove, bar, beats, grid, at.terms)
    if cue and bar != played.last_bar:
        raise InputError("A cue stands in the last bar of a section: choose that one.")
    to = f"cue {at.section} by " if cue else f"but {at.section} bars {bar - played.body_bar + 1} by "
    return [Offer(f.about, f.groove.changed(feels=()), (to + f.phrase,)) for f in found]


def one_after_another(patterns: list[Pattern]) -> Pattern:
    """Parts as one pattern, to be heard; parts that change their meter are heard alone, the last one."""
    first = patterns[0]
    if any(p.meter_changes or p.meter != first.meter for p in patterns):
        return patterns[-1]
    hits, start = [], 0
    for pattern in patterns:
        hits += [h.moved(h.position_ticks + start, key=0) for h in pattern.hits]
        start += pattern.length_ticks
    return replace(first, bars=sum(p.bars for p in patterns), hits=tuple(hits), passages=())
