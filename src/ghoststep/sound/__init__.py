"""The built-in kit, rooms, and rendering a performance to sound. No files, no devices."""

from typing import TYPE_CHECKING

from ghoststep.lazy import offered

if TYPE_CHECKING:
    from ghoststep.sound.kit import Kit as Kit
    from ghoststep.sound.program import Program as Program
    from ghoststep.sound.program import Wish as Wish
    from ghoststep.sound.render import rendered_blocks as rendered_blocks
    from ghoststep.sound.render import strikes as strikes
    from ghoststep.sound.sketch import sketch_kit as sketch_kit

OFFERS = {
    "Kit": "kit",
    "Program": "program",
    "Wish": "program",
    "sketch_kit": "sketch",
    "rendered_blocks": "render",
    "strikes": "render",
}
__getattr__, __dir__ = offered(__name__, OFFERS)
