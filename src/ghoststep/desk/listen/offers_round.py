"""Going through the strokes that may be one: the next is chosen and played, taken or dropped, alone or with its kin."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.words import these
from ghoststep.work import offers
from ghoststep.work.offers import Offer

if TYPE_CHECKING:
    from ghoststep.desk.listen.listen_place import ListenPlace

Answer = Callable[[Document, Sequence[Offer]], Edit]


def next_offer(place: "ListenPlace") -> None:
    """Choose and play the next one in time, and begin anew after the last."""
    found = place.view.offers
    if not found:
        place.studio.said.emit("Nothing is offered: every stroke that was heard is drawn.", False)
        return
    now = place.view.moment()
    later = [o for o in found if now is None or o.perhaps.time_s > now + 1e-6]
    place.view.choose_offer((later or list(found))[0])
    place.hear_chosen()


def answer(place: "ListenPlace", how: Answer, *, alike: bool) -> bool:
    """Take or drop the chosen one, or all like it; False where none is chosen."""
    chosen = place.view.chosen_offer
    if chosen is None:
        return False
    answered = offers.alike(place.view.offers, chosen) if alike else (chosen,)
    place.studio.correct(lambda d: how(d, answered))
    if place.view.offers:
        next_offer(place)
    return True


def words(chosen: Offer, found: Sequence[Offer], label: str) -> str:
    """What is known of an offer, and which others are like it."""
    p = chosen.perhaps
    others = [o.bar for o in offers.alike(found, chosen) if o is not chosen]
    same = f"\nThe same in {these('bar', others).lower()}? With Shift for all of them." if others else ""
    sure = f"{100 * p.probability:.0f} % sure"
    return (
        f"Perhaps {label.lower()}, bar {chosen.bar}, {chosen.spot}\n"
        f"{p.time_s:.3f} s, velocity {p.velocity}, {sure}. Enter takes it, Del drops it.{same}"
    )
