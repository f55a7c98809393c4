"""Documents whose listening is in doubt where a test wants it, however sure the network is of the demo."""

from collections.abc import Mapping
from dataclasses import replace

from ghoststep.session.document.document import Document
from ghoststep.work import corrections


def doubting(document: Document, sure: Mapping[int, float]) -> Document:
    """The document with hits by their number (in the order of time) as sure as told, all others wholly sure."""
    heard = document.listening
    assert heard is not None
    odds = tuple(sure.get(n, 1.0) for n in range(len(heard.heard)))
    return replace(document, listening=corrections.listening_of(heard.heard, odds, heard.hints, heard.corrections, ()))
