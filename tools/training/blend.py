"""The weights between two trainings: `python -m tools.training.blend FIRST.npz SECOND.npz OUT.npz --share 0.35`.

A network trained further on one kind of material hears that better and what is unlike it worse; on the way between the
two, what was learned stands beside what was known (Wortsman et al. 2022, robust fine-tuning).
"""

import argparse
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

Weights = dict[str, NDArray[np.generic]]


def blended(first: Weights, second: Weights, share: float) -> Weights:
    """Weights between two networks of one shape, `share` (0 to 1) of the way from the first to the second.

    Raises
    ------
    ValueError
        Where the networks are not of one shape.
    """
    if {k: a.shape for k, a in first.items()} != {k: a.shape for k, a in second.items()}:
        raise ValueError("these are weights of networks that differ in shape")
    return {
        k: ((1 - share) * a.astype(float) + share * second[k].astype(float)).astype(a.dtype)
        if a.dtype.kind == "f"
        else a
        for k, a in first.items()
    }


def _read(file: Path) -> Weights:
    with np.load(file) as stored:
        return dict(stored)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("first", type=Path)
    parser.add_argument("second", type=Path)
    parser.add_argument("out", type=Path)
    parser.add_argument("--share", type=float, default=0.35, help="how far from the first to the second")
    options = parser.parse_args()
    np.savez(options.out, **blended(_read(options.first), _read(options.second), options.share))


if __name__ == "__main__":
    main()
