"""MIDI files: notes, tempo, bars, and the sections of a song as markers."""

from dataclasses import replace
from pathlib import Path

from ghoststep.files.keymap import KeyMap
from ghoststep.files.midi_in import MidiTake, bars_before, groove_of, read_midi
from ghoststep.files.midi_out import LEAD_WORDS, write_midi
from ghoststep.files.safe import shown
from ghoststep.session.document.document import Document
from ghoststep.session.language.forms.marked import marked_form
from ghoststep.session.words import count
from ghoststep.work.formats import Output, plain_name
from ghoststep.work.forms import markers_of


def read(path: Path, keys: KeyMap) -> Document:
    """A MIDI file with its own tempo and bars, and its markers as sections."""
    name, take = plain_name(path), read_midi(path, keys)
    return marked(Document(name, groove_of(take, name)), take, bars_before(take))


def marked(document: Document, take: MidiTake, lead: int = 0) -> Document:
    """The document with the sections that the markers of a MIDI file name, where they stand on bar lines.

    lead: bars that were put before bar 1.
    """
    frame = take.bars
    marks = []
    for ticks, name in take.markers:
        near = frame.spot_at(round(ticks + frame.meter_at(max(ticks, 0)).unit_ticks / 4))
        if abs(frame.start_of(near.bar) - ticks) <= frame.meter_of(max(near.bar, 1)).unit_ticks / 4:
            marks.append((near.bar + lead, name))
    form = marked_form(document.groove, marks)
    return document if form is None else replace(document, form=form)


def write(path: Path, document: Document, output: Output) -> tuple[str, ...]:
    """Write a MIDI file; said is an empty bar that it begins with."""
    notes = write_midi(path, document.groove, output.keys, markers=markers_of(document))
    told = f"{shown(path)} written, {count(notes.notes, 'note')}"
    return (told + (f"; it {LEAD_WORDS}" if notes.lead_bars else ""),)
