"""How sure hearing is of sounds of no kit: `python -m tools.training.judge_no_kit KITS_FOLDER ... --cases N --seed S`.

Hand drums, wood and metal, tablas and noises of makers that are never trained on (Debian's `freepats` and
`sonic-pi-samples`) are played as a kit is, three to six of them at a time; beside them stand recordings of kits. Told
are the mean certainty of the hits, the share that is under the limit of doubt, and the share of recordings of which
most hits are.
"""

import argparse
from pathlib import Path

import numpy as np
import soundfile

from ghoststep.desk.listen.wave_paint import DOUBTFUL
from ghoststep.listen.way import hear_groove
from ghoststep.music.errors import InputError
from tools.training.freepats import patch_sound
from tools.training.kits import HEARD_NAMES, RATE, KitSamples, Mono, attack
from tools.training.material import judged_clip
from tools.training.playing import LENGTH_S, random_playing

_FREEPATS = {
    "hand drums": ("060", "061", "062", "063", "064", "065", "066", "078", "079"),
    "wood, metal, shaken": ("054", "056", "058", "067", "068", "069", "070", "073", "075", "076", "077", "080", "082"),
}
_STROKES = {"tablas": ("tabla_",), "noises": ("elec_b", "elec_p", "elec_t", "elec_w", "perc_", "glitch_perc", "misc_b")}
_LONGEST_S = 2.0


def foreign_sounds(freepats: Path, strokes: Path) -> dict[str, list[Mono]]:
    """The sounds by kind, each from its attack on, at one peak."""
    found = {
        kind: [patch_sound(f) for number in numbers for f in sorted(freepats.glob(f"{number}_*.pat"))]
        for kind, numbers in _FREEPATS.items()
    }
    for kind, names in _STROKES.items():
        files = sorted(f for name in names for f in strokes.glob(f"{name}*.flac"))
        found[kind] = [soundfile.read(f, dtype="float32", always_2d=True)[0].mean(axis=1) for f in files]
    return {kind: [_begun(sound) for sound in sounds] for kind, sounds in found.items()}


def _begun(sound: Mono) -> Mono:
    sound = sound[attack(sound) :][: round(_LONGEST_S * RATE)]
    return np.asarray(0.4 * sound / max(float(np.abs(sound).max(initial=0.0)), 1e-6), np.float32)


def played(sounds: list[Mono], rng: np.random.Generator) -> Mono:
    """A playing of three to six of the sounds, each in the place of some voices of a kit."""
    some = rng.permutation(len(sounds))[: int(rng.integers(3, 7))]
    kit: KitSamples = {voice: [(100, sounds[some[i % len(some)]])] for i, voice in enumerate(HEARD_NAMES)}
    playing = random_playing(rng)
    return judged_clip(playing.strikes, kit, rng, length_s=LENGTH_S, plain=True).sound


def certainties(sound: Mono, rate: int) -> np.ndarray:
    """Of the hits that are heard; none where nothing is."""
    try:
        return np.asarray(hear_groove(sound, rate)[0].confidence)
    except InputError:
        return np.zeros(0)


def line(kind: str, sure: list[np.ndarray]) -> str:
    heard = [s for s in sure if len(s)]
    hits = np.concatenate(heard) if heard else np.zeros(0)
    most = np.mean([np.mean(s < DOUBTFUL) > 0.5 for s in heard]) if heard else np.nan
    return (
        f"{kind}: {len(heard)} of {len(sure)} recordings with {len(hits)} hits, mean {hits.mean():.2f}, "
        f"in doubt {100 * np.mean(hits < DOUBTFUL):.0f} %, most in doubt in {100 * most:.0f} % of the recordings"
    )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("kits", type=Path, nargs="*", help="folders of recordings of kits")
    parser.add_argument("--freepats", type=Path, default=Path("/usr/share/midi/freepats/Drum_000"))
    parser.add_argument("--strokes", type=Path, default=Path("/usr/share/sonic-pi/samples"))
    parser.add_argument("--cases", type=int, default=16, help="of each kind")
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    for number, (kind, sounds) in enumerate(foreign_sounds(options.freepats, options.strokes).items()):
        chances = (np.random.default_rng([options.seed, number, case]) for case in range(options.cases))
        print(line(kind, [certainties(played(sounds, rng), RATE) for rng in chances]), flush=True)
    for folder in options.kits:
        files = sorted(f for kind in ("*.flac", "*.wav") for f in folder.glob(kind))
        print(line(folder.name, [certainties(*soundfile.read(f, dtype="float32")) for f in files]), flush=True)


if __name__ == "__main__":
    main()
