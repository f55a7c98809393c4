"""From score to sound: how a feel turns a pattern into a performance, is measured in one, and laid on another."""

from typing import TYPE_CHECKING

from ghoststep.lazy import offered

if TYPE_CHECKING:
    from ghoststep.feel.measure import measured as measured
    from ghoststep.feel.perform import late_ms as late_ms
    from ghoststep.feel.perform import perform_passes as perform_passes
    from ghoststep.feel.transfer import laid_on as laid_on

OFFERS = {
    "laid_on": "transfer",
    "late_ms": "perform",
    "measured": "measure",
    "perform_passes": "perform",
}
__getattr__, __dir__ = offered(__name__, OFFERS)
