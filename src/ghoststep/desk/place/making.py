"""What the Place can make: the same rhythm on other voices, layers, time lines; each is tried first."""

from dataclasses import replace
from typing import TYPE_CHECKING

from ghoststep.desk.model.tasks import Progress
from ghoststep.desk.place.proposal_page import Proposed
from ghoststep.session.document.document import Document
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
    studio = place.studio
    context = replace(studio.session.context(), chosen=frozenset())

    def work(_document: Document, _progress: Progress) -> list[Tried]:
        return tried(context, ways)

    def show(found: list[Tried]) -> None:
        if found:
            place.propose(title, [_way(place, way) for way in found])
        else:
            studio.said.emit("There is nothing here that could be played otherwise.", True)

    studio.compute("craft", work, show, words="Trying what fits here")


def _way(place: "GridPlace", way: Tried) -> Proposed:
    return Proposed(
        way.about, way.context.document.groove, (), lambda: place.studio.session.take(way.words, way.context)
    )
