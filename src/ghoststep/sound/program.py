"""What is to be played, as one prepared stretch of samples: the groove, the recording, or both in turn."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import soxr
from numpy.typing import NDArray

from ghoststep.feel.ornaments import spelled_out
from ghoststep.feel.perform import perform, varies
from ghoststep.music.groove import Groove
from ghoststep.music.kit import METAL
from ghoststep.music.performance import Performance, joined
from ghoststep.music.time import TempoMap
from ghoststep.sound.kit import Kit
from ghoststep.sound.mixdown import Mixdown
from ghoststep.sound.render import Stereo, strikes
from ghoststep.sound.stretch import stretched

_RING_S = 3.2
_VARIED_S, _MOST_PASSES = 24.0, 8
_LEAD_S = 0.25  # kept before the start for hits that come early


class Source(StrEnum):
    GROOVE = "groove"
    RECORDING = "recording"
    IN_TURN = "in turn"


class Plays(StrEnum):
    """What a program is: a part of the groove that is worked on, or something beside it."""

    PART = "part"  # groove, recording or both in turn, as wished
    MOMENT = "moment"  # a stretch of a recording
    PREVIEW = "preview"  # another version of the groove
    CLICK = "click"  # a click alone

    @property
    def moves(self) -> bool:
        """Whether a playhead follows it over the groove."""
        return self in (Plays.PART, Plays.PREVIEW)


@dataclass(frozen=True, eq=False)
class Tape:
    """A recording for playing beside the groove.

    samples: (n, channels); start_s: where bar 1 lies in it; onsets_s: its hits; tempo: the tempo it was heard in, by
    which bars are found in it whatever tempo the groove has now.
    """

    samples: NDArray[np.float32]
    rate: int
    start_s: float
    onsets_s: NDArray[np.float64]
    tempo: TempoMap


@dataclass(frozen=True, eq=False)
class Program:
    """Samples of one pass, shape (n, 2): `passes` stretches of the region one after the other.

    At sample s the groove stands at `position_ticks(s)`; `count_in` samples of clicks come before the first pass only.
    `performance` is what the groove's pass was made from, seconds from its start at the speed it is played;
    `tempo` tells ticks from seconds within a pass. `first_pass` numbers the passes; where they `vary`, others may
    follow.
    """

    samples: Stereo
    count_in: Stereo
    rate: int
    region_ticks: tuple[int, int]
    passes: tuple[Source, ...]
    what: Plays = Plays.PART
    performance: Performance | None = None
    tempo: TempoMap | None = None
    first_pass: int = 0
    vary: bool = False

    @property
    def pass_length(self) -> int:
        return max(1, len(self.samples) // len(self.passes))

    def position_ticks(self, sample: int) -> float:
        """Where the groove is at a sample of the pass; with a tempo map as it goes, else evenly."""
        share = (sample % self.pass_length) / self.pass_length
        a, b = self.region_ticks
        if self.tempo is None or self.tempo.steady:
            return a + share * (b - a)
        start_s, end_s = self.tempo.seconds(np.array([a, b]))
        return float(self.tempo.to_ticks(start_s + share * (end_s - start_s)))

    def sample_of(self, ticks: float) -> int:
        """The first sample at a position; the start of the region where the position lies outside it."""
        a, b = self.region_ticks
        if not a <= ticks < b:
            return 0
        share = (ticks - a) / (b - a)
        if self.tempo is not None and not self.tempo.steady:
            start_s, at_s, end_s = self.tempo.seconds(np.array([a, ticks, b]))
            share = float((at_s - start_s) / (end_s - start_s))
        return min(int(share * self.pass_length), self.pass_length - 1)

    def source_at(self, sample: int) -> Source:
        return self.passes[min(sample // self.pass_length, len(self.passes) - 1)]


@dataclass(frozen=True)
class Wish:
    """How the user wants to hear it."""

    source: Source = Source.GROOVE
    region_ticks: tuple[int, int] | None = None  # None is the whole pattern
    loop: bool = True
    speed: float = 1.0
    click: bool = False
    count_in: bool = False
    muted: frozenset[str] = frozenset()  # voices that are not heard


def program(
    groove: Groove, kit: Kit, wish: Wish, tape: Tape | None = None, mixdown: Mixdown | None = None, first: int = 0
) -> Program:
    """Prepare what the wish says. A mixdown kept from call to call makes edits fast; `first` is the number of its pass.

    At a speed other than 1 everything is slowed alike, deviations too, as if a tape ran slower but at its pitch.
    """
    if wish.muted:
        groove = groove.changed(hits=tuple(h for h in groove.pattern.hits if h.voice not in wish.muted))
    whole = (0, groove.pattern.length_ticks)
    region = wish.region_ticks if wish.region_ticks and wish.region_ticks[0] < wish.region_ticks[1] else whole
    wants_tape = tape is not None and wish.source is not Source.GROOVE
    passes: tuple[Source, ...] = (Source.GROOVE,) * _passes(groove, region, wish)
    if wants_tape:
        passes = (Source.RECORDING, Source.GROOVE) if wish.source is Source.IN_TURN else (Source.RECORDING,)
    parts = []
    performance: Performance | None = None
    kinds = tuple(dict.fromkeys(passes))
    for source in kinds:
        if source is Source.RECORDING and tape is not None:
            parts.append(_tape_part(groove, tape, region, wish.speed, kit.rate))
        else:
            count = len(passes) if len(kinds) == 1 else 1
            numbers = range(first, first + count)
            sound, performance = _groove_part(groove, kit, region, wish, mixdown or Mixdown(), numbers)
            parts.append(sound)
    length = min(len(p) for p in parts)
    samples = np.concatenate([p[:length] for p in parts]) if len(parts) > 1 else np.ascontiguousarray(parts[0][:length])
    if wish.click:
        clicks = _clicks(groove, region, wish.speed, kit.rate, len(samples) // len(passes))
        tiled = np.tile(clicks, (len(passes), 1))
        samples[: len(tiled)] += tiled
    count_in = _count_in(groove, region, wish.speed, kit.rate) if wish.count_in else np.zeros((0, 2), np.float32)
    vary = wish.loop and varies(groove.feel) and Source.GROOVE in passes
    return Program(
        _limited(samples), count_in, kit.rate, region, passes, performance=performance, tempo=groove.tempo,
        first_pass=first, vary=vary,
    )  # fmt: skip


def _passes(groove: Groove, region: tuple[int, int], wish: Wish) -> int:
    """How many passes are prepared at once of a loop in which no two are alike: some seconds' worth."""
    if not wish.loop or not varies(groove.feel):
        return 1
    start_s, end_s = groove.tempo.seconds(np.array(region)).tolist()
    return int(min(max(_VARIED_S // max((end_s - start_s) / wish.speed, 0.1), 1), _MOST_PASSES))


def _limited(samples: Stereo) -> Stereo:
    """Soft above 0.8 of full scale, so that an added click or a dense bar never clips hard."""
    flat = samples.reshape(-1)
    loud = np.flatnonzero(np.abs(flat) > 0.8)
    if len(loud):
        found = flat[loud]
        past = (np.abs(found) - np.float32(0.8)) * np.float32(5.0)
        flat[loud] = np.copysign(np.float32(0.8) + np.float32(0.2) * past / (1 + past), found)
    return samples


def _groove_part(
    groove: Groove, kit: Kit, region: tuple[int, int], wish: Wish, mixdown: Mixdown, numbers: range
) -> tuple[Stereo, Performance]:
    """Some passes of a region of the groove, by their numbers.

    When it loops, what rings over the end is heard at the start.
    """
    spelled = spelled_out(groove)
    part = joined([_played(spelled, region, wish.speed, number) for number in numbers])
    length_s = part.length_s
    lead, length = round(_LEAD_S * kit.rate), round(length_s * kit.rate)
    sound = mixdown.mixed(
        strikes(part, kit.rate, _LEAD_S, chokes=kit.chokes), kit, lead + length + round(_RING_S * kit.rate)
    )
    out = sound[lead : lead + length]
    if wish.loop:
        ring = sound[lead + length :][:length]
        out[: len(ring)] += ring
        early = sound[:lead][-length:]
        out[length - len(early) :] += early
    return out, part


def _played(groove: Groove, region: tuple[int, int], speed: float, number: int) -> Performance:
    """A region of one pass of a groove that is spelled out, in seconds from its start at a speed."""
    start_s, end_s = (float(s) for s in groove.tempo.seconds(np.array(region)))
    played = perform(groove, number)
    # A hit belongs to the region by the spot it is meant for; what rang before the region is only heard in a loop.
    found = groove.pattern.between(*region)
    inside = slice(found.start, found.stop)
    length_s = (end_s - start_s) / speed
    moments, stops = ((x[inside] - start_s) / speed for x in (played.onset_s, played.stops_s))
    if not groove.pattern.rules.ring_over:
        metal = np.isin(played.voice[inside], METAL)
        stops = np.where(metal, np.minimum(stops, np.maximum(length_s, moments)), stops)
    return Performance(
        moments, played.voice[inside], played.velocity[inside], played.stroke[inside], length_s, stops
    )  # fmt: skip


def _tape_part(groove: Groove, tape: Tape, region: tuple[int, int], speed: float, rate: int) -> Stereo:
    """The same bars of the recording, at the kit's rate, silent where the recording has no sound.

    They are found by the tempo the recording was heard in, and last as long as the groove's do.
    """
    a_s, b_s = (float(s) + tape.start_s for s in tape.tempo.seconds(np.array(region)))
    start_s, end_s = (float(s) for s in groove.tempo.seconds(np.array(region)))
    factor = (end_s - start_s) / max(b_s - a_s, 1e-6) / speed
    if abs(factor * speed - 1) < 1e-6:
        factor = 1 / speed
    a, b = round(a_s * tape.rate), round(b_s * tape.rate)
    piece = np.zeros((max(b - a, 1), tape.samples.shape[1]), np.float32)
    low, high = max(a, 0), min(b, len(tape.samples))
    if high > low:
        piece[low - a : high - a] = tape.samples[low:high]
    left, right = (piece[:, 0], piece[:, -1]) if piece.shape[1] <= 2 else (piece.mean(axis=1), piece.mean(axis=1))
    stereo = np.stack([left, right], axis=1)
    if tape.rate != rate:
        stereo = soxr.resample(stereo, tape.rate, rate).astype(np.float32)
    fade = min(64, len(stereo))
    stereo[:fade] *= np.linspace(0, 1, fade, dtype=np.float32)[:, None]
    cuts = tape.onsets_s[(tape.onsets_s >= a_s) & (tape.onsets_s < b_s)] - a_s
    out = stretched(stereo, cuts, factor, rate)
    length = round((end_s - start_s) / speed * rate)
    return np.asarray(np.pad(out, ((0, max(0, length - len(out))), (0, 0)))[:length], np.float32)


def _click(rate: int, hz: float) -> Stereo:
    t = np.arange(round(0.03 * rate)) / rate
    one = 0.28 * np.sin(2 * np.pi * hz * t) * np.exp(-t / 0.006)
    return np.repeat(one.astype(np.float32)[:, None], 2, axis=1)


def _clicks(groove: Groove, region: tuple[int, int], speed: float, rate: int, length: int) -> Stereo:
    """A click on every counted beat, higher on the first of the bar."""
    out = np.zeros((length, 2), np.float32)
    start_s = float(groove.tempo.seconds(region[0]))
    for tick, on_bar in groove.pattern.frame.beats(*region):
        at = round((float(groove.tempo.seconds(tick)) - start_s) / speed * rate)
        _add(out, _click(rate, 2100 if on_bar else 1500), at)
    return out


def _count_in(groove: Groove, region: tuple[int, int], speed: float, rate: int) -> Stereo:
    """One bar of clicks in the meter and at the tempo of the region's start."""
    meter = groove.pattern.frame.meter_at(region[0])
    unit_s = meter.unit_ticks * groove.tempo.tick_seconds(region[0]) / speed
    out = np.zeros((round(unit_s * meter.numerator * rate), 2), np.float32)
    for beat in range(meter.numerator):
        _add(out, _click(rate, 2100 if beat == 0 else 1500), round(beat * unit_s * rate))
    return out


def _add(out: Stereo, sound: Stereo, at: int) -> None:
    part = sound[: max(0, len(out) - at)]
    out[at : at + len(part)] += part
