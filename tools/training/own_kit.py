"""Cases on one of our kits, or of one of its drums alone.

    python -m tools.training.own_kit OUT_DIR [--alone] [--kit NAME]

Grooves as `tools.training.kept_back` draws them, written in the same way. Alone: only the drum that is struck most, or
one of the others, as on a track of its own.
"""

import argparse
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np
import soundfile

from ghoststep.feel.perform import perform
from ghoststep.files.safe import write_text
from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice
from ghoststep.sound.render import render
from ghoststep.work.kits import kit_named
from tools.make_demo import truth
from tools.training.kept_back import random_groove

_GROUPS = ("kick", "snare", "hat", "cymbals")
_FEWEST = 8  # strokes of a drum that is worth hearing alone
_LEAD_S = 0.3


def one_drum(groove: Groove, number: int) -> Groove:
    """The groove with one group of its voices; which one goes by the number of the case."""
    by_group = {g: tuple(h for h in groove.pattern.hits if voice(h.voice).group == g) for g in _GROUPS}
    many = [hits for hits in by_group.values() if len(hits) >= _FEWEST] or [groove.pattern.hits]
    return groove.changed(hits=many[number % len(many)])


def main() -> None:
    """Write the cases."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("out", type=Path)
    parser.add_argument("--cases", type=int, default=40)
    parser.add_argument("--seed", type=int, default=9000)
    parser.add_argument("--alone", action="store_true")
    parser.add_argument("--kit", default="sketch")
    options = parser.parse_args()
    options.out.mkdir(parents=True, exist_ok=True)
    kit = kit_named(options.kit).kit
    for number in range(options.cases):
        groove = random_groove(np.random.default_rng([options.seed, number]))
        groove = one_drum(groove, number) if options.alone else groove
        name = f"case-{number:02}-own"
        sound = render(perform(groove), kit, lead_s=_LEAD_S)
        told = truth(replace(groove, name=name), _LEAD_S)
        soundfile.write(options.out / f"{name}.flac", np.clip(sound, -1, 1), kit.rate)
        text = msgspec.json.format(msgspec.json.encode(told), indent=1).decode()
        write_text(options.out / f"{name}.json", text + "\n")


if __name__ == "__main__":
    main()
