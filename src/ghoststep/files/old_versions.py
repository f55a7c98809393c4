"""What projects of earlier versions lack, made up from what they hold."""

from dataclasses import replace

import numpy as np

from ghoststep.listen.corrections import corrected
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICE_NAMES
from ghoststep.music.pattern import Hit
from ghoststep.session.document.document import Document, Listening

KEYS_SINCE = 4  # the first version whose hits carry keys


def with_keys(document: Document) -> Document:
    """A document from before version 4 whose heard hits have the keys that listening gives them.

    They are found by the moment and the voice they were heard with; hits that were not heard get theirs where every
    document does, in `session.edits.commit.opened`.
    """
    heard = document.listening
    if heard is None:
        return document
    known = _keys(heard)
    explained = replace(heard.explained, groove=_named(heard.explained.groove, known))
    snapshots = tuple(replace(s, groove=_named(s.groove, known)) for s in document.snapshots)
    listening = replace(heard, explained=explained)
    return replace(document, groove=_named(document.groove, known), listening=listening, snapshots=snapshots)


def _keys(heard: Listening) -> dict[tuple[float, str], int]:
    """Key of each heard hit by moment (to the microsecond) and voice; voice "" stands for a moment of its own."""
    found = corrected(heard.heard, np.array(heard.sure), heard.corrections.fixes)
    out: dict[tuple[float, str], int] = {}
    alone: dict[float, list[int]] = {}
    for time_s, voice, key in zip(found.performance.onset_s, found.performance.voice, found.keys, strict=True):
        moment = round(float(time_s), 6)
        out[moment, VOICE_NAMES[voice]] = key
        alone.setdefault(moment, []).append(key)
    return out | {(moment, ""): keys[0] for moment, keys in alone.items() if len(keys) == 1}


def _named(groove: Groove, known: dict[tuple[float, str], int]) -> Groove:
    taken: set[int] = set()

    def named(h: Hit) -> Hit:
        if h.origin is None or h.key:
            return h
        moment = round(h.origin.time_s, 6)
        for name in (h.origin.voice, h.voice, ""):
            key = known.get((moment, name))
            if key is not None and key not in taken:
                taken.add(key)
                return replace(h, key=key)
        return h

    return groove.changed(hits=tuple(named(h) for h in groove.pattern.hits))
