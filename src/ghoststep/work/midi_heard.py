"""Listening to a MIDI file: its hits, and what it states of tempo and bars."""

import numpy as np

from ghoststep.files.midi_in import MidiTake, bars_before
from ghoststep.listen.bars.reading import Hints
from ghoststep.listen.entries.given import Fit, Stated, explain_stated, fit_of
from ghoststep.music.errors import InputError
from ghoststep.music.performance import Performance
from ghoststep.session.document.document import Document, Listening
from ghoststep.session.words import count
from ghoststep.work.formats.midi import marked
from ghoststep.work.hits_heard import Progress, heard_performance
from ghoststep.work.trust import Trust


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
