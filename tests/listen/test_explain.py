"""explain is the inverse of perform: exactly in what comes back, closely in what it calls it."""

import numpy as np
import pytest
from hypothesis import given, settings
from tests.strategies import grooves

from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.explain import Hints, explain
from ghoststep.listen.words import summary
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICES
from ghoststep.music.meter import Meter
from ghoststep.music.performance import Performance
from ghoststep.music.time import TempoMap

ROCK = """
    tempo 96
    hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
    snare       ----X--o-o--X--o | ----X--o-o--X--- | ----X--o-o--X--o | ----X--o-o--X---
    kick        X------x--X----- | X------x--X---x- | X------x--X----- | X------x--X---x-
"""
SEVEN = """
    tempo 132
    meter 7/8 2+2+3
    hat_closed  x-x-x-x-x-x-x- | x-x-x-x-x-x-x- | x-x-x-x-x-x-x- | x-x-x-x-x-x-x-
    snare       ----X-----X--- | ----X-----X--- | ----X-----X--- | ----X-----X---
    kick        X-------x----- | X-----x-x----- | X-------x----- | X-----x-x-----
"""
SHUFFLE = """
    tempo 124
    grid 8
    ride        x-xxx-xx | x-xxx-xx | x-xxx-xx | x-xxx-xx
    hat_pedal   --x---x- | --x---x- | --x---x- | --x---x-
    snare       --X---X- | --X-o-X- | --X---X- | --X-o-Xo
    kick        X---X--- | X--xX--- | X---X--- | X--xX---
"""
WALTZ = """
    tempo 150
    meter 3/4
    ride        x---x-x-x--- | x---x-x-x--- | x---x-x-x--- | x---x-x-x---
    snare       ----x---x--- | ----x---x--- | ----x---x--- | ----x---x-o-
    kick        X----------- | X-----x----- | X----------- | X-----x-----
"""


def heard(groove: Groove, *, start_s: float = 0.3, hints: Hints | None = None):
    played = perform(groove)
    moved = Performance(played.onset_s + start_s, played.voice, played.velocity, played.stroke, played.length_s + 1)
    return explain(moved, hints), moved


@given(grooves)
@settings(max_examples=40, deadline=None)
def test_nothing_is_lost_whatever_was_played(groove: Groove) -> None:
    if not groove.pattern.hits:
        with pytest.raises(InputError, match="no hit"):
            heard(groove)
        return
    try:
        explained, played = heard(groove, start_s=1.0)
    except InputError as error:
        assert "BPM" in str(error)
        return
    back = perform(explained.groove)
    order = list(explained.source)
    assert sorted(order) == list(range(len(played)))
    assert np.allclose(back.onset_s + explained.start_s, played.onset_s[order], atol=5.1e-5)  # tenths of a ms are kept
    assert np.array_equal(back.voice, played.voice[order]) and np.array_equal(back.velocity, played.velocity[order])
    assert np.array_equal(back.stroke, played.stroke[order])


CASES = {
    "straight": (ROCK, Feel()),
    "sixteenths 57": (ROCK, Feel(Swing(16, 0.57), {"snare": 11.0, "hat": -4.0})),
    "loose": (ROCK, Feel(lean_ms={"snare": 8.0}, loose_ms=6.0, take=5)),
    "seven": (SEVEN, Feel(loose_ms=3.0)),
    "shuffle 64": (SHUFFLE, Feel(Swing(8, 0.64), loose_ms=3.0)),
    "shuffle 60": (SHUFFLE, Feel(Swing(8, 0.60), {"ride": -6.0}, 3.0)),
    "waltz": (WALTZ, Feel(loose_ms=3.0, take=2)),
}


@pytest.mark.parametrize("name", CASES)
def test_what_was_meant_is_found(name: str) -> None:
    text, feel = CASES[name]
    groove = parse_grid(text).changed(feel=feel)
    explained, _ = heard(groove)
    found = explained.groove
    assert (found.pattern.meter, found.pattern.bars) == (groove.pattern.meter, groove.pattern.bars)
    assert found.tempo.main_bpm == pytest.approx(groove.tempo.main_bpm, rel=0.005)
    assert explained.start_s == pytest.approx(0.3, abs=0.02)
    meant = sorted((h.position_ticks, h.voice) for h in groove.pattern.hits)
    assert sorted((h.position_ticks, h.voice) for h in found.pattern.hits) == meant
    assert found.feel.swing.ratio == pytest.approx(feel.swing.ratio, abs=0.01)
    for voice in ("snare", "hat_closed", "ride"):
        between = found.feel.lean_of(voice) - found.feel.lean_of("kick")
        if voice in found.pattern.voices:
            assert between == pytest.approx(feel.lean_of(voice) - feel.lean_of("kick"), abs=4)


def test_a_tempo_that_moves_is_a_course_and_not_a_mess() -> None:
    bars = 8
    text = ROCK.replace("tempo 96", "tempo 100")
    base = parse_grid(text)
    hits = base.pattern.hits
    twice = hits + tuple(type(h)(h.position_ticks + 4 * 80640, h.voice, h.velocity, h.role) for h in hits)
    tempo = TempoMap(tuple(i * 80640 for i in range(bars)), tuple(100 - 1.2 * i for i in range(bars)))
    groove = base.changed(hits=twice, bars=bars, tempo=tempo)
    explained, _ = heard(groove)
    assert sorted((h.position_ticks, h.voice) for h in explained.groove.pattern.hits) == [
        (h.position_ticks, h.voice) for h in sorted(groove.pattern.hits, key=lambda h: (h.position_ticks, h.voice))
    ]
    assert explained.groove.tempo.bpm[0] == pytest.approx(100, rel=0.02)
    assert explained.groove.tempo.bpm[-1] == pytest.approx(91.6, rel=0.02)


def test_hints_narrow_the_search() -> None:
    groove = parse_grid(ROCK)
    double, _ = heard(groove, hints=Hints(tempo_bpm=192))
    assert double.groove.tempo.main_bpm == pytest.approx(192, rel=0.01)
    three, _ = heard(groove, hints=Hints(meter=Meter(3, 4)))
    assert three.groove.pattern.meter == Meter(3, 4)
    longer, _ = heard(groove, hints=Hints(bars=6))
    assert longer.groove.pattern.bars == 6


def test_other_readings_are_offered() -> None:
    explained, _ = heard(parse_grid(ROCK))
    tempi = [round(r.tempo_bpm) for r in explained.readings]
    assert tempi[0] == 96 and 192 in tempi and sum(r.share for r in explained.readings) <= 1.000001


def test_a_flam_is_one_stroke_with_a_grace_note() -> None:
    played = perform(parse_grid(ROCK))
    snare = [v.name for v in VOICES].index("snare")
    main = float(played.onset_s[(played.voice == snare) & (played.velocity > 90)][2])
    onset = np.append(played.onset_s, main - 0.025)
    performance = Performance.of(
        onset + 0.2, np.append(played.voice, snare), np.append(played.velocity, 40), length_s=12
    )
    explained = explain(performance)
    graces = [h for h in explained.groove.pattern.hits if h.grace]
    assert len(graces) == 1 and graces[0].offset_ms == pytest.approx(-25, abs=6)
    assert explained.groove.pattern.at(graces[0].position_ticks, "snare") is not None


def test_one_hit_is_beat_one() -> None:
    explained = explain(Performance.of([0.8], [12], [100], length_s=2))
    assert explained.start_s == pytest.approx(0.8) and explained.groove.pattern.hits[0].position_ticks == 0


def test_the_summary_says_it_in_words() -> None:
    explained, _ = heard(parse_grid(ROCK).changed(feel=Feel(Swing(16, 0.57), {"snare": 11.0})))
    words = summary(explained)
    assert "96.0 BPM, 4/4, 4 bars" in words and "57 %" in words and "snare 11 ms late" in words
    assert "ghosts on 2a, 3e, 4a" in words
