"""What is struck and is no drum of a kit is told as the nearest voice, less surely."""

from dataclasses import replace

import numpy as np
import pytest
from made_heard import HAT, KICK, SNARE, TOMS, heard_of

from ghoststep.listen.signal.patches import BANDS
from ghoststep.listen.strokes import no_kit
from ghoststep.listen.strokes.hearing import DOUBTFUL, NO_KIT, UNLIKE_DRUMS, decided
from ghoststep.listen.strokes.network import Heard
from ghoststep.listen.strokes.no_kit import outputs, sureness
from ghoststep.listen.strokes.own_strokes import FINE
from ghoststep.music.kit import VOICE_INDEX, VOICES


@pytest.fixture(autouse=True)
def first_number_tells(monkeypatch: pytest.MonkeyPatch) -> None:
    """Weights by which the first number of a stroke less 1.5 is its log-odds, tenfold."""
    first = np.zeros((2, FINE), np.float32)
    first[0, 0], first[1, 0] = 1, -1
    bias, last = np.array([-1.5, 1.5], np.float32), np.array([10, -10], np.float32)
    weights = {"first": first, "bias": bias, "last": last, "level": np.zeros(1, np.float32)}
    monkeypatch.setattr(no_kit, "_weights", lambda: weights)


def made(groups: list[int], tells: list[float]) -> Heard:
    """Strokes of groups at sure odds, with the log-odds of being of no kit."""
    heard = heard_of([{g: 6.0} for g in groups], ["ride"] * len(groups))
    fine = heard.fine.copy()
    fine[:, 0] = 1.5 + np.array(tells) / 10
    return replace(heard, fine=fine)


def told(heard: Heard) -> np.ndarray:
    return np.asarray(heard.group_odds > 0)


def test_each_output_is_that_of_its_stroke() -> None:
    heard = made([KICK] * 3, [-3.0, 0.0, 3.0])
    assert outputs(no_kit._weights(), heard.fine.astype(np.float32)) == pytest.approx([-3, 0, 3], abs=0.02)


def test_a_kit_stays_as_sure_as_it_is() -> None:
    heard = made([KICK, SNARE, HAT] * 4, [-5.5] * 12)
    assert (sureness(heard, told(heard)) == 1).all()
    nothing = np.zeros(heard.group_odds.shape, bool)
    assert (sureness(heard, nothing) == 1).all()


def test_what_is_no_kit_is_less_sure_by_group() -> None:
    heard = made([KICK, HAT] * 16, [-8.0, 3.0] * 16)
    sure = sureness(heard, told(heard))
    assert (sure[:, KICK] == 1).all() and (sure[:, SNARE] == 1).all()
    assert np.unique(sure[:, HAT]) == pytest.approx([no_kit._LEAST_SURE])


def test_all_strokes_of_a_group_are_judged_together() -> None:
    heard = made([HAT] * 30, [0.0, -5.0] * 15)  # -2.5 on average
    sure = sureness(heard, told(heard))
    assert len(np.unique(sure[:, HAT])) == 1 and no_kit._LEAST_SURE < sure[0, HAT] < 1
    most, more = (made([HAT] * 30, [odds, -4.0, -8.0] * 10) for odds in (8.0, 14.0))  # no stroke tells more than 8
    assert 0.5 < sureness(most, told(most))[0, HAT] < 0.9
    assert sureness(more, told(more))[0, HAT] == pytest.approx(sureness(most, told(most))[0, HAT], abs=0.01)


def test_few_strokes_are_judged_with_the_others_of_the_recording() -> None:
    one = made([SNARE], [0.0])
    alone = sureness(one, told(one))[0, SNARE]
    among_kits = made([SNARE] + [KICK] * 20, [0.0] + [-8.0] * 20)
    among_others = made([SNARE] + [KICK] * 20, [0.0] + [4.0] * 20)
    assert sureness(among_kits, told(among_kits))[0, SNARE] == 1
    assert sureness(among_others, told(among_others))[0, SNARE] == no_kit._LEAST_SURE < alone < 1


def test_a_recording_with_no_top_is_not_judged() -> None:
    heard = made([HAT] * 20, [4.0] * 20)
    assert sureness(heard, told(heard))[0, HAT] == no_kit._LEAST_SURE
    fine = heard.fine.reshape(20, -1, BANDS).copy()
    fine[:, :, 37:] = 0
    dull = replace(heard, fine=fine.reshape(20, -1))
    assert (sureness(dull, told(dull)) == 1).all()


def test_toms_are_nearer_to_hand_drums() -> None:
    toms, hats = made([TOMS] * 20, [-3.0] * 20), made([HAT] * 20, [-3.0] * 20)
    assert sureness(toms, told(toms))[0, TOMS] == 1 > sureness(hats, told(hats))[0, HAT]


def test_the_hits_stay_and_their_certainty_falls() -> None:
    moments, groups = np.arange(24) * 0.25 + 0.1, [KICK, HAT] * 12
    kit = decided(moments, made(groups, [-8.0] * 24), length_s=8.0, remarks=())
    other = decided(moments, made(groups, [-8.0, 4.0] * 12), length_s=8.0, remarks=())
    assert np.array_equal(other.performance.onset_s, kit.performance.onset_s)
    assert np.array_equal(other.performance.voice, kit.performance.voice)
    hats = np.array([VOICES[v].group == "hat" for v in kit.performance.voice])
    assert other.confidence[~hats] == pytest.approx(kit.confidence[~hats])
    assert (other.confidence[hats] < 0.6 * kit.confidence[hats]).all()
    assert kit.remarks == ()


def test_what_is_offered_and_grace_notes_are_less_sure_too() -> None:
    moments, snares = np.arange(24) * 0.25 + 0.1, [SNARE] * 24

    def heard(no_kit: float) -> Heard:
        one = made(snares, [no_kit] * 24)
        one.voice_odds[:, VOICE_INDEX["snare"]] = 3.0
        one.group_odds[-1, SNARE] = -0.7  # offered, not told
        one.grace_odds[3, 0], one.lead_s[3] = 4.0, 0.03
        return one

    kit, other = (decided(moments, heard(x), length_s=8.0, remarks=()) for x in (-8.0, 6.0))
    assert len(kit.performance) == len(other.performance) == 24  # one is offered only, one has a grace note
    assert other.confidence == pytest.approx(no_kit._LEAST_SURE * kit.confidence)
    (offered,), (strange,) = kit.perhaps, other.perhaps
    assert strange.probability == pytest.approx(no_kit._LEAST_SURE * offered.probability)


def test_it_is_said_where_most_is_no_kit() -> None:
    moments, groups = np.arange(24) * 0.25 + 0.1, [KICK, HAT] * 12
    strange = made(groups, [4.0] * 24)
    assert decided(moments, strange, length_s=8.0, remarks=()).remarks == (NO_KIT,)
    assert decided(moments, strange, length_s=8.0, remarks=(UNLIKE_DRUMS,)).remarks == (UNLIKE_DRUMS,)
    unsure = made(groups, [-8.0] * 24)
    unsure.group_odds[1::2, HAT] = 0.5  # .62: hats are told from .2 on
    assert decided(moments, unsure, length_s=8.0, remarks=()).remarks == (DOUBTFUL,)
