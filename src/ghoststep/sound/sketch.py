"""The sketch kit: light and quick, every voice a few tones and noises in layers of strength and takes of each.

Building is lazy and thread-safe: the first blow on a voice makes its layer, later ones reuse it.
"""

from dataclasses import dataclass, field
from functools import lru_cache
from threading import Lock

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.errors import InputError
from ghoststep.music.kit import STROKE_INDEX
from ghoststep.music.kit import voice as kit_voice
from ghoststep.sound.kit import Chokes, check_rate, usual_chokes
from ghoststep.sound.recipe import NIGHT_TRAM_KIT, Recipe
from ghoststep.sound.strike import strike
from ghoststep.sound.strokes import BUZZ_BLOWS, struck

Sample = NDArray[np.float32]
LAYER_VELOCITIES = (16, 40, 64, 88, 112, 127)
TAKES = 4
_LEVEL_DICE_DB = 0.35
_LAYER_DICE = 0.06


@dataclass
class SketchKit:
    """A kit of recipes at one sample rate."""

    name: str = "sketch"
    rate: int = 44100
    recipes: dict[str, Recipe] = field(default_factory=lambda: NIGHT_TRAM_KIT)
    _samples: dict[tuple[str, str, int, int], Sample] = field(default_factory=dict, repr=False)
    _struck: dict[tuple[str, str], Recipe] = field(default_factory=dict, repr=False)
    _lock: Lock = field(default_factory=Lock, repr=False)

    def __post_init__(self) -> None:
        check_rate(self.rate)

    @property
    def microphones(self) -> tuple[str, ...]:
        """It has no room and no distance."""
        return ("kit",)

    @property
    def chokes(self) -> Chokes:
        return usual_chokes()

    def only(self, microphone: str) -> "SketchKit":
        """The kit itself; an InputError where it is asked for a microphone it has not."""
        if microphone not in self.microphones:
            raise InputError(f"This kit has no microphone '{microphone}', only: {', '.join(self.microphones)}.")
        return self

    def ring_s(self, voice_name: str, stroke: str = "plain") -> float:
        return self.recipe(voice_name, stroke).length_s

    def recipe(self, voice: str, stroke: str = "plain") -> Recipe:
        """What a stroke on a voice is made of."""
        key = (voice, stroke)
        if key not in self._struck:
            self._struck[key] = struck(self.recipes, voice, stroke)
        return self._struck[key]

    def layer(self, voice: str, layer: int, take: int, stroke: str = "plain") -> Sample:
        """The samples of one take of one layer, shape (n,)."""
        key = (voice, stroke, layer, take)
        found = self._samples.get(key)
        if found is None:
            seed = [kit_voice(voice).dice, take, *([STROKE_INDEX[stroke]] if stroke != "plain" else [])]
            recipe = self.recipe(voice, stroke)
            made = strike(recipe, LAYER_VELOCITIES[layer] / 127, rate=self.rate, seed=seed).astype(np.float32)
            if stroke == "buzz":
                made = _pressed(made, self.rate)
            with self._lock:
                found = self._samples.setdefault(key, made)
        return found

    def blow(self, voice: str, velocity: int, rng: np.random.Generator, stroke: str = "plain") -> Sample:
        """A blow at a velocity: two neighbouring layers of one take blended, with small dice so no two are alike."""
        mono = self.mono_blow(voice, velocity, rng, stroke)
        out = np.empty((len(mono), 2), np.float32)
        for side, gain in enumerate(self.gains(voice)):
            np.multiply(mono, gain, out=out[:, side])
        return out

    def mono_blow(self, voice: str, velocity: int, rng: np.random.Generator, stroke: str = "plain") -> Sample:
        """A blow before it is placed left and right, shape (n,)."""
        take = int(rng.integers(TAKES))
        dice_db = rng.uniform(-_LEVEL_DICE_DB, _LEVEL_DICE_DB)
        at = float(np.interp(velocity, LAYER_VELOCITIES, range(len(LAYER_VELOCITIES))))
        at = min(max(at + rng.uniform(-_LAYER_DICE, _LAYER_DICE), 0.0), len(LAYER_VELOCITIES) - 1.0)
        lower = min(int(at), len(LAYER_VELOCITIES) - 2)
        share = np.float32(at - lower)
        wanted = (velocity / 127) ** 2
        # Each layer is brought to the wanted level first, so the blend changes colour and not loudness.
        low, high = (wanted / (LAYER_VELOCITIES[i] / 127) ** 2 for i in (lower, lower + 1))
        level = 10 ** ((self.recipe(voice, stroke).level_db + dice_db) / 20)
        low_part = self.layer(voice, lower, take, stroke) * np.float32(level * low * (1 - share))
        high_part = self.layer(voice, lower + 1, take, stroke) * np.float32(level * high * share)
        return low_part + high_part

    def gains(self, voice: str) -> tuple[np.float32, np.float32]:
        """Left and right gain of a voice, equal power."""
        angle = (self.recipes[voice].pan + 1) * np.pi / 4
        return np.float32(np.cos(angle)), np.float32(np.sin(angle))


@lru_cache(maxsize=4)
def sketch_kit(rate: int = 44100) -> SketchKit:
    """The sketch kit at a sample rate in Hz; whoever asks shares the samples that are ready.

    Raises
    ------
    InputError
        Where the rate is none that sound is made at.
    """
    return SketchKit(rate=rate)


def _pressed(blow: Sample, rate: int) -> Sample:
    """A buzz: the stick bounces on after the first blow."""
    out = np.zeros(len(blow) + round(BUZZ_BLOWS[-1][0] * rate), np.float32)
    out[: len(blow)] += blow
    for delay_s, share in BUZZ_BLOWS:
        at = round(delay_s * rate)
        out[at : at + len(blow)] += np.float32(share) * blow
    return out
