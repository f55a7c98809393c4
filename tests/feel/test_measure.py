"""A player is measured in what was played: swing, leans, spots, looseness and touch come back as they were put in."""

from dataclasses import replace

import numpy as np
import pytest

from ghoststep.feel.measure import measured, shrunk
from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.explain import explain
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.player import Spacing, SpotFeel, Touch, Wander
from ghoststep.music.touch import Role

BAR, BACKBEAT = 80640, 60480
LANES = {
    "hat_closed": ["x-x-x-x-x-x-x-xx"] * 8,
    "snare": ["----X--o-o--X--o", "----X--o-o--X---"] * 4,
    "kick": ["X------x--X-----"] * 8,
}
TEXT = "tempo 100\n" + "\n".join(f"{name} {' | '.join(bars)}" for name, bars in LANES.items())
SPOTS = (SpotFeel("snare", BAR, BACKBEAT, 5.0, (0, 0, 118)), SpotFeel("hat_closed", BAR, 10080, -4.0, (0, 60, 0)))
PLAYER = Feel(Swing(16, 0.56), {"snare": 9, "hat_closed": -3}, spots=SPOTS)


def played(feel: Feel, text: str = TEXT) -> Groove:
    return parse_grid(text).changed(feel=feel)


def test_a_steady_player_is_measured_exactly() -> None:
    found = measured(played(PLAYER)).feel
    frame = played(PLAYER).pattern.frame
    assert found.swing.unit == 16 and found.swing.ratio == pytest.approx(
        0.56, abs=4e-3
    )  # a spot that leans pulls at it a little
    assert found.loose_ms == pytest.approx(0, abs=1e-3) and not found.swings
    assert found.late_of("snare", BACKBEAT, frame) == pytest.approx(14, abs=0.01)
    assert found.late_of("snare", 20160, frame) == pytest.approx(9, abs=0.01)
    assert found.late_of("hat_closed", 10080, frame) == pytest.approx(-7, abs=0.01)
    assert found.spot_table["snare", BAR, BACKBEAT].levels == pytest.approx((0, 0, 118))
    assert found.spot_table["hat_closed", BAR, 10080].levels[1] == pytest.approx(60)


def test_through_its_performance_a_loose_player_is_found_again() -> None:
    errors = []
    for take in range(8):
        groove = played(replace(PLAYER, loose_ms=5.0, take=take))
        found = explain(perform(groove))
        now = measured(found.groove).feel
        frame = groove.pattern.frame
        assert [(h.position_ticks, h.voice) for h in found.groove.pattern.hits] == [
            (h.position_ticks, h.voice) for h in groove.pattern.hits
        ]
        spots = (
            (now.late_of(v, t, frame) - PLAYER.late_of(v, t, frame)) for v, t in (("snare", BACKBEAT), ("kick", 0))
        )
        errors.append([abs(now.swing.ratio - 0.56), *map(abs, spots), abs(now.loose_ms / 5 - 1)])
    swing, backbeat, kick, loose = np.median(errors, axis=0)
    assert swing < 0.005 and backbeat < 2.5 and kick < 2 and loose < 0.2


def test_a_voice_may_swing_otherwise() -> None:
    found = measured(played(replace(PLAYER, swings={"hat_closed": Swing(16, 0.62)}))).feel
    assert found.swing_of("snare").ratio == pytest.approx(0.56, abs=0.02)
    assert found.swing_of("hat_closed").ratio == pytest.approx(0.62, abs=0.005)


def test_straight_is_told_as_straight() -> None:
    assert measured(played(Feel(lean_ms={"snare": 12}, loose_ms=4))).feel.swing.straight
    eighths = measured(played(Feel(Swing(8, 2 / 3)))).feel.swing
    assert eighths.unit == 8 and eighths.ratio == pytest.approx(2 / 3, abs=1e-3)


def test_limbs_exponent_and_force_are_measured() -> None:
    text = "tempo 120\n" + "\n".join(f"{name} {' | '.join(bars * 25)}" for name, bars in LANES.items())
    wander = Wander(exponent=0.7, shared=0.5, softer=0.6, velocity=6)
    found = measured(played(Feel(loose_ms=6, wander=wander), text))
    assert found.exponent == pytest.approx(0.7, abs=0.25) and found.shared == pytest.approx(0.5, abs=0.12)
    assert found.feel.wander.velocity == pytest.approx(6, rel=0.2)
    assert found.feel.wander.softer == pytest.approx(0.6, abs=0.25)
    assert found.counts["hat_closed"] == 9 * 200 and set(found.loose_ms) == set(LANES)


def test_what_chance_could_have_done_is_pulled_towards_the_voice() -> None:
    dice = np.random.default_rng(2)
    noise = {("snare", BAR, t): dice.normal(0, 5, 4) for t in range(0, 40320, 5040)}
    pulled = shrunk(noise)
    assert all(abs(pulled[k]) <= abs(v.mean()) + 1e-9 for k, v in noise.items())
    assert sum(abs(v) for v in pulled.values()) < 0.85 * sum(abs(v.mean()) for v in noise.values())
    habit = {("snare", BAR, 0): np.array([20.0, 20.5, 19.5]), ("snare", BAR, 5040): np.array([-20.0, -20.5, -19.5])}
    assert shrunk(habit)["snare", BAR, 0] == pytest.approx(20, abs=0.1)
    assert shrunk({("kick", BAR, 0): np.array([3.0, 3.0])}) == {("kick", BAR, 0): 0.0}


def test_grace_notes_tell_their_distance() -> None:
    text = "tempo 100\nsnare " + " | ".join(["----X-------X---"] * 4)
    groove = parse_grid(text)
    hits = tuple(replace(h, ornament="flam") for h in groove.pattern.hits)
    spaced = Spacing(flam_ms=35, spread_ms=2)
    found = measured(groove.changed(hits=hits, feel=Feel(spacing=spaced))).feel.spacing
    assert found.flam_ms == pytest.approx(35, abs=3) and 0.5 < found.spread_ms < 4 and not found.drag_ms


def test_there_has_to_be_a_stroke() -> None:
    with pytest.raises(InputError, match="no stroke"):
        measured(Groove())


def test_touch_softens_seconds_and_the_weaker_hand_and_keeps_order() -> None:
    groove = parse_grid("tempo 80\nsnare/32 xxxx----xxxx--------------------")
    hits = tuple(replace(h, limb="RRLL"[i % 4]) for i, h in enumerate(groove.pattern.hits))
    doubles = perform(groove.changed(hits=hits, feel=Feel(touch=Touch(second=0.8)))).velocity.tolist()
    assert doubles == [72, 58] * 4
    weak = perform(groove.changed(hits=hits, feel=Feel(touch=Touch(weaker=0.9)))).velocity.tolist()
    assert weak == [72, 72, 65, 65] * 2
    levels = Touch((("snare", Role.NORMAL, 90.0),), share=0.5)
    assert perform(groove.changed(feel=Feel(touch=levels))).velocity.tolist() == [81] * 8
