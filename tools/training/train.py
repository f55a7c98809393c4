"""Fit the voice network: `python -m tools.training.train EXAMPLES_DIR OUT.npz --steps N --seed S` (needs PyTorch).

Every candidate of a clip is a token: its patch goes through two dense layers, then through a few blocks of attention
over all candidates of the clip. Attention knows how far apart two candidates lie, in bars where the bars are known
(as they are when a recording is heard again) and in seconds where not. NumPy runs the result (`strokes/network.py`).
Weights are stored as float16 with the input scaling folded in.

What comes out follows from the examples, the options and the version of PyTorch: steps are counted, not minutes, and
one thread computes. After each round through the clips the state is kept beside OUT, and a run that was stopped goes on
there.
"""

import argparse
import time
from dataclasses import dataclass
from hashlib import blake2b
from pathlib import Path

import numpy as np
import torch
from torch import nn
from torch.optim.swa_utils import AveragedModel, get_ema_multi_avg_fn

from tools.training.chance import noise_like
from tools.training.clips import Clips, batch_of, batches, load, own, place_in_time, varied
from tools.training.hidden import hidden
from tools.training.losses import disorder, loss_of, mean_said, taught_loss, teachers_of
from tools.training.muon import Muon
from tools.training.network import GROUPS, VOICES, VoiceNet, save, unfolded

_WARM_STEPS = 200


@dataclass(frozen=True)
class Scale:
    """The mean and the spread of each input over the examples."""

    mean: torch.Tensor
    spread: torch.Tensor

    @classmethod
    def of(cls, x: torch.Tensor) -> "Scale":
        some = x[np.random.default_rng(0).permutation(len(x))[:60000]].float()
        return cls(some.mean(dim=0), some.std(dim=0) + 0.05)

    def __call__(self, x: torch.Tensor) -> torch.Tensor:
        return (x - self.mean) / self.spread


def checked(net: VoiceNet, clips: Clips, kept: list[int], scaled: Scale, *, bars: float) -> str:
    """Loss, F-measure by group and order of velocities on the kept clips."""
    net.train(False)
    told = truth = both = torch.zeros(GROUPS)
    losses, orders = [], []
    with torch.no_grad():
        for at in range(0, len(kept), 32):
            b = batch_of(clips, kept[at : at + 32])
            place, known = place_in_time(b, bars=bars, wrong=0.0)
            out = net(scaled(b["x"]), own(b["x"], b), place, known, b["real"])
            losses.append(float(loss_of(out, b)))
            orders.append(1 - float(disorder(out[..., VOICES : 2 * VOICES], b["velocity"], b["hit"])))
            said = (out[..., 3 * VOICES : 3 * VOICES + GROUPS] > 0).float() * b["real"][..., None]
            both = both + (said * b["group"]).sum(dim=(0, 1))
            told, truth = told + said.sum(dim=(0, 1)), truth + b["group"].sum(dim=(0, 1))
    f = 2 * both / (told + truth)
    return f"{np.mean(losses):.3f} F {[round(float(v), 3) for v in f]} order {np.mean(orders):.3f}"


def say_alone(net: VoiceNet, clips: Clips, scaled: Scale) -> None:
    """Hear all clips for the first time, no bars known: what each recording's own strokes are told by from here on."""
    net.train(False)
    with torch.no_grad():
        for at in range(0, len(clips.spans), 24):
            chosen = list(range(at, min(at + 24, len(clips.spans))))
            b = batch_of(clips, chosen, own_known=False)
            place, known = place_in_time(b, bars=0.0, wrong=0.0)
            out = net(scaled(b["x"]), own(b["x"], b), place, known, b["real"])
            groups = out[..., 3 * VOICES : 3 * VOICES + GROUPS].clamp(-30, 30).half()
            for row, i in enumerate(chosen):
                a, z = clips.spans[i]
                clips.arrays["said"][a:z] = groups[row, : z - a]


class Fitting:
    """A network being fitted: its weights, their running mean, and how far it is."""

    def __init__(self, net: VoiceNet, scaled: Scale, clips: Clips, options: argparse.Namespace) -> None:
        self.net, self.scaled, self.clips, self.options = net, scaled, clips, options
        # What is saved is a running mean of the weights: it is better on kits of other makers than where the steps end.
        self.mean_net = AveragedModel(net, multi_avg_fn=get_ema_multi_avg_fn(0.997))
        if options.only_own:  # what was learned stays as it is; only the recording's own strokes are new
            for name, weight in net.named_parameters():
                weight.requires_grad_(name.startswith("own."))
        inner = [p for p in net.inner_matrices() if p.requires_grad]
        others = [p for p in net.parameters() if p.requires_grad and not any(p is i for i in inner)]
        self.muon = Muon(inner)
        self.optimiser = torch.optim.AdamW(others, lr=options.rate, weight_decay=0.02)
        self.teachers = teachers_of(options.teachers, net.first.in_features, scaled.mean, scaled.spread)
        # How often the bars are known, and how often wrongly; the new inputs count only where they are.
        self.bars, self.wrong = (1.0, 0.1) if options.only_own else (0.6, 0.2)
        self.own_from = 0 if options.only_own else options.own_from if options.own_from is not None else options.steps
        self.step, self.epoch, self.own_known = 0, 0, False
        kept = max(60, len(clips.spans) // 25) if len(clips.spans) > 120 else len(clips.spans) // 2
        self.used = list(range(len(clips.spans) - kept))
        self.kept = list(range(len(clips.spans) - kept, len(clips.spans)))

    @property
    def training(self) -> str:
        """What the outcome follows from, but for the examples themselves."""
        o = self.options
        # By what it starts from, not by its name: an earlier stage may have been made anew.
        start = blake2b(o.start.read_bytes(), digest_size=8).hexdigest() if o.start else "nothing"
        taught = f"from {start}, taught by {len(o.teachers)}, only own {o.only_own}"
        return (
            f"seed {o.seed}, {o.steps} steps, own from {self.own_from}, rate {o.rate}, whole {o.whole}, {taught}, "
            f"{len(self.clips.arrays['x'])} candidates"
        )

    def round(self) -> float:
        """All clips once, or what is left of the steps; returns the mean loss."""
        if self.step >= self.own_from:
            say_alone(self.mean_net.module, self.clips, self.scaled)
            self.own_known = True
        torch.manual_seed(self.options.seed * 1_000_003 + self.epoch)
        self.net.train()
        total, count = 0.0, 0
        for chosen in batches(self.clips, self.used, self.options.seed, self.epoch):
            if self.step >= self.options.steps:
                break
            total, count = total + self._stepped(chosen), count + 1
        self.epoch += 1
        return total / max(count, 1)

    def _stepped(self, chosen: list[int]) -> float:
        rate = self.options.rate * (1 - self.step / self.options.steps) * min(1.0, (self.step + 1) / _WARM_STEPS)
        for group in self.optimiser.param_groups:
            group["lr"] = rate
        b = batch_of(self.clips, chosen, own_known=self.own_known)
        place, known = place_in_time(b, bars=self.bars, wrong=self.wrong)
        x = varied(b["x"], self.net.parts, self.net.bands)
        # What differs from a recording's own strokes is small, and would be lost.
        if not (self.options.whole or self.options.only_own):
            x = hidden(x, self.net.parts, self.net.bands)
        mine = own(x, b)
        clean = self.scaled(x)
        out = self.net(clean + 0.1 * noise_like(x), mine, place, known, b["real"])
        loss = loss_of(out, b)
        if self.teachers:
            taught = mean_said(self.teachers, clean, mine, place, known, b["real"])
            loss = 0.5 * loss + taught_loss(out, taught, b)
        self.net.zero_grad()
        loss.backward()
        nn.utils.clip_grad_norm_(self.net.parameters(), 2.0)
        self.optimiser.step()
        self.muon.step(rate)
        self.mean_net.update_parameters(self.net)
        self.step += 1
        return float(loss.detach())

    def keep(self, file: Path) -> None:
        """The state after a round, whole or not at all."""
        partly = file.with_suffix(".part")
        state = {"net": self.net.state_dict(), "mean": self.mean_net.state_dict(), "training": self.training}
        state |= {"optimiser": self.optimiser.state_dict(), "muon": self.muon.means}
        torch.save({**state, "step": self.step, "epoch": self.epoch}, partly)
        partly.rename(file)

    def go_on(self, file: Path) -> None:
        """Take up a kept state.

        Raises
        ------
        SystemExit
            Where it belongs to another training: other options, or other examples.
        """
        state = torch.load(file, weights_only=True)
        if state["training"] != self.training:
            raise SystemExit(f"{file} is of another training ({state['training']}): remove it to begin anew.")
        self.net.load_state_dict(state["net"])
        self.mean_net.load_state_dict(state["mean"])
        self.optimiser.load_state_dict(state["optimiser"])
        self.muon.means = state["muon"]
        self.step, self.epoch = state["step"], state["epoch"]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("examples", type=Path)
    parser.add_argument("out", type=Path)
    parser.add_argument("--steps", type=int, default=15000)
    parser.add_argument("--own-from", type=int, help="the step from which own strokes are known; never, if not given")
    parser.add_argument("--start", type=Path, help="go on from these weights (.npz)")
    parser.add_argument("--rate", type=float, default=1e-3, help="learning rate at the beginning")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--teachers", type=Path, nargs="*", default=[], help="weights (.npz) whose mean it learns from")
    parser.add_argument("--besides", type=Path, nargs="*", default=[], help="more folders of examples")
    parser.add_argument("--whole", action="store_true", help="show clips whole, with nothing hidden")
    parser.add_argument("--whole-seeds", type=int, nargs="*", default=[], help="do so to the networks of these seeds")
    parser.add_argument("--only-own", action="store_true", help="train nothing but the inputs of hearing again")
    options = parser.parse_args()
    options.whole |= options.seed in options.whole_seeds
    torch.manual_seed(options.seed)
    torch.set_num_threads(1)
    torch.use_deterministic_algorithms(True)
    torch.utils.deterministic.fill_uninitialized_memory = False  # nothing reads it, and it takes a tenth of the time
    clips = load(options.examples, *options.besides)
    x = clips.arrays["x"]
    scaled = Scale.of(x)
    net = VoiceNet(x.shape[1])
    if options.start:
        net.load_state_dict(unfolded(options.start, scaled.mean, scaled.spread))
    fitting = Fitting(net, scaled, clips, options)
    kept = options.out.with_suffix(".state")
    if kept.exists():
        fitting.go_on(kept)
    print(f"{len(x)} candidates in {len(clips.spans)} clips, the last {len(fitting.kept)} kept back", flush=True)
    while fitting.step < options.steps:
        began = time.monotonic()
        loss = fitting.round()
        alone, barred = (
            checked(fitting.mean_net.module, clips, fitting.kept, scaled, bars=share) for share in (0.0, 1.0)
        )
        took = (time.monotonic() - began) / 60
        print(f"step {fitting.step}, {took:.1f} min, loss {loss:.3f} alone {alone} with bars {barred}", flush=True)
        fitting.keep(kept)
        save(fitting.mean_net.module, scaled.mean, scaled.spread, options.out)


if __name__ == "__main__":
    main()
