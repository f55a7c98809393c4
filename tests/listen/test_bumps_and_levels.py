"""Second bumps of half-open hats are no snares, and hats are measured where only they sound."""

from dataclasses import replace
from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest
from tests.listen.made_heard import after_rule

from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.loudness import hat_levels_db
from ghoststep.listen.signal.patches import PATCH_SIZE
from ghoststep.listen.signal.spectrum import LISTEN_RATE
from ghoststep.listen.strokes.network import Heard
from ghoststep.listen.strokes.own_strokes import FINE, OWN_SCALE, against_own, template_shares
from ghoststep.listen.strokes.rules.sustain import SecondBump
from ghoststep.music.kit import VOICE_INDEX, VOICES

SNARE, HAT, KICK = (NET_GROUPS.index(g) for g in ("snare", "hat", "kick"))
RNG = np.random.default_rng(7)
GAP_S = 0.31


def heard_of(moments: np.ndarray, struck: np.ndarray, velocity: float = 30) -> Heard:
    n = len(moments)
    odds = np.where(struck, 3.0, -4.0).astype(np.float32)
    flat = np.zeros((n, len(VOICES)), np.float32)
    return Heard(
        flat, flat + np.float32(velocity), flat, odds, np.full((n, 2), -6, np.float32), flat[:, 0], flat[:, 0],
        flat[:, :1], np.zeros((n, len(NET_GROUPS))), np.full(n, np.inf, np.float32), np.zeros((n, FINE), np.float16),
    )  # fmt: skip


def hats_and_soft_snares(*, lag_s: float, loose_s: float, count: int = 10) -> tuple[Heard, np.ndarray]:
    hats = GAP_S * np.arange(12)
    snares = hats[:count] + lag_s + loose_s * RNG.standard_normal(count)
    moments = np.concatenate([hats, snares])
    struck = np.zeros((len(moments), len(NET_GROUPS)), bool)
    struck[: len(hats), HAT], struck[len(hats) :, SNARE] = True, True
    order = np.argsort(moments)
    return heard_of(moments[order], struck[order]), moments[order]


def at_tempo(bpm: float) -> Any:
    """A groove of which nothing but the tempo is known."""
    return SimpleNamespace(groove=SimpleNamespace(tempo=SimpleNamespace(main_bpm=bpm)))


def snares_left(heard: Heard, moments: np.ndarray, quarter_s: float = 2 * GAP_S) -> int:
    return int(
        (after_rule(SecondBump(), heard, moments, explained=at_tempo(60 / quarter_s)).group_odds[:, SNARE] > 0).sum()
    )


def test_soft_snares_at_one_exact_lag_are_second_bumps() -> None:
    assert snares_left(*hats_and_soft_snares(lag_s=0.092, loose_s=0.0005)) == 0


@pytest.mark.parametrize(
    ("lag_s", "loose_s", "count"), [(0.092, 0.012, 10), (0.092, 0.0005, 4), (0.03, 0.0005, 10), (0.2, 0.0005, 10)]
)
def test_a_hand_a_few_or_another_lag_is_left_alone(lag_s: float, loose_s: float, count: int) -> None:
    heard, moments = hats_and_soft_snares(lag_s=lag_s, loose_s=loose_s, count=count)
    assert snares_left(heard, moments) >= min(count, 6)


def test_a_step_of_the_grid_is_no_second_bump() -> None:
    heard, moments = hats_and_soft_snares(lag_s=0.092, loose_s=0.0005)
    assert snares_left(heard, moments, quarter_s=4 * 0.093) == 10


def test_loud_snares_stay() -> None:
    heard, moments = hats_and_soft_snares(lag_s=0.092, loose_s=0.0005)
    loud = np.full_like(heard.velocity, 100)
    loud[:, VOICE_INDEX["snare"]] = 100
    assert snares_left(replace(heard, velocity=loud), moments) == 10


# -- hats ---------------------------------------------------------------------------------------------------------


def clicks(levels: list[float], *, low_hz: float, high_hz: float) -> tuple[np.ndarray, np.ndarray]:
    """Short bursts in a band, and their moments."""
    sound = np.zeros(LISTEN_RATE * 3)
    moments = 0.3 + 0.4 * np.arange(len(levels))
    t = np.arange(2000) / LISTEN_RATE
    partials = np.linspace(low_hz, high_hz, 24)
    burst = np.exp(-t / 0.015) * np.sin(2 * np.pi * partials[:, None] * t + np.arange(24)[:, None]).sum(axis=0) / 24
    for at, level in zip(moments, levels, strict=True):
        sound[round(at * LISTEN_RATE) :][:2000] += level * burst
    return sound, moments


def test_hats_under_a_snare_keep_their_order() -> None:
    levels = [1.0, 0.5, 0.8, 0.25, 0.6, 0.4]
    hats, moments = clicks(levels, low_hz=11500, high_hz=16000)
    snare, _ = clicks([4.0 if i % 2 else 0.0 for i in range(6)], low_hz=300, high_hz=6000)
    found = hat_levels_db((hats + snare + 1e-5 * RNG.standard_normal(len(hats))).astype(np.float32), moments)
    assert list(np.argsort(found)) == list(np.argsort(levels))
    assert found[0] - found[1] == pytest.approx(6.02, abs=0.4)


def test_a_recording_cut_off_below_is_measured_where_it_has_something() -> None:
    levels = [1.0, 0.5, 0.8, 0.25, 0.6, 0.4]
    hats, moments = clicks(levels, low_hz=4000, high_hz=6000)
    noise = 1e-3 * RNG.standard_normal(len(hats))
    found = hat_levels_db((hats + noise).astype(np.float32), moments)
    assert list(np.argsort(found)) == list(np.argsort(levels))
    assert len(hat_levels_db(hats.astype(np.float32), np.zeros(0))) == 0


# -- the recording as its own template --------------------------------------------------------------------------------


def test_a_candidate_is_shown_what_differs_from_its_own_kind() -> None:
    n = 8
    patches = np.zeros((n, PATCH_SIZE), np.float32)
    patches[:, :FINE] = 1.0
    patches[5, :FINE] = 1.25  # a ghost under this hat
    odds = np.full((n, len(NET_GROUPS)), -5.0, np.float32)
    odds[:6, HAT], odds[6, KICK], odds[5, SNARE] = 4, 4, -0.5
    own = against_own(patches, odds)
    assert np.allclose(own[:5, :FINE], 0) and np.all(own[:6, FINE] == 1)
    assert np.allclose(own[5, :FINE], 0.25 * OWN_SCALE)
    assert not own[6:].any()  # one kick alone has no template, and what is nothing has none


def test_training_sees_the_same_as_listening() -> None:
    n = 20
    patches = RNG.random((n, PATCH_SIZE)).astype(np.float32)
    odds = (4 * RNG.standard_normal((n, len(NET_GROUPS)))).astype(np.float32)
    shares = template_shares(odds.astype(float))
    has = shares.sum(axis=1, keepdims=True) > 0
    wanted = OWN_SCALE * has * (patches[:, :FINE] - shares @ patches[:, :FINE])
    own = against_own(patches, odds)
    assert np.allclose(own[:, :FINE], wanted, atol=1e-4) and np.array_equal(own[:, FINE], has[:, 0])
