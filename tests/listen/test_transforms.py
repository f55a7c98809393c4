"""Transforms without the rest of SciPy: what they give, and what serves where they are not found."""

import numpy as np
import pytest
import scipy.fft

from ghoststep.listen.signal import transforms


@pytest.mark.parametrize("found", [True, False])
@pytest.mark.parametrize("shape", [(64,), (5, 1024), (3, 2, 256)])
def test_they_are_the_usual_ones_and_go_back(
    shape: tuple[int, ...], found: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    if not found:
        monkeypatch.setattr(transforms, "_compiled", lambda: None)
    values = np.random.default_rng(3).standard_normal(shape).astype(np.float32)
    spectrum = transforms.rfft(values)
    assert spectrum.shape == (*shape[:-1], shape[-1] // 2 + 1)
    assert np.abs(spectrum - scipy.fft.rfft(values)).max() < 1e-4
    assert np.abs(transforms.irfft(spectrum, shape[-1]) - values).max() < 1e-5


def test_single_precision_stays_so_and_scipy_can_be_loaded_beside_it() -> None:
    values = np.ones((2, 32), np.float32)
    assert transforms._compiled() is not None  # as it is locked; another layout would cost speed, not results
    assert transforms.rfft(values).dtype == np.complex64
    assert transforms.irfft(transforms.rfft(values), 32).dtype == np.float32
