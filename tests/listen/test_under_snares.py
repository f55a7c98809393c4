"""Hats that only snares speak for."""

import numpy as np
import pytest
from tests.listen.made_heard import CYMBALS, HAT, KICK, SNARE, after_rule, heard_of

from ghoststep.listen.strokes.rules.under_snares import OnlyUnderSnares
from ghoststep.music.kit import VOICE_INDEX

PEDAL = VOICE_INDEX["hat_pedal"]
LOW, FAIR, SURE = 0.9, 1.1, 2.5  # log-odds of a hat, .77 less beside a snare: chances of .53, .58 and .85


def left(odds: list[dict[int, float]], moments_s: np.ndarray | None = None, by_foot: float = 1.0) -> list[int]:
    """The candidates at which a hat is still told."""
    heard = heard_of(odds, ["open hat"] * len(odds))
    heard.voice_odds[: round(by_foot * len(odds)), PEDAL] = 1
    moments = 0.4 * np.arange(len(odds)) if moments_s is None else moments_s
    found = after_rule(OnlyUnderSnares(), heard, moments)
    assert (np.delete(found.group_odds, HAT, axis=1) == np.delete(heard.group_odds, HAT, axis=1)).all()
    return np.flatnonzero(found.group_odds[:, HAT] > -2).tolist()


def under(*hats: float) -> list[dict[int, float]]:
    """A kick, and a snare with a hat of the given log-odds, in turn."""
    return [stroke for hat in hats for stroke in ({KICK: 4.0}, {SNARE: 4.0, HAT: hat})]


def test_hats_at_middling_odds_under_snares_alone_are_the_snares_own() -> None:
    assert left(under(LOW, FAIR, LOW, FAIR)) == []


def test_hats_that_are_sure_are_the_foots_and_those_far_less_sure_are_not() -> None:
    assert left(under(SURE, SURE, SURE, SURE)) == [1, 3, 5, 7]
    assert left(under(SURE, -0.3, SURE, SURE)) == [1, 5, 7]


def test_the_doubted_do_not_take_the_sure_with_them() -> None:
    assert left(under(1.4, -0.3, 1.4, -0.3, 1.4, -0.3)) == [1, 5, 9]  # the mean of all is under the limit


def test_a_hat_beside_the_snare_within_one_stroke_is_under_it() -> None:
    odds = [{SNARE: 4.0}, {HAT: LOW - 0.77}, {SNARE: 4.0}, {HAT: LOW - 0.77}]
    assert left(odds, np.array([0.0, 0.02, 0.5, 0.52])) == []
    assert left(odds, np.array([0.0, 0.2, 0.5, 0.7])) == [1, 3]


@pytest.mark.parametrize("other", [{HAT: SURE}, {CYMBALS: 3.0}])
def test_where_metal_is_heard_elsewhere_all_stay(other: dict[int, float]) -> None:
    odds = [*under(LOW, LOW, LOW, LOW), other, other]
    assert [i for i in left(odds) if i < 8] == [1, 3, 5, 7]


def test_snares_without_hats_are_no_hats_under_snares() -> None:
    odds = [*under(LOW, LOW, LOW), *[{HAT: LOW}] * 3, *[{SNARE: 4.0}] * 6]
    assert left(odds) == [1, 3, 5, 6, 7, 8]


@pytest.mark.filterwarnings("error")
def test_where_none_is_sure_there_is_no_average() -> None:
    assert left(under(-0.3, -0.3)) == []


def test_hats_of_the_hand_stay_whatever_its_snares_hide() -> None:
    assert left(under(LOW, LOW, LOW, LOW), by_foot=0.4) == [1, 3, 5, 7]
    assert left(under(LOW, LOW, LOW, LOW), by_foot=0.6) == []


def test_one_crash_is_no_other_metal() -> None:
    assert left([*under(LOW, LOW, LOW, LOW, LOW), {CYMBALS: 3.0, KICK: 4.0}]) == []


def test_a_hat_too_doubtful_to_be_told_speaks_for_none() -> None:
    assert left([*under(LOW, LOW, LOW, LOW), {HAT: -1.7}, {HAT: -1.7}]) == [8, 9]


def test_nothing_heard_as_a_hat_is_no_error() -> None:
    assert left(under(-5.0, -5.0)) == []
