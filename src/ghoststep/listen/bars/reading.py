"""Which pulse and which bars: all readings of a performance, best first.

A short performance is read as a whole. In a long one the pulse is found in a few dense stretches and followed from
the best of them to both ends; the bars are then judged over all hits together.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.bars.bars import IN_FOUR, METERS, Reading, readings
from ghoststep.listen.bars.follow import followed
from ghoststep.listen.bars.length import LOOP_OTHER_NATS, loop_nats, loop_steps_s, whole_bars_nats
from ghoststep.listen.bars.pulse import Pulse, find_pulses, log_density
from ghoststep.listen.bars.struck import bar_steps
from ghoststep.listen.bars.usual import class_of
from ghoststep.listen.fit.fit import Frame
from ghoststep.listen.fit.line import Line
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Swing
from ghoststep.music.kit import VOICES
from ghoststep.music.meter import Meter
from ghoststep.music.performance import Performance
from ghoststep.music.time import checked_tempo_bpm

Floats = NDArray[np.float64]
_LONG_S, _STRETCH_S, _STRETCHES = 34.0, 16.0, 2
_LEAST_IN_STRETCH = 4  # hits
_USUAL_METERS = METERS[:5]  # enough to tell which stretch and pulse read best; all are tried afterwards
# What is longer counts as if it were so long: else a pair of bars that always come together would be read as one.
_EVIDENCE_S = 20.0
_FAR_BEHIND = 60.0  # nats by which a pulse explains the moments worse than the best one
_BEST_OF_PULSE = 30
# Off-steps may be early, where they are not far from even: so much of a step, and what that costs in nats.
_SLIGHT, _EARLY_NATS = 0.16, 6.0
_OFFERED = 6  # readings that are told
_SAME_BPM = 0.01
_FORCED_RATIO = 0.58
MAX_CLICK_S = 86_400.0
LEAST_TAPS = 4
_TAPPED_OFF = 0.12  # of a beat that tapped beats may lie off their line, in the middle
_SHUFFLED = 0.5  # middle thirds to last thirds up to which a beat of three is a shuffle with some triplets in it


@dataclass(frozen=True)
class Click:
    """A click that the player heard: its tempo in BPM, and a moment at which it sounds."""

    bpm: float
    at_s: float

    def __post_init__(self) -> None:
        checked_tempo_bpm(self.bpm)
        if not abs(self.at_s) <= MAX_CLICK_S:
            raise InputError(f"A click at {self.at_s:g} s lies outside what a recording can hold.")

    @classmethod
    def parse(cls, text: str) -> "Click":
        """Read "96@0.5": the tempo, and the second of one click.

        Raises
        ------
        InputError
            Where it is no such pair.
        """
        bpm, at, second = text.partition("@")
        try:
            return cls(float(bpm), float(second) if at else 0.0)
        except ValueError as error:
            if isinstance(error, InputError):
                raise
            raise InputError(f"'{text}' is no click: write it like 96@0.5, its tempo and the second of one.") from error

    @classmethod
    def of_taps(cls, times_s: Sequence[float]) -> "Click":
        """The steady beat that somebody tapped along: the straight line that lies nearest to the taps.

        Parameters
        ----------
        times_s
            Moments in the recording in s, in order; some beats may be left out.

        Raises
        ------
        InputError
            Where there are fewer than four taps, or they keep to no beat.
        """
        taps = np.asarray(times_s, float)
        if len(taps) < LEAST_TAPS:
            raise InputError(f"{len(taps)} taps tell no beat: tap at least {LEAST_TAPS} times, in time with it.")
        gaps = np.diff(taps)
        pace_s = float(np.median(gaps))
        if pace_s <= 0:
            raise InputError("These taps come all at once: tap in time with the beat.")
        number = np.concatenate([[0], np.cumsum(np.maximum(np.round(gaps / pace_s), 1))])
        pace_s, at_s = np.polyfit(number, taps, 1)
        if np.median(np.abs(taps - at_s - number * pace_s)) > _TAPPED_OFF * pace_s:
            raise InputError("These taps keep to no beat: tap once a beat, as evenly as you can.")
        return cls(60 / float(pace_s), float(at_s))

    def line(self, near: Line) -> Line:
        """The time line of the click, with its beats numbered as on a line that is nearly the same."""
        number = round(float(near.quarters(self.at_s)))
        return Line(np.array([number, number + 1.0]), self.at_s + np.array([0.0, 60 / self.bpm]))


@dataclass(frozen=True)
class Hints:
    """What the user already knows; each narrows the search.

    `downbeat_s` is a moment that is beat 1 of some bar; `straight` says that it is straight (True) or swung (False);
    leans are told against the `click`, where there is one.
    """

    tempo_bpm: float | None = None
    meter: Meter | None = None
    bars: int | None = None
    downbeat_s: float | None = None
    straight: bool | None = None
    click: Click | None = None

    @property
    def known_bpm(self) -> float | None:
        """The tempo, where it is known by itself or by a click."""
        return self.click.bpm if self.click else self.tempo_bpm


@dataclass(frozen=True)
class TempoReading:
    """A way to hear tempo and bars, with its share of belief (all shares sum to at most 1).

    `downbeat_s` is the bar line at or before the first hit, None in projects from before it was kept; `why` says what
    speaks for it, or of another than the first what speaks against it.
    """

    tempo_bpm: float
    meter: Meter
    share: float
    downbeat_s: float | None = None
    why: str = ""


@dataclass(frozen=True, eq=False)
class _Read:
    """One reading on one pulse, its score in nats, and the line of the pulse's steps."""

    score: float
    reading: Reading
    numbers: NDArray[np.int64]
    odd_s: float
    line: Line
    fit: float  # the parts of the score: how near the hits lie to the pulse,
    whole: float  # and what the length of the file says

    @property
    def bpm(self) -> float:
        return 60 / (self.line.usual_pace_s * self.reading.steps_per_quarter)


def lonely_frame(first_s: float, hints: Hints) -> Frame:
    """A frame for next to nothing: the hit is beat 1."""
    line = Line.curved((first_s, 60 / (hints.known_bpm or 120.0), 0.0), 0, 1)
    return Frame(line, hints.meter or Meter(), Swing(), "straight")


def best_frame(
    performance: Performance,
    main: NDArray[np.int64],
    hints: Hints,
    progress: Callable[[float], None] = lambda share: None,
) -> tuple[Frame, tuple[TempoReading, ...], float | None]:
    """The frame of the best reading, the readings with their shares, and from where on no tempo holds (or None).

    Raises
    ------
    InputError
        Where no tempo explains the hits, with what the user said.
    """
    times, velocity = performance.onset_s[main], performance.velocity[main]
    weights = 0.4 + 0.6 * np.minimum(velocity / 80, 1.0)
    classes = np.array([class_of(VOICES[performance.voice[i]].name, int(performance.velocity[i])) for i in main])
    steps = tuple(60 / hints.known_bpm / per for per in (1, 2, 3, 4, 6, 8)) if hints.known_bpm else ()
    if np.ptp(times) <= _LONG_S:
        whole = loop_steps_s(performance.length_s) if performance.cut else ()
        pulses, lost = _short(times, weights, steps, progress, whole)
    else:
        pulses, lost = _long(times, weights, classes, steps, hints, progress)
    ranked: list[_Read] = []
    best = max((carried[0].score for carried in pulses), default=0.0)
    for number, pulse in enumerate(pulses):
        progress(0.5 + 0.4 * number / len(pulses))
        if not steps and pulse[0].score < best - _FAR_BEHIND:
            continue  # no bars make up for that
        ranked += _read(pulse, classes, hints, performance.length_s, cut=performance.cut)
    if not ranked:
        raise InputError(
            "No tempo between 38 and 330 BPM explains these hits"
            + (f" with the given tempo of {hints.known_bpm:g} BPM." if hints.known_bpm else ".")
        )
    ranked.sort(key=lambda r: -r.score)
    gone = next(s for carried, s in zip(pulses, lost, strict=True) if carried[1] is ranked[0].numbers)
    return _framed(ranked[0], hints), _shares(ranked, hints, performance.length_s), gone


Carried = tuple[Pulse, NDArray[np.int64], Line, float]


def _whole(pulse: Pulse) -> Carried:
    low, high = int(pulse.numbers.min()), int(pulse.numbers.max())
    return pulse, pulse.numbers, Line.curved(pulse.curve, low, high), pulse.time_nats


def _short(
    times: Floats,
    weights: Floats,
    steps: tuple[float, ...],
    progress: Callable[[float], None],
    also: tuple[float, ...] = (),
) -> tuple[list[Carried], list[float | None]]:
    """Pulses of the whole, none of them lost on the way."""
    pulses = [_whole(p) for p in find_pulses(times, weights, near_step_s=steps, also_step_s=also, progress=progress)]
    return pulses, [None] * len(pulses)


def _long(
    times: Floats,
    weights: Floats,
    classes: NDArray[np.int64],
    steps: tuple[float, ...],
    hints: Hints,
    progress: Callable[[float], None],
) -> tuple[list[Carried], list[float | None]]:
    """Pulses of the stretch that reads best, carried through the whole performance, and where each was lost."""
    best: tuple[float, list[Pulse], float] | None = None
    for number, start in enumerate(_dense_starts(times)):
        progress(0.5 * number / _STRETCHES)
        inside = (times >= start) & (times < start + _STRETCH_S)
        if inside.sum() < _LEAST_IN_STRETCH or np.ptp(times[inside]) < 0.2:
            continue  # a rest, or next to one: nothing can be told there
        found = find_pulses(times[inside], weights[inside], near_step_s=steps)
        read = [r.score for p in found for r in _read(_whole(p), classes[inside], hints, 0.0, _USUAL_METERS)[:1]]
        if read and (best is None or max(read) / inside.sum() > best[0]):
            best = max(read) / inside.sum(), found, start + _STRETCH_S / 2
    if best is None:  # so few hits that no stretch tells anything: all of them together may
        return _short(times, weights, steps, progress)
    out: list[Carried] = []
    lost: list[float | None] = []
    for pulse in best[1]:
        progress(0.5)
        numbers, line, gone = followed(times, weights, pulse, best[2])
        rest = times - line.seconds(numbers) - pulse.odd_s * (numbers % 2)
        share = weights / weights.mean()
        out.append((pulse, numbers, line, float((share * log_density(rest)).sum())))
        lost.append(gone)
    return out, lost


def _dense_starts(times: Floats) -> list[float]:
    """Starts of some stretches with many hits, spread over the performance."""
    parts = np.linspace(times[0], max(times[-1] - _STRETCH_S, times[0]), 4 * _STRETCHES + 1)
    counts = np.searchsorted(times, parts + _STRETCH_S) - np.searchsorted(times, parts)
    out: list[float] = []
    for i in np.argsort(-counts, kind="stable"):
        if all(abs(parts[i] - other) > _STRETCH_S / 2 for other in out):
            out.append(float(parts[i]))
        if len(out) == _STRETCHES:
            break
    return out


def _read(
    carried: Carried,
    classes: NDArray[np.int64],
    hints: Hints,
    length_s: float,
    meters: tuple[tuple[Meter, float], ...] = METERS,
    *,
    cut: bool = False,
) -> list[_Read]:
    """The best readings of one pulse."""
    pulse, numbers, line, nats = carried
    swung = pulse.odd_s > 0.06 * pulse.step_s
    if hints.straight:
        swung = False
    read = partial(
        readings,
        numbers,
        classes,
        step_s=line.usual_pace_s,
        meters=meters if hints.meter is None else ((hints.meter, 0.0),),
        tempo_bpm=hints.known_bpm,
        weight=_weight(line, numbers),
        bar_line=None if hints.downbeat_s is None else _nearest_step(line, pulse.odd_s, hints.downbeat_s),
    )
    found = read(swung=swung)
    if swung and hints.straight is None and pulse.odd_s < _SLIGHT * pulse.step_s:
        # What seems late may be a lean, so that the others are the off-steps, and early.
        other = [r for r in read(swung=False) if r.first % 2 and not r.steps_per_quarter % 2]
        early = [replace(r, score=r.score - _EARLY_NATS) for r in other]
        found = sorted([*found, *early], key=lambda r: -r.score)
    out = []
    fit = nats * _weight(line, numbers)
    for r in found[:_BEST_OF_PULSE]:
        whole = (loop_nats if cut else whole_bars_nats)(r, line, numbers, length_s)
        out.append(_Read(r.score + fit + whole, r, numbers, pulse.odd_s, line, fit, whole))
    return out


def _weight(line: Line, numbers: NDArray[np.int64]) -> float:
    """How much the hits of a long performance count in all, against a short one."""
    span_s = float(line.seconds(float(numbers.max())) - line.seconds(float(numbers.min())))
    return min(1.0, _EVIDENCE_S / max(span_s, 1e-3))


def _nearest_step(line: Line, odd_s: float, seconds: float) -> int:
    near = round(float(line.quarters(seconds)))
    options = np.array([near - 1, near, near + 1])
    ideal = line.seconds(options) + odd_s * (options % 2)
    return int(options[np.argmin(np.abs(ideal - seconds))])


SAID = "you said so"
NEAR = 0.3  # of the first reading's share: all that was misread on fresh sets was as near


def near_readings(readings: Sequence[TempoReading]) -> tuple[TempoReading, ...]:
    """Readings that are nearly as likely as the first; bars of two where the first has four, at its tempo, are none."""
    if not readings:
        return ()
    first = readings[0]

    def halved(r: TempoReading) -> bool:
        return IN_FOUR.get(r.meter) == first.meter and abs(r.tempo_bpm / first.tempo_bpm - 1) < _SAME_BPM

    return tuple(r for r in readings[1:] if r.share >= NEAR * first.share and not halved(r))


def _shares(ranked: list[_Read], hints: Hints, length_s: float) -> tuple[TempoReading, ...]:
    """The distinct tempo and meter readings with their share of belief (softened: the code is too sure)."""
    best: dict[tuple[int, Meter], _Read] = {}
    for r in ranked:
        best.setdefault((round(np.log2(r.bpm) * 12), r.reading.meter), r)
    top = _halved_too(sorted(best.values(), key=lambda r: -r.score))
    belief = np.exp(0.15 * (np.array([r.score for r in top]) - top[0].score))
    belief /= belief.sum()
    out = []
    for r, share in zip(top, belief, strict=True):
        why = _why_first(r, top[1:], hints, length_s) if r is top[0] else _why_not(r, top[0])
        out.append(TempoReading(r.bpm, r.reading.meter, float(share), round(_downbeat_s(r), 4), why))
    return tuple(out)


def _halved_too(ranked: list[_Read]) -> list[_Read]:
    """The best readings, and among them bars of two where the first is in four: some people count those."""
    first, top = ranked[0], ranked[:_OFFERED]
    half = next((h for h, four in IN_FOUR.items() if four == first.reading.meter), None)
    halved = next((r for r in ranked if r.reading.meter == half and abs(r.bpm / first.bpm - 1) < _SAME_BPM), None)
    return top if halved is None or halved in top else [*top[: _OFFERED - 1], halved]


def _downbeat_s(r: _Read) -> float:
    """The bar line of a reading at or before its first hit."""
    steps = bar_steps(r.reading.meter, r.reading.steps_per_quarter)
    low = int(r.numbers.min())
    return float(r.line.seconds(low - (low - r.reading.first) % steps))


_LITTLE_NATS = 1.5  # less of a difference speaks neither for nor against


def _parts(r: _Read) -> tuple[float, float, float, float]:
    """What the length of the file, the usual tempi and meters, the drums and the hits' distance from the grid say."""
    return r.whole, r.reading.usual, r.reading.score - r.reading.usual, r.fit


def _why_first(r: _Read, others: list[_Read], hints: Hints, length_s: float) -> str:
    """What speaks most for the first reading, against the others on average."""
    if hints.tempo_bpm or hints.meter:
        return SAID
    if hints.click:
        return "the click gives the tempo"
    if r.whole >= LOOP_OTHER_NATS:
        beats = round(length_s / (60 / r.bpm))
        return f"the file is exactly {beats} quarters long"
    if not others:
        return "nothing else explains these hits"
    ahead = np.array(_parts(r)) - np.mean([_parts(o) for o in others], axis=0)
    words = (
        "the file is a whole number of bars long", "most people count this tempo and meter",
        "kick, backbeats and repeats stand where they mostly do", "the hits lie nearest to its grid",
    )  # fmt: skip
    return words[int(np.argmax(ahead))]


def _why_not(r: _Read, first: _Read) -> str:
    """What speaks most against another reading than the first."""
    behind = np.array(_parts(first)) - np.array(_parts(r))
    if behind.max() < _LITTLE_NATS:
        return "explains the hits as well"
    words = (
        "the file is no whole number of such bars", "fewer people count this tempo or meter",
        "kick, backbeats and repeats would stand at unusual places", "the hits lie farther from its grid",
    )  # fmt: skip
    return words[int(np.argmax(behind))]


def _framed(read: _Read, hints: Hints) -> Frame:
    """The time line of a reading in quarters, with the swing the pulse suggests."""
    per, first = read.reading.steps_per_quarter, read.reading.first
    step_s = read.line.usual_pace_s
    line = Line((read.line.anchor_q - first) / per, read.line.anchor_s)
    swing, kind = Swing(), "straight"
    if per % 3 == 0:
        kind = "triplet"
        places = (read.numbers - first) % per
        used = np.bincount(places, minlength=per)
        if per == 3 and used[1] <= _SHUFFLED * used[2]:
            swing, kind = Swing(8, 2 / 3), "swung"
        if per == 6 and used[1] + used[4] <= _SHUFFLED * (used[2] + used[5]):
            swing, kind = Swing(16, 2 / 3), "swung"
    elif read.odd_s > 0.02 * step_s and per in (2, 4) and first % 2 == 0:
        ratio = min(0.5 + read.odd_s / (2 * step_s), 0.78)
        swing, kind = Swing(8 if per == 2 else 16, ratio), "swung"
    if hints.straight:
        swing, kind = Swing(), "triplet" if kind == "triplet" else "straight"
    elif hints.straight is False and kind != "swung":
        swing, kind = Swing(16 if per >= 4 else 8, _FORCED_RATIO), "swung"
    return Frame(line, read.reading.meter, swing, kind, fixed_swing=hints.straight is False)
