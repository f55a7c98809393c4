"""Verbs of the form: parts and their variations, sections, the order, answers."""

import re
from dataclasses import replace
from typing import Annotated

from ghoststep.judge.form_found import found_form, told_apart
from ghoststep.music.errors import InputError
from ghoststep.music.form import EVERY_BAR, WHOLE, Form, Part, Section
from ghoststep.session.form.exact import exact, moved, with_singles
from ghoststep.session.form.named import named
from ghoststep.session.form.text import NAME, phrases_in, plays_of, section_of
from ghoststep.session.language.edit_context import Done, EditContext, settled
from ghoststep.session.language.forms.answering import STRICTNESS, answers
from ghoststep.session.language.forms.proposed import form_of
from ghoststep.session.language.forms.settled import moved_tempo, of_the_whole
from ghoststep.session.language.forms.unrolled_again import relaid, with_keys_kept
from ghoststep.session.language.forms.variation import changes_between
from ghoststep.session.language.forms.words import Unfit, followed, song, varied
from ghoststep.session.language.kinds import Amount, Number, OneOf, SomeBars, Text
from ghoststep.session.language.verb import After, verb
from ghoststep.session.named_feels import player_named
from ghoststep.session.words import count

_NAME, _PHRASES = Text("NAME"), Text("PHRASES")
_BPM = Number("a tempo in BPM", ("bpm",), low=20, high=400, signed=False, name="BPM")
_NTH = Number("an answer", low=1, high=12, whole=True, signed=False, name="1-12")


def the_form(context: EditContext) -> Form:
    """The form there is; an InputError where there is none."""
    form = context.document.form
    if form is None:
        raise InputError("The groove has no parts yet: 'letters' finds them, 'part A bars 1' makes one.")
    return form


def done(context: EditContext, words: str, form: Form) -> Done:
    """The form taken, and the groove that it comes to; what no longer fits its bar is told."""
    before, unfit = {u.words for u in _unfit(context)}, list[Unfit]()
    old, head = context.document.form, context.document.groove
    form = of_the_whole(form, head.pattern)
    if old is not None and form.singles == old.singles:
        form = replace(form, singles=moved(old, replace(form, singles=())))
    if old is not None:
        head = replace(head, tempo=moved_tempo(old, form, head.tempo))
    groove = relaid(old, form, head) if old is not None else None
    groove = groove or with_keys_kept(song(form, head, unfit), head)
    told = [f"{u.words} no longer fits, and is kept" for u in unfit if u.words not in before]
    return settled(context, ("; ".join([words, *told]), replace(context.document, form=form, groove=groove)))


def _unfit(context: EditContext) -> list[Unfit]:
    """What does not fit its bar as it is."""
    out: list[Unfit] = []
    form = context.document.form
    if form is not None and any(s.exceptions or s.cues for s in form.sections):
        song(form, context.document.groove, out)
    return out


def done_with(context: EditContext, words: str, form: Form, *phrases: str) -> Done:
    """The form taken; an InputError where a phrase that was just said fits nowhere."""
    unfit: list[Unfit] = []
    song(form, context.document.groove, unfit)
    if said := [u for u in unfit if u.phrase in phrases]:
        first = said[0]
        raise InputError(f"It does not fit: {first.words}: {first.why.removeprefix(repr(first.phrase) + ': ')}")
    return done(context, words, form)


def section_bars(form: Form, section: Section) -> int:
    """How many bars a section has, without what leads in."""
    return sum(form.part(name).pattern.bars for name in section.row)


def name_of(name: str) -> str:
    """A name that parts and sections can have; an InputError else."""
    if not re.fullmatch(NAME, name):
        raise InputError(f"'{name}' is no name: use letters and figures, like A or verse2.")
    return name


@verb("letters", "finds the form: alike bars get a letter, near ones become variations, sections begin where they do")
def _letters(context: EditContext) -> Done:
    groove = context.document.groove
    form = form_of(told_apart(found_form(groove), groove), groove)
    told = f"{count(len(form.parts), 'part')} in {count(len(form.sections), 'section')}"
    return done(context, f"Form: {told}: {' '.join(form.order)}", form)


@verb(
    "part", "bars of the groove become a part with a name, played where those bars are alike", example="part A bars 1-2"
)
def _part(
    context: EditContext,
    name: Annotated[str, Text("NAME")],
    bars: Annotated[tuple[int, ...], After("bars", SomeBars())],
) -> Done:
    name = name_of(name)
    first, last = min(bars), max(bars)
    groove = context.document.groove
    form = named(context.document.form, groove, name, first, last)
    form = of_the_whole(form, groove.pattern)
    bare = song(replace(form, singles=()), groove)
    form = exact(form, bare, groove)
    often = sum(s.part == name for s in form.stretches())
    told = f", played {often} times" if often > 1 else ""
    others = [
        p.name
        for p in form.parts
        if p.name != name and not (context.document.form and context.document.form.has(p.name))
    ]
    told += (
        f"; {'the rest is part' if len(others) == 1 else 'the rest are parts'} {', '.join(others)}" if others else ""
    )
    after = replace(context.document, form=form, groove=with_keys_kept(with_singles(bare, form.singles), groove))
    return settled(context, (f"Part {name}: {count(last - first + 1, 'bar')}{told}", after))


@verb("vary", "a variation of a part, by phrases with 'then' between them", example="vary A as B by move kick 2 to 1&")
def _vary(
    context: EditContext,
    name: Annotated[str, _NAME],
    new: Annotated[str, After("as", _NAME)],
    phrases: Annotated[str, After("by", _PHRASES)],
) -> Done:
    form = the_form(context)
    base, new = form.part(name), name_of(new)
    if new == name or base.base == new:
        raise InputError(f"{new} cannot be a variation of {name}: they would go in a circle.")
    changes = phrases_in(phrases)
    part = varied(base, new, changes)
    if part.aside:
        raise InputError(f"'{part.aside[0]}' does not fit {name}.")
    form, told = followed(form.with_part(part), new)
    return done(context, "; ".join([f"Part {new} is {name}, but {'; '.join(part.changes)}", *told]), form)


@verb("free", "a part is set free of its base", example="free B")
def _free(context: EditContext, name: Annotated[str, _NAME]) -> Done:
    form = the_form(context)
    part = form.part(name)
    if not part.base:
        return f"{name} is free already", context
    return done(context, f"Part {name} is free of {part.base}", form.with_part(Part(name, part.pattern)))


@verb("rebase", "a part becomes a variation of another; the changes are worked out", example="rebase B to A")
def _rebase(context: EditContext, name: Annotated[str, _NAME], base: Annotated[str, After("to", _NAME)]) -> Done:
    form = the_form(context)
    part, other = form.part(name), form.part(base)
    changes = changes_between(other.pattern, part.pattern)
    if not changes.exact:
        raise InputError(f"What leads from {base} to {name} cannot be said: they differ in bars, meter or grace notes.")
    told = "; ".join(changes.phrases) or "nothing else"
    new = Part(name, part.pattern, base, changes.phrases)
    return done(context, f"Part {name} is {base}, but {told}", form.with_part(new))


@verb(
    "section",
    "parts in an order get a name; 'x2' repeats, '| ending B' ends a pass",
    example="section verse = A B C x2 B",
)
def _section(
    context: EditContext,
    told: Annotated[str, Text("NAME = A B x2 | ending C")],
    tempo: Annotated[
        Amount | None, After("tempo", Number("a tempo in BPM", ("bpm",), low=20, high=400, signed=False, name="BPM"))
    ] = None,
    feel: Annotated[str | None, After("feel", Text("FEEL"))] = None,
) -> Done:
    name, equals, rest = (x.strip() for x in told.partition("="))
    if not equals or not re.fullmatch(NAME, name):
        raise InputError("A section is said like: section verse = A B C x2 B.")
    section = section_of(name, rest)
    form = the_form(context)
    before = next((s for s in form.sections if s.name == name), section)
    own = player_named(feel)[0] if feel else before.feel
    bpm = tempo.value if tempo else before.tempo_bpm
    kept = before.exceptions if before.row == section.row else ()
    section = replace(before, plays=section.plays, endings=section.endings)
    joined = form.sections and [s.name for s in form.sections] != [WHOLE]
    new = form.with_section(replace(section, tempo_bpm=bpm, feel=own, exceptions=kept))
    told = f"Section {name}: {' '.join(section.row)}"
    if not joined:  # parts one after another have an order now
        new = replace(new, sections=tuple(s for s in new.sections if s.name == name), order=(name,))
        left = [p.name for p in form.parts if p.name not in section.row]
        told += f"; the form is {name} alone now"
        told += f", and {', '.join(left)} {'is' if len(left) == 1 else 'are'} not played" if left else ""
    elif name not in [s.name for s in form.played]:
        names = [s.name for s in form.played]
        told += f"; it is not in the form yet: form {' '.join([*names, name])}"
        new = replace(new, order=tuple(names))
    return done(context, told, new)


@verb("form", "the order of the sections", example="form verse verse last")
def _order(context: EditContext, told: Annotated[str, Text("verse verse last")]) -> Done:
    names = tuple(p.part for p in plays_of(told.removeprefix("=")) for _ in range(p.times))
    form = replace(the_form(context), order=names)
    return done(context, f"Form: {' '.join(names)}, {count(form.bars, 'bar')}", form)


@verb(
    "but",
    "bars of a section are otherwise, each time it is played; without bars all in which it changes something",
    example="but verse bars 1 by place hat_open 4&",
)
def _but(
    context: EditContext,
    *,
    name: Annotated[str, _NAME],
    bars: Annotated[set[int] | None, After("bars", SomeBars())] = None,
    phrase: Annotated[str, After("by", _PHRASES)],
) -> Done:
    form = the_form(context).sectioned()
    section = form.section(name)
    phrases = phrases_in(phrase)
    whole = section_bars(form, section)
    if bars and max(bars) > whole:
        raise InputError(f"The section {name} has {count(whole, 'bar')}, and no bar {max(bars)}.")
    at = (EVERY_BAR,) if not bars or set(bars) == set(range(1, whole + 1)) else sorted(bars)
    told = tuple((bar, p) for bar in at for p in phrases)
    section = replace(section, exceptions=(*section.exceptions, *told))
    which = "every bar" if at == (EVERY_BAR,) else f"bar {', '.join(map(str, at))}"
    return done_with(context, f"{name}, {which}: {'; '.join(phrases)}", form.with_section(section), *phrases)


@verb(
    "only-here",
    "an edit changes only its bar of the section, as an exception, instead of the part wherever it is played",
    example="only-here on",
)
def _only_here(
    context: EditContext, switch: Annotated[str, OneOf("switch", ("on", "off", "toggle"))] = "toggle"
) -> Done:
    on = not context.document.only_here if switch == "toggle" else switch == "on"
    words = "Edits change only the bar they are made in" if on else "Edits change the part, and so all its bars"
    return words, replace(context, document=replace(context.document, only_here=on))


@verb(
    "answer",
    "a part that answers another: a small change of it that can be played, near, middle or far; the first or the nth",
    example="answer A as B near",
)
def _answer(
    context: EditContext,
    name: Annotated[str, _NAME],
    new: Annotated[str, After("as", Text("NAME"))],
    strictness: Annotated[str, After("by", OneOf("strictness", tuple(STRICTNESS)))] = "",
    number: Annotated[
        Amount, After("choice", Number("an answer", low=1, high=12, whole=True, signed=False, name="1-12"))
    ] = Amount(1.0),
) -> Done:
    words = new.split()
    if len(words) == 2 and words[1] in STRICTNESS:  # "as B near"
        new, strictness = words
    form, new = the_form(context), name_of(new)
    part = form.part(name)
    if new == name or part.base == new:
        raise InputError(f"{new} cannot answer {name}: they would be variations of each other.")
    groove = context.document.groove.changed(pattern=part.pattern)
    found = answers(groove, context.document.judged.terms, strictness=strictness)
    if number.value > len(found):
        raise InputError(f"There are only {count(len(found), 'answer')} to {name} so {strictness or 'near or far'}.")
    chosen = found[int(number.value) - 1]
    answer = varied(part, new, chosen.phrases)
    form, told = followed(form.with_part(answer), new)
    return done(context, "; ".join([f"Part {new} answers {name}: {chosen.about}", *told]), form)
