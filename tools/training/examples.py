"""Make labelled candidate patches: `python -m tools.training.examples OUT_DIR --minutes M --seed S`.

Each file of the output holds x (n, PATCH_SIZE) float16, hit (n, voices) 0/1, velocity (n, voices) 0 to 1 and
late_s (n, voices), the true moment minus the candidate.
"""

import argparse
import time
from pathlib import Path

import numpy as np

from ghoststep.listen.onsets import candidates_s
from ghoststep.listen.patches import patches
from ghoststep.music.kit import VOICE_INDEX, VOICES
from tools.training.kits import TRAINED, mixed_kit, random_kit, sampled_kit
from tools.training.material import Strike, random_playing, render_clip

REACH_S = 0.022
CLIPS_PER_KIT = 8


def labelled(strikes: list[Strike], sound: np.ndarray, rng: np.random.Generator) -> dict[str, np.ndarray]:
    """Candidates of a clip with what is struck within REACH_S of each."""
    moments = candidates_s(sound)
    # Listening will see candidates with errors of its own; a little jitter makes the network forgiving.
    moments = np.sort(moments + rng.normal(0, 0.0008, len(moments)))
    hit = np.zeros((len(moments), len(VOICES)), np.uint8)
    velocity, late = np.zeros(hit.shape, np.float32), np.zeros(hit.shape, np.float32)
    for s in strikes:
        v = VOICE_INDEX[s.voice]
        for i in np.flatnonzero(np.abs(moments - s.time_s) <= REACH_S):
            gap = s.time_s - moments[i]
            if not hit[i, v] or abs(gap) < abs(late[i, v]):
                hit[i, v], velocity[i, v], late[i, v] = 1, s.velocity / 127, gap
    return {"x": patches(sound, moments).astype(np.float16), "hit": hit, "velocity": velocity, "late_s": late}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("out", type=Path)
    parser.add_argument("--minutes", type=float, default=20)
    parser.add_argument("--kits", type=int, default=10**6)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    options.out.mkdir(parents=True, exist_ok=True)
    bank = [sampled_kit(*name, cache=options.out / "bank") for name in TRAINED]
    started, shard, parts = time.monotonic(), 0, []
    for number in range(options.kits):
        rng = np.random.default_rng([options.seed, number])
        kit = random_kit(rng, bank) if rng.random() < 0.5 else mixed_kit(bank, rng)
        for _ in range(CLIPS_PER_KIT):
            strikes = random_playing(rng)
            parts.append(labelled(strikes, render_clip(strikes, kit, rng), rng))
        over = time.monotonic() - started > 60 * options.minutes
        if len(parts) >= 40 * CLIPS_PER_KIT or over or number == options.kits - 1:
            merged = {key: np.concatenate([p[key] for p in parts]) for key in parts[0]}
            np.savez(options.out / f"examples-{options.seed}-{shard:04}.npz", **merged)
            print(
                f"kits {number + 1}, shard {shard}: {len(merged['x'])} candidates, {merged['hit'].sum(axis=0)}",
                flush=True,
            )
            parts, shard = [], shard + 1
        if over:
            break


if __name__ == "__main__":
    main()
