"""Single recorded strokes of another maker than the banks: Debian's `sonic-pi-samples` (CC0).

One recorded kit, most of its drums in a soft and a hard layer, and the kicks and snares of machines. Its loops are not
touched: they are for trying what listening does.
"""

from pathlib import Path

import numpy as np
import soundfile

from tools.training.kits import RATE, KitSamples, Mono, attack

_RECORDED = {
    "kick": ("drum_bass_soft", "drum_bass_hard"), "snare": ("drum_snare_soft", "drum_snare_hard"),
    "hat_closed": ("drum_cymbal_closed",), "hat_open": ("drum_cymbal_open",), "hat_pedal": ("drum_cymbal_pedal",),
    "tom_high": ("drum_tom_hi_soft", "drum_tom_hi_hard"), "tom_mid": ("drum_tom_mid_soft", "drum_tom_mid_hard"),
    "tom_low": ("drum_tom_lo_soft", "drum_tom_lo_hard"), "crash": ("drum_cymbal_soft", "drum_cymbal_hard"),
    "splash": ("drum_splash_soft", "drum_splash_hard"),
}  # fmt: skip
_MACHINES = (
    ("bd_808", "sn_dolf"), ("bd_ada", "sn_dub"), ("bd_fat", "sn_generic"), ("bd_haus", "sn_zome"),
    ("bd_klub", "elec_snare"), ("bd_tek", "elec_hi_snare"), ("bd_sone", "elec_mid_snare"),
    ("drum_heavy_kick", "elec_lo_snare"),
)  # fmt: skip
_SOFT, _HARD = 40, 105  # the velocities that a soft and a hard stroke stand for


def strokes_kit(folder: Path) -> KitSamples:
    """The recorded kit as it is; it has no ride, no cross stick and no half-open hat.

    Raises
    ------
    ValueError
        Where a stroke has another rate than RATE.
    """
    return {voice: _layers(folder, *files) for voice, files in _RECORDED.items()}


def whole_kits(folder: Path, filler: KitSamples) -> list[KitSamples]:
    """Kits to learn from: the recorded one twice, and once with the kick and the snare of each machine.

    What it lacks comes from `filler`, whose balance all voices get.
    """
    recorded = strokes_kit(folder)
    recorded["hat_half"] = recorded["hat_open"]
    kits = [recorded, recorded]
    for kick, snare in _MACHINES:
        kits.append({**recorded, "kick": _layers(folder, kick), "snare": _layers(folder, snare)})
    return [_balanced({**filler, **kit}, filler) for kit in kits]


def _layers(folder: Path, *files: str) -> list[tuple[int, Mono]]:
    layers = []
    for i, name in enumerate(files):
        sound, rate = soundfile.read(folder / f"{name}.flac", dtype="float32", always_2d=True)
        if rate != RATE:
            raise ValueError(f"{name} has {rate} Hz instead of {RATE} Hz")
        mono = sound.mean(axis=1)
        layers.append((_SOFT if i == 0 and len(files) > 1 else _HARD, mono[attack(mono) :]))
    return layers


def _balanced(kit: KitSamples, like: KitSamples) -> KitSamples:
    """The kit with every voice as loud, in its hardest layer, as a stroke as hard on another kit."""
    out: KitSamples = {}
    for voice, layers in kit.items():
        hardest, loudest = layers[-1]
        theirs, sound = like[voice][-1]
        gain = _peak(sound) * (hardest / theirs) ** 2 / max(_peak(loudest), 1e-6)
        out[voice] = [(velocity, (gain * one).astype(np.float32)) for velocity, one in layers]
    return out


def _peak(sound: Mono) -> float:
    return float(np.abs(sound).max(initial=0.0))
