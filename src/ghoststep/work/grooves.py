"""Open anything that is a groove, or listen to it, by what kind of file it is."""

from collections.abc import Callable
from dataclasses import asdict, replace
from enum import StrEnum
from pathlib import Path
from typing import Any

import numpy as np

from ghoststep.files.analysis import analysis, perhaps_rows
from ghoststep.files.feels import use_shelf
from ghoststep.files.hits import read_hits
from ghoststep.files.keymap import KeyMap
from ghoststep.files.midi_in import MidiTake, bars_before, read_midi
from ghoststep.files.safe import shown
from ghoststep.files.sound import read_passage, read_recording
from ghoststep.listen.bars.explain import Explained
from ghoststep.listen.bars.reading import Hints
from ghoststep.listen.corrections import Corrections
from ghoststep.listen.entries.given import Fit, Stated, explain_stated, fit_of
from ghoststep.listen.entries.mouth import hear_mouth, lesson_of
from ghoststep.listen.strokes.hearing import Hearing
from ghoststep.listen.way import hear_groove
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.performance import Performance
from ghoststep.session.document.document import Document, Listening, Recording
from ghoststep.session.words import count
from ghoststep.work.corrections import listening_of
from ghoststep.work.formats import Holds, holds, is_listenable, opened, plain_name
from ghoststep.work.formats.midi import marked
from ghoststep.work.forms import form_json
from ghoststep.work.offers import offers
from ghoststep.work.time_lines import time_lines_of

Progress = Callable[[float], None]
SEVERAL_TEMPI = "From {:.0f} s on the tempo is another one: listen to that passage by itself."
UNSTEADY = "The hits keep to no steady tempo that was found: tempo and bars are doubtful."
_STEADY = 0.75
GUESSED = "There are too few hits to tell tempo and meter: 120 BPM in 4/4 is a guess."


class Trust(StrEnum):
    """What is believed of a MIDI file's own tempo and bars."""

    COMPARE = "compare"  # the file, where its hits keep to it
    FILE = "file"
    HITS = "hits"


def open_document(path: Path, keys: KeyMap) -> Document:
    """A project, text grid or MIDI file as a document, read as written (`work.formats.opened`)."""
    use_shelf()  # sections may name feels
    return opened(path, keys)


def open_groove(path: Path, keys: KeyMap) -> Groove:
    return open_document(path, keys).groove


def hear_file(
    path: Path,
    keys: KeyMap,
    hints: Hints,
    progress: Progress = lambda share: None,
    *,
    passage_s: tuple[float, float] | None = None,
    trust: Trust = Trust.COMPARE,
) -> Document:
    """Listen to a sound, a MIDI file or a table of hits: a document with the groove found in it.

    Parameters
    ----------
    passage_s
        Start and end of the part of a sound file that is meant.
    trust
        Whether the tempo and bars that a MIDI file states are taken.

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
        return hear_midi(read_midi(path, keys), plain_name(path), hints, trust, progress)
    recording = read_recording(path) if passage_s is None else read_passage(path, *passage_s)
    return hear_recording(recording, plain_name(Path(recording.name)), hints, progress)


def hear_midi(
    take: MidiTake, name: str, hints: Hints, trust: Trust = Trust.COMPARE, progress: Progress = lambda share: None
) -> Document:
    """Listen to a MIDI file: what it states of tempo and bars is compared with what its hits say.

    The file's is taken where the hits keep to it, with or without swing; else they are heard as if nothing were stated.
    Which was taken, and why, is a remark.

    Raises
    ------
    InputError
        Where no reading fits, or the file is to be trusted and states nothing.
    """
    performance = take.performance()
    remarks = [f"{take.left_out} notes on unknown keys were left out."] if take.left_out else []
    if take.moved_lines:
        remarks.append(f"{count(take.moved_lines, 'change')} of meter off the bar lines, put to the nearest one.")
    states = take.tempo_known or take.meter_known
    if trust is Trust.FILE and not states:
        raise InputError(f"{name} states neither tempo nor meter: there is nothing to trust.")
    said = hints.known_bpm is not None or hints.meter is not None
    if not states or trust is Trust.HITS or (said and trust is Trust.COMPARE):
        if states:
            remarks.append(f"The file states {_stated(take)}; that was left aside, as you said.")
        return heard_performance(performance, name, hints, tuple(remarks), progress=progress)
    stated = Stated(take.tempo, take.bars, take.ticks, take.lead_s)
    fit = fit_of(performance, stated)
    near = f"{100 * fit.near:.0f} % of the hits lie near its grid, the middle one {fit.miss_ms:.0f} ms off"
    if fit.offset_s:
        side = "behind" if fit.offset_s > 0 else "ahead of"
        remarks.append(
            f"The whole take lies {abs(1000 * fit.offset_s):.0f} ms {side} its grid; that was taken out first."
        )
    if trust is Trust.FILE or fit.good:
        remarks.append(f"The file states {_stated(take)}, and that was taken: {near}.")
        return marked(_as_stated(performance, name, stated, fit, tuple(remarks)), take, bars_before(take))
    remarks.append(
        f"The file states {_stated(take)}, but only {near}: tempo and bars were heard anew."
        " To take the file's: --trust-file, or open it as a groove."
    )
    return heard_performance(performance, name, hints, tuple(remarks), progress=progress)


def _stated(take: MidiTake) -> str:
    """What a file states, in words: "110 BPM in 11/4", "tempi from 96 to 120 BPM in 4/4 and 7/8"."""
    low, high = min(take.tempo.bpm), max((*take.tempo.bpm, *take.tempo.to_bpm))
    tempo = f"{low:.4g} BPM" if low == high else f"tempi from {low:.4g} to {high:.4g} BPM"
    meters = list(dict.fromkeys(str(m) for m in (take.bars.first, *(m for _, m in take.bars.changes))))
    meter = meters[0] if len(meters) == 1 else f"{', '.join(meters[:-1])} and {meters[-1]}"
    return f"{tempo if take.tempo_known else 'no tempo'} in {meter if take.meter_known else '4/4 (by default)'}"


def _as_stated(performance: Performance, name: str, stated: Stated, fit: Fit, remarks: tuple[str, ...]) -> Document:
    sure = (1.0,) * len(performance)
    explained = explain_stated(performance, stated, fit, np.ones(len(performance)))
    groove = explained.groove
    hints = Hints(groove.tempo.main_bpm, groove.pattern.meter, downbeat_s=explained.start_s)
    confidence = (1.0,) * len(explained.source)
    listening = Listening(explained, confidence, remarks, performance, sure, hints)
    return Document(name, groove.changed(name=name), None, listening)


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
    remarks = (*heard.remarks, *_remarks(explained))
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


def _remarks(explained: Explained) -> tuple[str, ...]:
    """What is doubtful about tempo and bars, in words."""
    if not explained.readings:
        return (GUESSED,)
    if explained.lost_s is not None:
        return (SEVERAL_TEMPI.format(explained.lost_s),)
    return (UNSTEADY,) if explained.steadiness() < _STEADY else ()


def heard_performance(
    performance: Performance,
    name: str,
    hints: Hints,
    remarks: tuple[str, ...] = (),
    *,
    progress: Progress = lambda share: None,
) -> Document:
    """A document of hits that are known as they are: a MIDI file, taps, a table.

    Raises
    ------
    InputError
        Where there is no hit.
    """
    sure = (1.0,) * len(performance)
    listening = listening_of(performance, sure, hints, Corrections(), remarks, progress)
    listening = replace(listening, remarks=(*remarks, *_remarks(listening.explained)))
    return Document(name, listening.explained.groove.changed(name=name), None, listening)


def onsets_s(document: Document) -> tuple[float, ...]:
    """Moments in the recording of the heard groove's hits, in the order of its pattern."""
    if document.listening is None:
        return ()
    hits = document.listening.explained.groove.pattern.hits
    return tuple(h.origin.time_s if h.origin else 0.0 for h in hits)


def analysis_of(document: Document) -> dict[str, Any]:
    """What `listen --json` writes of a document that was listened to."""
    heard = document.listening
    if heard is None:
        raise InputError("Nothing was listened to in this project yet.")
    told = analysis(heard.explained, heard.confidence, onsets_s(document), heard.remarks, heard.closed_s)
    waiting = [(o.perhaps, o.position_ticks) for o in offers(document)]
    lines = [asdict(line) for line in time_lines_of(document.groove)]
    told |= {"perhaps": perhaps_rows(waiting, heard.explained), "form": form_json(document.groove)}
    return told | {"time_lines": lines}
