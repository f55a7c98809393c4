"""Going through the strokes that may be one: the next is chosen and played, taken or dropped, alone or with its kin."""

from collections.abc import Callable, Sequence

from ghoststep.desk.listen.listen_place import ListenPlace
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.work import offers
from ghoststep.work.offers import Offer

Answer = Callable[[Document, Sequence[Offer]], Edit]


def next_offer(place: ListenPlace) -> None:
    """Choose and play the next one in time, and begin anew after the last."""
    found = place.view.offers
    if not found:
        place.studio.said.emit("Nothing is offered: every stroke that was heard is drawn.", False)
        return
    now = place.view.moment()
    later = [o for o in found if now is None or o.perhaps.time_s > now + 1e-6]
    place.view.choose_offer((later or list(found))[0])
    place.hear_chosen()


def answer(place: ListenPlace, how: Answer, *, alike: bool) -> bool:
    """Take or drop the chosen one, or all like it; False where none is chosen."""
    chosen = place.view.chosen_offer
    if chosen is None:
        return False
    answered = offers.alike(place.view.offers, chosen) if alike else (chosen,)
    place.studio.session.correct(lambda d: how(d, answered))
    if place.view.offers:
        next_offer(place)
    return True
