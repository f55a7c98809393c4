"""Open anything that is a groove, or listen to it, by what kind of file it is."""

from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from ghoststep.files.analysis import analysis, perhaps_rows
from ghoststep.files.hits import read_hits
from ghoststep.files.keymap import KeyMap
from ghoststep.files.safe import shown
from ghoststep.files.sound import read_passage, read_recording
from ghoststep.listen.bars.explain import Explained
from ghoststep.listen.bars.reading import Hints
from ghoststep.listen.corrections import Corrections
from ghoststep.listen.strokes.hearing import Hearing
from ghoststep.listen.way import hear_groove
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document, Listening, Recording
from ghoststep.work.corrections import listening_of
from ghoststep.work.formats import Holds, holds, is_listenable, plain_name
from ghoststep.work.hits_heard import Progress, heard_performance, remarks_on
from ghoststep.work.offers import offers
from ghoststep.work.time_lines import time_lines_of
from ghoststep.work.trust import Trust


def hear_file(
    path: Path,
    keys: KeyMap,
    hints: Hints,
    progress: Progress = lambda share: None,
    *,
    passage_s: tuple[float, float] | None = None,
    trust: Trust = Trust.COMPARE,
    keep_file: bool = True,
) -> Document:
    """Listen to a sound, a MIDI file or a table of hits: a document with the groove found in it.

    Parameters
    ----------
    passage_s
        Start and end of the part of a sound file that is meant.
    trust
        Whether the tempo and bars that a MIDI file states are taken.
    keep_file
        Whether the document keeps the sound file's bytes, as it must where it may be saved as a project.

    Raises
    ------
    InputError
        Where the file cannot be read or holds no drums.
    """
    if is_listenable(path) and holds(path) is not Holds.SOUND:
        if passage_s is not None:
            raise InputError(f"{shown(path)} is no sound: a passage can only be taken from a recording.")
        if holds(path) is Holds.HITS:
            return heard_performance(read_hits(path), plain_name(path), hints, progress=progress)
        from ghoststep.files.midi_in import read_midi
        from ghoststep.work.midi_heard import hear_midi

        return hear_midi(read_midi(path, keys), plain_name(path), hints, trust, progress)
    recording = read_recording(path) if passage_s is None else read_passage(path, *passage_s)
    if not keep_file:
        recording = replace(recording, data=b"")
    return hear_recording(recording, plain_name(Path(recording.name)), hints, progress)


def hear_recording(recording: Recording, name: str, hints: Hints, progress: Progress = lambda share: None) -> Document:
    """Listen to a recording that is already in memory; InputErrors name it."""
    try:
        heard, explained = hear_groove(recording.samples, recording.rate, hints, progress=progress)
    except InputError as error:
        raise InputError(f"{recording.name}: {error}") from error
    progress(1.0)
    return document_of(heard, explained, recording, name, hints)


def document_of(heard: Hearing, explained: Explained, recording: Recording, name: str, hints: Hints) -> Document:
    """A document of what was heard in a recording, and of the groove that was found in it."""
    confidence = tuple(float(heard.confidence[i]) for i in explained.source)
    remarks = (*heard.remarks, *remarks_on(explained))
    sure = tuple(float(c) for c in heard.confidence)
    if explained.click is not None:  # found in the sound: what is corrected later is measured against it too
        hints = replace(hints, click=explained.click, tempo_bpm=None)
    listening = Listening(explained, confidence, remarks, heard.performance, sure, hints, closed_s=heard.closed_s)
    listening = replace(listening, perhaps=heard.perhaps)
    return Document(name, explained.groove.changed(name=name), recording, listening)


def hear_mouth_file(
    path: Path,
    hints: Hints,
    progress: Progress = lambda share: None,
    *,
    taught: tuple[str, ...] = (),
    lesson: Path | None = None,
    passage_s: tuple[float, float] | None = None,
) -> Document:
    """Listen to a beatboxed phrase.

    Parameters
    ----------
    taught
        Voices of the first sounds of the recording, or of the lesson, in their order.
    lesson
        A recording that teaches the sounds.

    Raises
    ------
    InputError
        Where a file cannot be read or there is no sound in it.
    """
    from ghoststep.listen.entries.mouth import hear_mouth, lesson_of

    recording = read_recording(path) if passage_s is None else read_passage(path, *passage_s)
    progress(0.2)
    try:
        if lesson is not None:
            taught_by = read_recording(lesson)
            learned = lesson_of(taught_by.samples, taught_by.rate, taught or ("kick", "snare", "hat_closed"))
            heard = hear_mouth(recording.samples, recording.rate, lesson=learned)
        else:
            heard = hear_mouth(recording.samples, recording.rate, taught=taught)
    except InputError as error:
        raise InputError(f"{recording.name}: {error}") from error
    progress(0.8)
    sure = tuple(float(c) for c in heard.confidence)
    listening = listening_of(heard.performance, sure, hints, Corrections(), heard.remarks)
    name = plain_name(Path(recording.name))
    return Document(name, listening.explained.groove.changed(name=name), recording, listening)


def onsets_s(document: Document) -> tuple[float, ...]:
    """Moments in the recording of the heard groove's hits, in the order of its pattern."""
    if document.listening is None:
        return ()
    hits = document.listening.explained.groove.pattern.hits
    return tuple(h.origin.time_s if h.origin else 0.0 for h in hits)


def analysis_of(document: Document) -> dict[str, Any]:
    """What `listen --json` writes of a document that was listened to.

    Raises
    ------
    InputError
        Where nothing was listened to.
    """
    from ghoststep.work.forms import form_json

    heard = document.listening
    if heard is None:
        raise InputError("Nothing was listened to in this project yet.")
    told = analysis(heard.explained, heard.confidence, onsets_s(document), heard.remarks, heard.closed_s)
    waiting = [(o.perhaps, o.position_ticks) for o in offers(document)]
    lines = [asdict(line) for line in time_lines_of(document.groove)]
    told |= {"perhaps": perhaps_rows(waiting, heard.explained), "form": form_json(document.groove)}
    return told | {"time_lines": lines}
