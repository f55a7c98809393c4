"""Judge what is heard, voice by voice: `python -m tools.training.judge FOLDER [--svg CURVES.svg]`.

FOLDER holds NAME.flac with NAME.json as `tools.training.kept_back` writes them. Prints precision and recall of each
group as it ships, also of what is audible (over all else in some octave by 3 dB), and by what sounds at the same time;
and of the snare the ghosts that are found where its precision is .90, all and audible; and the order of velocities that
the levels of the dry strokes allow, since kits choose among layers by chance. Draws the curves of precision against
recall.
"""

import argparse
import json
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment
from scipy.stats import spearmanr

from ghoststep.listen.bars.explain import explain
from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.strokes.hearing import LIMITS, decided, listen
from ghoststep.listen.way import heard_again
from ghoststep.music.kit import VOICES, voice

TOLERANCE_S = 0.030
AUDIBLE_DB = 3.0
_LOWEST = 0.02
_LEAST_ORDERED = 5  # strokes that have an order
_WITH = ("alone", "hat", "kick", "hat and kick", "other")


@dataclass(frozen=True)
class Case:
    """True hits and strokes heard of one recording; strokes come with their odds, however low."""

    name: str
    true_s: NDArray[np.float64]
    true_group: NDArray[np.str_]
    ghost: NDArray[np.bool_]
    over_db: NDArray[np.float64]
    velocity: NDArray[np.float64]
    level_db: NDArray[np.float64]
    heard_s: NDArray[np.float64]
    heard_group: NDArray[np.str_]
    odds: NDArray[np.float64]

    def true(self, group: str) -> NDArray[np.int64]:
        return np.flatnonzero(self.true_group == group)

    def heard(self, group: str, least: float) -> NDArray[np.int64]:
        return np.flatnonzero((self.heard_group == group) & (self.odds >= least))

    def found(self, group: str, least: float) -> NDArray[np.bool_]:
        """Which true hits of a group are found, in the order of `true`."""
        mine, theirs = self.true(group), self.heard(group, least)
        out = np.zeros(len(mine), bool)
        if len(mine) and len(theirs):
            apart = np.abs(self.true_s[mine][:, None] - self.heard_s[theirs])
            a, b = linear_sum_assignment(np.where(apart <= TOLERANCE_S, apart, 1e3))
            out[a[apart[a, b] <= TOLERANCE_S]] = True
        return out

    def with_what(self, group: str) -> NDArray[np.str_]:
        """What is struck together with each true hit of a group."""
        out = []
        for i in self.true(group):
            near = np.abs(self.true_s - self.true_s[i]) < TOLERANCE_S
            others = set(self.true_group[near]) - {group}
            key = " and ".join(g for g in ("hat", "kick") if g in others) if others <= {"hat", "kick"} else "other"
            out.append(key or "alone")
        return np.array(out)


def heard_case(file: Path) -> Case:
    """Listen to one recording as the program does, and keep even what is hardly heard."""
    samples, rate = soundfile.read(file, dtype="float32", always_2d=True)
    first = listen(samples, rate)
    explained = explain(first.performance, confidence=first.confidence)
    second = heard_again(first, explained) if explained.readings else first
    low = dict.fromkeys(LIMITS, _LOWEST)
    kept = decided(second.moments_s, second.listener.heard, length_s=first.performance.length_s, remarks=(), limits=low)
    hits = json.loads(file.with_suffix(".json").read_text())["hits"]
    return Case(
        file.stem,
        np.array([h["time_s"] for h in hits]),
        np.array([voice(h["voice"]).group for h in hits]),
        np.array([h["ghost"] and not h.get("grace") for h in hits], bool),
        np.array([h.get("over_db", np.nan) for h in hits]),
        np.array([h["velocity"] for h in hits], float),
        np.array([h.get("level_db", np.nan) for h in hits]),
        kept.performance.onset_s,
        np.array([VOICES[v].group for v in kept.performance.voice]),
        kept.confidence,
    )


@dataclass(frozen=True)
class Point:
    least: float
    precision: float
    recall: float
    ghosts: float
    audible: float

    @property
    def f(self) -> float:
        return 2 * self.precision * self.recall / max(self.precision + self.recall, 1e-9)


def point(cases: Sequence[Case], group: str, least: float) -> Point:
    """Precision and recall of a group over all cases at one limit; ghosts: the share of them that is found."""
    found = np.concatenate([c.found(group, least) for c in cases])
    told = sum(len(c.heard(group, least)) for c in cases)
    ghost = np.concatenate([c.ghost[c.true(group)] for c in cases])
    audible = ghost & (np.concatenate([c.over_db[c.true(group)] for c in cases]) >= AUDIBLE_DB)
    share = lambda which: float(found[which].mean()) if which.any() else float("nan")  # noqa: E731
    return Point(
        least, float(found.sum() / max(told, 1)), share(np.ones(len(found), bool)), share(ghost), share(audible)
    )


def curve(cases: Sequence[Case], group: str) -> list[Point]:
    """The points of limits from hardly to surely."""
    odds = np.linspace(-3.8, 4.5, 42)
    return [point(cases, group, float(1 / (1 + np.exp(-x)))) for x in odds]


def at_precision(points: Sequence[Point], precision: float) -> Point:
    """The lowest limit from which on a precision is held."""
    good = [p for p in points if p.precision >= precision]
    return good[0] if good else points[-1]


def false_by_file(cases: Sequence[Case], group: str, least: float) -> list[tuple[str, int]]:
    """How many false strokes of a group each file has, the worst first."""
    false = [(c.name, len(c.heard(group, least)) - int(c.found(group, least).sum())) for c in cases]
    return sorted(false, key=lambda x: -x[1])


def order_allowed(cases: Sequence[Case], group: str) -> float:
    """Rank correlation (Spearman 1904) of velocities with dry levels of the strokes, on average over recordings."""
    found = []
    for c in cases:
        mine = c.true(group)
        velocity, level_db = c.velocity[mine], c.level_db[mine]
        if len(mine) >= _LEAST_ORDERED and np.isfinite(level_db).all() and np.ptp(velocity) and np.ptp(level_db):
            found.append(float(spearmanr(velocity, level_db)[0]))
    return float(np.mean(found)) if found else float("nan")


def told(cases: Sequence[Case]) -> str:
    """The figures in words."""
    lines = []
    for group in NET_GROUPS:
        p = point(cases, group, LIMITS[group])
        lines.append(f"{group:8} precision {p.precision:.3f} recall {p.recall:.3f} F {p.f:.3f}")
        found = np.concatenate([c.found(group, LIMITS[group]) for c in cases])
        audible = np.concatenate([c.over_db[c.true(group)] for c in cases]) >= AUDIBLE_DB
        lines.append(
            f"         recall of the {audible.sum()} audible ones {found[audible].mean():.3f}" if audible.any() else ""
        )
        together = np.concatenate([c.with_what(group) for c in cases])
        parts = [f"{w} {found[together == w].mean():.2f} of {(together == w).sum()}" for w in _WITH if w in together]
        lines.append("         recall " + ", ".join(parts))
    points = curve(cases, "snare")
    now, held = point(cases, "snare", LIMITS["snare"]), at_precision(points, 0.90)
    lines.append(f"ghosts   found {now.ghosts:.3f}, audible {now.audible:.3f}")
    lines.append(
        f"         at a snare precision of {held.precision:.2f} (limit {held.least:.2f}): found {held.ghosts:.3f},"
        f" audible {held.audible:.3f}"
    )
    allowed = ", ".join(f"{group} {order_allowed(cases, group):.3f}" for group in ("kick", "snare", "hat"))
    lines.append(f"order of velocities that levels allow: {allowed}")
    worst = false_by_file(cases, "snare", LIMITS["snare"])[:4]
    lines.append("         most false snares: " + ", ".join(f"{name} {n}" for name, n in worst))
    return "\n".join(lines)


_COLOURS = dict(zip(NET_GROUPS, ("#c2452d", "#2f6fb0", "#b98a16", "#3f8f4f", "#7a4fa0"), strict=True))


def drawn(cases: Sequence[Case]) -> str:
    """Curves of precision against recall of each group, and of the snare's ghosts, as SVG."""
    size, edge = 420, 46
    place = lambda r, p: f"{edge + r * size:.1f},{edge + (1 - p) * size:.1f}"  # noqa: E731
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{size + 200}" height="{size + 2 * edge}" '
        'font-family="sans-serif" font-size="12">',
        f'<rect x="{edge}" y="{edge}" width="{size}" height="{size}" fill="none" stroke="#888"/>',
        f'<text x="{edge}" y="{edge - 10}">precision up, recall to the right, both from 0 to 1</text>',
    ]
    for i, group in enumerate(NET_GROUPS):
        points = curve(cases, group)
        lines = [(group, _COLOURS[group], "", [(p.recall, p.precision) for p in points])]
        if group == "snare":
            lines.append(("ghosts", _COLOURS[group], "4 3", [(p.ghosts, p.precision) for p in points]))
        for name, colour, dashes, xy in lines:
            path = " ".join(place(r, p) for r, p in xy)
            parts.append(f'<polyline points="{path}" fill="none" stroke="{colour}" stroke-dasharray="{dashes}"/>')
            y = edge + 20 * i + (110 if dashes else 10)
            parts.append(
                f'<text x="{edge + size + 12}" y="{y}" fill="{colour}">{name}{" (dashed)" * bool(dashes)}</text>'
            )
    return "\n".join([*parts, "</svg>", ""])


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--svg", type=Path)
    parser.add_argument("--workers", type=int, default=2)
    options = parser.parse_args()
    with ProcessPoolExecutor(options.workers) as pool:
        cases = list(pool.map(heard_case, sorted(options.folder.glob("*.flac"))))
    print(told(cases))
    if options.svg:
        options.svg.write_text(drawn(cases))


if __name__ == "__main__":
    main()
