"""Fit what tells kits from what is no kit: `python -m tools.training.fit_no_kit STROKES.npz OUT.npz --seed S`.

A layer of rectified units and one log-odds, as `strokes/no_kit.py` runs it, fitted by L-BFGS (Liu and Nocedal 1989) to
strokes made by `tools.training.no_kit`, each also seen softer or louder and in another tone. Kits count as much as what
is none.
"""

import argparse
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize
from scipy.special import expit

from ghoststep.listen.signal.patches import BANDS
from ghoststep.listen.strokes.no_kit import outputs

UNITS, DECAY = 32, 3e-4
COPIES = 2  # of each stroke, changed
_DULL_SHARE, _LOWEST_TOP = 0.4, 33  # band above which a dull stroke has less and less: from some 2.5 kHz on
Floats = NDArray[np.float64]
Weights = dict[str, NDArray[np.float32]]


def changed(x: NDArray[np.float32], rng: np.random.Generator) -> NDArray[np.float32]:
    """Strokes at other levels, in other tones and some with no top; x is (n, FINE), 0 to 3 in steps of 35 dB."""
    waves = np.cos(np.arange(1, 4)[:, None] * np.linspace(0, np.pi, BANDS))
    tone = 0.1 * rng.standard_normal((len(x), 1)) + (0.15 * rng.standard_normal((len(x), 3))) @ waves
    top = np.where(rng.random(len(x)) < _DULL_SHARE, rng.uniform(_LOWEST_TOP, BANDS, len(x)), BANDS)
    cut = np.maximum(0, np.arange(BANDS) - top[:, None])  # a little more than an octave takes all
    seen = x.reshape(len(x), -1, BANDS) + (tone - 0.5 * cut)[:, None]
    return np.clip(seen, 0, 3).astype(np.float32).reshape(len(x), -1)


def loss(
    flat: Floats, x: NDArray[np.float32], no_kit: NDArray[np.bool_], weight: NDArray[np.float32]
) -> tuple[float, Floats]:
    """Weighted cross-entropy of strokes x (n, inputs) with decay of the weights (flat), and its slope by each."""
    first, bias, last, level = _parts(flat, x.shape[1])
    inner = np.maximum(x @ first.T + bias, 0)
    odds = inner @ last + level
    lost = float(weight @ np.logaddexp(0, np.where(no_kit, -odds, odds)))
    off = weight * (expit(odds) - no_kit)
    back = (off[:, None] * last) * (inner > 0)
    slopes = (back.T @ x, back.sum(axis=0), inner.T @ off, off.sum(keepdims=True))
    slope = np.concatenate([s.ravel() for s in slopes]).astype(float)
    return lost + 0.5 * DECAY * float(flat @ flat), slope + DECAY * flat


def _parts(flat: Floats, inputs: int) -> list[NDArray[np.float32]]:
    """First weights, their bias, last weights and their level."""
    shapes = ((UNITS, inputs), (UNITS,), (UNITS,), (1,))
    ends = np.cumsum([int(np.prod(shape)) for shape in shapes])[:-1]
    return [p.reshape(s).astype(np.float32) for p, s in zip(np.split(flat, ends), shapes, strict=True)]


def fitted(x: NDArray[np.float32], no_kit: NDArray[np.bool_], *, seed: int, rounds: int = 200) -> Weights:
    """The weights for strokes x (n, FINE) of which some are of no kit (n,); both kinds are there."""
    rng = np.random.default_rng(seed)
    mean, spread = x.mean(axis=0), x.std(axis=0) + 0.05
    scaled = ((x - mean) / spread).astype(np.float32)
    weight = np.where(no_kit, 0.5 / no_kit.mean(), 0.5 / (1 - no_kit.mean())).astype(np.float32) / len(x)
    layer, last = rng.standard_normal(UNITS * x.shape[1]) / np.sqrt(x.shape[1]), rng.standard_normal(UNITS) / 4
    start = np.concatenate([layer, np.zeros(UNITS), last, np.zeros(1)])
    found = minimize(loss, start, (scaled, no_kit, weight), jac=True, method="L-BFGS-B", options={"maxiter": rounds})
    first, bias, end, level = _parts(found.x, x.shape[1])
    first = first / spread
    return {"first": first, "bias": bias - first @ mean, "last": end, "level": level}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("strokes", type=Path)
    parser.add_argument("out", type=Path)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    with np.load(options.strokes) as stored:
        x, no_kit = stored["x"].astype(np.float32), stored["no_kit"]
    rng = np.random.default_rng(options.seed)
    kept = len(x) * 9 // 10  # the last kits are looked at only
    copies = np.concatenate([x[:kept], *(changed(x[:kept], rng) for _ in range(COPIES))])
    weights = fitted(copies, np.tile(no_kit[:kept], 1 + COPIES), seed=options.seed)
    said = outputs(weights, x[kept:])
    kits, others = said[~no_kit[kept:]], said[no_kit[kept:]]
    limit = np.percentile(kits, 95)
    print(f"{len(x)} strokes; of those kept back {100 * (others > limit).mean():.0f} % where 5 % of the kits' are")
    np.savez_compressed(
        options.out, **{k: v.astype(np.float16 if k == "first" else np.float32) for k, v in weights.items()}
    )


if __name__ == "__main__":
    main()
