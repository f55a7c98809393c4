"""The other family of method for the voices, measured: adaptive factorisation of the spectrum.

    python -m tools.measure_factorisation FOLDER --truth FOLDER --bank build/training/bank

Every voice group begins with a few spectral templates taken from the kits the network is trained on; templates and
activations are then both fitted to the recording by non-negative matrix factorisation with the Kullback-Leibler
divergence (Lee & Seung 2001), the templates held near where they began (Dittmar & Gärtner 2014). A group is struck at a
candidate moment where its activation rises. Thresholds are the best for the very recordings that are measured, so the
figures are an upper bound for this method.
"""

import argparse
import json
from pathlib import Path

import numpy as np
import soundfile
from scipy.optimize import linear_sum_assignment

from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.onsets import candidates_s
from ghoststep.listen.signal.spectrum import LISTEN_RATE, band_matrix, magnitudes_in_parts
from ghoststep.listen.strokes.hearing import prepared
from ghoststep.music.kit import VOICE_NAMES, voice
from tools.training.kits import TRAINED, sampled_kit

_HOP, _FFT, _BANDS = 512, 2048, 120
_PER_GROUP, _TURNS, _HOLD = 4, 60, 0.5
_MATRIX = band_matrix(_FFT, _BANDS, 30, 18000)


def bands(sound: np.ndarray) -> np.ndarray:
    centres = np.arange(0, len(sound), _HOP)
    return np.concatenate([part @ _MATRIX for part in magnitudes_in_parts(sound.astype(np.float32), centres, _FFT)])


def templates(bank: Path, rng: np.random.Generator) -> np.ndarray:
    """Spectra of strokes of each group, shape (groups * _PER_GROUP, bands), each summing to 1."""
    kits = [sampled_kit(*name, cache=bank) for name in TRAINED]
    out = []
    for group in NET_GROUPS:
        names = [n for n in VOICE_NAMES if voice(n).group == group]
        found = [bands(kit[n][-2][1][: LISTEN_RATE // 4]).mean(axis=0) for kit in kits for n in names]
        spectra = np.stack(found) / np.sum(found, axis=1, keepdims=True)
        # k-means by a few turns, so that the templates are the typical ones of the group
        middle = spectra[rng.choice(len(spectra), _PER_GROUP, replace=False)]
        for _ in range(20):
            nearest = np.argmin(((spectra[:, None] - middle) ** 2).sum(axis=2), axis=1)
            for k in set(nearest):
                middle[k] = spectra[nearest == k].mean(axis=0)
        out.append(middle)
    return np.concatenate(out) + 1e-6


def rises(sound: np.ndarray, start: np.ndarray, moments: np.ndarray) -> np.ndarray:
    """How much the activation of each group rises at each candidate, against its largest; shape (n, groups)."""
    v = bands(sound).T + 1e-9
    w, rng = start.T.copy(), np.random.default_rng(0)
    h = rng.uniform(0.1, 1, (w.shape[1], v.shape[1])) * v.mean()
    for _ in range(_TURNS):
        h *= (w.T @ (v / (w @ h + 1e-12))) / (w.sum(axis=0)[:, None] + 1e-12)
        fitted = w * ((v / (w @ h + 1e-12)) @ h.T) / (h.sum(axis=1) + 1e-12)
        w = _HOLD * start.T + (1 - _HOLD) * fitted / (fitted.sum(axis=0) + 1e-12)
    grouped = h.reshape(len(NET_GROUPS), _PER_GROUP, -1).sum(axis=1)
    at = np.clip(np.rint(moments * LISTEN_RATE / _HOP).astype(int), 3, v.shape[1] - 4)
    after = np.stack([grouped[:, np.clip(at + k, 0, v.shape[1] - 1)] for k in range(0, 4)]).max(axis=0)
    before = np.stack([grouped[:, at - k] for k in (2, 3)]).mean(axis=0)
    return np.maximum(after - before, 0).T / np.maximum(grouped.max(axis=1), 1e-9)


def counted(truth: list[float], found: np.ndarray) -> tuple[int, int, int]:
    """Pairs within 30 ms, true hits, found hits."""
    if not len(truth) or not len(found):
        return 0, len(truth), len(found)
    away = np.abs(np.subtract.outer(np.array(truth), found))
    i, j = linear_sum_assignment(np.where(away <= 0.03, away, 1e3))
    return int((away[i, j] <= 0.03).sum()), len(truth), len(found)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--truth", type=Path, required=True)
    parser.add_argument("--bank", type=Path, default=Path("build/training/bank"))
    options = parser.parse_args()
    start = templates(options.bank, np.random.default_rng(0))
    cases = []
    for file in sorted(options.folder.glob("*.flac")):
        told = json.loads((options.truth / f"{file.stem}.json").read_text())["hits"]
        sound = prepared(*soundfile.read(file, dtype="float32"))
        moments = candidates_s(sound)
        truth = [[h["time_s"] for h in told if voice(h["voice"]).group == g] for g in NET_GROUPS]
        cases.append((truth, moments, rises(sound, start, moments)))
    for g, group in enumerate(NET_GROUPS):
        best = (0.0, 0.0)
        for threshold in np.linspace(0.02, 0.8, 40):
            rows = [counted(truth[g], moments[rise[:, g] > threshold]) for truth, moments, rise in cases]
            both, true, found = (sum(r[k] for r in rows) for k in range(3))
            best = max(best, (2 * both / max(true + found, 1), threshold))
        print(f"{group:8} F {best[0]:.3f} at threshold {best[1]:.2f}")


if __name__ == "__main__":
    main()
