from dataclasses import FrozenInstanceError, replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import swings

from ghoststep.music.errors import GhostStepError, InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.frame import Bars
from ghoststep.music.kit import GROUP_MEMBERS, LANE_OF_VOICE, LANES, LIMB_LETTERS, STROKES, VOICES, voice, voices_of
from ghoststep.music.pattern import Hit, Pattern, hit
from ghoststep.music.performance import Performance
from ghoststep.music.touch import ROLE_VELOCITY, ROLES, Role, level_db, role_of, velocity_of_level


@pytest.mark.parametrize("row", VOICES, ids=lambda v: v.name)
def test_every_voice_has_a_lane_a_limb_and_known_chokers(row: object) -> None:
    v = row
    assert voice(v.name) is v and v.limb in LIMB_LETTERS and v.name in LANES[LANE_OF_VOICE[v.name]].voices
    assert all(voice(c) for c in v.choked_by)
    assert v.name in GROUP_MEMBERS[v.group]


def test_groups_and_strokes_fit_together() -> None:
    assert all(set(s.voices) <= {v.name for v in VOICES} for s in STROKES)
    assert voices_of("hat_open") == ("hat_open",) and "hat_pedal" not in voices_of("hat_closed")
    # A word that names a voice and a group means the voice alone.
    assert voices_of("snare") == ("snare",) and GROUP_MEMBERS["snare"] == ("cross_stick", "snare")


def test_unknown_names_are_refused_with_the_known_ones() -> None:
    with pytest.raises(InputError, match="kick"):
        voice("gong")
    with pytest.raises(InputError, match="cymbals"):
        voices_of("gongs")
    assert issubclass(InputError, GhostStepError) and issubclass(InputError, ValueError)


def test_roles_are_told_by_velocity_and_keep_their_order() -> None:
    assert [role_of(v) for v in (1, 45, 46, 95, 96, 127)] == [
        Role.GHOST,
        Role.GHOST,
        Role.NORMAL,
        Role.NORMAL,
        Role.ACCENT,
        Role.ACCENT,
    ]
    assert all(role_of(ROLE_VELOCITY[spec.role]) is spec.role for spec in ROLES)


@given(st.floats(1, 127))
def test_level_and_back(velocity: float) -> None:
    assert float(velocity_of_level(level_db(velocity))) == pytest.approx(velocity)


def test_full_velocity_is_0_db_and_half_is_12_db_down() -> None:
    assert float(level_db(127)) == 0 and float(level_db(63.5)) == pytest.approx(-12.04, abs=0.01)


@pytest.mark.parametrize(
    ("field", "value"),
    [
        ("velocity", 0),
        ("velocity", 128),
        ("position_ticks", -1),
        ("voice", "gong"),
        ("stroke", "kiss"),
        ("limb", "X"),
        ("offset_ms", 2001.0),
        ("offset_ms", float("nan")),
    ],
)
def test_impossible_hits_are_refused(field: str, value: object) -> None:
    good = hit(0, "snare", 64)
    with pytest.raises(InputError):
        replace(good, **{field: value})


def test_hits_are_ordered_and_stay_inside_the_pattern() -> None:
    late, early = hit(40000, "kick", 90), hit(0, "snare", 30)
    pattern = Pattern((late, early))
    assert pattern.hits == (early, late) and pattern.voices == ("snare", "kick")
    assert pattern.at(0, "snare") is early and pattern.at(0, "kick") is None
    with pytest.raises(InputError, match="bar 2"):
        Pattern((hit(4 * 20160, "kick", 90),))
    with pytest.raises(InputError, match="bars"):
        Pattern(bars=0)


def test_values_cannot_be_changed() -> None:
    with pytest.raises((FrozenInstanceError, AttributeError)):
        hit(0, "kick", 90).velocity = 3  # type: ignore[misc]
    performance = Performance.of([0.0], [0], [90], length_s=1)
    with pytest.raises(ValueError, match="read-only"):
        performance.onset_s[0] = 2


@pytest.mark.parametrize(
    ("onset", "voices", "velocity"),
    [
        ([0.0, 1.0], [0], [90]),
        ([np.nan], [0], [90]),
        ([0.0], [len(VOICES)], [90]),
        ([0.0], [0], [0]),
        ([0.0], [0], [200]),
    ],
)
def test_impossible_performances_are_refused(onset: list[float], voices: list[int], velocity: list[int]) -> None:
    with pytest.raises(InputError):
        Performance.of(onset, voices, velocity, length_s=1)


@given(swings, st.lists(st.integers(0, 128), min_size=2, max_size=20))
def test_swing_keeps_order_and_pairs(swing: Swing, places: list[int]) -> None:
    ticks = np.sort(places) * 4 * 20160 // swing.unit // 4  # on the swung lattice and its binary parts
    bent = swing.bend(ticks, Bars())
    assert (np.diff(bent) >= 0).all()
    pair = 2 * 4 * 20160 // swing.unit
    assert float(swing.bend(5 * pair, Bars())) == 5 * pair


def test_a_swing_is_read_as_a_share_or_in_percent() -> None:
    assert Swing.parse("16:0.57") == Swing.parse("16:57%") == Swing(16, 0.57)


def test_the_off_note_is_late_by_the_formula() -> None:
    unit = 20160 // 4
    assert float(Swing(16, 0.57).bend(unit, Bars())) - unit == pytest.approx((2 * 0.57 - 1) * unit)
    assert float(Swing(8, 2 / 3).bend(20160 // 2, Bars())) == pytest.approx(20160 * 2 / 3)


@pytest.mark.parametrize("text", ["", "16", "16:", "4:0.6", "16:0.9", "16:0.4", "16:x"])
def test_bad_swings_are_refused(text: str) -> None:
    with pytest.raises(InputError):
        Swing.parse(text)
    assert Swing.parse("8:67%") == Swing(8, 0.67)


def test_a_lean_of_a_group_holds_for_its_voices() -> None:
    feel = Feel(lean_ms={"hat": -4.0, "kick": 0.0})
    assert feel.lean_of("hat_open") == feel.lean_of("hat_pedal") == -4
    assert "kick" not in feel.lean_ms and hash(feel) == hash(Feel(lean_ms={"hat": -4.0}))
    for bad in ({"lean_ms": {"kick": 300.0}}, {"loose_ms": -1.0}, {"take": -1}, {"lean_ms": {"gong": 1.0}}):
        with pytest.raises(InputError):
            Feel(**bad)


def test_a_voice_overrides_its_group_and_leans_survive_a_round() -> None:
    feel = Feel(lean_ms={"cross_stick": 0.0, "snare": 9.0})
    assert feel.lean_of("snare") == 9 and feel.lean_of("cross_stick") == 0
    assert Feel(lean_ms=feel.lean_ms) == feel


def test_grace_and_role_stay_with_a_hit() -> None:
    grace = Hit(0, "snare", 40, Role.GHOST, grace=True)
    assert Pattern((grace,)).at(0, "snare") is None
