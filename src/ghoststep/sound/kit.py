"""What a kit is to everything that mixes and plays: one protocol, whatever its sounds are made of."""

from collections.abc import Mapping
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICES

Sample = NDArray[np.float32]
Chokes = Mapping[str, tuple[str, ...]]  # voices that end a voice's sound
LOWEST_RATE, HIGHEST_RATE = 8000, 384_000


class Kit(Protocol):
    """Sounds for every voice and stroke at one sample rate.

    name: as people choose it; microphones: the buses it is heard through, which add up to the whole; chokes: what ends
    a ringing voice.
    """

    @property
    def name(self) -> str: ...

    @property
    def rate(self) -> int: ...

    @property
    def microphones(self) -> tuple[str, ...]: ...

    @property
    def chokes(self) -> Chokes: ...

    def blow(self, voice_name: str, velocity: int, rng: np.random.Generator, stroke: str = "plain", /) -> Sample:
        """The sound of a blow, shape (n, 2), as loud as it is mixed.

        The generator throws the dice by which equal blows differ; the same dice give the same sound.
        """
        ...

    def only(self, microphone: str, /) -> "Kit":
        """The same kit as one of its microphones hears it."""
        ...

    def ring_s(self, voice_name: str, stroke: str = "plain", /) -> float:
        """How long the hardest blow sounds, in seconds."""
        ...


def usual_chokes() -> Chokes:
    """What ends a voice on any kit."""
    return {v.name: v.choked_by for v in VOICES if v.choked_by}


def check_rate(rate: int) -> None:
    """Raises an InputError where sound is not made at a rate."""
    if not LOWEST_RATE <= rate <= HIGHEST_RATE:
        raise InputError(f"A sample rate of {rate} Hz is outside {LOWEST_RATE} to {HIGHEST_RATE} Hz.")
