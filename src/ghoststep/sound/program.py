"""What is to be played, as one prepared stretch of samples: the groove, the recording, or both in turn."""

from dataclasses import dataclass, field
from enum import StrEnum
from math import gcd

import numpy as np
import soxr
from numpy.typing import NDArray

from ghoststep.feel.ornaments import spelled_out
from ghoststep.feel.perform import perform, varies
from ghoststep.music.groove import Groove
from ghoststep.music.kit import METAL
from ghoststep.music.performance import Performance, joined
from ghoststep.music.time import TempoMap
from ghoststep.sound.click import Click, clicks, count_in
from ghoststep.sound.kit import Kit
from ghoststep.sound.loudness import energy, voice_energies
from ghoststep.sound.mixdown import Mixdown
from ghoststep.sound.render import Stereo, strikes
from ghoststep.sound.stretch import stretched

_RING_S = 3.2
_VARIED_S, _MOST_PASSES = 24.0, 8
_MEASURED_S = 20.0  # of a recording, when its loudness is set against the groove's
_LEAD_S = 0.25  # kept before the start for hits that come early


class Source(StrEnum):
    GROOVE = "groove"
    RECORDING = "recording"
    IN_TURN = "in turn"
    TOGETHER = "together"
    SIDES = "left and right"  # the groove left, the recording right


# Who comes in after whom when a groove is built up, by the letter of the limb.
BUILD_UPS: dict[str, tuple[str, ...]] = {
    "feet-first": ("K", "H", "L", "R"), "hands-first": ("R", "L", "K", "H"), "off": (),
}  # fmt: skip


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
    resting: frozenset[str] = frozenset()  # limbs, by letter, that are not heard
    click_kind: Click = field(default_factory=Click)
    build_up: tuple[str, ...] = ()  # limbs by letter in the order in which they come in, one more each so many passes
    build_passes: int = 2


def program(
    groove: Groove, kit: Kit, wish: Wish, tape: Tape | None = None, mixdown: Mixdown | None = None, first: int = 0
) -> Program:
    """Prepare what the wish says. A mixdown kept from call to call makes edits fast; `first` is the number of its pass.

    At a speed other than 1 everything is slowed alike, deviations too, as if a tape ran slower but at its pitch.
    """
    groove = _heard(groove, wish)
    whole = (0, groove.pattern.length_ticks)
    region = wish.region_ticks if wish.region_ticks and wish.region_ticks[0] < wish.region_ticks[1] else whole
    passes = _order(groove, region, wish, tape)
    mixdown = mixdown or Mixdown()
    if _there(groove, wish) and set(passes) == {Source.GROOVE}:
        sound, performance = _built_up(groove, kit, region, wish, first)
    else:
        sound, performance = _sounding(groove, kit, region, wish, tape, passes, mixdown, first)
    if wish.click:
        _with_clicks(sound, groove, region, wish, kit.rate, len(passes))
    counted = count_in(groove, region, wish.speed, kit.rate, wish.click_kind) if wish.count_in else _nothing()
    vary = wish.loop and not wish.build_up and varies(groove.feel) and passes[0] is not Source.RECORDING
    return Program(
        _limited(sound), counted, kit.rate, region, passes, performance=performance, tempo=groove.tempo,
        first_pass=first, vary=vary,
    )  # fmt: skip


def _nothing() -> Stereo:
    return np.zeros((0, 2), np.float32)


def _heard(groove: Groove, wish: Wish) -> Groove:
    """The groove without what is not to be heard."""
    if not wish.muted and not wish.resting:
        return groove
    hits = (h for h in groove.pattern.hits if h.voice not in wish.muted and h.limb_letter not in wish.resting)
    return groove.changed(hits=tuple(hits))


def _order(groove: Groove, region: tuple[int, int], wish: Wish, tape: Tape | None) -> tuple[Source, ...]:
    """What is heard in each pass that is prepared at once."""
    source = wish.source if tape is not None else Source.GROOVE
    if source is Source.IN_TURN:
        return (Source.RECORDING, Source.GROOVE)
    if source in (Source.RECORDING, Source.TOGETHER, Source.SIDES):
        return (source,) * _click_passes(groove, region, wish)
    if wish.build_up:
        return (source,) * max(len(_there(groove, wish)) * wish.build_passes, 1)
    return (source,) * max(_passes(groove, region, wish), _click_passes(groove, region, wish))


def _there(groove: Groove, wish: Wish) -> tuple[str, ...]:
    """The limbs of a build-up that have strokes."""
    limbs = {h.limb_letter for h in groove.pattern.hits}
    return tuple(letter for letter in wish.build_up if letter in limbs)


def _click_passes(groove: Groove, region: tuple[int, int], wish: Wish) -> int:
    """In how many passes bars of click and bars of silence come round."""
    if not wish.click or not wish.loop:
        return 1
    first, last = groove.pattern.frame.bars_of([region[0], region[1] - 1]).tolist()
    bars, anew = last - first + 1, wish.click_kind.round
    return min(anew // gcd(bars, anew), _MOST_PASSES)


def _sounding(
    groove: Groove,
    kit: Kit,
    region: tuple[int, int],
    wish: Wish,
    tape: Tape | None,
    passes: tuple[Source, ...],
    mixdown: Mixdown,
    first: int,
) -> tuple[Stereo, Performance | None]:
    """All passes one behind the other, and the performance of the groove in them."""
    performance: Performance | None = None
    if passes[0] is not Source.RECORDING or Source.GROOVE in passes:
        count = 1 if Source.GROOVE in passes and Source.RECORDING in passes else len(passes)
        fresh = varies(groove.feel) and wish.loop
        numbers = range(first, first + count) if fresh else range(first, first + 1)
        played, performance = _groove_part(groove, kit, region, wish, mixdown, numbers)
        played = np.tile(played, (count // len(numbers), 1)) if len(numbers) < count else played
    if tape is None or passes[0] is Source.GROOVE:
        return np.ascontiguousarray(played), performance
    recorded = _tape_part(groove, tape, region, wish.speed, kit.rate)
    if passes[0] is Source.RECORDING and Source.GROOVE not in passes:
        return np.tile(recorded, (len(passes), 1)), None
    assert performance is not None
    recorded = recorded * _as_loud(recorded, performance, kit.rate, len(passes))
    if passes[0] is Source.RECORDING:
        length = min(len(recorded), len(played))
        return np.concatenate([recorded[:length], played[:length]]), performance
    recorded = np.tile(recorded, (len(passes), 1))
    length = min(len(recorded), len(played))
    if passes[0] is Source.TOGETHER:
        return recorded[:length] + played[:length], performance
    return np.stack([played[:length].mean(axis=1), recorded[:length].mean(axis=1)], axis=1), performance


def _as_loud(recorded: Stereo, played: Performance, rate: int, passes: int) -> np.float32:
    """What brings the recording to the loudness of the groove, by no more than 12 dB either way."""
    wanted = float(voice_energies(played).sum()) / passes
    has = energy(recorded[: round(_MEASURED_S * rate)], rate) * max(1.0, len(recorded) / (_MEASURED_S * rate))
    if wanted <= 0 or has <= 0:
        return np.float32(1)
    return np.float32(min(max((wanted / has) ** 0.5, 10 ** (-12 / 20)), 10 ** (12 / 20)))


def _built_up(
    groove: Groove, kit: Kit, region: tuple[int, int], wish: Wish, first: int
) -> tuple[Stereo, Performance | None]:
    """Limbs that come in one after the other, so many passes each; with all of them it goes round from the start."""
    parts: list[Stereo] = []
    performance: Performance | None = None
    order = _there(groove, wish)
    for count in range(1, len(order) + 1):
        there = set(order[:count])
        part = groove.changed(hits=tuple(h for h in groove.pattern.hits if h.limb_letter in there))
        sound, performance = _groove_part(part, kit, region, wish, Mixdown(), range(first, first + 1))
        parts += [sound] * wish.build_passes
    return np.concatenate(parts), performance


def _with_clicks(sound: Stereo, groove: Groove, region: tuple[int, int], wish: Wish, rate: int, passes: int) -> None:
    """Add the click to each pass: bars of silence go on from pass to pass."""
    length = len(sound) // passes
    begin, end = groove.pattern.frame.bars_of([region[0], region[1] - 1]).tolist()
    for n in range(passes):
        bars = n * (end - begin + 1)
        sound[n * length : (n + 1) * length] += clicks(groove, region, wish.speed, rate, length, wish.click_kind, bars)


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
