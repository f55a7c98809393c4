"""The form of what was heard: proposed, as parts with changes in words, and as JSON."""

from dataclasses import replace
from typing import Any

from ghoststep.files.textgrid_out import grid_text
from ghoststep.files.textgrid_song_out import song_text
from ghoststep.judge.form_found import FoundForm, FoundPart, found_form, told_apart
from ghoststep.music.errors import InputError
from ghoststep.music.form import Form, Part, Pass, bar_words
from ghoststep.music.groove import Groove
from ghoststep.music.unrolled import bars_of, counted
from ghoststep.session.document.document import Document
from ghoststep.session.document.judged import Judged
from ghoststep.session.language.forms.proposed import form_of
from ghoststep.session.words import count


def proposed(groove: Groove) -> tuple[FoundForm, Form]:
    """The form of a groove: what was found in its bars, and as parts, variations and sections."""
    found = told_apart(found_form(groove), groove)
    return found, form_of(found, groove)


def form_json(groove: Groove) -> dict[str, Any]:
    """The `form` of the analysis: parts with their bars, bases and changes, and sections with their first bars."""
    found, form = proposed(groove)
    return {
        "parts": [_part(p, form.part(p.name)) for p in found.parts],
        "sections": [
            {"name": s.name, "bar": s.first_bar, "bars": len(s.letters), "parts": list(s.letters)}
            for s in found.sections
        ],
    }


def _part(found: FoundPart, part: Part) -> dict[str, Any]:
    row: dict[str, Any] = {"name": found.name, "bars": list(found.bars)}
    if part.base:
        row |= {"base": part.base, "changes": list(part.changes)}
    return row


def form_lines(form: Form) -> list[str]:
    """A form as one reads it: parts with their changes, then sections with the bars they are played in."""
    out = []
    for part in form.parts:
        told = f"{part.name}: {count(part.pattern.bars, 'bar')}"
        if part.base:
            told = f"{part.name} = {part.base}, but {'; '.join(part.changes) or 'nothing else'}"
        out.append(told + (f" (kept aside: {'; '.join(part.aside)})" if part.aside else ""))
    for played in form.passes:
        out += _pass_lines(form, played)
    return out


def _pass_lines(form: Form, played: Pass) -> list[str]:
    """A playing of a section: its bars and parts, what leads into it, and what is otherwise in it."""
    section = played.section
    tempo = f", {section.tempo_bpm:g} BPM" if section.tempo_bpm else ""
    meters = _meters(form, played)
    told = f", in {' and '.join(meters)}" if len(meters) > 1 or section.meter else ""
    out = [f"{_stretch(played.body_bar, played.last_bar)}  {section.name}: {' '.join(section.row)}{tempo}{told}"]
    if played.lead:
        stretch = _stretch(played.first_bar, played.body_bar - 1)
        out.insert(0, f"{stretch}  before {section.name}: {' '.join(played.lead)}")
    out += [f"    {bar_words(at)}: {phrase}" for at, phrase in section.exceptions]
    return out + [f"    cue of {played.following} in bar {played.bars}: {phrase}" for phrase in played.cues]


def _stretch(first: int, last: int) -> str:
    return f"bars {first}-{last}" if last > first else f"bar {first}"


def _meters(form: Form, played: Pass) -> list[str]:
    """The meters of a section's bars, in the order they come."""
    found: dict[str, None] = {}
    for name in played.section.row:
        frame, bars = form.part(name).pattern.frame, form.part(name).pattern.bars
        found |= {counted(frame.meter_of(k + 1), played.section.meter).full_name: None for k in range(bars)}
    return list(found)


def section_of(document: Document, name: str | None) -> Groove:
    """The groove, or only the bars of a section, the first time it is played.

    Raises
    ------
    InputError
        Where there is no such section, or no form.
    """
    if name is None:
        return document.groove
    if document.form is None:
        raise InputError(f"{document.name} has no sections: it is bars one after another.")
    section = document.form.section(name)
    for played in document.form.passes:
        if played.section.name == section.name:
            groove = _bars(document.groove, played.body_bar, played.last_bar)
            return replace(groove, feel=section.feel or groove.feel, feels=())
    raise InputError(f"The section {name} is not played in the form.")


def _bars(groove: Groove, first: int, last: int) -> Groove:
    frame = groove.pattern.frame
    start, end = frame.start_of(first), frame.start_of(last + 1)
    tempo = groove.tempo.spliced(end, max(groove.pattern.length_ticks - end, 0), 0).spliced(0, start, 0)
    return groove.changed(pattern=bars_of(groove.pattern, first, last), tempo=tempo)


def markers_of(document: Document) -> tuple[tuple[int, str], ...]:
    """Where sections begin, in ticks, with their names."""
    if document.form is None:
        return ()
    out = []
    start_of = document.groove.pattern.frame.start_of
    for played in document.form.passes:
        if played.lead:
            out.append((start_of(played.first_bar), f"before {played.section.name}"))
        out.append((start_of(played.body_bar), played.section.name))
    return tuple(out)


def text_of(document: Document) -> str:
    """The document as a text grid: with parts and sections where it has a form."""
    if document.form is not None:
        return song_text(document.form, document.groove)
    return grid_text(document.groove)


def only_in_project(document: Document) -> str:
    """What a project keeps of a document and a text grid or MIDI does not, as a sentence; nothing where all is kept."""
    kept = []
    if document.judged != Judged():
        kept.append("who plays and on which kit it is checked")
    if document.kit:
        kept.append("the kit that plays it")
    if document.snapshots:
        kept.append(count(len(document.snapshots), "groove") + " kept beside it")
    return f"Only a project keeps {' and '.join(kept)}." if kept else ""
