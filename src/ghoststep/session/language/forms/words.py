"""Forms with the language: variations worked out by their phrases, and what follows when a base changes."""

from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

from ghoststep.music.errors import InputError
from ghoststep.music.form import EVERY_BAR, Form, Part, Pass, bar_words
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Pattern
from ghoststep.music.unrolled import bars_of, unrolled
from ghoststep.session.document.document import Document
from ghoststep.session.form.exact import with_singles
from ghoststep.session.form.plain import without_keys
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.verb import phrase_done, verb_named

_OF_THE_WHOLE = ("tempo", "swing", "lean", "loose", "take", "placement", "feel")
_TEMPO = "a tempo holds for the song or a section: say it for its bars, like 'tempo 120 bars 5-8'."
_FEEL = "a feel holds for the song or a section, and not for single bars or parts."
FILL_IN = "fill-in"  # the verb that reaches over bar lines


class Unfit(NamedTuple):
    """A cue or an exception that does not fit its bar: in words, the phrase itself, and why."""

    words: str
    phrase: str
    why: str


def changed_by(pattern: Pattern, phrases: Sequence[str]) -> Pattern:
    """A pattern with phrases done to it, one after another.

    Raises
    ------
    InputError
        Where one cannot be done, naming it.
    """
    pattern = without_keys(pattern)
    for phrase in phrases:
        found = _done_to(pattern, phrase)
        if isinstance(found, InputError):
            raise InputError(f"'{phrase}': {found}") from found
        pattern = found
    return pattern


@lru_cache(maxsize=2048)
def _done_to(pattern: Pattern, phrase: str) -> Pattern | InputError:
    """A pattern with one phrase done to it, or why that cannot be; kept, since every edit of a song asks again."""
    found = verb_named(phrase.split()[0])
    context = EditContext(Document("part", Groove(pattern)))
    try:
        if found is not None and found.name in _OF_THE_WHOLE:
            raise InputError(_TEMPO if found.name == "tempo" else _FEEL)
        _, after = phrase_done(context, phrase)  # a part has no form that would follow
        _check_hits_only(context, after)
    except InputError as error:
        return error
    return without_keys(after.document.groove.pattern)


def _check_hits_only(before: EditContext, after: EditContext) -> None:
    """An InputError where a phrase changes what a part or a single bar cannot have for itself."""
    was, now = before.document.groove, after.document.groove
    if was.tempo != now.tempo:
        raise InputError(_TEMPO)
    if was.feel != now.feel:
        raise InputError(_FEEL)
    if was.pattern.rules != now.pattern.rules:
        raise InputError("a rule holds for the whole song, and not for single bars or parts.")


def varied(base: Part, name: str, phrases: Sequence[str]) -> Part:
    """A variation: the changes that fit done, those that do not kept aside."""
    pattern, done, aside = without_keys(base.pattern), [], []
    for phrase in phrases:
        try:
            pattern = changed_by(pattern, [phrase])
        except InputError:
            aside.append(phrase)
        else:
            done.append(phrase)
    return Part(name, pattern, base.name, tuple(done), tuple(aside))


def followed(form: Form, name: str) -> tuple[Form, list[str]]:
    """The form with every variation of a part worked out again, and of those in turn; words on what no longer fits."""
    told: list[str] = []
    for part in form.parts:
        if part.base != name:
            continue
        new = varied(form.part(name), part.name, (*part.changes, *part.aside))
        for phrase in new.aside:
            if phrase not in part.aside:
                told.append(f"'{phrase}' no longer fits {part.name} and is kept aside")
        form, more = followed(form.with_part(new), part.name)
        told += more
    return form, told


def song(form: Form, head: Groove, unfit: list[Unfit] | None = None) -> Groove:
    """The form unrolled, with the cues and the exceptions of its sections.

    One that does not fit its bar any more is kept in the form and left out; `unfit` gets words about it.

    Raises
    ------
    InputError
        Where an exception names a bar that its section does not have, or one says nothing that is known.
    """
    groove = unrolled(form, head)
    for section in {s.name: s for s in form.played}.values():
        told = [("the last bar", p) for _, p in section.cues]  # those that are not played now too
        for where, phrase in (*told, *((bar_words(at), p) for at, p in section.exceptions)):
            if verb_named(phrase.split()[0]) is None:
                raise InputError(f"'{phrase}' says nothing of {where} of {section.name}.")
    for played in form.passes:
        name, bars = played.section.name, played.bars
        cues = [(bars, phrase) for phrase in played.cues]
        for at, phrase in (*cues, *played.section.exceptions):
            if not 0 <= at <= bars:
                raise InputError(f"The section {name} has {bars} bars, and no bar {at} for '{phrase}'.")
            groove, why = _with_bars(groove, played, at, phrase)
            if why and unfit is not None:
                unfit.append(Unfit(f"'{phrase}' in {bar_words(at)} of {name}", phrase, why))
    return with_singles(groove, form.singles)


def _with_bars(groove: Groove, played: Pass, at: int, phrase: str) -> tuple[Groove, str]:
    """The groove with a phrase done to a bar of a pass, or to all in which it changes something; why none was."""
    fits, why = False, ""
    for bar in range(1, played.bars + 1) if at == EVERY_BAR else (at,):
        try:
            groove = _with_bar(groove, played.body_bar + bar - 1, phrase)
        except InputError as error:
            why = why or str(error)
            continue
        fits = True
    return groove, "" if fits else why


def _with_bar(groove: Groove, bar: int, phrase: str) -> Groove:
    """The groove with a phrase done to one bar; a fill may begin in the bar before, and lands in the next one."""
    pattern = groove.pattern
    first = last = bar
    if phrase.split()[0].lower() == FILL_IN:
        first, last = max(1, bar - 1), min(pattern.bars, bar + 1)
        phrase += f" in {bar - first + 1}" + (" landing nothing" if last == bar else "")
    start, end = pattern.frame.start_of(first), pattern.frame.start_of(last + 1)
    before = bars_of(pattern, first, last)
    changed = changed_by(before, [phrase])
    if changed.bars != before.bars or changed.frame != before.frame:
        raise InputError(f"'{phrase}' changes how long a bar is, which an exception cannot: change its part.")
    inside = pattern.between(start, end)
    hits = tuple(h.moved(h.position_ticks + start) for h in changed.hits)
    # The bars around it stay as they are, so nothing is sorted anew.
    return groove.changed(pattern=pattern.in_order(pattern.hits[: inside.start] + hits + pattern.hits[inside.stop :]))
