"""Measure how tempo, bars and spots are found from hits alone: `python -m tools.measure_fit --cases 200 --seed 1`.

Random grooves of the kept-back kind are performed with swing, lean and looseness; then hits are dropped, put in and
made louder or softer as a listening would do, and the rest is explained without any hint.
"""

import argparse
from dataclasses import dataclass

import numpy as np

from ghoststep.feel.perform import perform
from ghoststep.listen.bars.explain import Explained, explain
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.performance import Performance
from ghoststep.music.time import TICKS_PER_QUARTER
from tools.idioms import chosen, played
from tools.training.kept_back import random_groove


@dataclass(frozen=True)
class Outcome:
    tempo: bool
    meter: bool
    downbeat: bool
    placed: float
    swing_error: float | None
    words: str


def spoiled(
    played: Performance, rng: np.random.Generator, *, dropped: float, added: float
) -> tuple[Performance, np.ndarray]:
    """The performance as an imperfect listener hears it, and where each hit comes from (-1: nowhere)."""
    kept = np.flatnonzero(rng.random(len(played)) >= dropped)
    extra = round(added * len(played))
    onset = np.concatenate([played.onset_s[kept], rng.uniform(0, played.length_s, extra)]) + rng.normal(
        0, 0.001, len(kept) + extra
    )
    voice = np.concatenate([played.voice[kept], rng.choice(played.voice, extra)])
    velocity = np.concatenate([played.velocity[kept], rng.integers(25, 80, extra)])
    velocity = np.clip(velocity * np.exp(rng.normal(0, 0.15, len(velocity))), 1, 127)
    source = np.concatenate([kept, np.full(extra, -1)])
    order = np.argsort(onset)
    heard = Performance.of(
        np.maximum(onset[order], 0) + 0.4, voice[order], velocity[order].astype(int), length_s=played.length_s + 1.3
    )
    return heard, source[order]


def _words(groove: Groove) -> str:
    swing = groove.feel.swing
    return f"{groove.tempo.main_bpm:.0f} {groove.pattern.meter.full_name} swing {swing.unit}:{swing.ratio:.2f}"


def _same_spot(one: int, other: int) -> bool:
    """Whether two positions are one; the last third of a beat may be spelled as a swung eighth, and so of an eighth."""
    for unit in (TICKS_PER_QUARTER, TICKS_PER_QUARTER // 2):
        if {one % unit, other % unit} == {unit // 2, 2 * unit // 3}:
            return one // unit == other // unit
    return one == other


def judged(groove: Groove, explained: Explained, source: np.ndarray) -> Outcome:
    found = explained.groove
    meant = [h.position_ticks for h in groove.pattern.hits]
    bar = groove.pattern.meter.bar_ticks
    pairs = [(source[i], h.position_ticks) for i, h in zip(explained.source, found.pattern.hits, strict=True)]
    right = max(sum(s >= 0 and _same_spot(meant[s] + shift * bar, p) for s, p in pairs) for shift in (-1, 0, 1)) / max(
        sum(s >= 0 for s, _ in pairs), 1
    )
    if found.pattern.meter.bar_ticks != bar:
        right = 0.0 if abs(found.tempo.main_bpm / groove.tempo.main_bpm - 1) > 0.03 else right
    bar_s = groove.length_s / groove.pattern.bars
    away = (explained.start_s - 0.4) / bar_s
    swing = None if groove.feel.swing.straight else abs(found.feel.swing.ratio - groove.feel.swing.ratio)
    words = f"{_words(groove)} -> {_words(found)} off {away:.2f} bars, placed {right:.2f}"
    return Outcome(
        abs(found.tempo.main_bpm / groove.tempo.main_bpm - 1) < 0.01,
        (found.pattern.meter.numerator, found.pattern.meter.denominator)
        == (groove.pattern.meter.numerator, groove.pattern.meter.denominator),
        abs(away - round(away)) * bar_s < 0.035,
        right,
        swing,
        words,
    )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--cases", type=int, default=200)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--dropped", type=float, default=0.06)
    parser.add_argument("--added", type=float, default=0.05)
    parser.add_argument("--idioms", choices=("used", "kept", "all"), help="common grooves instead of random ones")
    parser.add_argument("--show", action="store_true", help="print each case that is not placed well")
    options = parser.parse_args()
    outcomes = []
    idioms = chosen(options.idioms) if options.idioms else ()
    for number in range(options.cases):
        rng = np.random.default_rng([options.seed, number])
        groove = played(idioms[number % len(idioms)], rng) if idioms else random_groove(rng)
        heard, source = spoiled(perform(groove), rng, dropped=options.dropped, added=options.added)
        try:
            outcome = judged(groove, explain(heard), source)
        except InputError as error:
            outcome = Outcome(False, False, False, 0.0, None, str(error))
        outcomes.append(outcome)
        if options.show and (outcome.placed < 0.9 or not outcome.meter):
            print(number, groove.name, outcome.words)
    swings = [o.swing_error for o in outcomes if o.swing_error is not None]
    print(
        f"{len(outcomes)} grooves: tempo {np.mean([o.tempo for o in outcomes]):.3f},"
        f" meter {np.mean([o.meter for o in outcomes]):.3f}, downbeat {np.mean([o.downbeat for o in outcomes]):.3f},"
        f" placed {np.mean([o.placed for o in outcomes]):.3f}, swing error {np.mean(swings or [0.0]):.4f}"
    )


if __name__ == "__main__":
    main()
