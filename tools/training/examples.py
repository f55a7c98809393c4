"""Make labelled candidates: `python -m tools.training.examples OUT_DIR --kits N --seed S`.

Each file of the output holds, clip after clip, x (n, PATCH_SIZE) float16; hit (n, voices) 0/1, velocity (n, voices)
0 to 1, late_s (n, voices), the true moment minus the candidate; ornament (n, 4): a grace note ahead of it, a second
one, how far the first is ahead in s, a buzz; time_s (n,); bar (n,), the place in bars, nan where the clip has none;
asked (n,), 0 where a snare is struck that nobody could hear; and ends, where each clip ends. What a file holds follows
from the seed and its number alone.
"""

import argparse
from dataclasses import dataclass
from functools import partial
from pathlib import Path

import numpy as np

from ghoststep.listen.signal.loudness import levels_db
from ghoststep.listen.signal.onsets import candidates_s
from ghoststep.listen.signal.patches import patches, raw_patches
from ghoststep.music.kit import HEARD_VOICES, VOICE_INDEX
from tools.training.at_once import at_once
from tools.training.kits import (
    KEPT_BACK,
    NATURAL,
    OTHERS,
    RINGING,
    TRAINED,
    USUAL,
    KitSamples,
    layered_apart,
    mixed_kit,
    random_kit,
    sampled_kit,
    slow_metal,
)
from tools.training.material import judged_clip
from tools.training.metal import other_metal
from tools.training.playing import LENGTH_S, Playing, few_drums, random_playing
from tools.training.recolour import recoloured
from tools.training.single_strokes import whole_kits

REACH_S = 0.022
CLIPS_PER_KIT = 6
KITS_PER_SHARD = 20
SAMPLED_SHARE = 0.6
SLOW_METAL_SHARE = 0.15
FEW_DRUMS_SHARE = 0.1
NATURAL_SAMPLED_SHARE, NATURAL_SLOW_METAL_SHARE, NATURAL_FEW_DRUMS_SHARE = 0.75, 0.07, 0.04
INAUDIBLE_DB = -6.0


def labelled(
    playing: Playing, sound: np.ndarray, over_db: np.ndarray, rng: np.random.Generator
) -> dict[str, np.ndarray]:
    """Candidates of a clip with what is struck within REACH_S of each; `over_db` as `material.judged_clip` gives it."""
    moments = candidates_s(sound)
    # Listening will see candidates with errors of its own; a little jitter makes the network forgiving.
    moments = np.sort(moments + rng.normal(0, 0.0008, len(moments)))
    hit = np.zeros((len(moments), len(HEARD_VOICES)), np.uint8)
    velocity, late = np.zeros(hit.shape, np.float32), np.zeros(hit.shape, np.float32)
    ornament = np.zeros((len(moments), 4), np.float32)
    asked = np.ones(len(moments), np.uint8)
    for s, over in zip(playing.strikes, over_db, strict=True):
        v = VOICE_INDEX[s.voice]
        for i in np.flatnonzero(np.abs(moments - s.time_s) <= REACH_S):
            gap = s.time_s - moments[i]
            if not hit[i, v] or abs(gap) < abs(late[i, v]):
                hit[i, v], velocity[i, v], late[i, v] = 1, s.velocity / 127, gap
            if s.voice == "snare" and over < INAUDIBLE_DB:
                asked[i] = 0
            if s.grace_leads_s:
                ornament[i, :3] = (1, len(s.grace_leads_s) > 1, s.grace_leads_s[0])
            if s.buzz:
                ornament[i, 3] = 1
    bar = (moments - playing.start_s) / playing.bar_s if playing.steady else np.full(len(moments), np.nan)
    raw, levels = raw_patches(sound, moments), levels_db(sound, moments)
    x = patches(raw, moments, levels)
    return {
        "x": x.astype(np.float16), "asked": asked, "hit": hit, "velocity": velocity, "late_s": late,
        "ornament": ornament, "time_s": moments, "bar": bar, "ends": np.array([len(moments)]),
    }  # fmt: skip


@dataclass(frozen=True)
class Recipe:
    """What of chance goes into the material."""

    seed: int
    hard: float  # share of clips full of ghosts under hats and kicks
    apart: float  # share of kits whose layers differ in more than level
    recoloured: float = 0.7  # share of kits
    other_metal: float = 0.0  # share of kits whose metal is remade and rings on
    natural: bool = False  # kits nearly as the banks have them
    as_they_are: bool = False  # the kits of the bank one after another, with nothing changed


def changed_kit(recipe: Recipe, bank: list[KitSamples], rng: np.random.Generator) -> KitSamples:
    """A kit as there is no other."""
    if recipe.natural:
        kit = mixed_kit(bank, rng, NATURAL) if rng.random() < NATURAL_SAMPLED_SHARE else random_kit(rng)
        return slow_metal(kit, rng) if rng.random() < NATURAL_SLOW_METAL_SHARE else kit
    rings = recipe.other_metal > 0 and rng.random() < recipe.other_metal
    mixing = RINGING if rings else USUAL
    kit = mixed_kit(bank, rng, mixing) if rng.random() < SAMPLED_SHARE else random_kit(rng, bank)
    if rng.random() < recipe.recoloured:
        kit = recoloured(kit, rng)
    if rings:
        kit = other_metal(kit, bank, rng)
    if rng.random() < recipe.apart:
        kit = layered_apart(kit, rng)
    if rng.random() < SLOW_METAL_SHARE:
        kit = slow_metal(kit, rng)
    return kit


def clips_of_kit(recipe: Recipe, number: int, bank: list[KitSamples]) -> list[dict[str, np.ndarray]]:
    """The labelled clips of one kit; they follow from the seed and the number of the kit alone."""
    rng = np.random.default_rng([recipe.seed, number])
    kit = bank[number % len(bank)] if recipe.as_they_are else changed_kit(recipe, bank, rng)
    out = []
    for _ in range(CLIPS_PER_KIT):
        length_s = LENGTH_S if rng.random() < 0.75 else 2 * LENGTH_S
        playing = random_playing(rng, length_s=length_s, hard=rng.random() < recipe.hard)
        if rng.random() < (NATURAL_FEW_DRUMS_SHARE if recipe.natural else FEW_DRUMS_SHARE):
            playing = few_drums(playing, rng)
        clip = judged_clip(playing.strikes, kit, rng, length_s=length_s)
        out.append(labelled(playing, clip.sound, clip.over_db, rng))
    return out


def make_shard(shard: int, *, recipe: Recipe, bank: list[KitSamples], out: Path) -> str:
    """Write one file of clips, whole or not at all, unless it is there already; returns its name."""
    made = out / f"examples-{recipe.seed}-{shard:04}.npz"
    if not made.exists():
        kits = range(shard * KITS_PER_SHARD, (shard + 1) * KITS_PER_SHARD)
        parts = [part for number in kits for part in clips_of_kit(recipe, number, bank)]
        merged = {key: np.concatenate([p[key] for p in parts]) for key in parts[0]}
        merged["ends"] = np.cumsum(merged["ends"])
        partly = made.with_suffix(".part")
        with partly.open("wb") as file:
            np.savez(file, **merged)
        partly.rename(made)
    return made.name


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("out", type=Path)
    parser.add_argument("--kits", type=int, default=800, help=f"in files of {KITS_PER_SHARD}, rounded up")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--hard", type=float, default=0.25, help="share of clips full of ghosts under hats and kicks")
    parser.add_argument("--apart", type=float, default=0.35, help="share of kits of unlike layers")
    parser.add_argument("--recoloured", type=float, default=0.7, help="share of kits with another colour in each band")
    parser.add_argument("--other-metal", type=float, default=0.0, help="share of kits whose metal is remade")
    parser.add_argument("--natural", action="store_true", help="kits nearly as the banks have them")
    parser.add_argument("--strokes", type=Path, help="a folder of single recorded strokes, as kits beside the banks")
    parser.add_argument("--others", action="store_true", help="kits that are never learnt from, for judge_loss")
    parser.add_argument("--at-once", type=int, default=2, help="processes")
    options = parser.parse_args()
    options.out.mkdir(parents=True, exist_ok=True)
    names = (*KEPT_BACK[:2], *OTHERS) if options.others else TRAINED
    bank = [sampled_kit(*name, cache=options.out.parent / "bank") for name in names]
    if options.strokes:
        bank += whole_kits(options.strokes, bank[0])
    recipe = Recipe(
        options.seed,
        options.hard,
        options.apart,
        options.recoloured,
        options.other_metal,
        options.natural,
        options.others,
    )
    shards = range(-(-options.kits // KITS_PER_SHARD))
    make = partial(make_shard, recipe=recipe, bank=bank, out=options.out)
    for name in at_once(make, shards, options.at_once):
        print(name, flush=True)


if __name__ == "__main__":
    main()
