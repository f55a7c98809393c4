"""Corrections of a listening as changes of the document: each re-fits the rest at once and keeps edits made since."""

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace

import numpy as np

from ghoststep.listen.bars.explain import Explained, explain
from ghoststep.listen.bars.reading import Click, Hints
from ghoststep.listen.corrections import Corrections, Fix, FixKind, corrected
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
from ghoststep.session.words import these


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


def _fixed(document: Document, fixes: Sequence[Fix]) -> Document:
    corrections = _listening(document).corrections
    for fix in fixes:
        corrections = corrections.with_fix(fix)
    return refitted(document, corrections)


def _moment(hit: Hit) -> float:
    if hit.origin is None:
        raise InputError("That hit does not come from the recording: change it on the grid (F2).")
    return hit.origin.time_s


def _told(hits: Sequence[Hit], document: Document) -> str:
    """Which hits, in words: one by its spot, several by their voice and bars."""
    frame = _listening(document).explained.groove.pattern.frame
    label = voice(hits[0].voice).label
    if len(hits) == 1:
        at = hits[0].position_ticks
        return f"{label} at bar {frame.spot_at(at).bar}, {name_at(at, frame)}"
    return f"{label}, {len(hits)} strokes in {bars_of(hits, document)},"


def bars_of(hits: Sequence[Hit], document: Document) -> str:
    """The bars of heard hits, in words: "bars 1-3, 6"."""
    frame = _listening(document).explained.groove.pattern.frame
    return these("bar", [frame.spot_at(h.position_ticks).bar for h in hits]).lower()


def alike(document: Document, hit: Hit, *, anywhere: bool = False) -> tuple[Hit, ...]:
    """The heard hits of the same voice at the same spot of any bar, or with `anywhere` all of the voice; in order."""
    pattern = _listening(document).explained.groove.pattern
    spot = name_at(hit.position_ticks, pattern.frame)
    return tuple(
        h for h in pattern.hits
        if h.voice == hit.voice and h.origin and (anywhere or name_at(h.position_ticks, pattern.frame) == spot)
    )  # fmt: skip


def correct_voice(document: Document, hits: Sequence[Hit], to_voice: str) -> Edit:
    """They are of another voice."""
    wrong = [h for h in hits if h.voice != to_voice]
    if not wrong:
        return confirm(document, hits)
    new = _fixed(document, [Fix(FixKind.VOICE, _moment(h), h.voice, to_voice=to_voice) for h in wrong])
    return f"{_told(wrong, document)} {_is(wrong)} {voice(to_voice).label.lower()}", new


def not_a_hit(document: Document, hits: Sequence[Hit]) -> Edit:
    """Nothing was struck there."""
    new = _fixed(document, [Fix(FixKind.GONE, _moment(h), h.voice) for h in hits])
    return f"{_told(hits, document)} {_is(hits)} no hit{'s' if len(hits) > 1 else ''}", new


def _is(hits: Sequence[Hit]) -> str:
    return "is" if len(hits) == 1 else "are"


def missed_hit(document: Document, time_s: float, voice_name: str, velocity: int) -> Edit:
    """A hit that was not heard.

    Raises
    ------
    InputError
        Where it lies outside the recording.
    """
    recording = document.recording
    if recording is not None and not 0 <= time_s <= recording.length_s:
        raise InputError("That moment is outside the recording.")
    new = _fixed(document, [Fix(FixKind.NEW, max(time_s, 0.0), voice_name, velocity=velocity)])
    return f"{voice(voice_name).label} at {time_s:.3f} s added", new


def confirm(document: Document, hits: Sequence[Hit]) -> Edit:
    """They are right as they were heard."""
    new = _fixed(document, [Fix(FixKind.SURE, _moment(h), h.voice) for h in hits])
    return f"{_told(hits, document)} {_is(hits)} right", new


def move_spot(document: Document, hits: Sequence[Hit], steps: int) -> Edit:
    """They belong to spots so many steps of their passage's grid earlier (negative) or later."""
    fixes = [
        Fix(FixKind.SPOT, _moment(h), h.voice, meant_s=_spot_s(_listening(document).explained, h, steps)) for h in hits
    ]
    way = f"{'belongs' if len(hits) == 1 else 'belong'} {abs(steps)} step {'later' if steps > 0 else 'earlier'}"
    return f"{_told(hits, document)} {way}", _fixed(document, fixes)


def _spot_s(explained: Explained, hit: Hit, steps: int) -> float:
    """The moment in the recording of a spot so many steps from that of a hit."""
    passage = next((p for p in explained.passages if p.start_ticks <= hit.position_ticks < p.end_ticks), None)
    step = step_ticks(passage.grid if passage else explained.groove.pattern.grid)
    target = (hit.position_ticks // step + steps) * step
    if target < explained.groove.pattern.frame.start_of(0):
        raise InputError("That spot lies more than a bar before the first hit.")
    played = float(explained.groove.feel.swing.bend_one(target, explained.groove.pattern.frame))
    return explained.start_s + float(explained.groove.tempo.seconds(played))


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


def next_doubt(document: Document, after: Hit | None, *, limit: float, but: Collection[int] = ()) -> Hit | None:
    """The most doubtful hit below a confidence that was not asked about yet; after one, the next less doubtful.

    Hits with a key in `but` are passed over, unless it is the one that this comes after.
    """
    heard = document.listening
    if heard is None:
        return None
    hits = [h for h in heard.explained.groove.pattern.hits if h.key not in but or (after and h.key == after.key)]
    doubts = [h for h in hits if h.origin is not None and h.origin.confidence < limit]
    doubts.sort(key=lambda h: (h.origin.confidence, h.origin.time_s) if h.origin else (1.0, 0.0))
    if after is None or after not in doubts:
        return doubts[0] if doubts else None
    at = next(i for i, h in enumerate(doubts) if h is after or h == after)
    return doubts[(at + 1) % len(doubts)]
