"""How strokes stray: the spread, the spectrum and the limbs' correlation that are set are those that come out."""

from dataclasses import replace

import numpy as np
import pytest

from ghoststep.feel.fluctuation import exponent
from ghoststep.feel.looseness import Pass, Strokes, tempo_drift_s, time_deviations_ms, velocity_deviations, waves
from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.feel import Feel
from ghoststep.music.player import Wander

HATS = 5000
EVEN_S = np.arange(HATS) * 0.15


def strokes(times_s: np.ndarray = EVEN_S, limbs: str = "R", velocity: float = 72.0) -> Strokes:
    letters = [limbs[i % len(limbs)] for i in range(len(times_s))]
    return Strokes(times_s, letters, np.full(len(times_s), velocity))


def one(take: int = 1, number: int = 0, length_s: float = 0.15 * HATS) -> Pass:
    return Pass(length_s, number, (0, take))


@pytest.mark.parametrize("b", [0.2, 0.5, 1.0, 1.3])
def test_spread_and_exponent_are_what_is_set(b: float) -> None:
    for take in (1, 2):
        ms = time_deviations_ms(strokes(), one(take), Wander(exponent=b), 5.0)
        assert ms.std() == pytest.approx(5, rel=0.05) and abs(ms.mean()) < 0.2
        assert exponent(ms) == pytest.approx(b, abs=0.15)


def test_the_exponent_comes_out_whatever_is_thrown() -> None:
    off = [
        abs(exponent(time_deviations_ms(strokes(), one(take), Wander(exponent=1.3), 5.0)) - 1.3) for take in range(10)
    ]
    assert max(off) < 0.15  # 0.17 where the waves are not scaled one by one


def test_an_exponent_is_told_by_dice_and_by_their_sum() -> None:
    dice = np.random.default_rng(3).standard_normal(4000)
    assert exponent(dice) == pytest.approx(0, abs=0.1) and exponent(np.cumsum(dice)) == pytest.approx(2, abs=0.2)
    with pytest.raises(ValueError, match="too few"):
        exponent(dice[:499])


@pytest.mark.parametrize("shared", [0.0, 0.3, 0.64, 0.9, 1.0])
def test_limbs_have_in_common_what_is_set(shared: float) -> None:
    both = np.repeat(EVEN_S[:2500] * 2, 2)
    ms = time_deviations_ms(strokes(both, "RK"), one(), Wander(shared=shared), 5.0)
    assert np.corrcoef(ms[::2], ms[1::2])[0, 1] == pytest.approx(shared, abs=0.05)


def test_softer_strokes_are_looser_as_set() -> None:
    wander = Wander(softer=0.5)
    soft, hard = (time_deviations_ms(strokes(velocity=v), one(), wander, 4.0).std() for v in (36.0, 72.0))
    assert soft / hard == pytest.approx(1 + 0.5 * 0.5)


def test_where_limbs_strike_together_they_are_tighter_as_set() -> None:
    times = np.sort(np.concatenate([np.arange(400) * 0.3, np.arange(200) * 0.6]))
    limbs = ["K" if i and times[i] == times[i - 1] else "R" for i in range(len(times))]
    known = Strokes(times, limbs, np.full(len(times), 72.0))
    loose, tight = (time_deviations_ms(known, one(), Wander(together=t), 5.0) for t in (1.0, 0.5))
    joined = np.isin(times, np.arange(200) * 0.6)
    assert np.allclose(tight[joined], 0.5 * loose[joined]) and np.array_equal(tight[~joined], loose[~joined])


def test_velocities_wander_by_themselves() -> None:
    wander = Wander(velocity=6)
    force, time = velocity_deviations(strokes(), one(), wander), time_deviations_ms(strokes(), one(), wander, 5.0)
    assert force.std() == pytest.approx(6, rel=0.05) and abs(np.corrcoef(force, time)[0, 1]) < 0.3
    assert not velocity_deviations(strokes(), one(), Wander()).any()


def test_no_two_passes_are_alike_but_for_a_frozen_take() -> None:
    groove = parse_grid("tempo 96\nloose 5\nhat_closed " + " | ".join(["xxxxxxxxxxxxxxxx"] * 4))
    passes = np.array([perform(groove, n).onset_s for n in range(40)])
    assert len({tuple(p) for p in passes}) == 40
    between, within = passes.std(axis=0).mean(), (passes - perform(parse_grid(groove_text())).onset_s).std()
    assert between == pytest.approx(5e-3, rel=0.2) and within == pytest.approx(5e-3, rel=0.1)
    frozen = groove.changed(feel=replace(groove.feel, frozen=True))
    assert np.array_equal(perform(frozen, 7).onset_s, perform(frozen).onset_s)
    assert np.array_equal(perform(groove, 3).onset_s, perform(groove, 3).onset_s)


def groove_text() -> str:
    return "tempo 96\nhat_closed " + " | ".join(["xxxxxxxxxxxxxxxx"] * 4)


def test_another_player_throws_other_dice() -> None:
    groove = parse_grid(groove_text()).changed(feel=Feel(loose_ms=5))
    other = groove.changed(feel=Feel(loose_ms=5, seed=1))
    assert not np.allclose(perform(groove).onset_s, perform(other).onset_s)


def test_a_hit_put_in_moves_no_other() -> None:
    groove = parse_grid("loose 6\nsnare ----X-------X---\nkick X-------X-------")
    more = parse_grid("loose 6\nsnare ----X--o----X---\nkick X-------X-------\nhat_open --x-------------")
    had = {(h.position_ticks, h.voice): t for h, t in zip(more.pattern.hits, perform(more).onset_s, strict=True)}
    for h, t in zip(groove.pattern.hits, perform(groove).onset_s, strict=True):
        assert had[h.position_ticks, h.voice] == pytest.approx(t, abs=1e-12)


def test_the_tempo_drifts_by_what_is_set_and_comes_back() -> None:
    starts = np.arange(65) * 2.0
    away = tempo_drift_s(starts, starts, one(length_s=128), Wander(tempo_percent=1.0))
    assert away[0] == pytest.approx(0) and away[-1] == pytest.approx(0, abs=1e-9)
    tempo = 2.0 / (2.0 + np.diff(away))
    assert 100 * tempo.std() == pytest.approx(1.0, rel=0.35)


def test_a_player_pushes_into_the_end_of_a_phrase_and_settles() -> None:
    starts, times = np.arange(9) * 2.0, np.linspace(0, 16, 161)
    away = tempo_drift_s(starts, times, one(length_s=16), Wander(push_percent=2.0, phrase_bars=4))
    assert away[times <= 6].max() == 0 and away[np.argmin(np.abs(times - 7.9))] == pytest.approx(-0.02 * 0.9, abs=2e-3)
    assert away[times >= 10].min() == 0  # a bar later all is as written
    slow = tempo_drift_s(starts, times, one(length_s=16), Wander(push_percent=-2.0))
    assert np.allclose(slow, -away)


def test_waves_have_nothing_in_common() -> None:
    found = waves(np.linspace(0, 60, 4000, endpoint=False), one(length_s=60), 1.3, range(5))
    assert np.abs(np.corrcoef(found) - np.eye(5)).max() < 0.06
