"""Proposed ghosts lie where a hand is free and where players put them, from few to many."""

from itertools import pairwise

import pytest
from hypothesis import given, settings
from tests.strategies import grooves

from ghoststep.craft.ghosts import HAND, LEAST_GAP_S, STEP, ghosts, proposals
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice
from ghoststep.music.time import TempoMap
from ghoststep.music.touch import Role

ROCK = """
    tempo 96
    hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
    snare       ----X-------X--- | ----X-------X---
    kick        X-----x-X------- | X-----x-X-------
"""


def steps(groove: Groove, most: int) -> list[int]:
    return [h.position_ticks // STEP for h in ghosts(groove, most) if h.position_ticks < 16 * STEP]


def test_the_first_ghosts_stand_around_the_backbeats_and_kicks() -> None:
    groove = parse_grid(ROCK)
    assert set(steps(groove, 2)) <= {3, 5, 7, 11, 13}
    few, many = steps(groove, 2), steps(groove, 7)
    assert set(few) < set(many) and all(s % 4 for s in many)


def test_alternatives_go_from_few_to_many_and_one_answers_in_the_second_bar() -> None:
    found = proposals(parse_grid(ROCK))
    counts = [len(p.hits) for p in found]
    assert len(found) >= 3 and counts[0] < counts[-1]
    second = next(p for p in found if "second bar" in p.name)
    assert {h.position_ticks // (16 * STEP) for h in second.hits} == {1}


@given(grooves)
@settings(max_examples=60, deadline=None)
def test_a_ghost_is_never_on_an_accent_nor_where_the_hand_is_busy(groove: Groove) -> None:
    new = ghosts(groove, 99)
    hits = groove.pattern.hits
    for g in new:
        assert g.role is Role.GHOST and g.velocity <= 45 and g.position_ticks < groove.pattern.length_ticks
        here = [h for h in hits if h.position_ticks == g.position_ticks]
        assert not any(h.limb_letter == HAND or voice(h.voice).group == "snare" for h in here)
        assert not any(h.role is Role.ACCENT and h.limb_letter in "RL" for h in here)
    mine = sorted(
        float(groove.tempo.seconds(h.position_ticks)) for h in (*new, *(h for h in hits if h.limb_letter == HAND))
    )
    at = {float(groove.tempo.seconds(g.position_ticks)) for g in new}
    for a, b in pairwise(mine):
        assert b - a >= LEAST_GAP_S - 1e-9 or (a not in at and b not in at)


@pytest.mark.parametrize(("bpm", "fewer"), [(96, False), (190, True)])
def test_a_fast_tempo_leaves_room_for_fewer(bpm: float, fewer: bool) -> None:
    groove = parse_grid(ROCK)
    slow, now = ghosts(groove, 99), ghosts(groove.changed(tempo=TempoMap.constant(bpm)), 99)
    assert (len(now) < len(slow)) is fewer


def test_nothing_is_proposed_where_nothing_fits() -> None:
    full = parse_grid("tempo 120\nsnare xxxxxxxxxxxxxxxx")
    assert ghosts(full, 9) == () and proposals(full) == ()
