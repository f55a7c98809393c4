"""Hats and cymbals told of the same strokes: one of the two is wrong, but for hats that the foot closes."""

import numpy as np
import pytest
from tests.listen.made_heard import CYMBALS, HAT, SNARE, heard_of

from ghoststep.listen.hearing import PERHAPS
from ghoststep.listen.one_metal import of_one_metal
from ghoststep.music.kit import VOICE_INDEX


def told(odds: list[dict[int, float]], hat: str) -> list[str]:
    """Which of hat and cymbals are struck at even odds or better after the rule; `hat` is the likeliest of the hats."""
    heard = heard_of(odds, ["ride"] * len(odds))
    heard.voice_odds[:, VOICE_INDEX[hat]] = 1.0
    found = of_one_metal(heard, PERHAPS).group_odds
    return ["both" if min(o[HAT], o[CYMBALS]) > -2 else "hat" if o[HAT] > o[CYMBALS] else "cymbals" for o in found]


@pytest.mark.parametrize("hat", ["hat_open", "hat_pedal"])
def test_both_throughout_are_hats_where_the_cymbal_is_not_far_surer(hat: str) -> None:
    assert told([{HAT: -0.5, CYMBALS: 1.9}] * 8, hat) == ["hat"] * 8


@pytest.mark.parametrize("hat", ["hat_open", "hat_pedal"])
def test_both_throughout_are_a_cymbal_where_it_is_far_surer(hat: str) -> None:
    assert told([{HAT: -1.0, CYMBALS: 3.5}] * 8, hat) == ["cymbals"] * 8


def test_a_foot_that_closes_the_hats_under_some_strokes_of_a_ride_stays() -> None:
    odds = [{CYMBALS: 4.0, HAT: 1.0 if n % 4 == 2 else -5.0} for n in range(16)]
    assert told(odds, "hat_pedal") == ["both" if n % 4 == 2 else "cymbals" for n in range(16)]


def test_a_foot_under_two_strokes_of_three_stays_where_it_stands_out() -> None:
    odds = [{CYMBALS: 4.0, HAT: -4.0 if n % 3 == 2 else 1.0} for n in range(12)]
    assert told(odds, "hat_pedal") == ["cymbals" if n % 3 == 2 else "both" for n in range(12)]


def test_a_stick_has_no_part_of_a_cymbals_strokes() -> None:
    odds = [{CYMBALS: 4.0, HAT: 1.0 if n % 4 == 2 else -5.0} for n in range(16)]
    assert told(odds, "hat_open") == ["cymbals"] * 16


def test_two_strokes_and_doubtful_ones_are_left_alone() -> None:
    few = heard_of([{HAT: 1.0, CYMBALS: 1.0}] * 2, ["ride"] * 2)
    assert of_one_metal(few, PERHAPS) is few
    unsure = heard_of([{HAT: 2.0, CYMBALS: -0.4}] * 8, ["ride"] * 8)
    assert of_one_metal(unsure, PERHAPS) is unsure


def test_beside_a_snare_a_hat_is_not_told_so_soon() -> None:
    both = [{HAT: -1.5, CYMBALS: 1.1, SNARE: beside} for beside in (-5.0, 3.0)]
    heard = heard_of([both[0]] * 4 + [both[1]] * 4, ["ride"] * 8)
    found = of_one_metal(heard, PERHAPS).group_odds
    assert np.flatnonzero(found[:, CYMBALS] < -2).tolist() == [0, 1, 2, 3]
