"""An offered stroke in words."""

from collections.abc import Sequence

from ghoststep.session.words import these
from ghoststep.work import offers
from ghoststep.work.offers import Offer


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
