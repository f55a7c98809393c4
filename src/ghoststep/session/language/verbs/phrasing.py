"""The verb of phrases: question and answer over two, four or eight bars."""

from typing import Annotated

from ghoststep.music.errors import InputError
from ghoststep.music.form import Form
from ghoststep.session.form.reshaped import free_name
from ghoststep.session.form.rows import put
from ghoststep.session.language.edit_context import Done, EditContext
from ghoststep.session.language.forms.answering import PHRASE_LENGTHS, STRICTNESS, Phrase, phrases
from ghoststep.session.language.forms.words import varied
from ghoststep.session.language.kinds import Amount, Number, OneOf, Text
from ghoststep.session.language.verb import After, verb
from ghoststep.session.language.verbs.forming import done, the_form
from ghoststep.session.words import count

_LENGTH = OneOf("length", tuple(map(str, PHRASE_LENGTHS)))
_NTH = Number("a phrase", low=1, high=12, whole=True, signed=False, name="1-12")
_PLACE = Number("a place in the row", low=1, high=99_999, whole=True, signed=False, name="PLACE")


@verb(
    "phrase",
    "question and answer: a part, its answer, the part, another answer, over 2, 4 or 8 bars; the first or the nth way",
    example="phrase 4 of A by near",
)
def _phrase(
    context: EditContext,
    length: Annotated[str, _LENGTH],
    name: Annotated[str, After("of", Text("PART"))],
    strictness: Annotated[str, After("by", OneOf("strictness", tuple(STRICTNESS)))] = "",
    number: Annotated[Amount, After("choice", _NTH)] = Amount(1.0),
    section: Annotated[str, After("in", Text("SECTION"))] = "",
    at: Annotated[Amount | None, After("place", _PLACE)] = None,
) -> Done:
    form = the_form(context).sectioned()
    part = form.part(name)
    groove = context.document.groove.changed(pattern=part.pattern)
    # The first on offer keeps it a loop: here an answer is asked for.
    found = phrases(groove, context.document.judged.terms, int(length), strictness=strictness)[1:]
    if number.value > len(found):
        raise InputError(f"There are only {count(len(found), 'phrase')} of {name} so {strictness or 'near or far'}.")
    place = None if at is None else int(at.value) - 1
    words, form = with_phrase(form, name, found[int(number.value) - 1], section, place)
    return done(context, words, form)


def with_phrase(form: Form, name: str, phrase: Phrase, section: str, place: int | None) -> tuple[str, Form]:
    """Words, and the form with a phrase in the place of a playing of its question (by default of the first).

    Raises
    ------
    InputError
        Where the section does not play it.
    """
    if not section:
        section = next((s.name for s in form.played if name in s.row), form.played[0].name)
    row = form.section(section).row
    if place is None:
        if name not in row:
            raise InputError(f"{section} does not play {name}.")
        place = row.index(name)
    names = [name]
    for answer in phrase.answers:
        new = free_name(form)
        form = form.with_part(varied(form.part(name), new, answer.phrases))
        names.append(new)
    parts = [names[k] for k in phrase.row]
    return f"{' '.join(parts)}: {phrase.about}", form.with_section(put(form, section, place, parts))
