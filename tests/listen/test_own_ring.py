"""What an open hat does while it rings is no stroke."""

from dataclasses import replace

import numpy as np
import pytest
from tests.listen.made_heard import CYMBALS, HAT, SNARE, after_rule, heard_of

from ghoststep.listen.signal.spectrum import LISTEN_RATE
from ghoststep.listen.strokes.network import Heard
from ghoststep.listen.strokes.rules.own_ring import OwnRing, SecondSwell
from ghoststep.listen.way import hear_groove
from ghoststep.music.kit import VOICE_INDEX, VOICES
from ghoststep.sound.sketch import sketch_kit

OPEN, RIDE = VOICE_INDEX["hat_open"], VOICE_INDEX["ride"]
EVERY_S, JUMP_S = 0.43, 0.344


def open_hats(
    *, loose_s: float = 0.008, jump_loose_s: float = 0.0003, soft: float = 50, jump_s: float = JUMP_S, count: int = 20
) -> tuple[Heard, np.ndarray]:
    """Open hats at 80, and a softer hat after each; the moments of both."""
    dice = np.random.default_rng(4)
    strokes = EVERY_S * np.arange(count) + loose_s * dice.standard_normal(count)
    moments = np.sort(np.concatenate([strokes, strokes + jump_s + jump_loose_s * dice.standard_normal(count)]))
    heard = heard_of([{HAT: 2.0}] * len(moments), ["open hat"] * len(moments))
    heard.voice_odds[:, OPEN] = 3.0
    heard.velocity[1::2, OPEN] = soft
    return heard, moments


def left(heard: Heard, moments: np.ndarray) -> int:
    """How many of the softer hats are still told."""
    found = after_rule(OwnRing(), heard, moments).group_odds[:, HAT] > -2
    assert found[::2].all()
    return int(found[1::2].sum())


def test_soft_hats_at_one_exact_distance_from_the_open_ones_are_their_ring() -> None:
    assert left(*open_hats()) == 0


@pytest.mark.parametrize(
    "other",
    [
        {"loose_s": 0.0},  # a machine keeps the next stroke as exactly
        {"jump_loose_s": 0.008},  # a hand does not keep the stroke before
        {"soft": 70.0},  # too loud for a ring
        {"jump_s": 0.05},  # too early
        {"count": 5},  # too few to tell
    ],
)
def test_strokes_of_machines_and_hands_stay(other: dict[str, float]) -> None:
    heard, moments = open_hats(**other)
    assert left(heard, moments) == len(moments) // 2


def test_a_machine_stays_whose_next_stroke_is_now_near_and_now_far() -> None:
    heard, moments = open_hats(count=32)
    strokes = np.cumsum(0.12 * np.tile([4, 3, 7, 5], 8))
    moments[::2], moments[1::2] = strokes, strokes + 0.12
    assert left(heard, moments) == 32


def test_after_closed_hats_nothing_rings() -> None:
    heard, moments = open_hats()
    heard.voice_odds[:, VOICE_INDEX["hat_closed"]] = 4.0
    heard.velocity[1::2] = 50
    assert left(heard, moments) == len(moments) // 2


def test_a_ring_that_jumps_in_several_places() -> None:
    heard, moments = open_hats(count=30)
    jumps = 0.344 - 0.1 * (np.arange(30) % 3)  # at .344, .244 and .144
    moments[1::2] = moments[::2] + jumps
    assert left(heard, moments) == 0


def test_what_is_less_than_likely_goes_with_the_ring_and_what_is_likely_stays() -> None:
    heard, moments = open_hats()
    moments[1], moments[3] = moments[0] + 0.2, moments[2] + 0.25  # where nothing else jumps
    heard.group_odds[1, HAT] = -0.5
    assert left(heard, moments) == 1


def test_what_sounds_with_another_drum_is_no_ring() -> None:
    heard, moments = open_hats()
    heard.group_odds[5, SNARE] = 2.0
    assert left(heard, moments) == 1


def test_another_drum_in_the_ring_does_not_begin_a_new_one() -> None:
    _heard, moments = open_hats(jump_s=0.2)
    at = np.sort(np.concatenate([moments, moments[::2] + 0.09 + 0.01 * np.arange(20) / 20]))
    is_snare = ~np.isin(at, moments)
    odds = [{HAT: 2.0, SNARE: 2.0} if snare else {HAT: 2.0} for snare in is_snare]
    more = heard_of(odds, ["open hat"] * len(at))
    more.voice_odds[:, OPEN] = 3.0
    velocity = np.where(np.isin(at, moments[::2]), 80, 50)
    more = replace(more, velocity=np.repeat(velocity[:, None], more.velocity.shape[1], axis=1).astype(np.float32))
    told = after_rule(OwnRing(), more, at).group_odds[:, HAT] > -2
    assert told[is_snare].all() and told[np.isin(at, moments[::2])].all()
    assert not told[np.isin(at, moments[1::2])].any()


@pytest.mark.parametrize(("loose_s", "told"), [(0.0003, 0), (0.008, 20)])
def test_a_jump_of_the_ring_may_be_told_as_a_ride(loose_s: float, told: int) -> None:
    heard, moments = open_hats(jump_loose_s=loose_s)
    heard.group_odds[1::2, HAT], heard.group_odds[1::2, CYMBALS] = -3.0, 2.0
    heard.voice_odds[:, RIDE], heard.velocity[1::2, RIDE] = 3.0, 50
    found = after_rule(OwnRing(), heard, moments).group_odds
    assert (found[::2, HAT] > 0).all()
    assert (found[:, CYMBALS] > -2).sum() == told


def test_a_crash_as_loud_as_the_open_hats_is_no_jump_of_their_ring() -> None:
    heard, moments = open_hats()
    heard.group_odds[5, HAT], heard.group_odds[5, CYMBALS] = -3.0, 2.0
    heard.velocity[5] = 90
    assert after_rule(OwnRing(), heard, moments).group_odds[5, CYMBALS] > 0


@pytest.mark.parametrize("jumps", [True, False])
def test_a_recording_of_open_hats_whose_ring_jumps(jumps: bool) -> None:
    kit, rng = sketch_kit(LISTEN_RATE), np.random.default_rng(3)
    sound = 1e-4 * rng.standard_normal(14 * LISTEN_RATE)
    strokes = 0.2 + EVERY_S * np.arange(30) + rng.normal(0, 0.008, 30)
    hat, again, kick = (
        kit.mono_blow(name, v, rng) for name, v in (("hat_open", 100), ("hat_closed", 84), ("kick", 100))
    )
    for number, at_s in enumerate(strokes):
        blows = [(at_s, hat), (at_s + 0.31 + (0 if jumps else rng.normal(0, 0.008)), again)]
        for when, blow in blows + [(at_s, kick)] * (number % 2 == 0):
            at = round(when * LISTEN_RATE)
            sound[at : at + len(blow)] += 0.3 * blow[: len(sound) - at]
    heard, _ = hear_groove(sound.astype(np.float32), LISTEN_RATE)
    hats = sum(VOICES[v].group == "hat" for v in heard.performance.voice)
    assert (hats <= 42) if jumps else (hats >= 58)


def swelling(
    *,
    loose_s: float = 0.008,
    swell_loose_s: float = 0.0005,
    soft: float = 30,
    after_s: float = 0.09,
    share: float = 1.0,
) -> tuple[Heard, np.ndarray, np.ndarray]:
    """Open hats at 80, and a soft snare after so many of them; the moments of both, and which are snares."""
    dice = np.random.default_rng(5)
    strokes = EVERY_S * np.arange(24) + loose_s * dice.standard_normal(24)
    soft_ones = (strokes + after_s + swell_loose_s * dice.standard_normal(24))[: round(24 * share)]
    moments = np.sort(np.concatenate([strokes, soft_ones]))
    snare = np.isin(moments, soft_ones)
    heard = heard_of([{SNARE: 1.0} if s else {HAT: 2.0} for s in snare], ["open hat"] * len(moments))
    heard.voice_odds[~snare, OPEN] = 3.0
    heard.voice_odds[snare, VOICE_INDEX["snare"]] = 3.0
    heard.velocity[snare, VOICE_INDEX["snare"]] = soft
    return heard, moments, snare


def snares_left(heard: Heard, moments: np.ndarray, snare: np.ndarray) -> int:
    found = after_rule(SecondSwell(), heard, moments).group_odds
    assert (found[~snare] == heard.group_odds[~snare]).all()
    return int((found[snare, SNARE] > 0).sum())


def test_soft_snares_at_one_exact_delay_after_most_open_hats_are_their_swell() -> None:
    assert snares_left(*swelling()) == 0
    assert snares_left(*swelling(share=0.7)) == 0


@pytest.mark.parametrize(
    "other",
    [
        {"swell_loose_s": 0.006},  # a hand strays
        {"loose_s": 0.0},  # a machine keeps the next stroke as exactly
        {"soft": 60.0},  # too loud for a swell
        {"after_s": 0.3},  # too late
        {"share": 0.4},  # after less than half of them
    ],
)
def test_ghosts_behind_open_hats_stay(other: dict[str, float]) -> None:
    heard, moments, snare = swelling(**other)
    assert snares_left(heard, moments, snare) == snare.sum()
