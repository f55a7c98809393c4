"""Time lines that drift, passages on other grids, and pulses carried through minutes."""

import numpy as np
import pytest

from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.explain import Hints, explain
from ghoststep.listen.fit.line import Line, smoothed
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit
from ghoststep.music.performance import Performance
from ghoststep.music.time import TICKS_PER_QUARTER, TempoMap

BAR = 4 * TICKS_PER_QUARTER
ROCK = """
    tempo 104
    hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
    snare       ----X--o----X--o | ----X--o-o--X---
    kick        X------x--X----- | X------x--X---x-
"""


def repeated(text: str, times: int) -> Groove:
    base = parse_grid(text)
    length = base.pattern.length_ticks
    hits = tuple(
        Hit(h.position_ticks + i * length, h.voice, h.velocity, h.role) for i in range(times) for h in base.pattern.hits
    )
    return base.changed(hits=hits, bars=base.pattern.bars * times)


def played(groove: Groove, *, start_s: float = 0.3, loose_s: float = 0.0, seed: int = 1) -> Performance:
    p = perform(groove)
    noise = np.random.default_rng(seed).normal(0, loose_s, len(p))
    return Performance(p.onset_s + start_s + noise, p.voice, p.velocity, p.stroke, p.length_s + 1)


def spots(groove: Groove) -> list[tuple[int, str]]:
    return sorted((h.position_ticks, h.voice) for h in groove.pattern.hits)


def test_a_line_goes_both_ways_and_on_outside_its_anchors() -> None:
    line = Line.curved((0.5, 0.6, 0.002), 0, 16)
    q = np.linspace(-3, 20, 50)
    assert line.quarters(line.seconds(q)) == pytest.approx(q)
    assert line.seconds(4.0) == pytest.approx(0.5 + 4 * 0.6 + 16 * 0.002)
    assert line.pace_s(30.0) == pytest.approx(line.pace_s(40.0))


def test_noise_bends_no_line_and_a_wandering_tempo_does() -> None:
    rng = np.random.default_rng(3)
    q = np.repeat(np.arange(0, 64, 0.5), 2)
    line = Line.curved((0.0, 0.5, 0.0), 0, 64)
    noise = rng.normal(0, 0.006, len(q))
    assert smoothed(line, q, noise, bar_q=4) is line
    drift = 0.05 * np.sin(q / 12)
    bent = smoothed(line, q, noise + drift, bar_q=4)
    left = bent.seconds(q) - line.seconds(q) - drift
    assert np.abs(left - left.mean()).max() < 0.012


def test_three_minutes_of_wandering_tempo_are_followed_to_the_end() -> None:
    groove = repeated(ROCK, 40)
    bars = groove.pattern.bars
    bpm = 104 + 9 * np.sin(np.arange(bars) / 9) + np.linspace(0, 6, bars)
    tempo = TempoMap(tuple(i * BAR for i in range(bars)), tuple(float(b) for b in bpm))
    explained = explain(played(groove.changed(tempo=tempo), loose_s=0.005))
    assert explained.groove.pattern.meter == Meter(4, 4) and explained.lost_s is None
    assert spots(explained.groove) == spots(groove)
    found = np.array(explained.groove.tempo.bpm)
    assert np.corrcoef(found[: len(bpm)], bpm[: len(found)])[0, 1] > 0.97


def test_a_new_tempo_in_the_middle_is_told() -> None:
    one, two = played(repeated(ROCK, 12)), played(repeated(ROCK.replace("104", "171"), 12))
    at = one.length_s
    both = Performance.of(
        np.concatenate([one.onset_s, two.onset_s + at]),
        np.concatenate([one.voice, two.voice]),
        np.concatenate([one.velocity, two.velocity]),
        length_s=at + two.length_s,
    )
    explained = explain(both)
    assert explained.lost_s is not None and abs(explained.lost_s - at) < 15


def test_a_beat_of_triplets_in_a_straight_bar_stays_triplets() -> None:
    text = """
    tempo 96
    hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-----
    snare       ----X-------X--- | ----X-------X--- | ----X-----------
    kick        X-----x-X------- | X-----x-X------- | X-----x-X-------
    tom_mid/12  ------------ | ------------ | ---------xxx
    """
    groove = parse_grid(text)
    explained = explain(played(groove, loose_s=0.003))
    assert spots(explained.groove) == spots(groove)
    last = explained.passages[-1]
    assert last.grid == 12 and last.start_ticks == 2 * BAR + 3 * TICKS_PER_QUARTER
    assert explained.passages[0].grid == 16


def test_beat_one_can_be_told() -> None:
    groove = repeated(ROCK, 2)
    performance = played(groove)
    quarter = 60 / 104
    told = explain(performance, Hints(downbeat_s=0.3 + 2 * quarter))
    lines = (told.start_s - 0.3) / quarter
    assert abs(lines - round(lines)) < 0.05 and round(lines) % 4 == 2


@pytest.mark.parametrize("straight", [True, False])
def test_straight_or_swung_can_be_told(straight: bool) -> None:
    explained = explain(played(repeated(ROCK, 2)), Hints(straight=straight))
    assert explained.swing.straight is straight


def test_a_loop_that_is_a_whole_number_of_bars_is_believed() -> None:
    """Half a bar of an even pulse could be 3/4 as well; the length of the file decides."""
    groove = parse_grid(
        "tempo 120\nmeter 4/4\nhat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-\nkick X--------------- | X---------------"
    )
    p = perform(groove)
    explained = explain(Performance(p.onset_s, p.voice, p.velocity, p.stroke, groove.length_s))
    assert explained.groove.pattern.meter == Meter(4, 4) and explained.groove.pattern.bars == 2


def test_a_told_spot_holds() -> None:
    groove = repeated(ROCK, 2)
    performance = played(groove)
    meant = np.full(len(performance), np.nan)
    late = int(np.argmin(np.abs(performance.onset_s - (0.3 + 1.0 * 60 / 104))))
    meant[late] = 0.3 + 1.25 * 60 / 104
    explained = explain(performance, meant_s=meant)
    at = explained.source.index(late)
    assert explained.groove.pattern.hits[at].position_ticks == TICKS_PER_QUARTER * 5 // 4
    with pytest.raises(InputError):
        explain(Performance.of([], [], [], length_s=1))
