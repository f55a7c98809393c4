"""Judge networks by their loss on clips: `python -m tools.training.judge_loss EXAMPLES_DIR WEIGHTS.npz ...` (PyTorch).

With clips of makers that are never learnt from (`examples --others`) it tells in a minute what a network is worth on
unknown kits; the loss on clips of the banks that are learnt from does not.
"""

import argparse
from pathlib import Path

import torch

from tools.training.clips import load
from tools.training.network import VoiceNet, unfolded
from tools.training.train import Scale, checked, say_alone


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("examples", type=Path)
    parser.add_argument("weights", type=Path, nargs="+")
    options = parser.parse_args()
    torch.set_num_threads(1)
    clips = load(options.examples)
    x = clips.arrays["x"]
    scaled, every = Scale.of(x), list(range(len(clips.spans)))
    for file in options.weights:
        net = VoiceNet(x.shape[1])
        net.load_state_dict(unfolded(file, scaled.mean, scaled.spread))
        say_alone(net, clips, scaled)
        torch.manual_seed(0)
        alone, barred = (checked(net, clips, every, scaled, bars=share) for share in (0.0, 1.0))
        print(f"{file.name}: alone {alone} with bars {barred}", flush=True)


if __name__ == "__main__":
    main()
