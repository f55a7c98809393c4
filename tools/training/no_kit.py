"""Labelled strokes of kits and of what is no kit: `python -m tools.training.no_kit OUT.npz --kits N --seed S`.

Hand drums, bells, shakers and short notes of other instruments, from the banks that are trained on, are played as a
kit is: alone, or some of them among drums. The file holds x (n, FINE) float16, the fine part of the patch of each
candidate at which something is struck, and no_kit (n,), 1 where nothing of a kit is.
"""

import argparse
from functools import partial
from pathlib import Path

import numpy as np

from ghoststep.listen.signal.loudness import levels_db
from ghoststep.listen.signal.onsets import candidates_s
from ghoststep.listen.signal.patches import patches, raw_patches
from ghoststep.listen.strokes.own_strokes import FINE
from tools.training.at_once import at_once
from tools.training.examples import REACH_S
from tools.training.kits import (
    BANKS,
    HEARD_NAMES,
    TRAINED,
    KitSamples,
    Layers,
    Note,
    layered_apart,
    mixed_kit,
    random_kit,
    render_notes,
    reshaped,
    reshaping,
    retuned,
    sampled_kit,
)
from tools.training.material import judged_clip
from tools.training.playing import LENGTH_S, few_drums, random_playing
from tools.training.recolour import recoloured

CLIPS_PER_KIT = 3
_VELOCITIES = (45, 85, 120)
# Of the percussion of General MIDI and its common extension: what no voice of a kit stands for.
_KEYS = (27, 28, 29, 30, 33, 34, 54, 56, 58, *range(60, 88))
# Programs of General MIDI that speak at once: keyboards, mallets, plucked strings, basses, drums and effects.
_PROGRAMS = (0, 4, 6, 8, 11, 12, 13, 14, 15, 24, 27, 32, 33, 36, 38, 45, 46, 47, 106, 108, 112, 113, 114, 115, 116, 120)
_PITCHES = (36, 48, 60, 74)
_LEAST_PEAK = 1e-3


def sounds_of_no_kit(bank: str, *, cache: Path) -> list[Layers]:
    """Each sound in three layers, rendered once with the fluidsynth command and kept in `cache`."""
    file = cache / f"{bank}-no-kit.npz"
    if not file.exists():
        _render(bank, file)
    found: dict[str, Layers] = {}
    with np.load(file) as stored:
        for name in stored.files:
            sound, velocity = name.rsplit("-", 1)
            if float(np.abs(stored[name]).max(initial=0.0)) > _LEAST_PEAK:
                found.setdefault(sound, []).append((int(velocity), stored[name]))
    return [sorted(layers, key=lambda layer: layer[0]) for layers in found.values()]


def _render(bank: str, file: Path) -> None:
    wanted = [(9, 0, key) for key in _KEYS] + [(0, program, pitch) for program in _PROGRAMS for pitch in _PITCHES]
    notes = {"-".join(map(str, (*sound, v))): Note(*sound, v) for sound in wanted for v in _VELOCITIES}
    render_notes(BANKS[bank], notes, file, each_s=2.0)


def kit_of_none(sounds: list[Layers], rng: np.random.Generator) -> KitSamples:
    """In the place of each voice another sound of no kit, retuned, damped and coloured."""
    out: KitSamples = {}
    for voice, which in zip(HEARD_NAMES, rng.permutation(len(sounds)), strict=False):
        ratio = float(np.exp(rng.uniform(-0.35, 0.35)))
        damp_s = float(np.exp(rng.uniform(np.log(0.05), np.log(2.0))))
        layers = sounds[which]
        level = 0.4 / max(float(np.abs(layers[-1][1]).max()), _LEAST_PEAK) * 10 ** (rng.uniform(-14, 0) / 20)
        shape = reshaping(rng) if rng.random() < 0.5 else None
        out[voice] = [(v, reshaped(retuned(s, ratio, level, damp_s), shape)) for v, s in layers]
    return out


def clips_of_kit(seed: int, number: int, bank: list[KitSamples], sounds: list[Layers]) -> list[dict[str, np.ndarray]]:
    """Labelled strokes of some clips; they follow from the seed and the number alone."""
    rng = np.random.default_rng([seed, number])
    kit = mixed_kit(bank, rng) if rng.random() < 0.6 else random_kit(rng, bank)
    if rng.random() < 0.7:
        kit = recoloured(kit, rng)
    if rng.random() < 0.35:
        kit = layered_apart(kit, rng)
    other = kit_of_none(sounds, rng)
    if rng.random() < 0.5:
        other = recoloured(other, rng)
    out = []
    for _ in range(CLIPS_PER_KIT):
        share = float(rng.choice([0.0, 0.0, 0.3, 1.0]))
        foreign = {voice for voice in HEARD_NAMES if rng.random() < share}
        playing = random_playing(rng)
        if rng.random() < 0.2:
            playing = few_drums(playing, rng)
        both = {voice: (other if voice in foreign else kit)[voice] for voice in HEARD_NAMES}
        sound = judged_clip(playing.strikes, both, rng, length_s=LENGTH_S).sound
        kits_s = np.array([s.time_s for s in playing.strikes if s.voice not in foreign])
        others_s = np.array([s.time_s for s in playing.strikes if s.voice in foreign])
        out.append(stroke_labels(sound, kits_s, others_s))
    return out


def stroke_labels(sound: np.ndarray, kits_s: np.ndarray, others_s: np.ndarray) -> dict[str, np.ndarray]:
    """The candidates of a sound at which something is struck, as the file holds them; moments in seconds."""
    moments = candidates_s(sound)
    x = patches(raw_patches(sound, moments), moments, levels_db(sound, moments))[:, :FINE]
    near_kit, near_other = (_near(moments, strokes_s) for strokes_s in (kits_s, others_s))
    struck = near_kit | near_other
    return {"x": x[struck].astype(np.float16), "no_kit": (near_other & ~near_kit)[struck]}


def _near(moments: np.ndarray, strokes_s: np.ndarray) -> np.ndarray:
    if not len(strokes_s):
        return np.zeros(len(moments), bool)
    return np.asarray(np.abs(moments[:, None] - strokes_s).min(axis=1) <= REACH_S)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("out", type=Path)
    parser.add_argument("--kits", type=int, default=180)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--at-once", type=int, default=2, help="processes")
    options = parser.parse_args()
    cache = options.out.parent / "bank"
    bank = [sampled_kit(*name, cache=cache) for name in TRAINED]
    sounds = [
        layers for name in sorted({name for name, *_ in TRAINED}) for layers in sounds_of_no_kit(name, cache=cache)
    ]
    made = partial(clips_of_kit, options.seed, bank=bank, sounds=sounds)
    parts = [part for clips in at_once(made, range(options.kits), options.at_once) for part in clips]
    partly = options.out.with_suffix(".part")
    with partly.open("wb") as file:
        np.savez(file, **{key: np.concatenate([p[key] for p in parts]) for key in parts[0]})
    partly.rename(options.out)


if __name__ == "__main__":
    main()
