"""How good the check is: known stickings and names, false alarms, takes told apart; and its speed."""

import random
from dataclasses import replace

import numpy as np

from bench.exercises import Exercise, grooves, moments, rudiments
from bench.parts import BAR, by_dice, by_player, copied, playable
from bench.timing import best_s, say
from ghoststep.judge.alternatives import alternatives
from ghoststep.judge.check import checked
from ghoststep.judge.likeness import deviations, taken_for
from ghoststep.judge.names import named
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened

_SEED = 2026


def run() -> None:
    _stickings()
    _names()
    _alarms()
    _takes()
    _speed()


def _place(exercise: Exercise) -> int | None:
    wanted = dict(enumerate(exercise.limbs))
    offered = [a.limbs for a in alternatives(exercise.groove)]
    return offered.index(wanted) if wanted in offered else None


def _stickings() -> None:
    places = [_place(e) for e in rudiments() + grooves()]
    counts = [sum(p == k for p in places) for k in (0, 1, 2)]
    say("stickings: best, second, third of 60", f"{counts[0]}, {counts[1]}, {counts[2]}", "best or second in 54 asked")


def _names() -> None:
    rows = [e for mirrored in (False, True) for finer in (1, 2) for e in rudiments(mirrored, finer)]
    found = [_named(e) for e in rows]
    say("rudiments named at their beat", f"{sum(found)} of {len(rows)}", "all asked")


def _named(e: Exercise) -> bool:
    return any(n.words == e.name and n.start_ticks == 0 for n in named(moments(e), [(0, BAR), (BAR, 2 * BAR)]))


def _alarms() -> None:
    rng, dice = random.Random(_SEED), np.random.default_rng(_SEED)
    bars = impossible = others = 0
    for _ in range(300):
        groove = by_player(playable(rng, 8), dice)
        findings = checked(groove).findings
        bars += groove.pattern.bars
        impossible += sum(f.kind == "impossible" for f in findings)
        others += sum(f.kind != "impossible" for f in findings)
    say("false alarms in 300 playable performances", f"{100 * impossible / bars:.2f} in 100 bars", "under 1 asked")
    say("other findings in them", f"{100 * others / bars:.1f} in 100 bars", "")


def _takes() -> None:
    rng, dice = random.Random(_SEED), np.random.default_rng(_SEED)
    for bars in (4, 8, 16):
        right = tried = 0
        for _ in range(100):
            groove = playable(rng, bars)
            takes = {
                "straight": groove, "dice": by_dice(groove, dice), "copied": copied(groove, dice),
                "player": by_player(groove, dice),
            }  # fmt: skip
            for kind, take in takes.items():
                right += taken_for(deviations(checked(take).played)) == kind
                tried += 1
        say(f"takes told apart, {bars} bars", f"{100 * right / tried:.1f} %", "95 asked")


def _speed() -> None:
    rng = random.Random(_SEED)
    groove = by_player(playable(rng, 300), np.random.default_rng(_SEED))
    groove = opened(Document("x", groove)).groove
    say("300 bars checked the first time", f"{best_s(lambda: checked(groove), times=1):.2f} s", "0.5 asked")
    say("names in them", f"{best_s(lambda: checked(groove).names, times=1):.2f} s", "")
    h = groove.pattern.hits[1500]
    edited = groove.changed(pattern=groove.pattern.with_hits({1500}, [replace(h, velocity=max(h.velocity - 1, 1))]))
    say("after an edit", f"{1000 * best_s(lambda: checked(edited), times=3):.0f} ms", "16 asked")
