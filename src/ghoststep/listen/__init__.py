"""From sound, hits or taps to a groove: what was struck and when, how the bars are counted, how it leans and swings."""

from typing import TYPE_CHECKING

from ghoststep.lazy import offered

if TYPE_CHECKING:
    from ghoststep.listen.bars.reading import Hints as Hints
    from ghoststep.listen.way import groove_of as groove_of
    from ghoststep.listen.way import hear_groove as hear_groove
    from ghoststep.listen.way import heard_again as heard_again

OFFERS = {
    "Hints": "bars.reading",
    "groove_of": "way",
    "hear_groove": "way",
    "heard_again": "way",
}
__getattr__, __dir__ = offered(__name__, OFFERS)
