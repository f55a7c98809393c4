"""Metal that sounds alike is one instrument, and a hat beside a snare needs better odds."""

import numpy as np
import pytest
from tests.listen.made_heard import CYMBALS, HAT, KICK, SNARE, TOMS, after_rule, heard_of

from ghoststep.listen.signal.patches import BANDS
from ghoststep.listen.strokes.hearing import decided
from ghoststep.listen.strokes.network import Heard, probability_of
from ghoststep.listen.strokes.own_strokes import FINE
from ghoststep.listen.strokes.rules import alike
from ghoststep.listen.strokes.rules.alike import MetalAlike
from ghoststep.music.kit import HEARD_VOICES


def metal_alike(heard: Heard) -> Heard:
    return after_rule(MetalAlike(), heard)


def voices(heard: Heard) -> list[str]:
    return ["hat" if o[HAT] > o[CYMBALS] else "cymbals" for o in heard.group_odds]


def mixed_up() -> Heard:
    """Ten strokes of one open hat of which three are said to be a ride, and six of a ride of which one is unsure."""
    odds = [{HAT: 2.0, CYMBALS: -1.0}] * 7 + [{HAT: -0.5, CYMBALS: 1.0}] * 3
    odds += [{CYMBALS: 3.0}] * 5 + [{HAT: 1.0, CYMBALS: 0.5}]
    return heard_of(odds, ["open hat"] * 10 + ["ride"] * 6)


def test_strokes_that_sound_alike_are_one_instrument() -> None:
    assert voices(metal_alike(mixed_up())) == ["hat"] * 10 + ["cymbals"] * 6


def test_level_does_not_matter_but_colour_does() -> None:
    heard = mixed_up()
    heard.fine[7:10] += np.float16(0.4)
    assert voices(metal_alike(heard)) == ["hat"] * 10 + ["cymbals"] * 6


@pytest.mark.parametrize("drum", [SNARE, TOMS])
def test_strokes_with_a_drum_are_left_as_they_are(drum: int) -> None:
    heard = mixed_up()
    heard.group_odds[7, drum] = 2.0
    found = metal_alike(heard)
    assert (found.group_odds[7] == heard.group_odds[7]).all() and voices(found)[8:10] == ["hat", "hat"]
    heard.group_odds[8, KICK] = 4.0
    assert voices(metal_alike(heard))[8] == "hat" and metal_alike(heard).group_odds[8, KICK] == 4.0


def test_few_strokes_and_a_lone_sound_keep_what_was_said() -> None:
    few = heard_of([{HAT: 1.0}, {CYMBALS: 1.0}] * 2, ["ride"] * 4)
    assert metal_alike(few) is few
    heard = heard_of([{HAT: 2.0}] * 8 + [{CYMBALS: 0.7}], ["open hat"] * 8 + ["ride"])
    assert metal_alike(heard).group_odds[8, CYMBALS] == pytest.approx(0.7, abs=0.01)


def test_long_recordings_are_compared_with_some_of_their_strokes(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(alike, "_ROWS", 5)
    assert voices(after_rule(MetalAlike(most_compared=8), mixed_up())) == ["hat"] * 10 + ["cymbals"] * 6
    assert FINE % BANDS == 0


@pytest.mark.parametrize(("beside", "hats"), [(-5.0, 1), (2.0, 0)])
def test_a_hat_at_low_odds_counts_alone_but_not_beside_a_snare(beside: float, hats: int) -> None:
    heard = heard_of([{HAT: -1.0, SNARE: beside}, {KICK: 4.0}], ["ride", "ride"])
    assert 0.2 < probability_of(heard.group_odds)[0, HAT] < 0.35
    found = decided(np.array([0.1, 0.5]), heard, length_s=1.0, remarks=())
    assert sum(HEARD_VOICES[v].group == "hat" for v in found.performance.voice) == hats


def test_a_foot_under_some_strokes_of_a_ride_is_not_averaged_away() -> None:
    odds = [{CYMBALS: 4.0, HAT: 0.2 if n % 4 == 2 else -4.0} for n in range(16)]
    found = metal_alike(heard_of(odds, ["ride"] * 16)).group_odds
    assert (found[:, CYMBALS] > 3).all()
    assert [n for n in range(16) if found[n, HAT] > -1] == [2, 6, 10, 14]


def test_strokes_apart_keep_what_was_said_and_say_nothing_of_others(monkeypatch: pytest.MonkeyPatch) -> None:
    heard = mixed_up()
    # Were the strokes that say hat lone crashes, the three others would be a ride among themselves.
    monkeypatch.setattr(alike, "lone_crashes", lambda _e: np.arange(16) < 7)
    found = metal_alike(heard)
    assert (found.group_odds[:7] == heard.group_odds[:7]).all()
    assert voices(found)[7:10] == ["cymbals"] * 3
