"""Filters of sampled kits: two-pole sections laid over the spectrum, so no slow package has to be loaded for them.

The sections are those of R. Bristow-Johnson's cookbook of audio equalisers (1994); one-pole filters by the bilinear
transform. Sound is padded, so that what rings on does not come round to its start.
"""

import numpy as np
from numpy.typing import NDArray

from ghoststep.sound.sampled.region import Filter

Sound = NDArray[np.float32]
KINDS = (
    "lpf_1p", "lpf_2p", "lpf_4p", "lpf_6p", "hpf_1p", "hpf_2p", "hpf_4p", "hpf_6p", "bpf_1p", "bpf_2p", "brf_1p",
    "brf_2p",
)  # fmt: skip
_PAD_S = 0.03
_Q = 0.7071


def filtered(sound: Sound, filters: tuple[Filter, ...], hz: tuple[float, ...], rate: int) -> Sound:
    """Sound of shape (n, channels) through each filter at its cutoff in Hz; the same length."""
    length = len(sound)
    padded = _good_length(length + round(_PAD_S * rate))
    spectrum = np.fft.rfft(sound, n=padded, axis=0)
    z = np.exp(-2j * np.pi * np.arange(len(spectrum)) / padded)  # one sample later
    gain = np.ones(len(spectrum), complex)
    for one, cutoff in zip(filters, hz, strict=True):
        gain *= response(one.kind, cutoff, one.resonance_db, rate, z)
    return np.fft.irfft(spectrum * gain[:, None].astype(spectrum.dtype), n=padded, axis=0)[:length].astype(np.float32)


def response(kind: str, hz: float, resonance_db: float, rate: int, z: NDArray[np.complex128]) -> NDArray[np.complex128]:
    """The gain of a filter where `z` is the delay of one sample at each frequency."""
    shape, _, poles = kind.partition("_")
    hz = min(max(hz, 1.0), 0.49 * rate)
    if poles == "1p" and shape in ("lpf", "hpf"):
        warped = np.tan(np.pi * hz / rate)
        low = warped * (1 + z) / (1 + warped + (warped - 1) * z)
        return low if shape == "lpf" else 1 - low
    q = _Q * 10 ** (resonance_db / 20)
    turn = 2 * np.pi * hz / rate
    cosine, alpha = np.cos(turn), np.sin(turn) / (2 * q)
    above = {
        "lpf": ((1 - cosine) / 2, 1 - cosine, (1 - cosine) / 2),
        "hpf": ((1 + cosine) / 2, -1 - cosine, (1 + cosine) / 2),
        "bpf": (alpha, 0.0, -alpha),
        "brf": (1.0, -2 * cosine, 1.0),
    }[shape]
    section = (above[0] + above[1] * z + above[2] * z * z) / (1 + alpha - 2 * cosine * z + (1 - alpha) * z * z)
    return section ** {"4p": 2, "6p": 3}.get(poles, 1)


def _good_length(length: int) -> int:
    """The next length that is a product of small factors, which are transformed fast."""
    best = 1 << (length - 1).bit_length()
    for factor in (3, 5, 9, 15, 25):
        size = factor << max(0, (-(-length // factor) - 1).bit_length())
        if length <= size < best:
            best = size
    return best
