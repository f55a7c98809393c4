"""Hats are measured where only they sound, and candidates against the recording's own strokes."""

import numpy as np
import pytest

from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.loudness import hat_levels_db
from ghoststep.listen.signal.patches import PATCH_SIZE
from ghoststep.listen.signal.spectrum import LISTEN_RATE
from ghoststep.listen.strokes.own_strokes import FINE, OWN_SCALE, against_own, template_shares

SNARE, HAT, KICK = (NET_GROUPS.index(g) for g in ("snare", "hat", "kick"))
RNG = np.random.default_rng(7)
GAP_S = 0.31


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
