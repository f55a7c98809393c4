"""The demo that ships: music for a short film about a night tram in a made-up hill town."""

from importlib import resources
from pathlib import Path

# In the order of the tram's route; each has its truth beside it (same name, .json).
STOPS = ("larch-terrace", "fog-viaduct", "last-tram")
MOUTH = "driver-at-dusk"


def demo_folder() -> Path:
    return Path(str(resources.files("ghoststep.files") / "data" / "demo"))


def demo_recordings() -> list[Path]:
    """The recordings, first stop first."""
    return [demo_folder() / f"{stop}.wav" for stop in STOPS]


def demo_mouth() -> Path:
    """A phrase beatboxed by a simulated voice, as the tram's driver might at dusk."""
    return demo_folder() / f"{MOUTH}.wav"
