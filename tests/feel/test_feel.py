from dataclasses import replace

import numpy as np
from hypothesis import given
from tests.strategies import grooves

from ghoststep.feel.perform import feel_times_s, perform
from ghoststep.feel.swing_advice import usual_swing_ratio
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove


@given(grooves)
def test_a_performance_is_the_pattern_in_time(groove: Groove) -> None:
    played = perform(groove)
    hits = groove.pattern.hits
    assert len(played) == len(hits) and played.velocity.tolist() == [h.velocity for h in hits]
    own = np.array([h.offset_ms for h in hits]) / 1000
    assert np.allclose(played.onset_s - (feel_times_s(groove) if hits else []), own)


def test_without_feel_a_grid_is_dead_on(grid_text: str) -> None:
    groove = parse_grid(grid_text)
    sixteenth = 60 / 96 / 4
    steps = perform(groove).onset_s / sixteenth
    assert np.abs(steps - np.rint(steps)).max() < 1e-12


def test_swing_and_lean_add_up(grid_text: str) -> None:
    straight = parse_grid(grid_text)
    leaning = straight.changed(feel=Feel(Swing(16, 0.57), {"snare": 12.0}))
    late = 1000 * (perform(leaning).onset_s - perform(straight).onset_s)
    off = np.array([h.position_ticks // 5040 % 2 for h in straight.pattern.hits])
    snare = np.array([h.voice == "snare" for h in straight.pattern.hits])
    assert np.allclose(late, 12 * snare + off * 0.14 * 60000 / 96 / 4)


def test_a_take_is_repeatable_and_takes_differ(grid_text: str) -> None:
    groove = parse_grid(grid_text)

    def take(number: int) -> np.ndarray:
        return perform(groove.changed(feel=Feel(loose_ms=5, take=number))).onset_s

    assert np.array_equal(take(3), take(3)) and not np.allclose(take(3), take(4))


def test_swing_narrows_with_tempo() -> None:
    ratios = [usual_swing_ratio(bpm) for bpm in (60, 120, 200, 300, 400)]
    assert ratios == sorted(ratios, reverse=True) and ratios[-2:] == [0.5, 0.5] and ratios[0] == 0.75


def test_a_held_hit_never_ends_before_it_begins() -> None:
    """A hit that is played late, and held for less than that, is struck all the same."""
    groove = parse_grid("tempo 120\nhat_open o-------o-------\nkick X---------------")
    late = tuple(
        replace(h, offset_ms=90.0, length_ticks=60) if h.voice == "hat_open" else h for h in groove.pattern.hits
    )
    played = perform(groove.changed(hits=late))
    held = np.isfinite(played.stop_s)
    assert held.sum() == 2 and (played.stop_s[held] >= played.onset_s[held]).all()
