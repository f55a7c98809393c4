"""One groove, recorded otherwise: what does not change the groove does not change what is heard of it."""

from fractions import Fraction
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy.signal import butter, resample_poly, sosfilt

from ghoststep.files.demo import demo_recordings
from ghoststep.files.sound import read_recording
from ghoststep.listen.bars.reading import Hints
from ghoststep.session.document.document import Recording
from ghoststep.work.grooves import analysis_of, hear_recording
from ghoststep.work.hits_heard import heard_performance

Samples = NDArray[np.float32]
Spot = tuple[int, Fraction, str]


@pytest.fixture(scope="module")
def recording() -> Recording:
    return read_recording(demo_recordings()[0])


@pytest.fixture(scope="module")
def usual(recording: Recording) -> dict[str, Any]:
    return heard(recording, recording.samples)


def heard(recording: Recording, samples: Samples) -> dict[str, Any]:
    other = Recording("other", b"", np.ascontiguousarray(samples, np.float32), recording.rate)
    return analysis_of(hear_recording(other, "other", Hints()))


def spots(analysis: dict[str, Any]) -> set[Spot]:
    """Where every hit stands, whatever its moment and strength."""
    return {(h["bar"], Fraction(h["position_beats"]), h["voice"]) for h in analysis["hits"]}


def alike(one: dict[str, Any], other: dict[str, Any]) -> float:
    a, b = spots(one), spots(other)
    return len(a & b) / max(len(a | b), 1)


def test_silence_ahead_moves_everything_by_its_length(recording: Recording, usual: dict[str, Any]) -> None:
    wait = round(1.37 * recording.rate)
    late = heard(recording, np.concatenate([np.zeros((wait, recording.samples.shape[1])), recording.samples]))
    assert late["downbeat_s"] - usual["downbeat_s"] == pytest.approx(wait / recording.rate, abs=0.004)
    assert late["tempo_bpm"] == pytest.approx(usual["tempo_bpm"], rel=0.001) and alike(usual, late) > 0.95
    assert late["swing"]["ratio"] == pytest.approx(usual["swing"]["ratio"], abs=0.005)


@pytest.mark.parametrize("by", [(33, 32), (31, 32)])
def test_a_tape_that_runs_slower_or_faster_keeps_the_grid(
    recording: Recording, usual: dict[str, Any], by: tuple[int, int]
) -> None:
    bent = heard(recording, resample_poly(recording.samples, *by, axis=0))
    assert bent["tempo_bpm"] == pytest.approx(usual["tempo_bpm"] * by[1] / by[0], rel=0.002)
    assert bent["meter"] == usual["meter"] and alike(usual, bent) > 0.9


def test_a_loop_played_twice_has_twice_the_bars(recording: Recording, usual: dict[str, Any]) -> None:
    bar_s = 240 / usual["tempo_bpm"]
    bars = len({h["bar"] for h in usual["hits"]})
    start = round((usual["downbeat_s"] - 0.02) * recording.rate)
    loop = recording.samples[start : start + round(bars * bar_s * recording.rate)]
    twice = heard(recording, np.concatenate([loop, loop]))
    assert len({h["bar"] for h in twice["hits"]}) == 2 * bars
    assert twice["tempo_bpm"] == pytest.approx(usual["tempo_bpm"], rel=0.002)
    first = {s for s in spots(twice) if s[0] <= bars}
    second = {(bar - bars, at, voice) for bar, at, voice in spots(twice) if bar > bars}
    assert len(first & second) > 0.9 * len(first | second)


@pytest.mark.parametrize("made", ["inverted", "one side", "duller", "squeezed", "hissing"])
def test_the_sound_of_the_recording_is_not_the_groove(recording: Recording, usual: dict[str, Any], made: str) -> None:
    x = recording.samples
    changed = {
        "inverted": lambda: -x,
        "one side": lambda: x[:, :1],
        "duller": lambda: sosfilt(butter(1, 7000, fs=recording.rate, output="sos"), x, axis=0),
        "squeezed": lambda: np.tanh(2.5 * x) / np.tanh(2.5),
        "hissing": lambda: x + 0.0008 * np.random.default_rng(1).standard_normal(x.shape),
    }[made]()
    other = heard(recording, changed)
    least = 0.97 if made in ("inverted", "one side") else 0.85
    assert other["meter"] == usual["meter"] and alike(usual, other) >= least
    assert other["tempo_bpm"] == pytest.approx(usual["tempo_bpm"], rel=0.002)


def test_what_was_heard_is_heard_again_from_its_hits_alone(recording: Recording, usual: dict[str, Any]) -> None:
    document = hear_recording(recording, "first", Hints())
    assert document.listening is not None
    again = analysis_of(heard_performance(document.listening.heard, "again", Hints()))
    assert alike(usual, again) > 0.97 and again["meter"] == usual["meter"]
    moments = ([h["time_s"] for h in a["hits"]] for a in (usual, again))
    assert np.allclose(*(np.sort(m) for m in moments), atol=1e-3)
