"""Hats and cymbals told of the same strokes: one of the two is wrong, but for hats that the foot closes."""

import numpy as np
import pytest
from tests.listen.made_heard import CYMBALS, HAT, SNARE, after_rule, heard_of

from ghoststep.listen.strokes.evidence import Evidence
from ghoststep.listen.strokes.network import Heard
from ghoststep.listen.strokes.rules.one_metal import OneMetal, lone_crashes
from ghoststep.music.kit import VOICE_INDEX

OPEN, RIDE = VOICE_INDEX["hat_open"], VOICE_INDEX["ride"]


def crashes_of(heard: Heard) -> np.ndarray:
    return lone_crashes(Evidence(np.arange(float(len(heard.group_odds))), heard))


def one_metal(heard: Heard, crashes: int = 0) -> Heard:
    """After the rule, where the first strokes, and no others, were crashes beyond doubt before it."""
    n = len(heard.group_odds)
    before = heard_of([{CYMBALS: 5.0}] * crashes + [{HAT: 5.0}] * (n - crashes), ["ride"] * n)
    before.voice_odds[:, VOICE_INDEX["crash"]] = 5.0
    assert crashes_of(before).sum() == crashes
    return after_rule(OneMetal(), heard, earlier={"metal alike": Evidence(np.arange(float(n)), before)})


def told(odds: list[dict[int, float]], hat: str, open_hat: float = -4.0, ride: float = 0.0) -> list[str]:
    """Which of hat and cymbals are struck at even odds or better after the rule.

    `hat` is the likeliest of the hats, `open_hat` and `ride` the log-odds of an open one and of a ride.
    """
    heard = heard_of(odds, ["ride"] * len(odds))
    heard.voice_odds[:, [VOICE_INDEX[v] for v in ("hat_closed", "hat_half", "hat_open", "hat_pedal")]] = -9.0
    heard.voice_odds[:, OPEN], heard.voice_odds[:, RIDE] = open_hat, ride
    heard.voice_odds[:, VOICE_INDEX[hat]] = max(open_hat, -3.0) if hat != "hat_open" else open_hat
    found = one_metal(heard).group_odds
    return ["both" if min(o[HAT], o[CYMBALS]) > -2 else "hat" if o[HAT] > o[CYMBALS] else "cymbals" for o in found]


@pytest.mark.parametrize("hat", ["hat_open", "hat_pedal"])
@pytest.mark.parametrize(("ride", "metal"), [(-1.9, "hat"), (-1.7, "cymbals")])
def test_both_throughout_are_a_ride_where_it_is_surer_than_an_open_hat(hat: str, ride: float, metal: str) -> None:
    for odds in ({HAT: 0.5, CYMBALS: 1.9}, {HAT: -1.0, CYMBALS: 3.5}):
        assert told([odds] * 8, hat, open_hat=-4.0, ride=ride) == [metal] * 8


def test_which_metal_it_is_is_told_by_all_its_strokes_together() -> None:
    heard = heard_of([{HAT: -1.0, CYMBALS: 3.5}] * 8, ["ride"] * 8)
    heard.voice_odds[:, RIDE], heard.voice_odds[:, OPEN] = 0.0, [-9.0, -9.0] + [0.0] * 6  # 2.25 on average
    found = one_metal(heard).group_odds
    assert (found[:, CYMBALS] > 0).all() and (found[:, HAT] < -2).all()


def test_a_foot_that_closes_the_hats_under_some_strokes_of_a_ride_stays() -> None:
    odds = [{CYMBALS: 4.0, HAT: 1.0 if n % 4 == 2 else -5.0} for n in range(16)]
    assert told(odds, "hat_pedal") == ["both" if n % 4 == 2 else "cymbals" for n in range(16)]


def test_a_foot_under_two_strokes_of_three_stays_where_it_stands_out() -> None:
    odds = [{CYMBALS: 4.0, HAT: -4.0 if n % 3 == 2 else 1.0} for n in range(12)]
    assert told(odds, "hat_pedal") == ["cymbals" if n % 3 == 2 else "both" for n in range(12)]


def test_a_stick_has_no_part_of_a_cymbals_strokes() -> None:
    odds = [{CYMBALS: 4.0, HAT: 1.0 if n % 4 == 2 else -5.0} for n in range(16)]
    assert told(odds, "hat_open") == ["cymbals"] * 16


@pytest.mark.parametrize(("hat", "cymbals", "open_hat", "kept"), [(-1.6, 1.8, -2.0, HAT), (-1.9, 4.0, -4.0, CYMBALS)])
def test_what_is_told_of_two_metals_is_as_sure_as_that_one_of_them_is_struck(
    hat: float, cymbals: float, open_hat: float, kept: int
) -> None:
    """Before, a stroke that was surely metal was no stroke at all: its cymbal was taken away, its hat too doubtful."""
    heard = heard_of([{HAT: hat, CYMBALS: cymbals}] * 8, ["ride"] * 8)
    heard.voice_odds[:, OPEN] = open_hat  # and of a ride 0
    found = one_metal(heard).group_odds[:, kept]
    either = 1 - (1 - 1 / (1 + np.exp(-hat))) * (1 - 1 / (1 + np.exp(-cymbals)))
    assert 1 / (1 + np.exp(-found)) == pytest.approx(either, abs=1e-4)
    assert (found > max(hat, cymbals)).all()


def test_two_metals_told_beyond_all_doubt_stay_finite() -> None:
    heard = heard_of([{HAT: 39.0, CYMBALS: 40.0}] * 8, ["ride"] * 8)
    found = one_metal(heard).group_odds
    assert np.isfinite(found).all() and (found[:, HAT] >= 40).all()


def test_two_strokes_and_doubtful_ones_are_left_alone() -> None:
    few = heard_of([{HAT: 1.0, CYMBALS: 1.0}] * 2, ["ride"] * 2)
    assert (one_metal(few).group_odds == few.group_odds).all()
    unsure = heard_of([{HAT: 2.0, CYMBALS: -0.4}] * 8, ["ride"] * 8)
    assert (one_metal(unsure).group_odds == unsure.group_odds).all()


def test_beside_a_snare_a_hat_is_not_told_so_soon() -> None:
    both = [{HAT: -1.5, CYMBALS: 1.1, SNARE: beside} for beside in (-5.0, 3.0)]
    heard = heard_of([both[0]] * 4 + [both[1]] * 4, ["ride"] * 8)
    found = one_metal(heard).group_odds
    assert np.flatnonzero(found[:, CYMBALS] < -2).tolist() == [0, 1, 2, 3]


def with_crashes(crashes: int, odds: dict[int, float], voice: str = "crash") -> Heard:
    """Twenty strokes of hats, the first of which are told as crashes instead."""
    heard = heard_of([odds] * crashes + [{HAT: 3.0}] * (20 - crashes), ["ride"] * 20)
    heard.voice_odds[:, VOICE_INDEX[voice]] = 1.0
    return heard


@pytest.mark.parametrize("voice", ["crash", "splash"])
def test_few_sure_crashes_are_lone(voice: str) -> None:
    assert crashes_of(with_crashes(2, {CYMBALS: 3.0, HAT: -1.0}, voice)).tolist() == [True] * 2 + [False] * 18


@pytest.mark.parametrize(
    ("crashes", "odds", "voice"),
    [
        (2, {CYMBALS: 3.0, HAT: -1.0}, "ride"),
        (2, {CYMBALS: 1.5, HAT: -3.0}, "crash"),
        (2, {CYMBALS: 3.0, HAT: 1.0}, "crash"),
        (4, {CYMBALS: 3.0, HAT: -1.0}, "crash"),  # a crash that is ridden on
    ],
)
def test_rides_doubtful_crashes_and_many_of_them_are_not(crashes: int, odds: dict[int, float], voice: str) -> None:
    assert not crashes_of(with_crashes(crashes, odds, voice)).any()


def test_a_lone_crash_stays_where_all_else_is_a_hat_and_loses_the_hat_it_hardly_has() -> None:
    odds = [{HAT: -1.0, CYMBALS: 3.0}, {HAT: 0.8, CYMBALS: 3.4}] + [{HAT: 0.5, CYMBALS: 1.0}] * 20
    heard = heard_of(odds, ["ride"] * len(odds))
    found = one_metal(heard, crashes=2).group_odds
    assert found[:2, CYMBALS].tolist() == pytest.approx([3.0, 3.4])
    assert found[0, HAT] < -3 and found[1, HAT] == pytest.approx(0.8)
    assert (found[2:, CYMBALS] < -3).all() and (found[2:, HAT] > 0).all()
