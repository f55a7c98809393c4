"""Corrections of a listening as changes of the document: each re-fits the rest at once and keeps edits made since."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ghoststep.listen.corrections import Corrections, Fix, FixKind, corrected
from ghoststep.listen.explain import Explained, explain
from ghoststep.listen.reading import Click, Hints
from ghoststep.music.errors import InputError
from ghoststep.music.kit import voice
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit
from ghoststep.music.performance import Performance
from ghoststep.music.spots import name_at
from ghoststep.music.time import TICKS_PER_QUARTER, checked_tempo_bpm, step_ticks
from ghoststep.session.document.document import Document, Listening
from ghoststep.session.document.merge import Version, carried
from ghoststep.session.edits.hit_edits import Edit


def listening_of(
    heard: Performance,
    sure: tuple[float, ...],
    hints: Hints,
    corrections: Corrections,
    remarks: tuple[str, ...],
    progress: Callable[[float], None] = lambda share: None,
) -> Listening:
    """Explain what was heard under what the user said.

    Raises
    ------
    InputError
        Where no reading fits what the user said, or no hit is left.
    """
    sure = tuple(float(c) for c in sure)
    laid = corrected(heard, np.array(sure), corrections.fixes)
    known = corrections.hints(hints)
    explained = explain(laid.performance, known, confidence=laid.confidence, meant_s=laid.meant_s, progress=progress)
    explained = named_by(explained, laid.keys)
    confidence = tuple(float(laid.confidence[i]) for i in explained.source)
    return Listening(explained, confidence, remarks, heard, sure, hints, corrections)


def named_by(explained: Explained, keys: tuple[int, ...]) -> Explained:
    """The same with hits under the keys they have in what was heard, which stay through all corrections."""
    hits = tuple(replace(h, key=keys[h.key - 1]) for h in explained.groove.pattern.hits)
    return replace(explained, groove=explained.groove.changed(hits=hits))


def refitted(document: Document, corrections: Corrections) -> Document:
    """The document under other corrections; edits made on the grid are done to the new groove too."""
    old = _listening(document)
    new = listening_of(old.heard, old.sure, old.hints, corrections, old.remarks)
    new = replace(new, closed_s=old.closed_s, perhaps=old.perhaps)
    if (corrections.tempo_bpm or corrections.meter) and old.explained.readings:  # the other readings stay on offer
        new = replace(new, explained=replace(new.explained, readings=old.explained.readings))
    before = Version(old.explained.groove, old.explained.start_s)
    groove = carried(before, document.groove, Version(new.explained.groove, new.explained.start_s))
    return replace(document, listening=new, groove=groove)


def _listening(document: Document) -> Listening:
    if document.listening is None:
        raise InputError("Nothing was listened to in this project yet.")
    return document.listening


def _fixed(document: Document, fix: Fix) -> Document:
    return refitted(document, _listening(document).corrections.with_fix(fix))


def _moment(hit: Hit) -> float:
    if hit.origin is None:
        raise InputError("That hit does not come from the recording: change it on the grid (F2).")
    return hit.origin.time_s


def _place(hit: Hit, document: Document) -> str:
    frame = _listening(document).explained.groove.pattern.frame
    return f"bar {frame.spot_at(hit.position_ticks).bar}, {name_at(hit.position_ticks, frame)}"


def correct_voice(document: Document, hit: Hit, to_voice: str) -> Edit:
    """It is another voice."""
    label = voice(to_voice).label
    if hit.voice == to_voice:
        return confirm(document, hit)
    new = _fixed(document, Fix(FixKind.VOICE, _moment(hit), hit.voice, to_voice=to_voice))
    return f"{voice(hit.voice).label} at {_place(hit, document)} is {label.lower()}", new


def not_a_hit(document: Document, hit: Hit) -> Edit:
    new = _fixed(document, Fix(FixKind.GONE, _moment(hit), hit.voice))
    return f"{voice(hit.voice).label} at {_place(hit, document)} is no hit", new


def missed_hit(document: Document, time_s: float, voice_name: str, velocity: int) -> Edit:
    """A hit that was not heard."""
    recording = document.recording
    if recording is not None and not 0 <= time_s <= recording.length_s:
        raise InputError("That moment is outside the recording.")
    new = _fixed(document, Fix(FixKind.NEW, max(time_s, 0.0), voice_name, velocity=velocity))
    return f"{voice(voice_name).label} at {time_s:.3f} s added", new


def confirm(document: Document, hit: Hit) -> Edit:
    """It is right as it was heard."""
    new = _fixed(document, Fix(FixKind.SURE, _moment(hit), hit.voice))
    return f"{voice(hit.voice).label} at {_place(hit, document)} is right", new


def move_spot(document: Document, hit: Hit, steps: int) -> Edit:
    """It belongs to a spot so many steps of its passage's grid earlier (negative) or later."""
    heard = _listening(document)
    explained = heard.explained
    passage = next((p for p in explained.passages if p.start_ticks <= hit.position_ticks < p.end_ticks), None)
    step = step_ticks(passage.grid if passage else explained.groove.pattern.grid)
    target = (hit.position_ticks // step + steps) * step
    if target < explained.groove.pattern.frame.start_of(0):
        raise InputError("That spot lies more than a bar before the first hit.")
    played = float(explained.groove.feel.swing.bend_one(target, explained.groove.pattern.frame))
    meant_s = explained.start_s + float(explained.groove.tempo.seconds(played))
    new = _fixed(document, Fix(FixKind.SPOT, _moment(hit), hit.voice, meant_s=meant_s))
    way = "later" if steps > 0 else "earlier"
    return f"{voice(hit.voice).label} at {_place(hit, document)} belongs {abs(steps)} step {way}", new


def beat_one(document: Document, time_s: float) -> Edit:
    """The moment is beat 1 of a bar."""
    corrections = replace(_listening(document).corrections, downbeat_s=float(time_s))
    return f"Beat 1 is at {time_s:.2f} s", refitted(document, corrections)


def in_meter(document: Document, meter: Meter) -> Edit:
    corrections = replace(_listening(document).corrections, meter=meter)
    if corrections.tempo_bpm is None:  # the beat that people tap stays
        corrections = replace(corrections, tempo_bpm=_tempo(document))
    return f"It is in {meter.full_name}", refitted(document, corrections)


def times_as_fast(document: Document, factor: float) -> Edit:
    """The same hits counted twice, half, ... as fast."""
    bpm = checked_tempo_bpm(_tempo(document) * factor)
    corrections = replace(_listening(document).corrections, tempo_bpm=bpm)
    return f"{bpm:.1f} BPM", refitted(document, corrections)


def reading(document: Document, tempo_bpm: float, meter: Meter) -> Edit:
    """One of the readings on offer."""
    corrections = replace(_listening(document).corrections, tempo_bpm=checked_tempo_bpm(tempo_bpm), meter=meter)
    return f"{tempo_bpm:.1f} BPM in {meter}", refitted(document, corrections)


def with_click(document: Document, click: Click) -> Edit:
    """The player heard this click: leans are told against it."""
    corrections = replace(_listening(document).corrections, click=click, tempo_bpm=None)
    return f"Click of {click.bpm:g} BPM", refitted(document, corrections)


def straight_or_swung(document: Document) -> Edit:
    """Straight where it was taken for swung, swung where it was taken for straight."""
    heard = _listening(document)
    straight = not heard.explained.swing.straight
    return "It is straight" if straight else "It is swung", refitted(
        document, replace(heard.corrections, straight=straight)
    )


def no_corrections(document: Document) -> Edit:
    """Back to what was heard, without corrections."""
    return "Corrections taken off", refitted(document, Corrections())


def _tempo(document: Document) -> float:
    groove = _listening(document).explained.groove
    return 60 * groove.pattern.length_ticks / TICKS_PER_QUARTER / groove.length_s


def next_doubt(document: Document, after: Hit | None, *, limit: float) -> Hit | None:
    """The most doubtful hit below a confidence that was not asked about yet; after one, the next less doubtful."""
    heard = document.listening
    if heard is None:
        return None
    hits = heard.explained.groove.pattern.hits
    doubts = [h for h in hits if h.origin is not None and h.origin.confidence < limit]
    doubts.sort(key=lambda h: (h.origin.confidence, h.origin.time_s) if h.origin else (1.0, 0.0))
    if after is None or after not in doubts:
        return doubts[0] if doubts else None
    at = next(i for i, h in enumerate(doubts) if h is after or h == after)
    return doubts[(at + 1) % len(doubts)]
