"""Each stroke is put at the attack of its own drum, however loud the other is."""

import numpy as np
import pytest
import soxr
from tests.listen.made_heard import CYMBALS, HAT, KICK, SNARE, after_rule, heard_of

from ghoststep.listen.signal.attacks import attacks_s
from ghoststep.listen.signal.spectrum import LISTEN_RATE
from ghoststep.listen.strokes.network import Heard
from ghoststep.listen.strokes.rules import own_attacks
from ghoststep.listen.strokes.rules.own_attacks import OwnAttacks
from ghoststep.music.kit import VOICE_INDEX
from ghoststep.sound.sketch import sketch_kit

KIT = sketch_kit(LISTEN_RATE)
BEATS_S = 0.4 + 0.5 * np.arange(8)
METALS = ((4, 12000.0, 0.0), (4, 9000.0, 0.0), (4, 6000.0, 0.0))
SKINS = ((2, 300.0, 3000.0),)
RNG = np.random.default_rng(3)


def played(*strokes: tuple[str, float], noise: float = 1e-4) -> np.ndarray:
    """Voices struck together on each beat, each so many s after it, in a little noise."""
    out = noise * RNG.standard_normal(round(5 * LISTEN_RATE))
    for voice, late_s in strokes:
        for i, beat_s in enumerate(BEATS_S):
            at = round((beat_s + late_s) * LISTEN_RATE)
            blow = KIT.mono_blow(voice, 100, np.random.default_rng(i))[: round(0.4 * LISTEN_RATE)]
            out[at : at + len(blow)] += 0.5 * blow
    return out.astype(np.float32)


def off_s(sound: np.ndarray, guess_s: float, ranges: tuple, ms: float = 2.5) -> np.ndarray:
    """Where attacks are found from the beats, for a guess that is so late."""
    return attacks_s(sound, BEATS_S + guess_s, np.full(len(BEATS_S), ms), ranges) - BEATS_S


@pytest.mark.parametrize(
    ("drum", "lean_s"),
    [("kick", -0.006), ("kick", 0.006), ("tom_low", -0.006), ("tom_low", 0.006), ("snare", -0.006)],
)
def test_a_hat_with_a_louder_drum_is_where_it_leans(drum: str, lean_s: float) -> None:
    sound = played((drum, 0.0), ("hat_closed", lean_s))
    assert np.abs(off_s(sound, lean_s / 2, METALS) - lean_s).mean() < 0.0015


@pytest.mark.parametrize("drum", ["kick", "snare"])
@pytest.mark.parametrize("lean_s", [-0.005, 0.005])
def test_a_drum_under_a_hat_is_where_it_leans(drum: str, lean_s: float) -> None:
    sound = played(("hat_closed", 0.0), (drum, lean_s))
    assert np.abs(off_s(sound, lean_s / 2, SKINS) - lean_s).mean() < 0.001


def test_hiss_above_what_was_recorded_has_the_hats_looked_for_in_a_lower_range() -> None:
    sound = played(("kick", 0.0), ("hat_closed", 0.006))
    cut = soxr.resample(soxr.resample(sound, LISTEN_RATE, 22050), 22050, LISTEN_RATE)
    hissing = (cut + 0.01 * RNG.standard_normal(len(cut))).astype(np.float32)
    assert off_s(hissing, 0.003, METALS[:2]) == pytest.approx(np.full(8, 0.003))  # nothing stands out up there
    assert np.abs(off_s(hissing, 0.003, METALS) - 0.006).mean() < 0.0015


@pytest.mark.parametrize("level", [0.0, 0.1])
def test_where_nothing_begins_the_moments_stay(level: float) -> None:
    nothing = (level * RNG.standard_normal(5 * LISTEN_RATE)).astype(np.float32)
    assert off_s(nothing, 0.003, METALS) == pytest.approx(np.full(8, 0.003))
    assert len(attacks_s(nothing, np.zeros(0), np.zeros(0), METALS)) == 0


def test_the_edges_of_a_sound_are_silent() -> None:
    sound = played(("snare", 0.0))[: round(0.41 * LISTEN_RATE)]
    found = attacks_s(sound, np.array([0.0, 0.398, 0.41]), np.full(3, 2.5), SKINS)
    assert found[0] >= 0 and found[1] == pytest.approx(0.4, abs=0.002) and np.isfinite(found).all()


def test_a_moment_that_is_surer_moves_less() -> None:
    sound = played(("snare", 0.0))
    near, far = (np.abs(off_s(sound, 0.006, SKINS, ms)).mean() for ms in (0.5, 6.0))
    assert far < 0.001 < near


def test_a_faint_noise_ahead_is_not_taken_for_the_stroke() -> None:
    sound = played(("snare", 0.0), noise=0.0)
    for beat_s in BEATS_S:
        at = round((beat_s - 0.006) * LISTEN_RATE)
        sound[at : at + 300] += 0.004 * RNG.standard_normal(300)
    assert np.abs(off_s(sound, -0.003, SKINS)).mean() < 0.0015


# -- of what is heard -----------------------------------------------------------------------------------------------


def moved_ms(odds: dict[int, float], sound: np.ndarray) -> tuple[np.ndarray, Heard]:
    """Of each voice, by how much a stroke with these odds on each beat is moved, in the middle."""
    heard = heard_of([odds] * len(BEATS_S), ["ride"] * len(BEATS_S))
    found = after_rule(OwnAttacks(), heard, BEATS_S, sound=sound)
    return 1e3 * np.median(found.late_s - heard.late_s, axis=0), found


def test_each_group_goes_to_its_own_attack() -> None:
    moved, found = moved_ms({KICK: 4, HAT: 4}, played(("kick", -0.003), ("hat_closed", 0.004)))
    assert moved[VOICE_INDEX["kick"]] == pytest.approx(-3, abs=1) and moved[VOICE_INDEX["hat_open"]] > 2.5
    assert moved[VOICE_INDEX["snare"]] == 0  # it is not struck
    assert np.array_equal(found.group_odds, heard_of([{KICK: 4, HAT: 4}] * 8, ["ride"] * 8).group_odds)


def test_drums_that_hide_each_other_stay_where_they_were_heard() -> None:
    moved, _ = moved_ms({KICK: 4, SNARE: 4}, played(("kick", -0.004), ("snare", 0.0)))
    assert moved[VOICE_INDEX["kick"]] == moved[VOICE_INDEX["snare"]] == 0
    moved, _ = moved_ms({HAT: 4, CYMBALS: 4, KICK: 4}, played(("kick", 0.0), ("hat_closed", 0.004), ("ride", 0.0)))
    assert moved[VOICE_INDEX["hat_closed"]] == moved[VOICE_INDEX["ride"]] == 0 < abs(moved[VOICE_INDEX["kick"]])


def test_a_cymbal_is_moved_under_other_drums_only() -> None:
    sound = played(("ride", 0.004))
    assert moved_ms({CYMBALS: 4}, sound)[0][VOICE_INDEX["ride"]] == 0
    assert moved_ms({CYMBALS: 4, KICK: 4}, sound)[0][VOICE_INDEX["ride"]] > 2


def test_a_hat_alone_may_be_farther_off_than_one_with_others(monkeypatch: pytest.MonkeyPatch) -> None:
    seen: list[float] = []

    def looked(sound: np.ndarray, guess_s: np.ndarray, off_ms: np.ndarray, ranges: tuple) -> np.ndarray:
        seen.extend(off_ms)
        return guess_s

    monkeypatch.setattr(own_attacks, "attacks_s", looked)
    odds = [{HAT: 4.0}, {HAT: 4.0, KICK: 4.0}, {CYMBALS: 4.0, KICK: 4.0}]
    after_rule(OwnAttacks(), heard_of(odds, ["ride"] * 3), BEATS_S[:3], sound=played(("snare", 0.0)))
    assert seen == [2.5, 2.5, 6.0, 2.5, 2.5]  # two kicks, two hats, a cymbal


def test_what_is_not_offered_is_not_looked_for() -> None:
    assert moved_ms({SNARE: -2}, played(("snare", 0.004)))[0][VOICE_INDEX["snare"]] == 0
    assert moved_ms({SNARE: -0.8}, played(("snare", 0.004)))[0][VOICE_INDEX["snare"]] > 2
