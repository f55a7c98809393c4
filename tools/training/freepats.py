"""The drum strokes of Debian's `freepats` (GPL with an exception for music made with them): for measuring only."""

import struct
from pathlib import Path

import numpy as np
import soxr

from tools.training.kits import RATE, KitSamples, Mono, attack

# Where a patch keeps things: its headers before the first sample's own, and that one's length.
_HEADERS, _SAMPLE_HEADER = 129 + 63 + 47, 96
_SIXTEEN_BIT, _UNSIGNED = 1, 2
_FILES = {
    "kick": ("035_Kick_1", "036_Kick_2"), "snare": ("038_Snare_1", "040_Snare_2"), "cross_stick": ("037_Stick_Rim",),
    "hat_closed": ("042_Hi-Hat_Closed",), "hat_open": ("046_Hi-Hat_Open",), "hat_pedal": ("044_Hi-Hat_Pedal",),
    "tom_high": ("050_Tom_High_1", "048_Tom_High_2"), "tom_mid": ("047_Tom_Mid_1", "045_Tom_Mid_2"),
    "tom_low": ("043_Tom_Low_1", "041_Tom_Low_2"), "ride": ("051_Cymbal_Ride_1", "059_Cymbal_Ride_2"),
    "ride_bell": ("053_Cymbal_Ride_Bell",), "crash": ("049_Cymbal_Crash_1", "057_Cymbal_Crash_2"),
    "splash": ("055_Cymbal_Splash",),
}  # fmt: skip


def freepats_kit(folder: Path, key: int) -> KitSamples:
    """The kit with one layer for each voice; `key` 1 takes the second sound where there are two."""
    kit: KitSamples = {}
    for voice, files in _FILES.items():
        sound = patch_sound(folder / f"{files[min(key, len(files) - 1)]}.pat")
        kit[voice] = [(105, sound[attack(sound) :])]
    return kit


def patch_sound(file: Path) -> Mono:
    """The first sample of a patch file at RATE.

    Raises
    ------
    ValueError
        Where it is no such file.
    """
    data = file.read_bytes()
    if not data.startswith(b"GF1PATCH110\0"):
        raise ValueError(f"{file.name} is no patch file")
    head = data[_HEADERS : _HEADERS + _SAMPLE_HEADER]
    (size,), (rate,), modes = struct.unpack("<I", head[8:12]), struct.unpack("<H", head[20:22]), head[55]
    raw = data[_HEADERS + _SAMPLE_HEADER :][:size]
    kind, full = ("i2", 32768) if modes & _SIXTEEN_BIT else ("i1", 128)
    values = np.frombuffer(raw, "<" + (kind.replace("i", "u") if modes & _UNSIGNED else kind)).astype(np.float32)
    return np.asarray(soxr.resample((values - (full if modes & _UNSIGNED else 0)) / full, rate, RATE), np.float32)
