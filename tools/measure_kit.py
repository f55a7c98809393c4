"""Measure how loud single strokes are heard of the kit that plays where none is named: sound/data/loudness.csv."""

import math
from pathlib import Path

import numpy as np

from ghoststep.files.safe import write_text
from ghoststep.music.kit import VOICES
from ghoststep.sound.loudness import MEASURED_VELOCITIES, energy
from ghoststep.work.kits import default_kit

_BLOWS = 16
TABLE = Path("src/ghoststep/sound/data/loudness.csv")


def table() -> str:
    """The table as CSV: mean energy of some takes of each voice in dB, and the time of its decay."""
    kit = default_kit(48000)
    lines = ["voice," + ",".join(f"v{v}_db" for v in MEASURED_VELOCITIES) + ",decay_s"]
    for voice in VOICES:
        cells = []
        for velocity in MEASURED_VELOCITIES:
            found = [energy(kit.blow(voice.name, velocity, _dice(i)), kit.rate) for i in range(_BLOWS)]
            cells.append(f"{10 * np.log10(np.mean(found)):.2f}")
        blow = np.asarray(kit.blow(voice.name, 96, _dice(0)), float)
        total = np.cumsum((blow**2).sum(axis=1))
        decay_s = np.searchsorted(total, (1 - 1 / math.e) * total[-1]) / kit.rate
        lines.append(f"{voice.name},{','.join(cells)},{max(float(decay_s), 0.002):.4f}")
    return "\n".join(lines) + "\n"


def _dice(seed: int) -> np.random.Generator:
    return np.random.default_rng([9, seed])


if __name__ == "__main__":
    write_text(TABLE, table())
    print(f"{TABLE} written")
