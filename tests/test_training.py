"""The material the listening network learns from is what it says it is (no PyTorch is needed for this)."""

import numpy as np
import pytest
from tools.training import kits
from tools.training.examples import REACH_S, labelled
from tools.training.kept_back import make_case, random_groove
from tools.training.material import Strike, random_playing, render_clip

from ghoststep.listen.patches import PATCH_SIZE
from ghoststep.music.kit import VOICE_INDEX, VOICE_NAMES, VOICES


@pytest.fixture(scope="module")
def kit() -> kits.KitSamples:
    return kits.random_kit(np.random.default_rng(4))


def test_a_random_kit_has_every_voice_and_louder_layers(kit: kits.KitSamples) -> None:
    assert set(kit) == set(VOICE_NAMES)
    for layers in kit.values():
        energy = [float((sound.astype(float) ** 2).sum()) for _, sound in layers]
        assert energy == sorted(energy) and all(np.isfinite(s).all() for _, s in layers)


def test_kits_differ_from_seed_to_seed_and_not_for_one_seed(kit: kits.KitSamples) -> None:
    again, other = kits.random_kit(np.random.default_rng(4)), kits.random_kit(np.random.default_rng(5))
    assert np.array_equal(again["snare"][0][1], kit["snare"][0][1])
    assert not np.array_equal(other["snare"][0][1][:500], kit["snare"][0][1][:500])


@pytest.mark.parametrize("seed", range(8))
def test_playing_is_in_order_and_in_range(seed: int) -> None:
    strikes = random_playing(np.random.default_rng(seed))
    times = [s.time_s for s in strikes]
    assert times == sorted(times) and all(0 <= t < 6.5 for t in times)
    assert all(1 <= s.velocity <= 127 and s.voice in VOICE_NAMES for s in strikes)


def test_labels_stand_at_the_candidates_of_their_strikes(kit: kits.KitSamples) -> None:
    strikes = [Strike(0.5 + 0.4 * i, v, 110) for i, v in enumerate(["kick", "snare", "tom_low", "cross_stick"])]
    rng = np.random.default_rng(0)
    sound = render_clip(strikes, kit, rng, length_s=2.5)
    found = labelled(strikes, sound, rng)
    assert found["x"].shape[1] == PATCH_SIZE and found["hit"].shape[1] == len(VOICES)
    for s in strikes:
        assert found["hit"][:, VOICE_INDEX[s.voice]].any()
    assert np.abs(found["late_s"]).max() <= REACH_S
    assert found["velocity"][found["hit"] == 1] == pytest.approx(110 / 127)


def test_kept_back_kits_are_never_trained_on() -> None:
    assert not set(kits.TRAINED) & set(kits.KEPT_BACK)
    assert {b for b, _ in kits.TRAINED + kits.KEPT_BACK} <= set(kits.BANKS)


@pytest.mark.parametrize("seed", range(6))
def test_kept_back_grooves_are_grooves(seed: int) -> None:
    groove = random_groove(np.random.default_rng(seed))
    assert groove.pattern.bars == 4 and len(groove.pattern.hits) > 20
    assert groove.pattern.at(0, "kick") is not None


def test_a_kept_back_case_comes_with_its_truth(kit: kits.KitSamples) -> None:
    name, sound, told = make_case(1, [], np.random.default_rng(2))
    assert name == "case-01-synthesised" and len(told["hits"]) > 20 and np.isfinite(sound).all()
    assert max(h["time_s"] for h in told["hits"]) < len(sound) / kits.RATE
    assert {h["bar"] for h in told["hits"]} == {1, 2, 3, 4}


def test_a_wait_before_the_attack_is_cut_off() -> None:
    sound = np.concatenate([np.zeros(300), np.hanning(400)]).astype(np.float32)
    assert 300 <= kits._attack(sound) + kits.RATE // 2000 < 400
