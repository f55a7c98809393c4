"""A simulated drummer: plays a performance as somebody with known errors does, for devices that are not there."""

from dataclasses import dataclass, fields

import numpy as np

from ghoststep.music.errors import InputError
from ghoststep.music.performance import Performance

_NAMES = {"late": "late_ms", "spread": "spread_ms", "drift": "drift_percent", "miss": "miss_percent",
          "extra": "extra_percent", "touch": "touch_percent", "seed": "seed"}  # fmt: skip
_LIMITS = {
    "late_ms": (-500, 500), "spread_ms": (0, 200), "drift_percent": (-20, 20), "miss_percent": (0, 100),
    "extra_percent": (0, 100), "touch_percent": (0, 100), "seed": (0, 2**31),
}  # fmt: skip
_EXTRA_VELOCITY = 45


@dataclass(frozen=True)
class Errors:
    """How a drummer departs from what is meant.

    late_ms: all of it (early negative); spread_ms: standard deviation of each stroke; drift_percent: how much slower
    the tempo is at the end; miss_percent, extra_percent: strokes left out and put in, of all; touch_percent: spread of
    the velocities; seed: of the dice.
    """

    late_ms: float = 0.0
    spread_ms: float = 0.0
    drift_percent: float = 0.0
    miss_percent: float = 0.0
    extra_percent: float = 0.0
    touch_percent: float = 0.0
    seed: int = 1

    def __post_init__(self) -> None:
        for row in fields(self):
            low, high = _LIMITS[row.name]
            if not low <= getattr(self, row.name) <= high:
                name = next(word for word, field in _NAMES.items() if field == row.name)
                raise InputError(f"{name}={getattr(self, row.name):g} is outside {low:g} to {high:g}.")

    @classmethod
    def parse(cls, text: str) -> "Errors":
        """Read "late=8,spread=12,drift=1%,miss=2%,extra=1%,seed=3"; nothing is a drummer without errors.

        Raises
        ------
        InputError
            Where it is no such row.
        """
        found: dict[str, float | int] = {}
        for part in text.split(",") if text.strip() else ():
            word, equals, value = part.strip().partition("=")
            if word not in _NAMES or not equals:
                raise InputError(f"'{part.strip()}' says no error of a drummer: write late=8,spread=12,miss=2%,seed=3.")
            try:
                number = float(value.strip().removesuffix("ms").removesuffix("%"))
            except ValueError as error:
                raise InputError(f"'{part.strip()}' has no number.") from error
            found[_NAMES[word]] = int(number) if word == "seed" else number
        return cls(**found)  # type: ignore[arg-type]


def played(meant: Performance, errors: Errors) -> Performance:
    """The performance as the drummer plays it, in the order of time; the same errors play the same every time."""
    rng = np.random.default_rng(errors.seed)
    count = len(meant)
    onset = meant.onset_s.copy()
    # A tempo that falls evenly makes a stroke later by the square of how far it has come.
    onset += errors.drift_percent / 100 * onset**2 / (2 * max(meant.length_s, 1e-9))
    onset += (errors.late_ms + errors.spread_ms * rng.standard_normal(count)) / 1000
    spread = 1 + errors.touch_percent / 100 * rng.standard_normal(count)
    velocity = np.clip(np.rint(meant.velocity * spread), 1, 127).astype(np.int16)
    stays = np.flatnonzero(rng.random(count) >= errors.miss_percent / 100)
    extras = round(errors.extra_percent / 100 * count)
    chosen = rng.integers(0, max(count, 1), extras) if count else np.zeros(0, int)
    moments = rng.uniform(0, meant.length_s, len(chosen))
    return Performance(
        np.concatenate([onset[stays], moments]),
        np.concatenate([meant.voice[stays], meant.voice[chosen]]),
        np.concatenate([velocity[stays], np.full(len(chosen), _EXTRA_VELOCITY, np.int16)]),
        np.concatenate([meant.stroke[stays], np.zeros(len(chosen), np.int16)]),
        meant.length_s,
    ).ordered()
