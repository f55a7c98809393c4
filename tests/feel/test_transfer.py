"""One player's feel on another part: exact where the parts are alike, by likeness elsewhere, and told."""

from dataclasses import replace
from functools import lru_cache

import numpy as np
import pytest
from hypothesis import given, settings
from tests.feel.test_measure import BACKBEAT, BAR, PLAYER, TEXT, played
from tests.strategies import whole_grooves

from ghoststep.feel.blend import blended, with_voices_of
from ghoststep.feel.measure import measured, strokes_of
from ghoststep.feel.perform import perform
from ghoststep.feel.transfer import laid_on, weight_of
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.player import SpotFeel, Wander

OTHER = "tempo 92\n" + "\n".join((
    "hat_closed " + " | ".join(["x-x-x-x-x-x-x-x-", "x-x-x-x-x-x-x-xx"] * 2),
    "snare " + " | ".join(["----X--o----X---"] * 4),
    "kick " + " | ".join(["X---------X-----", "X------x--X-----"] * 2),
))  # fmt: skip
SOURCE = replace(PLAYER, loose_ms=4.0, wander=Wander(velocity=5))


def means(groove: Groove) -> dict[tuple[str, int], tuple[float, float]]:
    """Mean deviation from the straight grid in ms and mean velocity, by voice and spot."""
    heard = strokes_of(groove)
    rows: dict[tuple[str, int], list[tuple[float, float]]] = {}
    for (name, _, at), ms, velocity in zip(heard.keys, heard.late_ms, heard.velocity, strict=True):
        rows.setdefault((name, at), []).append((ms, velocity))
    return {key: tuple(np.mean(row, axis=0)) for key, row in rows.items()}


def laid(groove: Groove, **how: float) -> Groove:
    return groove.changed(feel=laid_on(measured(played(SOURCE)).feel, groove, **how)[0])


def test_at_the_whole_the_part_is_played_as_the_player_plays() -> None:
    source, other = means(played(SOURCE)), laid(parse_grid(OTHER))
    steady = means(other.changed(feel=replace(other.feel, loose_ms=0.0, wander=Wander())))
    # Steps of 92 BPM are longer than those of 100: what swing makes of them is longer too.
    longer = 0.12 * 60000 / 4 * (1 / 92 - 1 / 100)
    for (name, at), (ms, velocity) in steady.items():
        theirs = source[name, at]
        assert ms - theirs[0] - longer * (at // 5040 % 2) == pytest.approx(0, abs=1.0), (name, at)
        assert velocity == pytest.approx(theirs[1], abs=3), (name, at)


def test_at_nothing_it_is_unchanged_and_halfway_it_is_half() -> None:
    other = parse_grid("swing 16 0.52\nlean snare -4\nloose 2\n" + OTHER)
    assert laid(other, touch=0.0, time=0.0) == other
    own, half, whole = means(other), *(means(laid(other, touch=t, time=t)) for t in (0.5, 1.0))
    loose = laid(other, touch=0.5, time=0.5).feel.loose_ms
    assert loose == pytest.approx((2 + laid(other).feel.loose_ms) / 2)
    for key, (ms, velocity) in half.items():
        assert velocity == pytest.approx((own[key][1] + whole[key][1]) / 2, abs=4)
        assert ms == pytest.approx((own[key][0] + whole[key][0]) / 2, abs=5)  # looser than the means


def test_touch_and_time_go_apart() -> None:
    other = parse_grid(OTHER)
    touched, timed = laid(other, time=0.0), laid(other, touch=0.0)
    assert np.array_equal(perform(touched).onset_s, perform(other).onset_s)
    assert not np.array_equal(perform(touched).velocity, perform(other).velocity)
    assert np.array_equal(perform(timed).velocity, perform(other).velocity)
    assert not np.array_equal(perform(timed).onset_s, perform(other).onset_s)


def test_only_the_voices_that_are_chosen_change() -> None:
    other = parse_grid("swing 16 0.54\n" + OTHER)
    after = other.changed(feel=laid_on(measured(played(PLAYER)).feel, other, voices=["snare"])[0])
    before, now = perform(other), perform(after)
    same = np.array([h.voice != "snare" for h in other.pattern.hits])
    assert np.allclose(now.onset_s[same], before.onset_s[same]) and (now.velocity[same] == before.velocity[same]).all()
    assert not np.allclose(now.onset_s[~same], before.onset_s[~same])


def test_a_ride_takes_after_the_hats_and_that_is_told() -> None:
    other = parse_grid(OTHER.replace("hat_closed", "ride"))
    feel, words = laid_on(measured(played(PLAYER)).feel, other)
    assert "Ride takes after hat closed." in words
    assert feel.late_of("ride", 10080, other.pattern.frame) == pytest.approx(-7, abs=0.1)


def test_in_another_meter_it_goes_by_the_place_in_the_beat() -> None:
    other = parse_grid("meter 3/4\nsnare ----X-------\nhat_closed x-x-x-x-x-x-\nkick X---------x-")
    feel, words = laid_on(measured(played(PLAYER)).feel, other)
    assert any("by place in the beat" in w for w in words)
    # The snare's strokes on beats: one of 9 ms and one of 14 ms late.
    assert feel.late_of("snare", 20160, other.pattern.frame) == pytest.approx(11.5, abs=0.1)


def test_finer_notes_than_the_source_has_are_told() -> None:
    other = parse_grid("hat_closed/32 " + "x" * 32)
    _, words = laid_on(measured(played(PLAYER)).feel, other)
    assert "No 32nds in the source: those stay even." in words


def test_own_deviations_go_as_the_new_player_comes() -> None:
    other = parse_grid(OTHER)
    bent = other.changed(hits=tuple(replace(h, offset_ms=20.0) for h in other.pattern.hits))
    assert np.allclose(perform(laid(bent)).onset_s, perform(laid(other)).onset_s)
    assert laid(bent, time=0.5).feel.own_share == 0.5


@pytest.mark.parametrize(
    ("at", "weight"), [(0, 0), (20160, 1), (10080, 2), (5040, 3), (6720, 4), (2520, 5), (3360, 6), (7, 7)]
)
def test_the_weight_of_spots(at: int, weight: int) -> None:
    assert weight_of(at) == weight


@lru_cache
def source_feel() -> Feel:
    return measured(played(SOURCE)).feel


@settings(max_examples=40)
@given(whole_grooves)
def test_any_feel_can_be_laid_on_any_part(groove: Groove) -> None:
    feel, words = laid_on(source_feel(), groove, touch=1.5, time=1.5)
    after = groove.changed(feel=feel)
    assert words or not groove.pattern.hits
    assert len(perform(after)) == len(perform(groove))


def test_between_two_feels() -> None:
    a, b = measured(played(PLAYER)).feel, Feel(Swing(16, 0.5), {"snare": -7}, 6.0)
    middle = blended(a, b, 0.5)
    assert middle.swing.ratio == pytest.approx(0.53, abs=2e-3) and middle.loose_ms == pytest.approx(3, abs=0.01)
    frame = parse_grid(TEXT).pattern.frame
    assert middle.late_of("snare", BACKBEAT, frame) == pytest.approx((14 - 7) / 2, abs=0.01)
    assert middle.spot_table["snare", BAR, BACKBEAT].levels == pytest.approx((0, 0, 118))  # only one says how hard
    assert blended(a, b, 0.0).lean_ms == a.lean_ms and blended(a, b, 1.0).swing == b.swing
    eighths = blended(Feel(Swing(8, 0.66)), Feel(Swing(16, 0.58)), 0.75)
    assert eighths.swing.unit == 16 and eighths.swing.ratio == pytest.approx(0.54)


def test_a_voice_may_come_from_another() -> None:
    a, b = measured(played(PLAYER)).feel, Feel(Swing(16, 0.5), {"snare": -7, "kick": 3})
    mixed = with_voices_of(a, b, ["snare"])
    assert mixed.lean_of("snare") == -7 and mixed.lean_of("kick") == a.lean_of("kick")
    assert mixed.swing_of("snare").straight and mixed.swing_of("hat_closed") == a.swing
    assert not [s for s in mixed.spots if s.voice == "snare"]
    assert isinstance(mixed.spots[0], SpotFeel)
