"""What rings on is no snare, unless it stands alone or may be what rang before."""

from dataclasses import replace

import numpy as np
import pytest
from tests.listen.made_heard import after_rule

from ghoststep.listen.signal.falls import falls
from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.patches import PARTS, raw_patches
from ghoststep.listen.signal.spectrum import LISTEN_RATE
from ghoststep.listen.strokes.network import Heard
from ghoststep.listen.strokes.own_strokes import FINE
from ghoststep.listen.strokes.rules.sustain import RingingSnares
from ghoststep.music.kit import VOICE_INDEX, VOICES
from ghoststep.sound.kit import night_tram

SNARE, HAT, CYMBALS = (NET_GROUPS.index(g) for g in ("snare", "hat", "cymbals"))


def snares(count: int, *, fall: float, hats: int = 1, gap_s: float = 0.5) -> tuple[Heard, np.ndarray]:
    """So many soft snares as the network heard them, and some hats later on."""
    n = count + hats
    groups = np.full((n, len(NET_GROUPS)), -5.0, np.float32)
    voices = np.full((n, len(VOICES)), -5.0, np.float32)
    groups[:count, SNARE], voices[:count, VOICE_INDEX["snare"]] = 3.0, 3.0
    groups[count:, HAT], voices[count:, VOICE_INDEX["hat_closed"]] = 4.0, 4.0
    flat = np.zeros((n, len(VOICES)), np.float32)
    heard = Heard(
        voices, flat + 50, flat, groups, np.zeros((n, 2), np.float32) - 5, flat[:, 0], flat[:, 0], flat[:, :1],
        np.zeros((n, 5)), np.full(n, fall, np.float32), np.zeros((n, FINE), np.float16),
    )  # fmt: skip
    return heard, np.arange(n) * gap_s


def test_a_row_of_ringing_snares_is_an_open_hat() -> None:
    heard, moments = snares(6, fall=0.4)
    found = after_rule(RingingSnares(), heard, moments)
    assert (found.group_odds[:6, SNARE] < 0).all() and (found.group_odds[:6, HAT] > 0).all()
    assert (found.voice_odds[:6].argmax(axis=1) == VOICE_INDEX["hat_open"]).all()
    assert (found.velocity[:6, VOICE_INDEX["hat_open"]] == 50).all()


def test_without_any_hat_it_is_a_ride() -> None:
    heard, moments = snares(6, fall=0.4, hats=2)
    groups = heard.group_odds.copy()
    groups[6:, HAT], groups[6:, CYMBALS] = -5.0, 4.0
    found = after_rule(RingingSnares(), replace(heard, group_odds=groups), moments)
    assert (found.voice_odds[:6].argmax(axis=1) == VOICE_INDEX["ride"]).all()


@pytest.mark.parametrize(("count", "fall", "gap_s"), [(6, 1.5, 0.5), (6, np.inf, 0.5), (2, 0.4, 0.5), (6, 0.4, 0.12)])
def test_what_falls_or_is_lone_or_disturbed_stays_a_snare(count: int, fall: float, gap_s: float) -> None:
    heard, moments = snares(count, fall=fall, gap_s=gap_s)
    assert after_rule(RingingSnares(), heard, moments) is heard


def test_the_fall_is_measured_in_the_sound() -> None:
    kit, rng = night_tram(LISTEN_RATE), np.random.default_rng(1)
    out = np.zeros(4 * LISTEN_RATE, np.float32)
    for second, name in ((1, "snare"), (2, "hat_open")):
        blow = kit.blow(name, 100, rng)[:LISTEN_RATE]
        out[second * LISTEN_RATE : second * LISTEN_RATE + len(blow)] += blow
    raw = raw_patches(out, np.array([1.0, 2.0, 3.5]))
    assert raw.shape[1] == sum(PARTS[:3])
    snare, hat, silence = falls(raw)
    assert snare > 0.85 > hat and np.isinf(silence)
