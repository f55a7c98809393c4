"""Making and varying parts: ghosts, accents, layers, time lines, styles, fills and answers."""

from typing import TYPE_CHECKING

from ghoststep.lazy import offered

if TYPE_CHECKING:
    from ghoststep.craft.answers import ideas as ideas
    from ghoststep.craft.fills import offers as offers
    from ghoststep.craft.ghosts import proposals as proposals
    from ghoststep.craft.layers import LAYERS as LAYERS
    from ghoststep.craft.layers import laid as laid
    from ghoststep.craft.styles import STYLES as STYLES
    from ghoststep.craft.styles import style as style
    from ghoststep.craft.timelines import positions as positions
    from ghoststep.craft.timelines import recognised as recognised
    from ghoststep.craft.timelines import time_line as time_line

OFFERS = {
    "LAYERS": "layers",
    "STYLES": "styles",
    "ideas": "answers",
    "laid": "layers",
    "offers": "fills",
    "positions": "timelines",
    "proposals": "ghosts",
    "recognised": "timelines",
    "style": "styles",
    "time_line": "timelines",
}
__getattr__, __dir__ = offered(__name__, OFFERS)
