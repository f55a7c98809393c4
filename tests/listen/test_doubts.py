"""A doubtful result says that it is doubtful, and everything that was found is in the analysis."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile
from tests.listen.made_heard import HAT, KICK, SNARE, heard_of

from ghoststep.feel.perform import perform
from ghoststep.files.analysis import analysis
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.explain import explain
from ghoststep.listen.bars.reading import Hints
from ghoststep.listen.strokes.hearing import DOUBTFUL, NO_KIT, UNLIKE_DRUMS, decided
from ghoststep.listen.words import looseness_words
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel
from ghoststep.music.kit import VOICE_INDEX
from ghoststep.music.performance import Performance
from ghoststep.session.document.document import Document
from ghoststep.sound.render import render
from ghoststep.sound.sketch import sketch_kit
from ghoststep.work.grooves import analysis_of, hear_file
from ghoststep.work.hits_heard import GUESSED, UNSTEADY, heard_performance

RATE = 44100
ROCK = """
    tempo 96
    hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x---
    hat_open    ---------------- | ---------------- | ---------------- | --------------x-
    snare       ----X--o-o--X--o | ----X--o-o--X--- | ----X--o-o--X--o | ----X--o-o--X---
    kick        X------x--X----- | X------x--X---x- | X------x--X----- | X------x--X---x-
"""


def heard(tmp_path: Path, sound: np.ndarray, rate: int = RATE) -> Document:
    path = tmp_path / "x.wav"
    soundfile.write(path, 0.5 * sound / max(np.abs(sound).max(), 1e-9), rate)
    return hear_file(path, general_midi_keys(), Hints())


def is_doubtful(document: Document) -> bool:
    assert document.listening is not None
    return bool({DOUBTFUL, NO_KIT, UNLIKE_DRUMS, GUESSED} & set(document.listening.remarks))


T = np.arange(8 * RATE) / RATE
CHORD = sum(np.sin(2 * np.pi * f * T) * (1 + np.sin(2 * np.pi * 0.2 * T + f)) for f in (220.0, 277.0, 330.0))


@pytest.mark.parametrize(
    "sound",
    [
        np.sin(2 * np.pi * 440 * T),
        np.random.default_rng(0).standard_normal(len(T)),
        np.asarray(CHORD),
        np.cumsum(np.random.default_rng(1).standard_normal(len(T))) * (1 + np.sin(2 * np.pi * 0.3 * T)),
    ],
    ids=["tone", "noise", "chord", "rumble"],
)
def test_what_is_no_drum_is_refused_or_called_doubtful(tmp_path: Path, sound: np.ndarray) -> None:
    try:
        assert is_doubtful(heard(tmp_path, sound))
    except InputError as error:
        assert "x.wav" in str(error)


def test_what_is_hardly_ever_a_stroke_is_not_offered() -> None:
    even = heard_of([{HAT: -1.7, SNARE: -0.8}, {HAT: -1.7, KICK: 0.4}, {KICK: 1.2, SNARE: 3}, {HAT: 3}], ["ride"] * 4)
    offered = {}
    for name in ("hat_closed", "hat_half", "hat_open", "hat_pedal", "snare", "cross_stick"):
        voice_odds = even.voice_odds.copy()
        voice_odds[:, VOICE_INDEX[name]] = 5
        found = decided(np.arange(4.0), replace(even, voice_odds=voice_odds), length_s=4.0, remarks=())
        offered[name] = sorted((p.time_s, p.voice) for p in found.perhaps if p.voice in (name, "kick"))
    kick = (2.0, "kick")  # of even odds none
    assert offered["hat_closed"] == [(0.0, "hat_closed"), (1.0, "hat_closed"), kick]
    assert offered["hat_open"] == [(0.0, "hat_open"), (1.0, "hat_open"), kick]
    assert offered["snare"] == [(0.0, "snare"), kick]
    assert offered["hat_pedal"] == offered["hat_half"] == offered["cross_stick"] == [kick]


def test_one_stroke_is_heard_and_its_tempo_called_a_guess(tmp_path: Path) -> None:
    blow = sketch_kit(RATE).mono_blow("snare", 100, np.random.default_rng(1))
    sound = np.zeros(2 * RATE)
    sound[RATE : RATE + len(blow)] += blow[:RATE]
    document = heard(tmp_path, sound)
    found = document.groove.pattern.hits
    assert "snare" in {h.voice for h in found} and len(found) <= 2
    assert document.listening is not None and GUESSED in document.listening.remarks


def test_a_clear_recording_raises_no_doubt_at_any_rate(tmp_path: Path) -> None:
    groove = parse_grid(ROCK)
    for rate in (44100, 8000):
        document = heard(tmp_path, render(perform(groove), sketch_kit(rate)).astype(float), rate)
        assert document.listening is not None and not document.listening.remarks
        assert document.groove.tempo.main_bpm == pytest.approx(96, rel=0.005)


def test_hits_without_any_pulse_are_called_unsteady() -> None:
    rng = np.random.default_rng(5)
    at = np.cumsum(rng.uniform(0.11, 0.71, 60))
    voices = rng.choice([VOICE_INDEX[v] for v in ("kick", "snare", "hat_closed")], 60)
    document = heard_performance(Performance.of(at, voices, np.full(60, 80), length_s=at[-1]), "x", Hints())
    assert document.listening is not None and UNSTEADY in document.listening.remarks


def test_looseness_is_told_apart_from_lean() -> None:
    groove = parse_grid(ROCK).changed(feel=Feel(lean_ms={"snare": 12.0}))
    p = perform(groove)
    spread = np.where(p.voice == VOICE_INDEX["snare"], 0.001, 0.006)
    noise = np.random.default_rng(2).normal(0, 1, len(p)) * spread
    explained = explain(Performance(p.onset_s + 0.3 + noise, p.voice, p.velocity, p.stroke, p.length_s + 1))
    assert explained.loose_ms["snare"] < 3 < explained.loose_ms["hat_closed"] < 10
    words = looseness_words(explained)
    assert words.startswith("loose by") and "(snare)" in words and "(hats)" in words
    assert explained.groove.feel.lean_of("snare") - explained.groove.feel.lean_of("kick") == pytest.approx(12, abs=4)


def test_the_analysis_tells_passages_tempo_strokes_and_closings() -> None:
    groove = parse_grid(ROCK)
    p = perform(groove)
    stroke = p.stroke.copy()
    snares = np.flatnonzero(p.voice == VOICE_INDEX["snare"])
    stroke[snares[0]] = 4 if len(stroke) else 0
    explained = explain(
        Performance(p.onset_s + 0.3, p.voice, p.velocity, stroke, p.length_s + 1), confidence=np.ones(len(p))
    )
    onset = tuple(h.origin.time_s for h in explained.groove.pattern.hits if h.origin)
    opened = next(h.origin.time_s for h in explained.groove.pattern.hits if h.voice == "hat_open" and h.origin)
    content = analysis(explained, (1.0,) * len(onset), onset, (), ((opened, opened + 0.2),))
    assert content["passages"][0]["grid"] == 16 and content["passages"][-1]["to_beats"] == 16
    assert content["tempo_curve"][0]["bar"] == 1
    assert content["tempo_curve"][0]["bpm"] == pytest.approx(96, rel=0.01)
    rings = [h for h in content["hits"] if "closed_s" in h]
    assert len(rings) == 1 and rings[0]["closed_s"] == pytest.approx(opened + 0.2, abs=1e-3)
    assert sum("stroke" in h for h in content["hits"]) == 1
    with pytest.raises(InputError, match="Nothing was listened to"):
        analysis_of(Document())
