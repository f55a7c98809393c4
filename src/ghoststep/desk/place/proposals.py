"""What the Place can propose: ghosts from few to many, and which drum leads."""

from dataclasses import replace
from typing import TYPE_CHECKING

from ghoststep.craft.ghosts import proposals
from ghoststep.desk.model.tasks import Progress
from ghoststep.desk.place.proposal_page import Proposed
from ghoststep.music.errors import InputError
from ghoststep.session.edits import touch_edits as touch
from ghoststep.session.words import count
from ghoststep.sound.balance import BALANCES, balanced

if TYPE_CHECKING:
    from ghoststep.craft.ghosts import Proposal
    from ghoststep.desk.place.grid_place import GridPlace


def ghosts(place: "GridPlace") -> None:
    """Ghost strokes from few to many; they are worked out off the GUI thread."""
    studio, groove = place.studio, place.studio.groove

    def work(_progress: Progress) -> "tuple[Proposal, ...]":
        found = proposals(groove)
        if not found:
            raise InputError("No hand has the time for a ghost anywhere in this groove.")
        return found

    def done(found: "tuple[Proposal, ...]") -> None:
        if studio.groove is groove:  # else they were for something else
            place.propose("Ghosts for this groove", [_ghosts(place, p) for p in found])

    studio.tasks.start("craft", work, done=done, failed=lambda words: studio.said.emit(words, True))


def _ghosts(place: "GridPlace", found: "Proposal") -> Proposed:
    studio = place.studio
    words = f"{found.name}: {count(len(found.hits), 'ghost')}"
    pattern = studio.groove.pattern
    tried = studio.groove.changed(pattern=pattern.with_hits(set(), found.hits))

    def take() -> None:
        studio.edit(lambda d: touch.add_hits(d, found.hits, f"Ghosts added ({words.lower()})"))

    return Proposed(words, tried, found.hits, take)


def balances(place: "GridPlace") -> None:
    """Which drum leads, each way heard before it is taken."""
    studio, groove = place.studio, place.studio.groove

    def way(name: str) -> Proposed:
        feel = replace(groove.feel, balance_db=balanced(groove, name))
        words = "As played" if name == "played" else name.replace("-led", " leads").capitalize()
        return Proposed(words, groove.changed(feel=feel), (), lambda: studio.call("balance", which=name))

    place.propose("Which drum leads", [way(name) for name in BALANCES])
