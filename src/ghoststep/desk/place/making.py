"""What the Place can make: the same rhythm on other voices, layers, time lines; each is tried first."""

from typing import TYPE_CHECKING

from ghoststep.desk.model.tasks import Progress
from ghoststep.desk.place.proposal_page import Proposed
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.ways import REVOICINGS, Tried, Way, layers, tried

if TYPE_CHECKING:
    from ghoststep.desk.place.grid_place import GridPlace


def voices(place: "GridPlace") -> None:
    """The same rhythm on other voices."""
    _propose(place, "The same rhythm on other voices", REVOICINGS)


def layers_under(place: "GridPlace") -> None:
    """What a hand or a foot may play through, and time lines."""
    _propose(place, "Layers and time lines", layers())


def _propose(place: "GridPlace", title: str, ways: "tuple[Way, ...] | list[Way]") -> None:
    """Try some ways off the GUI thread, and let one be taken."""
    studio, groove = place.studio, place.studio.groove
    context = EditContext(studio.document, frozenset(), studio.choice.cursor_ticks, studio.choice.lane, studio.shelf)

    def work(_progress: Progress) -> list[Tried]:
        return tried(context, ways)

    def done(found: list[Tried]) -> None:
        if studio.groove is groove:  # else they were for something else
            if found:
                place.propose(title, [_way(place, way) for way in found])
            else:
                studio.said.emit("There is nothing here that could be played otherwise.", True)

    studio.tasks.start(
        "craft", work, done=done, failed=lambda words: studio.said.emit(words, True), words="Trying what fits here"
    )


def _way(place: "GridPlace", way: Tried) -> Proposed:
    return Proposed(way.about, way.context.document.groove, (), lambda: place.studio.take(way.words, way.context))
