"""A kit that plays recorded strokes: blows find their regions, and what is worked out is kept up to a limit."""

from collections import OrderedDict
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from threading import Lock

import numpy as np
import soxr
from numpy.typing import NDArray

from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICES, voice
from ghoststep.sound.kit import Chokes, check_rate, usual_chokes
from ghoststep.sound.sampled.colours import BUZZ_BLOWS, COLOURS, Colour, coloured
from ghoststep.sound.sampled.filters import filtered
from ghoststep.sound.sampled.region import MOST_CENTS, Region

Sound = NDArray[np.float32]
Load = Callable[[str], tuple[Sound, int]]
KEPT_BYTES = 250_000_000  # of sound that is ready to be mixed
LONGEST_S = 20.0  # of a sample
HAT_CONTROLLER = 4
_TAKES = 4  # kinds of dice of a region that has some
_OPENNESS = {"hat_closed": 127, "hat_pedal": 127, "hat_half": 64, "hat_open": 0}  # the pedal: 127 is down


@dataclass(frozen=True)
class KeyMap:
    """Which key of the kit each voice and stroke has, and what is added to a voice, in dB."""

    keys: Mapping[tuple[str, str], int]
    levels_db: Mapping[str, float] = field(default_factory=dict)


def usual_keys(regions: tuple[Region, ...]) -> KeyMap:
    """The first key of General MIDI of each voice at which some region answers."""
    found = {}
    for row in VOICES:
        for key in row.keys:
            if any(r.keys[0] <= key <= r.keys[1] for r in regions):
                found[row.name, "plain"] = key
                break
    return KeyMap(found)


@dataclass(eq=False)
class SampledKit:
    """A kit of regions at one sample rate. `load` gives the samples of a file, shape (n, channels), and their rate.

    A stroke without a region of its own is the plain one with another colour; a voice without any sounds as the one it
    is most like, or not at all (`missing`).
    """

    name: str
    rate: int
    regions: tuple[Region, ...]
    keymap: KeyMap
    load: Load
    controllers: Mapping[int, int] = field(default_factory=dict)
    _ready: "OrderedDict[tuple[object, ...], Sound]" = field(default_factory=OrderedDict, repr=False)
    _bytes: int = field(default=0, repr=False)
    _lock: Lock = field(default_factory=Lock, repr=False)
    microphones: tuple[str, ...] = ("kit",)

    def __post_init__(self) -> None:
        check_rate(self.rate)

    @property
    def missing(self) -> tuple[str, ...]:
        """Voices for which the kit has nothing."""
        return tuple(v.name for v in VOICES if self._played_as(v.name) is None)

    @property
    def chokes(self) -> Chokes:
        """What ends a voice: what usually does, and the groups of the kit."""
        out = {name: set(by) for name, by in usual_chokes().items()}
        mine = {name: self._of_key(key) for (name, stroke), key in self.keymap.keys.items() if stroke == "plain"}
        for name, regions in mine.items():
            wanted = {r.off_by for r in regions if r.off_by is not None}
            for other, theirs in mine.items():
                if other != name and any(r.group in wanted for r in theirs):
                    out.setdefault(name, set()).add(other)
        return {name: tuple(sorted(by)) for name, by in out.items()}

    def only(self, microphone: str) -> "SampledKit":
        """The kit as one microphone hears it; sampled kits are heard by one."""
        if microphone not in self.microphones:
            raise InputError(f"This kit has no microphone '{microphone}', only: {', '.join(self.microphones)}.")
        return self

    def ring_s(self, voice_name: str, stroke: str = "plain") -> float:
        """How long the hardest stroke sounds."""
        return len(self.blow(voice_name, 127, np.random.default_rng(0), stroke)) / self.rate

    def blow(self, voice_name: str, velocity: int, rng: np.random.Generator, stroke: str = "plain") -> Sound:
        """A blow, shape (n, 2), as loud as it is mixed."""
        dice, turn, take = float(rng.random()), int(rng.integers(1 << 16)), int(rng.integers(_TAKES))
        level_dice = float(rng.uniform(-1, 1))
        source = self._played_as(voice_name)
        if source is None:
            return np.zeros((0, 2), np.float32)
        key = self.keymap.keys.get((source, stroke))
        colour = COLOURS.get(stroke) if key is None else None
        key = self.keymap.keys[source, "plain"] if key is None else key
        controllers = {HAT_CONTROLLER: _OPENNESS.get(voice_name, 0), **self.controllers}
        found = [r for r in self._of_key(key) if r.answers(key, velocity, dice, turn, controllers)]
        parts = [self._sound(r, key, velocity, take, colour) for r in found]
        level = 10 ** (self.keymap.levels_db.get(voice_name, 0.0) / 20)
        gains = [level * r.gain(velocity) * 10 ** (level_dice * r.random_db / 40) for r in found]
        out = _summed(parts, gains)
        return _pressed(out, self.rate) if stroke == "buzz" and colour is not None else out

    def _played_as(self, voice_name: str) -> str | None:
        row = voice(voice_name)
        related = [v.name for v in VOICES if v.group == row.group and v.group in ("cymbals", "toms")]
        for name in (voice_name, *row.takes_after, *related):
            if (name, "plain") in self.keymap.keys:
                return name
        return None

    def _of_key(self, key: int) -> tuple[Region, ...]:
        found = self._by_key.get(key)
        if found is None:
            found = self._by_key[key] = tuple(r for r in self.regions if r.keys[0] <= key <= r.keys[1])
        return found

    _by_key: dict[int, tuple[Region, ...]] = field(default_factory=dict, repr=False)

    def _sound(self, region: Region, key: int, velocity: int, take: int, colour: Colour | None) -> Sound:
        """What a region makes of a blow, before its level."""
        same = region.is_the_same_at_any_velocity
        name = (region, key, 0 if same else velocity, take if region.has_dice else 0, colour)
        return self._kept(name, lambda: self._made(region, key, velocity, take if region.has_dice else 0, colour))

    def _made(self, region: Region, key: int, velocity: int, take: int, colour: Colour | None) -> Sound:
        dice = np.random.default_rng([take, key]).uniform(0, 1, 3)
        cents = region.cents(key) + min(region.random_cents, MOST_CENTS) * (2 * dice[0] - 1)
        sound = self._kept((region.sample, round(cents, 3)), lambda: self._tuned(region.sample, cents))
        ratio = 2 ** (-cents / 1200) * self.rate / self._rates[region.sample]
        first = round((region.offset + region.offset_random * dice[1]) * ratio)
        last = len(sound) if region.end is None else min(len(sound), round((region.end + 1) * ratio))
        sound = sound[min(first, len(sound)) : max(last, first)]
        if region.filters and len(sound):
            hz = tuple(f.hz_at(velocity, key, 2 * float(dice[2]) - 1) for f in region.filters)
            sound = filtered(sound, region.filters, hz, self.rate)
        if not region.envelope.plain:
            sound = sound * _shape(region, velocity, len(sound), self.rate)[:, None]
        if colour is not None:
            sound = coloured(sound, colour, self.rate)
        return np.ascontiguousarray(_placed(sound, region), np.float32)

    _rates: dict[str, int] = field(default_factory=dict, repr=False)

    def _tuned(self, sample: str, cents: float) -> Sound:
        """The samples of a file at the rate of the kit and moved in pitch, shape (n, 2)."""
        samples, rate = self.load(sample)
        self._rates[sample] = rate
        samples = samples[: round(LONGEST_S * rate)]
        stereo = samples[:, [0, 0]] if samples.shape[1] == 1 else samples[:, :2]
        at = rate * 2 ** (cents / 1200)
        return stereo if at == self.rate else soxr.resample(stereo, at, self.rate).astype(np.float32)

    def _kept(self, name: tuple[object, ...], make: Callable[[], Sound]) -> Sound:
        with self._lock:
            if name in self._ready:
                self._ready.move_to_end(name)
                return self._ready[name]
        made = make()
        with self._lock:
            if name not in self._ready:
                self._ready[name] = made
                self._bytes += made.nbytes
            while self._bytes > KEPT_BYTES and len(self._ready) > 1:
                self._bytes -= self._ready.popitem(last=False)[1].nbytes
        return made


def _summed(parts: list[Sound], gains: list[float]) -> Sound:
    if len(parts) == 1:
        return parts[0] * np.float32(gains[0])
    out = np.zeros((max((len(p) for p in parts), default=0), 2), np.float32)
    for part, gain in zip(parts, gains, strict=True):
        out[: len(part)] += part * np.float32(gain)
    return out


def _placed(sound: Sound, region: Region) -> Sound:
    """Width, then pan: equal power, the middle as loud as the file is."""
    width, pan = region.width / 100, region.pan / 100
    if width != 1:
        middle, side = sound.mean(axis=1), (sound[:, 0] - sound[:, 1]) / 2 * width
        sound = np.stack([middle + side, middle - side], axis=1)
    if pan:
        angle = (pan + 1) * np.pi / 4
        sound = sound * np.sqrt(2) * np.array([np.cos(angle), np.sin(angle)])
    return np.asarray(sound, np.float32)


def _shape(region: Region, velocity: int, length: int, rate: int) -> Sound:
    """The envelope as a gain for each sample: decay falls evenly in dB, as in SFZ's own description."""
    e, share = region.envelope, velocity / 127
    time_s = np.arange(length) / rate - e.delay_s
    attack = max(e.attack_s + e.veltrack_attack_s * share, 0.0)
    decay = max(e.decay_s + e.veltrack_decay_s * share, 0.0)
    out = np.ones(length)
    if attack:
        out = np.clip(time_s / attack, 0, 1)
    out[time_s < 0] = 0
    falls = time_s - attack - e.hold_s
    if decay and e.sustain < 100:
        floor = max(e.sustain / 100, 1e-5)
        out *= np.where(falls > 0, np.maximum(10 ** (-4.5 * np.maximum(falls, 0) / decay), floor), 1.0)
        if e.sustain == 0:
            out[falls > decay] = 0
    elif e.sustain < 100:
        out[falls > 0] *= e.sustain / 100
    return out.astype(np.float32)


def _pressed(blow: Sound, rate: int) -> Sound:
    """A buzz: the stick bounces on after the first blow."""
    out = np.zeros((len(blow) + round(BUZZ_BLOWS[-1][0] * rate), 2), np.float32)
    out[: len(blow)] += blow
    for delay_s, share in BUZZ_BLOWS:
        at = round(delay_s * rate)
        out[at : at + len(blow)] += np.float32(share) * blow
    return out
