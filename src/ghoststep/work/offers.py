"""Strokes that may be ones as offers: which still wait for an answer, which are alike, and taking or dropping them.

An answer is a correction like any other: what is taken is a hit that was missed, what is dropped is none; so undo, and
taking all corrections off, brings an offer back.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ghoststep.listen.corrections import Fix, FixKind
from ghoststep.listen.strokes.perhaps import Perhaps, spots_of
from ghoststep.music.errors import InputError
from ghoststep.music.kit import voice
from ghoststep.music.spots import name_at
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.words import these
from ghoststep.work.corrections import refitted

_SAME_S = 1e-6


@dataclass(frozen=True)
class Offer:
    """A stroke that may be one, and its spot in the heard groove."""

    perhaps: Perhaps
    position_ticks: int
    bar: int
    spot: str  # its name, as "2a"


def offers(document: Document) -> tuple[Offer, ...]:
    """What waits for an answer, in the order of time."""
    heard = document.listening
    if heard is None:
        return ()
    answered = [(f.time_s, f.voice) for f in heard.corrections.fixes if f.kind in (FixKind.NEW, FixKind.GONE)]
    waiting = [p for p in heard.perhaps if not any(_is(p, time_s, name) for time_s, name in answered)]
    frame = heard.explained.groove.pattern.frame
    return tuple(
        Offer(p, int(t), frame.spot_at(int(t)).bar, name_at(int(t), frame))
        for p, t in zip(waiting, spots_of(waiting, heard.explained), strict=True)
    )


def _is(perhaps: Perhaps, time_s: float, name: str) -> bool:
    return perhaps.voice == name and abs(perhaps.time_s - time_s) < _SAME_S


def alike(found: Sequence[Offer], one: Offer) -> tuple[Offer, ...]:
    """The offers of the same voice at the same spot of any bar, the one itself among them."""
    return tuple(o for o in found if o.perhaps.voice == one.perhaps.voice and o.spot == one.spot)


def take(document: Document, taken: Sequence[Offer]) -> Edit:
    """They are strokes."""
    return f"{_words(taken)} taken", _answered(document, taken, FixKind.NEW)


def drop(document: Document, dropped: Sequence[Offer]) -> Edit:
    """They are none."""
    return f"{_words(dropped)} dropped", _answered(document, dropped, FixKind.GONE)


def _answered(document: Document, answered: Sequence[Offer], kind: FixKind) -> Document:
    heard = document.listening
    if heard is None or not answered:
        raise InputError("Nothing is offered there.")
    corrections = heard.corrections
    for p in (o.perhaps for o in answered):
        corrections = corrections.with_fix(Fix(kind, p.time_s, p.voice, velocity=p.velocity))
    if kind is FixKind.GONE:  # nothing that is played changes, so nothing is fitted anew
        return replace(document, listening=replace(heard, corrections=corrections))
    return refitted(document, corrections)


def _words(offered: Sequence[Offer]) -> str:
    if not offered:
        return "Nothing"
    label = voice(offered[0].perhaps.voice).label
    return f"Perhaps: {label.lower()} {offered[0].spot} in {these('bar', [o.bar for o in offered]).lower()}"
