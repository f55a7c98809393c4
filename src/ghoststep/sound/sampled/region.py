"""One recorded stroke of a sampled kit and when it answers: the words of SFZ that drums use, as values with units."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

HARDEST = 127
MOST_CENTS = 4800.0


@dataclass(frozen=True)
class Filter:
    """A filter of a region.

    kind: such as "lpf_2p"; cutoff_hz; resonance_db; veltrack_cents: how far the hardest blow moves the cutoff;
    keytrack_cents: a key, counted from `keycenter`; random_cents: at most by dice.
    """

    kind: str = "lpf_2p"
    cutoff_hz: float = 0.0
    resonance_db: float = 0.0
    veltrack_cents: float = 0.0
    keytrack_cents: float = 0.0
    keycenter: int = 60
    random_cents: float = 0.0

    def hz_at(self, velocity: int, key: int, dice: float) -> float:
        """The cutoff of a blow; dice from 0 to 1."""
        cents = self.veltrack_cents * velocity / 127 + self.keytrack_cents * (key - self.keycenter)
        return float(self.cutoff_hz * 2 ** ((cents + self.random_cents * dice) / 1200))


@dataclass(frozen=True)
class Envelope:
    """Loudness over time, in seconds; sustain in percent. `veltrack_*` is added at the hardest blow, less below."""

    delay_s: float = 0.0
    attack_s: float = 0.0
    hold_s: float = 0.0
    decay_s: float = 0.0
    sustain: float = 100.0
    veltrack_attack_s: float = 0.0
    veltrack_decay_s: float = 0.0

    @property
    def plain(self) -> bool:
        return self == Envelope()


@dataclass(frozen=True)
class Region:
    """A sample and when it sounds.

    keys, velocities, dice: lowest and highest that it answers (dice from 0 to below 1); seq: its place among so many
    that answer in turn; controllers: lowest and highest value of each that lets it sound; fade_in, fade_out: velocities
    over which it comes and goes. group and off_by: what is struck in group n ends what has off_by n. offset, end, and
    what dice add to the offset are counted in samples of the file. pitch in cents; key tracking in cents a key.
    gain_db, random_db; amplitude in percent; pan and width -100 to 100; veltrack in percent (SFZ: 100 is the square of
    the velocity), curve: amplitude at some velocities instead.
    """

    sample: str
    keys: tuple[int, int] = (0, 127)
    velocities: tuple[int, int] = (0, 127)
    dice: tuple[float, float] = (0.0, 1.0)
    seq: tuple[int, int] = (1, 1)
    controllers: tuple[tuple[int, int, int], ...] = ()
    fade_in: tuple[int, int] = (0, 0)
    fade_out: tuple[int, int] = (127, 127)
    power_fade: bool = True
    group: int = 0
    off_by: int | None = None
    offset: int = 0
    offset_random: int = 0
    end: int | None = None
    keycenter: int = 60
    keytrack: float = 100.0
    tune_cents: float = 0.0
    random_cents: float = 0.0
    gain_db: float = 0.0
    random_db: float = 0.0
    amplitude: float = 100.0
    pan: float = 0.0
    width: float = 100.0
    veltrack: float = 100.0
    curve: tuple[tuple[int, float], ...] = ()
    filters: tuple[Filter, ...] = ()
    envelope: Envelope = field(default_factory=Envelope)

    def answers(self, key: int, velocity: int, dice: float, turn: int, controllers: Mapping[int, int]) -> bool:
        """Whether it sounds: `turn` counts strokes, `dice` is from 0 to below 1."""
        place, places = self.seq
        return (
            self.keys[0] <= key <= self.keys[1]
            and self.velocities[0] <= velocity <= self.velocities[1]
            and self.dice[0] <= dice < self.dice[1]
            and turn % places == place - 1
            and all(low <= controllers.get(number, 0) <= high for number, low, high in self.controllers)
        )

    def cents(self, key: int) -> float:
        """How far its pitch is moved for a key, in cents; no more than four octaves, whatever is written."""
        cents = self.tune_cents + self.keytrack * (key - self.keycenter)
        return min(max(cents, -MOST_CENTS), MOST_CENTS)

    def gain(self, velocity: int) -> float:
        """Amplitude at a velocity, by the tracking, the curve and the fades between layers; 1 is the file as it is."""
        fades = _fade(velocity, *self.fade_in, self.power_fade)
        low, high = self.fade_out
        fades *= _fade(127 - velocity, 127 - high, 127 - low, self.power_fade)
        return float(10 ** (self.gain_db / 20) * self.amplitude / 100 * self._by_velocity(velocity) * fades)

    def _by_velocity(self, velocity: int) -> float:
        if self.curve:
            at, values = zip(*self.curve, strict=True)
            shape = float(np.interp(velocity, at, values))
        else:
            shape = (velocity / HARDEST) ** 2
        share = self.veltrack / 100
        return 1 - share + share * shape if share >= 0 else 1 + share * shape

    @property
    def is_the_same_at_any_velocity(self) -> bool:
        """But for its level."""
        e = self.envelope
        return not any(f.veltrack_cents for f in self.filters) and not (e.veltrack_attack_s or e.veltrack_decay_s)

    @property
    def has_dice(self) -> bool:
        """Whether two blows of it differ in more than level."""
        return bool(self.random_cents or self.offset_random or any(f.random_cents for f in self.filters))


def _fade(value: int, low: int, high: int, power: bool) -> float:
    if value >= high:
        return 1.0
    if value < low or high == low:
        return 0.0
    share = (value - low) / (high - low)
    return float(np.sqrt(share)) if power else share
