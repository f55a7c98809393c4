"""What the Place can propose: ghosts from few to many, and which drum leads."""

from dataclasses import replace
from typing import TYPE_CHECKING

from ghoststep.craft.ghosts import proposals
from ghoststep.desk.model.tasks import Progress
from ghoststep.desk.place.proposal_page import Proposed
from ghoststep.judge.alternatives import Alternative, alternatives, applied
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document
from ghoststep.session.edits import touch_edits as touch
from ghoststep.session.language.kinds import Amount
from ghoststep.session.words import count
from ghoststep.sound.balance import BALANCES, balanced

if TYPE_CHECKING:
    from ghoststep.craft.ghosts import Proposal
    from ghoststep.desk.place.grid_place import GridPlace


def ghosts(place: "GridPlace") -> None:
    """Ghost strokes from few to many; they are worked out off the GUI thread."""

    def work(document: Document, _progress: Progress) -> "tuple[Proposal, ...]":
        found = proposals(document.groove)
        if not found:
            raise InputError("No hand has the time for a ghost anywhere in this groove.")
        return found

    def show(found: "tuple[Proposal, ...]") -> None:
        place.propose("Ghosts for this groove", [_ghosts(place, p) for p in found])

    place.studio.compute("craft", work, show)


def _ghosts(place: "GridPlace", found: "Proposal") -> Proposed:
    studio = place.studio
    words = f"{found.name}: {count(len(found.hits), 'ghost')}"
    pattern = studio.groove.pattern
    tried = studio.groove.changed(pattern=pattern.with_hits(set(), found.hits))

    def take() -> None:
        studio.edit(lambda d: touch.add_hits(d, found.hits, f"Ghosts added ({words.lower()})"))

    return Proposed(words, tried, found.hits, take)


def stickings(place: "GridPlace") -> None:
    """The three best ways to stick the part, each with what it asks of the hands; worked out off the GUI thread."""
    studio, groove = place.studio, place.studio.groove
    judged = studio.document.judged

    def work(document: Document, _progress: Progress) -> list[Alternative]:
        return alternatives(document.groove, judged.way, setup=judged.terms.setup)

    def way(number: int, found: Alternative) -> Proposed:
        words = f"{found.about[:1].upper()}{found.about[1:]}: costs {found.cost:.1f}"

        def take() -> None:
            studio.call("sticking", way=judged.way, choice=Amount(float(number)))

        return Proposed(words, applied(groove, found.limbs), (), take)

    def show(found: list[Alternative]) -> None:
        place.propose("Who plays what", [way(k, a) for k, a in enumerate(found, 1)])

    studio.compute("craft", work, show)


def balances(place: "GridPlace") -> None:
    """Which drum leads, each way heard before it is taken."""
    studio, groove = place.studio, place.studio.groove

    def way(name: str) -> Proposed:
        feel = replace(groove.feel, balance_db=balanced(groove, name))
        words = "As played" if name == "played" else name.replace("-led", " leads").capitalize()
        return Proposed(words, groove.changed(feel=feel), (), lambda: studio.call("balance", which=name))

    place.propose("Which drum leads", [way(name) for name in BALANCES])
