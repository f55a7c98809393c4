"""A click to play to: which notes it gives, how loud, accents by the grouping, bars of it and bars of silence."""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.meter import Meter

Stereo = NDArray[np.float32]
BAR_HZ, GROUP_HZ, BEAT_HZ, BETWEEN_HZ = 2100, 1800, 1500, 1100
_PEAK = 0.28
_LENGTH_S, _DECAY_S = 0.03, 0.006
_SOFTER = 0.5  # what lies between beats
# Notes of the click: how many to a counted beat; "half": every other beat, "backbeat": 2 and 4.
NOTES: dict[str, Fraction] = {
    "beat": Fraction(1), "eighth": Fraction(2), "triplet": Fraction(3), "sixteenth": Fraction(4),
    "half": Fraction(1, 2), "backbeat": Fraction(1),
}  # fmt: skip
MOST_BARS = 16


@dataclass(frozen=True)
class Click:
    """notes: one of NOTES; level_db: against what it usually is; sounding, silent: bars of each in turn.

    Bars are counted from the start of what is played, where silent is not 0.
    """

    notes: str = "beat"
    level_db: float = 0.0
    sounding: int = 1
    silent: int = 0

    def __post_init__(self) -> None:
        if self.notes not in NOTES:
            raise InputError(f"A click has no '{self.notes}'. There are: {', '.join(NOTES)}.")
        if not -40 <= self.level_db <= 12:
            raise InputError(f"A click of {self.level_db:g} dB is outside -40 to 12.")
        if not (1 <= self.sounding <= MOST_BARS and 0 <= self.silent <= MOST_BARS):
            raise InputError(f"A click sounds for 1 to {MOST_BARS} bars and is silent for 0 to {MOST_BARS}.")

    @property
    def round(self) -> int:
        """After how many bars it begins anew."""
        return self.sounding + self.silent if self.silent else 1

    def sounds_in(self, bar: int) -> bool:
        """Whether it sounds in a bar, counted from 0 at the start of what is played."""
        return not self.silent or bar % self.round < self.sounding


def clicks(
    groove: Groove, region: tuple[int, int], speed: float, rate: int, length: int, click: Click, first_bar: int = 0
) -> Stereo:
    """The click over a region of a groove, shape (length, 2); `first_bar` counts the bars that were played before."""
    out = np.zeros((length, 2), np.float32)
    frame, tempo = groove.pattern.frame, groove.tempo
    start_s = float(tempo.seconds(region[0]))
    begins = int(frame.bars_of([region[0]])[0])
    gain = 10 ** (click.level_db / 20)
    for tick, on_bar in frame.beats(*region):
        bar = int(frame.bars_of([tick])[0])
        if not click.sounds_in(first_bar + bar - begins):
            continue
        beat = frame.beat_at(tick)
        for at, hz, share in _notes(frame.meter_at(tick), tick, beat, on_bar, click.notes):
            if at < region[1]:
                sample = round((float(tempo.seconds(at)) - start_s) / speed * rate)
                _add(out, _one(rate, hz, gain * share), sample)
    return out


def _notes(meter: Meter, tick: int, beat: int, on_bar: bool, notes: str) -> list[tuple[int, int, float]]:
    """What is heard for a counted beat: positions in ticks, Hz and share of the level; `beat` counts from 1."""
    if notes == "backbeat":
        return [(tick, BEAT_HZ, 1.0)] if beat % 2 == 0 else []
    if notes == "half":
        return [(tick, BAR_HZ if on_bar else BEAT_HZ, 1.0)] if beat % 2 else []
    opens = max(meter.groups) > 1 and (beat - 1) * meter.unit_ticks in meter.group_starts
    hz = BAR_HZ if on_bar else GROUP_HZ if opens else BEAT_HZ
    count = int(NOTES[notes])
    between = [(tick + meter.unit_ticks * n // count, BETWEEN_HZ, _SOFTER) for n in range(1, count)]
    return [(tick, hz, 1.0), *between]


def count_in(groove: Groove, region: tuple[int, int], speed: float, rate: int, click: Click) -> Stereo:
    """One bar of clicks in the meter and at the tempo of the region's start, whatever the click leaves out later."""
    meter = groove.pattern.frame.meter_at(region[0])
    unit_s = meter.unit_ticks * groove.tempo.tick_seconds(region[0]) / speed
    out = np.zeros((round(unit_s * meter.numerator * rate), 2), np.float32)
    gain = 10 ** (click.level_db / 20)
    for beat in range(meter.numerator):
        _add(out, _one(rate, BAR_HZ if beat == 0 else BEAT_HZ, gain), round(beat * unit_s * rate))
    return out


def _one(rate: int, hz: float, gain: float) -> Stereo:
    t = np.arange(round(_LENGTH_S * rate)) / rate
    one = _PEAK * gain * np.sin(2 * np.pi * hz * t) * np.exp(-t / _DECAY_S)
    return np.repeat(one.astype(np.float32)[:, None], 2, axis=1)


def _add(out: Stereo, sound: Stereo, at: int) -> None:
    part = sound[: max(0, len(out) - at)]
    out[at : at + len(part)] += part
