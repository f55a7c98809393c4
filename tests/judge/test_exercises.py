"""Sixty stickings that drummers know: found by the program, named at their beat, in both hands and on two grids."""

import random

import pytest
from bench.exercises import Exercise, grooves, moments, rudiments

from ghoststep.judge.alternatives import alternatives
from ghoststep.judge.names import Moment, named
from ghoststep.judge.rudiments import rudiments as known

BAR = 80640


def place_of(exercise: Exercise) -> int | None:
    """Which of the stickings on offer is the one that is given."""
    wanted = dict(enumerate(exercise.limbs))
    offered = [a.limbs for a in alternatives(exercise.groove)]
    return offered.index(wanted) if wanted in offered else None


def test_the_given_sticking_is_the_best_or_the_second_in_nine_of_ten() -> None:
    exercises = rudiments() + grooves()
    assert len(exercises) == 60
    places = [place_of(e) for e in exercises]
    assert sum(p in (0, 1) for p in places) >= 54
    assert sum(p is not None for p in places) >= 58


@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("finer", [1, 2])
def test_every_rudiment_is_named_at_its_beat(mirrored: bool, finer: int) -> None:
    for exercise in rudiments(mirrored, finer):
        found = named(moments(exercise), [(0, BAR), (BAR, 2 * BAR)])
        assert any(n.words == exercise.name and n.start_ticks == 0 for n in found), (exercise.name, found)


def holds_one(line: list[Moment]) -> bool:
    """Whether the strokes of a rudiment stand anywhere in a line, by a search of its own."""
    hands = [m for m in line if m.hands]
    rows = [([m.tick for m in line], [m.letters for m in line]), ([m.tick for m in hands], [m.hands for m in hands])]
    for ticks, row in rows:
        text = "".join(x if len(x) == 1 else "?" for x in row)
        for r in known():
            at = text.find(r.letters)
            while at >= 0:
                unit = (ticks[at + 1] - ticks[at]) / r.starts[1]
                if all(ticks[at + k] - ticks[at] == s * unit for k, s in enumerate(r.starts)):
                    return True
                at = text.find(r.letters, at + 1)
    return False


def test_what_is_none_is_hardly_ever_named() -> None:
    rng = random.Random(41)
    names = {r.name for r in known()}
    tried = false = 0
    while tried < 500:
        line = [
            Moment(5040 * step, rng.choice(["R", "L", "K", "RK", "LK", "RL"]), 0, rng.random() < 0.2)
            for step in range(32)
            if rng.random() < 0.5
        ]
        if len(line) < 2 or holds_one(line):
            continue
        tried += 1
        false += any(n.words in names for n in named(line, [(0, BAR), (BAR, 2 * BAR)]))
    assert false < 10


def told(letters: str, start: int = 0) -> list[str]:
    line = [Moment(start + 5040 * i, x) for i, x in enumerate(letters)]
    return [n.words for n in named(line, [(0, BAR)])]


@pytest.mark.parametrize(
    ("letters", "words"),
    [
        ("KRLKRLKK", ["K, R L K twice, K"]),
        ("RLKKRLKKRLKKRLKK", ["paradiddle"]),
        ("LKKRLKKRLKKRLKKR", ["inverted paradiddle"]),
        ("KKRLKKRL", ["reversed paradiddle"]),
        ("KRLKKRLK", ["K R L K twice"]),
        ("KRLKRLKRLKRLKRLL", ["groups of 3 3 3 3 4", "K R L five times"]),
        ("RLRRLRLLRLRRLRLL", ["paradiddle"]),
    ],
)
def test_the_shortest_description_names_it(letters: str, words: list[str]) -> None:
    assert told(letters) == words


def test_a_rudiment_is_named_under_feet_and_a_short_one_only_where_one_hears_it_begin() -> None:
    line = [Moment(5040 * i, x) for i, x in enumerate(("RK", "L", "R", "RK", "L", "RK", "L", "L"))]
    assert [n.words for n in named(line)] == ["paradiddle"]
    assert told("RLRR") == ["paradiddle"]
    assert told("RLRR", start=5040) == []
    assert [n.words for n in named([Moment(5040 + 5040 * i, x, 0, i == 0) for i, x in enumerate("RLRR")])]


def test_accents_group_a_run_and_halves_mirror() -> None:
    accents = [0, 3, 6, 9, 12]
    line = [Moment(5040 * i, "RL"[i % 2], 0, i in accents) for i in range(16)]
    assert "groups of 3 3 3 3 4" in [n.words for n in named(line, [(0, BAR)])]
    assert "groups of 4 4 4 4" not in [
        n.words for n in named([m._replace(accent=i % 4 == 0) for i, m in enumerate(line)], [(0, BAR)])
    ]
    half = [(0, "R"), (10080, "R"), (15120, "L"), (25200, "K")]
    mirrored = [*half, *((t + BAR // 2, {"R": "L", "L": "R"}.get(x, x)) for t, x in half)]
    assert [n.words for n in named([Moment(t, x) for t, x in mirrored], [(0, BAR)])] == ["mirrored halves"]


def test_a_roll_lands_and_does_not_go_on() -> None:
    assert told("RRLLR") == ["five-stroke roll"]
    assert told("RRLLRK") == []
