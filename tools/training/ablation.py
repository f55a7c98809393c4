"""What each rule of listening is worth: `python -m tools.training.ablation FOLDER [FOLDER ...]`.

FOLDERs hold NAME.flac with NAME.json as `tools.training.kept_back` writes them, a folder for each kind. Every rule is
switched off by itself; told are the edits per bar with all rules, and for each rule what its absence adds to
them, how many hits differ, how many more are of another voice of their group and how much farther from their moments
they are, and the time it takes. A rule that wins no hundredth of the edits of any kind is marked: it goes, unless it is
there for voices or moments, or for recordings that none of the kinds holds.
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
    """Hits as told or as true: seconds, groups, voices, and (bar, position in quarters); in order of time."""

    at_s: NDArray[np.float64]
    group: NDArray[np.str_]
    voice: NDArray[np.str_]
    spot: tuple[tuple[int, Fraction], ...]

    @classmethod
    def of(cls, rows: Sequence[dict[str, object]]) -> "Told":
        """From rows with time_s, voice, bar and position_beats."""
        return cls(
            np.array([row["time_s"] for row in rows], float),
            np.array([voice(str(row["voice"])).group for row in rows], np.str_),
            np.array([row["voice"] for row in rows], np.str_),
            tuple((int(str(row["bar"])), Fraction(str(row["position_beats"]))) for row in rows),
        )


@dataclass(frozen=True)
class Score:
    """edits: missed, extra and misplaced hits; other: hits of the right group but another voice; late_ms: how far the
    matched hits are from their moments, summed up; matched: how many these are."""

    edits: int
    other: int
    late_ms: float
    matched: int

    def __add__(self, more: "Score") -> "Score":
        return Score(
            self.edits + more.edits, self.other + more.other, self.late_ms + more.late_ms, self.matched + more.matched
        )


NO_SCORE = Score(0, 0, 0.0, 0)


def score(true: Told, told: Told) -> Score:
    """What is wrong in what is told. Bars may be numbered one off, the same for all."""
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
    return Score(
        len(true.at_s) + len(told.at_s) - len(pairs) - placed,
        sum(true.voice[i] != told.voice[j] for i, j in pairs),
        1000 * sum(abs(float(true.at_s[i] - told.at_s[j])) for i, j in pairs),
        len(pairs),
    )


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


@dataclass(frozen=True)
class Judged:
    """One recording: its bars; the score with all rules on and with each one off; hits that differ then; seconds."""

    bars: int
    scores: dict[str, Score]
    differing: dict[str, int]
    took_s: dict[str, float]


def judged(file: Path, names: Sequence[str]) -> Judged:
    """Hear a recording with all rules, and with each one off."""
    samples, rate = soundfile.read(file, dtype="float32")
    truth = json.loads(file.with_suffix(".json").read_text())
    true = Told.of(truth["hits"])
    first = listen(samples, rate)
    whole = heard(first, ())
    scores, differ = {ALL: score(true, whole)}, {}
    in_first = {rule.name for rule in FIRST_HEARING}
    for name in names:
        told = heard(listen(samples, rate, off=(name,)) if name in in_first else first, (name,))
        scores[name], differ[name] = score(true, told), differing(whole, told)
    return Judged(int(truth["bars"]), scores, differ, _seconds(samples, rate))


def _seconds(samples: NDArray[np.float32], rate: int) -> dict[str, float]:
    """How long each rule takes by itself."""
    hearing, explained = hear_groove(samples, rate)
    e = Evidence(hearing.moments_s, hearing.heard, listen(samples, rate).sound, explained)
    out = {}
    for rule in RULES:
        began = time.perf_counter()
        rule.shift(e)
        out[rule.name] = time.perf_counter() - began
    return out


def worth(name: str, found: Sequence[Judged]) -> tuple[float, str]:
    """The share of the edits that a rule wins, and a cell of the table: that, hits that differ, voices, time."""
    whole, without = (sum((row.scores[n] for row in found), NO_SCORE) for n in (ALL, name))
    share = (without.edits - whole.edits) / max(whole.edits, 1)
    voices = (without.other / max(without.matched, 1) - whole.other / max(whole.matched, 1)) * 100
    late_ms = without.late_ms / max(without.matched, 1) - whole.late_ms / max(whole.matched, 1)
    hits = sum(row.differing[name] for row in found)
    return share, f"{100 * share:+.1f} % ({hits}), {voices:+.1f}, {late_ms:+.2f}"


def main() -> None:
    """Judge every rule on every folder, and print a table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folders", type=Path, nargs="+")
    parser.add_argument("--processes", type=int, default=2)
    parser.add_argument("--rules", nargs="+", metavar="NAME", help="only these, by their names")
    options = parser.parse_args()
    names = options.rules or [rule.name for rule in RULES]
    found: dict[str, list[Judged]] = {}
    with ProcessPoolExecutor(options.processes) as pool:
        for folder in options.folders:
            rows = found[folder.name] = list(pool.map(partial(judged, names=names), sorted(folder.glob("*.flac"))))
            whole, bars = sum((row.scores[ALL] for row in rows), NO_SCORE), sum(row.bars for row in rows)
            told = (
                f"{whole.edits / bars:.3f} edits a bar, {100 * whole.other / max(whole.matched, 1):.1f} % other voices"
            )
            print(f"{folder.name}: {len(rows)} recordings, {bars} bars, {told}", flush=True)
    everything = [row for rows in found.values() for row in rows]
    print("\nWithout a rule: edits more (hits that differ), other voices more in %, time error more in ms")
    print(f"| rule | {' | '.join(found)} | ms |\n|{'---|' * (len(found) + 2)}")
    for name in names:
        cells = [worth(name, rows) for rows in found.values()]
        goes = "" if max(share for share, _ in cells) >= _WORTH else " (wins no edits)"
        took_ms = 1000 * sum(row.took_s[name] for row in everything) / len(everything)
        print(f"| {name}{goes} | {' | '.join(cell for _, cell in cells)} | {took_ms:.1f} |")


if __name__ == "__main__":
    main()
