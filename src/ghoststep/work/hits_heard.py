"""Hits that are known as they are, as a document, and what is doubtful about any reading of tempo and bars."""

from collections.abc import Callable
from dataclasses import replace

from ghoststep.listen.bars.explain import Explained
from ghoststep.listen.bars.reading import Hints
from ghoststep.listen.corrections import Corrections
from ghoststep.music.performance import Performance
from ghoststep.session.document.document import Document
from ghoststep.work.corrections import listening_of

Progress = Callable[[float], None]
SEVERAL_TEMPI = "From {:.0f} s on the tempo is another one: listen to that passage by itself."
UNSTEADY = "The hits keep to no steady tempo that was found: tempo and bars are doubtful."
_STEADY = 0.75
GUESSED = "There are too few hits to tell tempo and meter: 120 BPM in 4/4 is a guess."


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
    listening = replace(listening, remarks=(*remarks, *remarks_on(listening.explained)))
    return Document(name, listening.explained.groove.changed(name=name), None, listening)


def remarks_on(explained: Explained) -> tuple[str, ...]:
    """What is doubtful about tempo and bars, in words."""
    if not explained.readings:
        return (GUESSED,)
    if explained.lost_s is not None:
        return (SEVERAL_TEMPI.format(explained.lost_s),)
    return (UNSTEADY,) if explained.steadiness() < _STEADY else ()
