"""Sound ports, each with a simulated stand-in of the same interface."""

from typing import TYPE_CHECKING

from ghoststep.lazy import offered

if TYPE_CHECKING:
    from ghoststep.devices.output import Output as Output
    from ghoststep.devices.output import SimulatedOutput as SimulatedOutput
    from ghoststep.devices.output import default_output as default_output
    from ghoststep.devices.player import Player as Player

OFFERS = {
    "Output": "output",
    "Player": "player",
    "SimulatedOutput": "output",
    "default_output": "output",
}
__getattr__, __dir__ = offered(__name__, OFFERS)
