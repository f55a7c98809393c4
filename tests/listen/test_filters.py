import numpy as np
import pytest
from scipy.ndimage import maximum_filter1d, uniform_filter1d
from scipy.signal import butter, sosfilt
from scipy.special import gammaln

from ghoststep.listen.bars.learnt_code import _gained
from ghoststep.listen.signal.filters import GRAIN, Band, bands, energies, grains
from ghoststep.listen.signal.onsets import _local_mean, _widest

RATE = 44100


@pytest.mark.parametrize(
    "band", [(3, 30, 120), (2, 0, 150), (2, 6000, 0), (3, 6500, 17000), (4, 6000, 0), (2, 150, 1500)]
)
@pytest.mark.parametrize("length", [10, 3000, 60_000, 200_001])
def test_a_band_is_what_a_recursive_filter_gives(band: Band, length: int) -> None:
    order, low, high = band
    kind = "bandpass" if low and high else "highpass" if low else "lowpass"
    edges = (low, high) if low and high else low or high
    sound = np.random.default_rng(length).standard_normal(length).astype(np.float32)
    wanted = sosfilt(butter(order, edges, kind, fs=RATE, output="sos"), sound.astype(float))
    found = bands(sound, [band])[0]
    assert found.shape == sound.shape and np.abs(found - wanted).max() < 2e-4 * np.abs(wanted).max() + 1e-6


def test_all_bands_come_from_one_call() -> None:
    sound = np.random.default_rng(1).standard_normal(70_000).astype(np.float32)
    both = bands(sound, [(2, 0, 150), (2, 6000, 0)])
    assert np.array_equal(both[1], bands(sound, [(2, 6000, 0)])[0]) and bands(sound[:0], [(2, 0, 150)])[0].size == 0


def test_small_helpers_are_those_of_scipy() -> None:
    dice = np.random.default_rng(2)
    for length in (1, 3, 19, 400):
        curve = dice.standard_normal(length).astype(np.float32)
        assert np.array_equal(_widest(curve, 2), maximum_filter1d(curve, 5))
        if length >= 20:
            assert np.allclose(_local_mean(curve, 20), uniform_filter1d(curve.astype(float), 41), atol=1e-6)
        assert _local_mean(curve, 20).shape == curve.shape
    a, b = dice.uniform(0.01, 200, (2, 30, 16))
    assert np.abs(_gained(a, b) - (gammaln(a + b) - gammaln(a))).max() < 1e-9


def test_energies_are_those_of_the_bands_to_a_grain() -> None:
    dice = np.random.default_rng(4)
    sound = (dice.standard_normal(90_001) * np.exp(-np.arange(90_001) % 9000 / 1500)).astype(np.float32)
    wanted: list[Band] = [(2, 0, 150), (2, 150, 1500), (2, 6000, 0), (3, 70, 400)]
    starts = dice.integers(0, 85_000, 300)
    for band, total in zip(bands(sound, wanted), energies(sound, wanted).values(), strict=True):
        assert len(total) == len(sound) // GRAIN + 1
        power = np.concatenate([[0.0], np.cumsum(np.square(band, dtype=np.float64))])
        whole = power[starts + 880] - power[starts]
        found = total[grains(starts + 880, len(total))] - total[grains(starts, len(total))]
        clear = whole > 1e-3 * whole.max()
        off_db = np.abs(10 * np.log10(found[clear] / whole[clear]))
        assert np.median(off_db) < 0.1 and np.percentile(off_db, 95) < 1.0
    assert [len(e) for e in energies(sound[:0], wanted).values()] == [1, 1, 1, 1]
