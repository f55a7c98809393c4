"""Loudness and true peak of sound in blocks, by the test signals of ITU-R BS.2217 and by hand."""

import numpy as np
import pytest

from ghoststep.sound.metering import Meter


def sine(hz: float, db: float, seconds: float, rate: int, phase: float = 0.0) -> np.ndarray:
    time_s = np.arange(round(seconds * rate)) / rate
    one = 10 ** (db / 20) * np.sin(2 * np.pi * hz * time_s + phase)
    return np.stack([one, one], axis=1)


def metered(sound: np.ndarray, rate: int, block: int = 5000) -> Meter:
    meter = Meter(rate)
    for at in range(0, len(sound), block):
        meter.add(sound[at : at + block])
    return meter


@pytest.mark.parametrize("rate", [44100, 48000, 96000])
def test_a_tone_in_both_channels_is_as_loud_as_its_level(rate: int) -> None:
    # A sine of 1 kHz at -23 dBFS in both channels is -23 LUFS, -33 likewise.
    for db in (-23.0, -33.0):
        assert metered(sine(1000, db, 6, rate), rate).loudness_lufs == pytest.approx(db, abs=0.1)


def test_quiet_stretches_are_gated() -> None:
    rate = 48000
    loud, quiet = sine(1000, -23, 10, rate), sine(1000, -75, 20, rate)
    assert metered(np.concatenate([quiet, loud, quiet]), rate).loudness_lufs == pytest.approx(-23, abs=0.15)
    softer = sine(1000, -40, 10, rate)
    assert metered(np.concatenate([softer, loud, softer]), rate).loudness_lufs == pytest.approx(-23, abs=0.15)


def test_blocks_of_any_size_come_to_the_same() -> None:
    rate = 44100
    noise = np.random.default_rng(2).uniform(-0.3, 0.3, (3 * rate, 2))
    found = [metered(noise, rate, block) for block in (777, 44100, 10**6)]
    assert np.ptp([m.loudness_lufs for m in found]) < 1e-6
    assert np.ptp([m.true_peak_dbtp for m in found]) < 0.1


def test_true_peaks_lie_between_samples() -> None:
    # A quarter of the rate, 45 degrees out: samples at 0.707 of a peak of 1.
    sound = sine(12000, 0.0, 1.0, 48000, np.pi / 4)
    assert np.abs(sound).max() == pytest.approx(0.7071, abs=1e-3)
    assert metered(sound, 48000).true_peak_dbtp == pytest.approx(0.0, abs=0.4)


def test_silence_and_what_is_short_are_told() -> None:
    assert metered(np.zeros((48000, 2)), 48000).loudness_lufs == -np.inf
    assert metered(np.zeros((0, 2)), 48000).true_peak_dbtp == -np.inf
    assert metered(sine(1000, -20, 0.1, 48000), 48000).loudness_lufs == pytest.approx(-26, abs=1.0)
