"""What each rule of listening is worth: `python -m tools.training.ablation FOLDER [FOLDER ...]`.

FOLDERs hold NAME.flac with NAME.json as `tools.training.kept_back` writes them, a folder for each kind. Every rule is
switched off by itself; told are the edits per bar with all rules, and for each rule by how much of them its absence
makes them more, how many hits differ, and the time it takes. A rule that wins no hundredth of the edits of any kind is
marked: it goes.
"""

import argparse
import json
import time
from collections.abc import Collection, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from functools import partial
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from ghoststep.files.analysis import analysis
from ghoststep.listen.strokes.evidence import Evidence
from ghoststep.listen.strokes.hearing import Hearing, listen
from ghoststep.listen.strokes.rules.table import FIRST_HEARING, RULES
from ghoststep.listen.way import groove_of, hear_groove
from ghoststep.music.errors import InputError
from ghoststep.music.kit import voice

WITHIN_S = 0.030
_WORTH = 0.01  # of the edits of one kind that a rule has to win
ALL = "all rules"


@dataclass(frozen=True)
class Told:
    """Hits as told or as true: seconds, groups, and (bar, position in quarters); in order of time."""

    at_s: NDArray[np.float64]
    group: NDArray[np.str_]
    spot: tuple[tuple[int, Fraction], ...]

    @classmethod
    def of(cls, rows: Sequence[dict[str, object]]) -> "Told":
        """From rows with time_s, voice, bar and position_beats."""
        return cls(
            np.array([row["time_s"] for row in rows], float),
            np.array([voice(str(row["voice"])).group for row in rows], np.str_),
            tuple((int(str(row["bar"])), Fraction(str(row["position_beats"]))) for row in rows),
        )


def edits(true: Told, told: Told) -> int:
    """Missed, extra and misplaced hits. Bars may be numbered one off, the same for all."""
    pairs: list[tuple[int, int]] = []
    for group in np.unique(np.concatenate([true.group, told.group])):
        mine, theirs = (np.flatnonzero(t.group == group) for t in (true, told))
        if not len(mine) or not len(theirs):
            continue
        away = np.abs(true.at_s[mine][:, None] - told.at_s[theirs])
        a, b = linear_sum_assignment(np.where(away <= WITHIN_S, away, 1e3))
        near = away[a, b] <= WITHIN_S
        pairs += zip(mine[a[near]].tolist(), theirs[b[near]].tolist(), strict=True)
    placed = max(
        sum(told.spot[j] == (true.spot[i][0] + shift, true.spot[i][1]) for i, j in pairs) for shift in (-1, 0, 1)
    )
    return len(true.at_s) + len(told.at_s) - len(pairs) - placed


def differing(a: Told, b: Told) -> int:
    """Hits of one that the other does not have at the same moment in the same group."""
    rows = [set(zip(np.round(t.at_s, 3).tolist(), t.group.tolist(), strict=True)) for t in (a, b)]
    return len(rows[0] ^ rows[1])


def heard(first: Hearing, off: Collection[str]) -> Told:
    """What is told of a first hearing with some rules off; nothing where that finds no drum."""
    try:
        hearing, explained = groove_of(first, off=off)
    except InputError:
        return Told.of([])
    order = explained.source
    confidence = tuple(float(hearing.confidence[i]) for i in order)
    onset_s = tuple(float(hearing.performance.onset_s[i]) for i in order)
    return Told.of(analysis(explained, confidence, onset_s, ())["hits"])


def judged(file: Path, names: Sequence[str]) -> tuple[int, dict[str, tuple[int, int]], dict[str, float]]:
    """Bars of a recording; with each rule off, and with all on, edits and differing hits; seconds each rule takes."""
    samples, rate = soundfile.read(file, dtype="float32")
    truth = json.loads(file.with_suffix(".json").read_text())
    true = Told.of(truth["hits"])
    first = listen(samples, rate)
    whole = heard(first, ())
    out = {ALL: (edits(true, whole), 0)}
    in_first = {rule.name for rule in FIRST_HEARING}
    for name in names:
        begun = listen(samples, rate, off=(name,)) if name in in_first else first
        told = heard(begun, (name,))
        out[name] = edits(true, told), differing(whole, told)
    return int(truth["bars"]), out, _seconds(samples, rate)


def _seconds(samples: NDArray[np.float32], rate: int) -> dict[str, float]:
    hearing, explained = hear_groove(samples, rate)
    e = Evidence(hearing.moments_s, hearing.heard, listen(samples, rate).sound, explained)
    out = {}
    for rule in RULES:
        began = time.perf_counter()
        rule.shift(e)
        out[rule.name] = time.perf_counter() - began
    return out


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folders", type=Path, nargs="+")
    parser.add_argument("--processes", type=int, default=2)
    options = parser.parse_args()
    names = [rule.name for rule in RULES]
    won: dict[str, dict[str, tuple[float, int]]] = {name: {} for name in names}
    took = dict.fromkeys(names, 0.0)
    with ProcessPoolExecutor(options.processes) as pool:
        for folder in options.folders:
            found = list(pool.map(partial(judged, names=names), sorted(folder.glob("*.flac"))))
            bars = sum(row[0] for row in found)
            total = {name: sum(row[1][name][0] for row in found) for name in (ALL, *names)}
            print(
                f"{folder.name}: {len(found)} recordings, {bars} bars, {total[ALL] / bars:.3f} edits a bar", flush=True
            )
            for name in names:
                share = (total[name] - total[ALL]) / max(total[ALL], 1)
                won[name][folder.name] = share, sum(row[1][name][1] for row in found)
                took[name] += sum(row[2][name] for row in found)
    recordings = sum(len(list(folder.glob("*.flac"))) for folder in options.folders)
    print(f"\n| rule | {' | '.join(f.name for f in options.folders)} | ms |\n|{'---|' * (len(options.folders) + 2)}")
    for name in names:
        cells = [f"{100 * share:+.1f} % ({hits})" for share, hits in won[name].values()]
        goes = "" if max(share for share, _ in won[name].values()) >= _WORTH else " (goes)"
        print(f"| {name}{goes} | {' | '.join(cells)} | {1000 * took[name] / recordings:.1f} |")


if __name__ == "__main__":
    main()
