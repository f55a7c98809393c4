"""What is heard: the one thing that sound, MIDI, pictures and checks read."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ghoststep.music.errors import InputError
from ghoststep.music.kit import STROKES, VOICES


def _frozen(values: ArrayLike, dtype: type) -> NDArray[np.generic]:
    out: NDArray[np.generic] = np.array(values, dtype=dtype)
    out.setflags(write=False)
    return out


@dataclass(frozen=True, eq=False)
class Performance:
    """Hits in the order they are given, all arrays of shape (n,) and read-only.

    onset_s: seconds; voice: index into `kit.VOICES`; velocity: 1 to 127; stroke: index into `kit.STROKES`;
    length_s: seconds until the loop point (hits may lie outside it by their deviation); stop_s: when a hand or foot
    ends a sound, inf where nothing does; cut: whether the recording was cut so as to go over from its end to its start.
    """

    onset_s: NDArray[np.float64]
    voice: NDArray[np.int16]
    velocity: NDArray[np.int16]
    stroke: NDArray[np.int16]
    length_s: float
    stop_s: NDArray[np.float64] | None = None
    cut: bool = False

    def __post_init__(self) -> None:
        fields: list[tuple[str, type]] = [("onset_s", float), ("stop_s", float)]
        fields += [(name, np.int16) for name in ("voice", "velocity", "stroke")]
        if self.stop_s is None:
            object.__setattr__(self, "stop_s", np.full(np.shape(self.onset_s), np.inf))
        for name, dtype in fields:
            object.__setattr__(self, name, _frozen(getattr(self, name), dtype))
        shapes = {getattr(self, name).shape for name, _ in fields}
        if len(shapes) != 1 or len(next(iter(shapes))) != 1:
            raise InputError(f"The arrays of a performance have to be equally long, not {shapes}.")
        if not np.isfinite(self.onset_s).all() or not np.isfinite(self.length_s):
            raise InputError("A performance has a hit without a time.")
        if len(self) and not (self.velocity.min() >= 1 and self.velocity.max() <= 127):
            raise InputError("A performance has a velocity outside 1 to 127.")
        if len(self) and not (self.voice.min() >= 0 and self.voice.max() < len(VOICES)):
            raise InputError("A performance names a voice the kit does not have.")
        if len(self) and not (self.stroke.min() >= 0 and self.stroke.max() < len(STROKES)):
            raise InputError("A performance names a stroke that does not exist.")

    def __len__(self) -> int:
        return len(self.onset_s)

    @classmethod
    def of(
        cls,
        onset_s: ArrayLike,
        voice: ArrayLike,
        velocity: ArrayLike,
        *,
        stroke: ArrayLike | None = None,
        length_s: float,
        stop_s: ArrayLike | None = None,
        cut: bool = False,
    ) -> "Performance":
        """Build from any sequences; strokes default to plain."""
        strokes = np.zeros(np.shape(onset_s), np.int16) if stroke is None else stroke
        return cls(onset_s, voice, velocity, strokes, float(length_s), stop_s, cut)  # type: ignore[arg-type]

    @property
    def stops_s(self) -> NDArray[np.float64]:
        assert self.stop_s is not None
        return self.stop_s

    def ordered(self) -> "Performance":
        """The same hits in the order of time."""
        order = np.argsort(self.onset_s, kind="stable")
        return Performance(
            self.onset_s[order],
            self.voice[order],
            self.velocity[order],
            self.stroke[order],
            self.length_s,
            self.stops_s[order],
            self.cut,
        )


def joined(parts: Sequence[Performance]) -> Performance:
    """Performances one behind the other, each from the loop point of the one before it on."""
    starts = np.concatenate([[0.0], np.cumsum([p.length_s for p in parts])])
    onset, stops = (
        np.concatenate([getattr(p, name) + start for p, start in zip(parts, starts, strict=False)])
        for name in ("onset_s", "stops_s")
    )
    voice, velocity, stroke = (
        np.concatenate([getattr(p, name) for p in parts]) for name in ("voice", "velocity", "stroke")
    )
    return Performance(onset, voice, velocity, stroke, float(starts[-1]), stops)
