"""Verbs of sections: what leads into one, by what cue it ends, its meter, and its row of parts."""

from dataclasses import replace
from typing import Annotated

from ghoststep.music.errors import InputError
from ghoststep.music.form import Play
from ghoststep.music.meter import Meter
from ghoststep.session.form.count_in import MAX_COUNT_IN, with_count_in
from ghoststep.session.form.rows import inserted, put, shifted, taken_out
from ghoststep.session.form.text import phrases_in, plays_of
from ghoststep.session.language.edit_context import Done, EditContext
from ghoststep.session.language.kinds import Amount, Number, OneOf, Text, TheMeter
from ghoststep.session.language.verb import After, verb
from ghoststep.session.language.verbs.forming import done, done_with, the_form
from ghoststep.session.words import count

_NAME = Text("NAME")
_PLACE = Number("a place in the row", low=1, high=99_999, whole=True, signed=False, name="PLACE")
_COUNT = Number("a number of bars", low=0, high=MAX_COUNT_IN, whole=True, signed=False, name=f"0-{MAX_COUNT_IN}")


@verb(
    "lead-in",
    "parts that are played before a section, such as bars of hits, each time it is come to; none takes them away",
    example="lead-in chorus = hits x2",
)
def _lead_in(context: EditContext, told: Annotated[str, Text("SECTION = PARTS|none")]) -> Done:
    name, equals, rest = (x.strip() for x in told.partition("="))
    if not equals or not rest:
        raise InputError("What leads in is said like: lead-in chorus = hits x2.")
    form = the_form(context).sectioned()
    before = () if rest == "none" else plays_of(rest)
    form = form.with_section(replace(form.section(name), before=before))
    return done(context, f"Before {name}: {rest}" if before else f"Nothing leads into {name}", form)


@verb("count-in", "so many bars of clicks before a section; 0 takes them away", example="count-in 2 before verse")
def _count_in(
    context: EditContext, bars: Annotated[Amount, _COUNT], name: Annotated[str, After("before", _NAME)] = ""
) -> Done:
    form = the_form(context).sectioned()
    section = form.section(name or form.played[0].name)
    if not bars.value:
        return done(context, f"No count-in before {section.name}", form.with_section(replace(section, before=())))
    meter = section.meter or form.part(section.row[0]).pattern.meter
    form, part = with_count_in(form, meter)
    form = form.with_section(replace(section, before=(Play(part, int(bars.value)),)))
    return done(context, f"{count(int(bars.value), 'bar')} counted in before {section.name}", form)


@verb(
    "cue",
    "an accent or a fill in a section's last bar that says what comes next, whichever section or one that is named",
    example="cue verse to chorus by fill-in 2 cell RLLK",
)
def _cue(
    context: EditContext,
    *,
    name: Annotated[str, _NAME],
    to: Annotated[str, After("to", Text("SECTION"))] = "",
    phrase: Annotated[str, After("by", Text("PHRASES|none"))],
) -> Done:
    form = the_form(context).sectioned()
    section = form.section(name)
    if to:
        form.section(to)
    others = tuple(c for c in section.cues if c[0] != to)
    before = [c[1] for c in section.cues if c[0] == to]
    if phrase == "none":
        told = f"No cue in {name} before {to or 'what is next'}" if before else f"{name} has no such cue"
        return done(context, told, form.with_section(replace(section, cues=others)))
    phrases = phrases_in(phrase)
    form = form.with_section(replace(section, cues=(*others, *((to, p) for p in phrases))))
    instead = f"; that takes the place of {'; '.join(before)}" if before else ""
    words = f"{name} ends, before {to or 'what is next'}, with {'; '.join(phrases)}{instead}"
    return done_with(context, words, form, *phrases)


@verb(
    "section-meter",
    "the bars of a section are counted in another meter of the same length",
    example="section-meter 2/2 in verse",
)
def _section_meter(
    context: EditContext, meter: Annotated[Meter, TheMeter()], name: Annotated[str, After("in", _NAME)]
) -> Done:
    form = the_form(context).sectioned()
    section = form.section(name)
    new = replace(section, meter=meter)
    parts = [form.part(part).pattern for part in section.row]
    if all(p.frame.meter_of(k).bar_ticks != meter.bar_ticks for p in parts for k in range(1, p.bars + 1)):
        raise InputError(f"No bar of {name} is as long as one of {meter}: change the meter of its parts in Place.")
    return done(context, f"{name} is counted in {meter}", form.with_section(new))


@verb(
    "put-in",
    "a part is put into a section, before the nth of its row or at its end",
    example="put-in B into verse place 3",
)
def _insert(
    context: EditContext,
    part: Annotated[str, _NAME],
    name: Annotated[str, After("into", _NAME)],
    at: Annotated[Amount | None, After("place", _PLACE)] = None,
) -> Done:
    form = the_form(context).sectioned()
    length = len(form.section(name).row)
    place = length if at is None else int(at.value) - 1
    if place > length:
        raise InputError(f"The section {name} plays {length} parts: there is no place {place + 1}.")
    return done(context, f"{part} into {name}", form.with_section(inserted(form, name, place, part)))


@verb(
    "instead",
    "a part is played instead of the nth of a section's row; what is otherwise in its bars stays so",
    example="instead B in verse place 3",
)
def _instead(
    context: EditContext,
    part: Annotated[str, _NAME],
    name: Annotated[str, After("in", _NAME)],
    at: Annotated[Amount, After("place", _PLACE)],
) -> Done:
    form = the_form(context).sectioned()
    form.part(part)
    new = put(form, name, int(at.value) - 1, [part])
    return done(context, f"{name}: {' '.join(new.row)}", form.with_section(new))


@verb("take-out", "the nth of a section's row is taken out", example="take-out 3 of verse")
def _take_out(context: EditContext, at: Annotated[Amount, _PLACE], name: Annotated[str, After("of", _NAME)]) -> Done:
    form = the_form(context).sectioned()
    section = form.section(name)
    new = taken_out(form, name, int(at.value) - 1)
    return done(context, f"{section.row[int(at.value) - 1]} out of {name}", form.with_section(new))


@verb("reorder", "the nth of a section's row goes to another place in it", example="reorder 3 to 1 of verse")
def _reorder(
    context: EditContext,
    at: Annotated[Amount, _PLACE],
    to: Annotated[Amount, After("to", _PLACE)],
    name: Annotated[str, After("of", _NAME)],
) -> Done:
    form = the_form(context).sectioned()
    new = shifted(form, name, int(at.value) - 1, int(to.value) - 1)
    return done(context, f"{name}: {' '.join(new.row)}", form.with_section(new))


@verb("song-order", "the nth section of the form once more, out, earlier or later", example="song-order 2 again")
def _song_order(
    context: EditContext,
    at: Annotated[Amount, _PLACE],
    change: Annotated[str, OneOf("change", ("again", "out", "earlier", "later"))],
) -> Done:
    form = the_form(context).sectioned()
    names = [s.name for s in form.played]
    k = int(at.value) - 1
    if k >= len(names):
        raise InputError(f"The form has {count(len(names), 'section')}: there is no place {k + 1}.")
    if change == "again":
        names.insert(k, names[k])
    elif change == "out":
        if len(names) == 1:
            raise InputError("A form plays at least one section.")
        del names[k]
    else:
        to = min(max(k + (-1 if change == "earlier" else 1), 0), len(names) - 1)
        names.insert(to, names.pop(k))
    return done(context, f"Form: {' '.join(names)}", replace(form, order=tuple(names)))
