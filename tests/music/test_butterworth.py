"""What goes through the response over a spectrum is what a recursive filter gives."""

import numpy as np
import pytest
from scipy.signal import butter, sosfilt

from ghoststep.music.butterworth import filtered


@pytest.mark.parametrize(
    ("order", "low_hz", "high_hz", "kind", "edges"),
    [
        (2, 300.0, 4000.0, "bandpass", [300, 4000]),
        (1, 0.0, 5500.0, "lowpass", 5500),
        (4, 2000.0, 0.0, "highpass", 2000),
    ],
)
def test_it_is_the_recursive_filter(order: int, low_hz: float, high_hz: float, kind: str, edges: object) -> None:
    sound = np.random.default_rng(5).standard_normal((9000, 2))
    rate = 44100
    wanted = sosfilt(butter(order, edges, kind, fs=rate, output="sos"), sound, axis=0)
    assert np.allclose(filtered(sound, order, low_hz, high_hz, rate), wanted, atol=1e-9)
    assert np.allclose(filtered(sound[:, 0], order, low_hz, high_hz, rate), wanted[:, 0], atol=1e-9)
