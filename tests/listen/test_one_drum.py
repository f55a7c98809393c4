"""A track of one drum holds that drum only."""

import numpy as np
import pytest
from tests.listen.made_heard import CYMBALS, HAT, KICK, SNARE, after_rule, heard_of

from ghoststep.listen.signal.spectrum import LISTEN_RATE
from ghoststep.listen.strokes.hearing import listen
from ghoststep.listen.strokes.rules import one_drum
from ghoststep.listen.strokes.rules.one_drum import OneDrum
from ghoststep.listen.way import hear_groove
from ghoststep.music.kit import VOICES
from ghoststep.sound.sketch import sketch_kit

BOTH = {HAT: 3.0, SNARE: 2.0}


def groups_left(odds: list[dict[int, float]], sounds: list[str]) -> set[int]:
    found = after_rule(OneDrum(), heard_of(odds, sounds)).group_odds
    return set(np.flatnonzero((found > 0).any(axis=0)).tolist())


@pytest.fixture(autouse=True)
def _whole_patch(monkeypatch: pytest.MonkeyPatch) -> None:
    """Made sounds differ by chance in all of a patch; alike ones by .03."""
    monkeypatch.setattr(one_drum, "_MOMENTS", slice(0, None))


def test_of_strokes_that_sound_alike_one_group_stays() -> None:
    assert groups_left([BOTH] * 8, ["ride"] * 8) == {HAT}
    assert groups_left([{HAT: 1.0, SNARE: 4.0}] * 8, ["ride"] * 8) == {SNARE}  # told as often, and surer
    assert groups_left([BOTH] * 6 + [{SNARE: 5.0, HAT: -5.0}] * 2, ["ride"] * 8) == {SNARE}  # told more often


def test_a_kit_and_a_few_strokes_are_left_alone() -> None:
    assert groups_left([BOTH] * 8, ["ride", "open hat"] * 4) == {HAT, SNARE}
    assert groups_left([BOTH] * 8, ["ride"] * 6 + ["open hat"] * 2) == {HAT, SNARE}  # a quarter of another sound
    assert groups_left([BOTH] * 5, ["ride"] * 5) == {HAT, SNARE}


def test_what_is_told_most_often_stays_though_it_is_less_sure() -> None:
    sure = [{HAT: 1.0, SNARE: 6.0}] * 5 + [{HAT: 1.0, SNARE: -0.9}] * 3
    assert groups_left(sure, ["ride"] * 8) == {HAT}


@pytest.mark.parametrize(("away", "strokes"), [(0.15, 20), (0.5, 3)])  # all a little, or some of them much
def test_strokes_that_differ_are_more_than_one_drum(away: float, strokes: int) -> None:
    heard = heard_of([BOTH] * 20, ["ride"] * 20)
    dice = np.random.default_rng(8)
    heard.fine[:] = dice.standard_normal(heard.fine.shape[1])
    assert set(np.flatnonzero((after_rule(OneDrum(), heard).group_odds > 0).any(axis=0))) == {HAT}
    heard.fine[:strokes] += away * dice.standard_normal((strokes, heard.fine.shape[1])).astype(np.float16)
    assert set(np.flatnonzero((after_rule(OneDrum(), heard).group_odds > 0).any(axis=0))) == {HAT, SNARE}


def test_which_metal_it_is_is_told_elsewhere() -> None:
    assert groups_left([{HAT: 2.0, CYMBALS: 3.0, KICK: 1.0}] * 8, ["ride"] * 8) == {HAT, CYMBALS}


@pytest.mark.parametrize("name", ["kick", "snare", "hat_closed"])
def test_a_track_of_one_drum_is_heard_as_one(monkeypatch: pytest.MonkeyPatch, name: str) -> None:
    monkeypatch.undo()
    kit, rng = sketch_kit(LISTEN_RATE), np.random.default_rng(2)
    sound = 1e-4 * rng.standard_normal(8 * LISTEN_RATE)
    for i in range(20):
        at = round((0.2 + 0.36 * i + rng.normal(0, 0.003)) * LISTEN_RATE)
        blow = kit.mono_blow(name, int(rng.integers(60, 120)), rng)[: round(0.5 * LISTEN_RATE)]
        sound[at : at + len(blow)] += 0.4 * blow[: len(sound) - at]
    first = listen(sound.astype(np.float32), LISTEN_RATE)
    assert len({VOICES[v].group for v in first.performance.voice}) == 1
    heard, _ = hear_groove(sound.astype(np.float32), LISTEN_RATE)
    assert {VOICES[v].name for v in heard.performance.voice} == {name} and len(heard.performance) >= 19
