"""Changes between two versions, parts or sections, each told and taken over singly."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields, replace
from functools import partial

from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel
from ghoststep.music.form import Form
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Hit
from ghoststep.music.unrolled import bars_of
from ghoststep.session.document.differences import Change, difference, group_words, grouped
from ghoststep.session.document.document import Document

PART, SECTION, HEARD, NOW = "part", "section", "as heard", "now"


@dataclass(frozen=True)
class Single:
    """One change: its words, and what becomes of the groove that takes it over (hits as they stand there)."""

    words: str
    gone: Hit | None = None
    new: Hit | None = None
    whole: Callable[[Groove], Groove] | None = None
    more: tuple[tuple[Hit | None, Hit | None], ...] = ()  # gone and new of others that change alike

    @property
    def pairs(self) -> tuple[tuple[Hit | None, Hit | None], ...]:
        """What goes and what comes for it, of each stroke that it is about."""
        return () if self.whole is not None else ((self.gone, self.new), *self.more)


@dataclass(frozen=True)
class Side:
    """What is compared: its name, its bars as a groove, and the bar of the whole on which those begin."""

    name: str
    groove: Groove
    first_bar: int = 1
    whole: bool = True


def side(document: Document, named: str) -> Side:
    """What a name means: now, as heard, a kept version, or "part B", "section verse" (of now, or "of VERSION").

    Raises
    ------
    InputError
        Where there is no such version, part or section, or it is played nowhere.
    """
    words = " ".join(named.split())
    place, _, version = words.partition(" of ")
    if place.partition(" ")[0] not in (PART, SECTION) or not place.partition(" ")[2]:
        place, version = "", words
    groove, form = _version(document, version or NOW)
    if not place:
        return Side(words, groove)
    kind, _, name = place.partition(" ")
    if form is None:
        raise InputError(f"{version or document.name} has no {kind}s: it is bars one after another.")
    first, last = _bars(form, kind, name)
    return Side(words, groove.changed(pattern=bars_of(groove.pattern, first, last)), first, whole=False)


def _version(document: Document, name: str) -> tuple[Groove, Form | None]:
    if name == NOW:
        return document.groove, document.form
    if name == HEARD and document.listening is not None:
        return document.listening.explained.groove, None
    found = next((s for s in document.snapshots if s.name.lower() == name.lower()), None)
    if found is None:
        known = ", ".join([NOW, *([HEARD] if document.listening else []), *(s.name for s in document.snapshots)])
        raise InputError(f"There is no version '{name}'. There are: {known}; and 'part A', 'section verse'.")
    return found.groove, found.form


def _bars(form: Form, kind: str, name: str) -> tuple[int, int]:
    """The bars in which a part or a section is played first."""
    if kind == PART:
        form.part(name)
        found = [(s.first_bar, s.first_bar + s.bars - 1) for s in form.stretches() if s.part == name]
    else:
        form.section(name)
        found = [(p.body_bar, p.last_bar) for p in form.passes if p.section.name == name]
    if not found:
        raise InputError(f"The {kind} {name} is played nowhere in the form.")
    return found[0]


def names_of(document: Document) -> list[str]:
    """Everything that can stand on a side: versions, and parts and sections that are played."""
    out = [NOW, *(s.name for s in document.snapshots)]
    out += [HEARD] if document.listening is not None else []
    for version, form in [(NOW, document.form), *((s.name, s.form) for s in document.snapshots)]:
        if form is None:
            continue
        of = "" if version == NOW else f" of {version}"
        parts = dict.fromkeys(s.part for s in form.stretches())
        out += [f"{SECTION} {s.name}{of}" for s in dict.fromkeys(form.played) if form.sections]
        out += [f"{PART} {name}{of}" for name in parts]
    return out


def singles(mine: Side, theirs: Side) -> list[Single]:
    """What leads from mine to theirs, change by change: the feel and the tempo first, then hits in order."""
    found = difference(mine.groove, theirs.groove)
    whole = _whole(mine.groove, theirs.groove) if mine.whole and theirs.whole else []
    length = mine.groove.pattern.length_ticks
    inside = [c for c in found.changes if c.after is None or c.after.position_ticks < length]
    return [
        *whole,
        *(_single(group, mine.groove, theirs.groove) for group in grouped(inside, mine.groove, theirs.groove)),
    ]


def _single(group: Sequence[Change], mine: Groove, theirs: Groove) -> Single:
    words = group_words(group, mine, theirs)
    first, *rest = group
    more = tuple((c.before, c.after) for c in rest)
    return Single(words[:1].upper() + words[1:], first.before, first.after, more=more)


_OF_FEEL = {
    "swing": "The swing", "lean_ms": "How early or late each drum is", "balance_db": "The balance of the drums",
}  # fmt: skip


def _whole(mine: Groove, theirs: Groove) -> list[Single]:
    out = []
    named = {name: getattr(mine.feel, name) for name in _OF_FEEL}
    for name, words in _OF_FEEL.items():
        if named[name] != getattr(theirs.feel, name):
            out.append(Single(words, whole=partial(_felt, theirs.feel, (name,))))
    if replace(theirs.feel, **named) != mine.feel:
        rest = tuple(f.name for f in fields(Feel) if f.name not in _OF_FEEL)
        out.append(Single("The player: touch and looseness", whole=partial(_felt, theirs.feel, rest)))
    if mine.tempo != theirs.tempo:
        out.append(Single("The tempo", whole=lambda g: g.changed(tempo=theirs.tempo)))
    return out


def _felt(theirs: Feel, names: tuple[str, ...], groove: Groove) -> Groove:
    """A groove with some fields of another feel."""
    return groove.changed(feel=replace(groove.feel, **{name: getattr(theirs, name) for name in names}))


def taken_over(groove: Groove, mine: Side, changes: list[Single]) -> Groove:
    """The whole groove with some changes done to the bars that `mine` shows."""
    start = groove.pattern.frame.start_of(mine.first_bar)
    gone, new = set(), []
    for change in changes:
        if change.whole is not None:
            groove = change.whole(groove)
            continue
        for old, come in change.pairs:
            if old is not None:
                gone.update(groove.pattern.indices_of_keys({old.key}))
            if come is not None:
                key, origin = (old.key, old.origin) if old is not None else (0, None)
                there = come.position_ticks + start
                new.append(replace(come, position_ticks=there, key=key, origin=origin))
    return groove.changed(pattern=groove.pattern.with_hits(gone, new))
