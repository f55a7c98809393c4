"""The whole way from a sound to a groove, in one page.

Hear: candidates, the network, the rules of the first hearing (`strokes/hearing.py`). Explain: pulse, bars, line, spots,
swing and leans (`bars/explain.py`). Hear again with the groove in mind: the same candidates, and those that other bars
make likely (`strokes/expected.py`), through the rules of the second hearing (`strokes/rules/table.py`). Explain again.
"""

from collections.abc import Callable, Collection, Iterator
from contextlib import suppress
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bars.explain import Explained, explain, explain_again
from ghoststep.listen.bars.reading import Click, Hints
from ghoststep.listen.signal.click_sound import ClickSound
from ghoststep.listen.strokes.evidence import Evidence
from ghoststep.listen.strokes.expected import with_expected
from ghoststep.listen.strokes.hearing import DOUBTFUL, NO_KIT, Hearing, decided, listen, with_closings
from ghoststep.listen.strokes.network import hear_in_bars
from ghoststep.listen.strokes.rim_shots import with_rim_shots
from ghoststep.listen.strokes.rules.rule import after
from ghoststep.listen.strokes.rules.table import SECOND_HEARING
from ghoststep.music.errors import InputError

# Clicks to a quarter that are usual, and how far a reading's tempo may be off.
_TIMES = (1.0, 2.0, 0.5, 2 / 3, 3.0, 4.0, 1 / 3)
_SAME_TEMPO = 0.02
# So many times more or fewer hits than bars were read from: then they are read from what is heard now.
_OTHER_HITS = 1.3
_STEADIER = 0.15  # by so much the hits may stand nearer to a line of their own than to that of the click


def hear_groove(
    samples: NDArray[np.float32],
    rate: int,
    hints: Hints | None = None,
    *,
    off: Collection[str] = (),
    progress: Callable[[float], None] = lambda share: None,
) -> tuple[Hearing, Explained]:
    """Sound to groove: hear, explain, hear again with the groove in mind, explain again.

    Parameters and errors are those of `strokes.hearing.listen` and `bars.explain.explain`.
    """
    return groove_of(listen(samples, rate, off=off, progress=progress), hints, off=off, progress=progress)


def groove_of(
    first: Hearing,
    hints: Hints | None = None,
    *,
    off: Collection[str] = (),
    progress: Callable[[float], None] = lambda share: None,
) -> tuple[Hearing, Explained]:
    """A first hearing to groove: explain, hear again with the groove in mind, explain again.

    Errors are those of `bars.explain.explain`; off: names of rules that are left out.
    """
    first, hints, explained = _explained(first, hints or Hints())
    progress(0.95)
    if not explained.readings:  # too little to have a context
        return with_closings(first), explained
    second = heard_again(first, explained, off=off)
    if _other_hits(first, second):
        with suppress(InputError):  # where these hits fit no click or hint, what was read first stays
            anew = explain(second.performance, hints, confidence=second.confidence)
            if anew.readings:
                second, explained = heard_again(first, anew, off=off), anew
    if second.sound is not None:
        second = replace(second, performance=with_rim_shots(second.performance, second.sound))
    # Tempo and bars are settled; only line, spots and feel are fitted anew, which takes a fraction of the time.
    assert explained.frame is not None
    again = explain_again(second.performance, explained.frame, hints, confidence=second.confidence)
    kept = replace(again, readings=explained.readings, lost_s=explained.lost_s, click=explained.click)
    return with_closings(second), kept


def _other_hits(first: Hearing, second: Hearing) -> bool:
    """Whether so much was put in or taken back that what the first hearing said of bars was said of other playing."""
    before, now = len(first.performance), len(second.performance)
    return max(before, now) >= _OTHER_HITS * min(before, now)


def _explained(first: Hearing, hints: Hints) -> tuple[Hearing, Hints, Explained]:
    """A first explanation, by the click that sounds in the recording where the hits keep to it."""
    explained = explain(first.performance, hints, confidence=first.confidence)
    sounds = first.click
    if sounds is None:
        return first, hints, explained
    told = f"A click sounds in the recording, {sounds.bpm:.4g} a minute; it was taken out before listening"
    if hints.click is not None:
        words = f"{told}. Leans are told against the one you gave."
        return replace(first, remarks=(*first.remarks, words)), hints, explained
    for click in _clicks(sounds, explained):
        clicked = replace(hints, click=click, tempo_bpm=None)
        with suppress(InputError):  # the hits run away from it: then it is left aside, and that is told
            by_it = explain(first.performance, clicked, confidence=first.confidence)
            if by_it.steadiness() >= explained.steadiness() - _STEADIER:
                words = f"{told}, and leans are told against it."
                return replace(first, remarks=(*first.remarks, words)), clicked, by_it
    words = f"{told}. The hits do not keep to it, so leans are told against their own pulse."
    return replace(first, remarks=(*first.remarks, words)), hints, explained


def _clicks(sounds: ClickSound, explained: Explained) -> Iterator[Click]:
    """The click as a beat, for each reading of the hits of which it is a simple multiple or part, the likeliest first.

    A click may sound on eighths, on halves, or on the dotted quarters of compound time.
    """
    seen: set[float] = set()
    for reading in explained.readings:
        for times in _TIMES:
            bpm = sounds.bpm / times
            if abs(bpm / reading.tempo_bpm - 1) < _SAME_TEMPO and times not in seen:
                seen.add(times)
                yield Click(bpm, sounds.at_s)


def heard_again(first: Hearing, explained: Explained, *, off: Collection[str] = ()) -> Hearing:
    """The same candidates, and some where other bars have metal, decided anew with what the groove makes likely."""
    first, expected = with_expected(first, explained)
    tempo, frame = explained.groove.tempo, explained.groove.pattern.frame
    heard = hear_in_bars(first.heard, frame.places_of(tempo.to_ticks(first.moments_s - explained.start_s)))
    evidence = Evidence(first.moments_s, heard, first.sound, explained, expected)
    heard = after(SECOND_HEARING, evidence, off=off).heard
    remarks = tuple(r for r in first.remarks if r not in (DOUBTFUL, NO_KIT))  # that is judged anew
    played = first.performance
    again = decided(first.moments_s, heard, length_s=played.length_s, cut=played.cut, remarks=remarks)
    return replace(again, sound=first.sound)
