"""Setting right what was heard, in the real window: by keys, by clicks, by typed numbers; taps and passages."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QInputDialog
from tests.desk import pointer
from tests.desk.doubting import doubting

from ghoststep.desk.listen.tap_page import TAP_KEYS, Tap, TapPage, performance_of
from ghoststep.desk.listen.voice_keys import VOICE_KEYS
from ghoststep.desk.listen.wave_paint import RULER_H
from ghoststep.desk.listen.wave_view import DOUBTFUL
from ghoststep.desk.parts.overview import OverviewStrip, clock
from ghoststep.files.demo import demo_recordings
from ghoststep.listen.strokes.perhaps import Perhaps
from ghoststep.music.kit import HEARD_VOICES, LANE_OF_VOICE, VOICE_INDEX
from ghoststep.music.meter import Meter
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.session.commands import COMMANDS


@pytest.fixture
def settled(listening, until):
    """Wait for every correction to be fitted."""
    return lambda: until(lambda: not listening.studio.session.fitting)


def key(window, *keys, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    for k in keys:
        QTest.keyClick(window.at("listen").view, k, modifier)


def test_every_voice_has_a_key_and_a_button(listening) -> None:
    assert {name for _, name in VOICE_KEYS} == {v.name for v in HEARD_VOICES}
    assert all(COMMANDS[f"heard.is_{name}"].keys == (key,) for key, name in VOICE_KEYS)
    assert set(listening.at("listen").card.voices) == {v.name for v in HEARD_VOICES}
    used = [k for c in COMMANDS.values() if c.place in ("", "listen") for k in c.keys]
    assert len(used) == len(set(used))


def test_a_wrong_voice_a_wrong_hit_and_a_missed_one_by_keys_alone(listening, settled) -> None:
    view, studio = listening.at("listen").view, listening.studio
    before = len(studio.groove.pattern.hits)
    key(listening, Qt.Key.Key_Right, Qt.Key.Key_Right)
    first = view.chosen
    assert first is not None and first.origin is not None
    key(listening, Qt.Key.Key_9)
    settled()
    assert view.chosen is not None and view.chosen.voice == "crash"  # the same moment stays chosen
    assert view.chosen.origin.time_s == first.origin.time_s and "is crash" in listening.message
    key(listening, Qt.Key.Key_Delete)
    settled()
    assert len(studio.groove.pattern.hits) == before - 1
    # Two lanes down from the hit that is chosen now, a missed hit at its moment.
    key(listening, Qt.Key.Key_Right, Qt.Key.Key_Down)
    assert view.chosen is None and view.cursor_s is not None
    voice = view.cursor_voice
    count = sum(h.voice == voice for h in studio.groove.pattern.hits)
    view.put_cursor(view.cursor_s + 0.31)
    key(listening, Qt.Key.Key_Return)
    settled()
    assert sum(h.voice == voice for h in studio.groove.pattern.hits) == count + 1
    for _ in range(3):
        listening.run("edit.undo")
    assert len(studio.groove.pattern.hits) == before and studio.history.undo_words is None


def test_doubts_are_gone_through_from_the_worst_on(listening, settled) -> None:
    place, studio = listening.at("listen"), listening.studio
    studio.set_document(doubting(studio.document, {4: 0.6, 17: 0.3, 40: DOUBTFUL + 0.01, 41: 0.5}), None)
    key(listening, Qt.Key.Key_D)
    worst = place.view.chosen
    assert (
        worst.origin.confidence == min(studio.document.listening.confidence) == 0.3 and studio.playback.player.playing
    )
    for _ in range(3):
        assert "No doubts left" not in place.card.doubts.text()
        key(listening, Qt.Key.Key_Y)
        settled()
    assert "No doubts left" in place.card.doubts.text()


def test_what_is_said_goes_for_all_alike_and_for_a_whole_voice(listening, settled) -> None:
    place, studio = listening.at("listen"), listening.studio
    key(listening, Qt.Key.Key_A)
    assert "No hit is chosen" in listening.message
    hats = [h for h in studio.groove.pattern.hits if h.voice == "hat_closed"]
    place.view.choose(hats[3])
    counts = [len(place.view.all_chosen)]
    for _ in range(3):
        key(listening, Qt.Key.Key_A)
        counts.append(len(place.view.all_chosen))
    assert counts[0] == counts[3] == 1 < counts[1] < counts[2] == len(hats)
    assert place.view.chosen.key == hats[3].key  # back to the one it was widened from
    key(listening, Qt.Key.Key_A, Qt.Key.Key_A)
    assert place.card.words.text().startswith(f"Hat closed: {len(hats)} strokes in bars 1-")
    ride = next(k for k, name in VOICE_KEYS if name == "ride")
    key(listening, getattr(Qt.Key, f"Key_{ride}"))
    settled()
    now = studio.groove.pattern.hits
    assert sum(h.voice == "ride" for h in now) >= len(hats) and not any(h.voice == "hat_closed" for h in now)
    listening.run("edit.undo")
    assert sum(h.voice == "hat_closed" for h in studio.groove.pattern.hits) == len(hats)  # one step back for all


def test_a_round_of_doubts_ends_where_all_are_answered_at_once(listening, settled) -> None:
    place, studio = listening.at("listen"), listening.studio
    voices, hat = studio.document.listening.heard.voice, VOICE_INDEX["hat_closed"]
    hats = {n: 0.4 for n, voice in enumerate(voices) if voice == hat}
    studio.set_document(doubting(studio.document, hats), None)
    key(listening, Qt.Key.Key_D)
    studio.playback.stop()
    key(listening, Qt.Key.Key_A, Qt.Key.Key_A, Qt.Key.Key_Y)
    settled()
    assert "No doubts left" in place.card.doubts.text() and "sure to 100 %" in place.card.words.text()
    assert not studio.playback.player.playing and len(place.view.all_chosen) > 1  # no other one is shown or heard


def test_strokes_that_may_be_one_are_gone_through_taken_and_dropped(listening, settled) -> None:
    place, studio = listening.at("listen"), listening.studio
    heard = studio.document.listening
    moments = [0.9, 1.6, 2.3]
    perhaps = tuple(Perhaps(t, "tom_low", 40, 0.5) for t in moments)
    studio.set_document(replace(studio.document, listening=replace(heard, perhaps=perhaps)), None)
    assert "3 perhaps" in place.card.offers.text() and LANE_OF_VOICE["tom_low"] in place.view.rows()
    key(listening, Qt.Key.Key_P)
    assert place.view.chosen_offer.perhaps == perhaps[0] and place.card.words.text().startswith("Perhaps tom low")
    key(listening, Qt.Key.Key_Return)
    settled()
    assert studio.history.undo_words.endswith("taken")
    assert sum(h.voice == "tom_low" for h in studio.groove.pattern.hits) == 1
    key(listening, Qt.Key.Key_P)
    key(listening, Qt.Key.Key_Delete)
    settled()
    assert len(place.view.offers) == 1 and sum(h.voice == "tom_low" for h in studio.groove.pattern.hits) == 1
    spot = place.view.scene().row_rect(place.view.rows().index(LANE_OF_VOICE["tom_low"])).center().y()
    x = place.view.x_of(place.view.offers[0].perhaps.time_s)
    QTest.mouseClick(place.view.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(spot)))
    assert place.view.chosen_offer is not None
    key(listening, Qt.Key.Key_Delete, modifier=Qt.KeyboardModifier.ShiftModifier)
    settled()
    assert place.view.offers == () and not place.card.offers.isVisible()
    key(listening, Qt.Key.Key_P)
    assert "Nothing is offered" in listening.message
    key(listening, Qt.Key.Key_Return, modifier=Qt.KeyboardModifier.ShiftModifier)
    assert "press P" in listening.message


def test_the_whole_reading_can_be_told(listening, settled, monkeypatch: pytest.MonkeyPatch) -> None:
    studio = listening.studio
    key(listening, Qt.Key.Key_X)
    settled()
    assert studio.groove.tempo.main_bpm == pytest.approx(184, rel=0.01)
    key(listening, Qt.Key.Key_X, modifier=Qt.KeyboardModifier.ShiftModifier)
    settled()
    assert studio.groove.tempo.main_bpm == pytest.approx(92, rel=0.01)
    key(listening, Qt.Key.Key_W)
    settled()
    assert studio.groove.feel.swing.straight
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("7/8 3+2+2", True))
    key(listening, Qt.Key.Key_I)
    settled()
    assert studio.groove.pattern.meter == Meter(7, 8, (3, 2, 2))
    key(listening, Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_O)
    settled()
    assert "Beat 1 is at" in listening.message
    listening.run("heard.plain")
    settled()
    assert studio.groove.tempo.main_bpm == pytest.approx(92, rel=0.01) and not studio.groove.feel.swing.straight


def test_a_hit_can_be_told_its_spot(listening, settled) -> None:
    view = listening.at("listen").view
    hit = next(h for h in view.hits() if h.voice == "snare" and h.role == "ghost")
    view.choose(hit)
    key(listening, Qt.Key.Key_Right, modifier=Qt.KeyboardModifier.ShiftModifier)
    settled()
    assert view.chosen.position_ticks == hit.position_ticks + TICKS_PER_QUARTER // 4


def test_corrections_in_a_hurry_are_all_done(listening, settled) -> None:
    view, studio = listening.at("listen").view, listening.studio
    chosen = [h for h in view.hits() if h.voice == "hat_closed"][:4]
    for hit in chosen:
        view.choose(hit)
        listening.run("heard.is_ride")
    assert studio.session.fitting
    settled()
    assert sum(h.voice == "ride" for h in studio.groove.pattern.hits) == 4
    assert len(studio.document.listening.corrections.fixes) == 4


def test_a_correction_that_cannot_be_is_said_and_changes_nothing(listening, settled) -> None:
    key(listening, Qt.Key.Key_9)
    assert "No hit is chosen" in listening.message
    before = listening.studio.document
    for _ in range(3):
        key(listening, Qt.Key.Key_X)
    settled()
    assert "BPM" in listening.message
    assert listening.studio.groove.tempo.main_bpm < 960
    while listening.studio.history.undo():
        pass
    assert listening.studio.document is before


def test_dragging_over_the_ruler_sets_the_range_that_plays(listening) -> None:
    view = listening.at("listen").view
    explained = listening.studio.document.listening.explained
    a, b = (view.x_of(explained.start_s + float(explained.groove.tempo.seconds(t))) for t in (80640, 2 * 80640))
    y = round(RULER_H / 2)
    pointer.press(view.viewport(), QPoint(round(a), y))
    pointer.drag(view.viewport(), QPoint(round(b), y))
    pointer.release(view.viewport(), QPoint(round(b), y))
    assert listening.studio.choice.range_ticks == (80640, 2 * 80640) and view.region == (80640, 2 * 80640)
    QTest.mouseClick(view.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(round(a), y))
    assert listening.studio.choice.range_ticks is None


def test_the_spectrogram_is_another_picture_of_the_same(listening) -> None:
    view = listening.at("listen").view
    wave = view.painted_layer(1.0).toImage()
    key(listening, Qt.Key.Key_V)
    assert view.spectral and view.painted_layer(1.0).toImage() != wave
    key(listening, Qt.Key.Key_V)
    assert view.painted_layer(1.0).toImage() == wave


def test_the_overview_moves_the_window(listening) -> None:
    place = listening.at("listen")
    listening.at(listening.place).zoom(4)
    place.view.painted_layer(1.0)
    assert place.overview.stretch[1] - place.overview.stretch[0] < 4
    place.view.show_window(2.0, 5.0)
    assert place.view.seconds_at(place.view.gutter_px + 16) == pytest.approx(2.0, abs=0.05)


# -- the strip, taps and passages ---------------------------------------------------------------------------------


def test_the_strip_marks_moves_and_trims(qtbot) -> None:
    strip = OverviewStrip(height=120)
    qtbot.addWidget(strip)
    strip.resize(1000, 120)
    strip.show_peaks(np.full(100, -0.5), np.full(100, 0.5), 100.0)
    strip.show_stretch(0, 100)
    told: list[tuple[float, float]] = []
    strip.stretch_changed.connect(lambda a, b: told.append((a, b)))

    def drag(a: int, b: int) -> None:
        pointer.press(strip, QPoint(a, 40))
        pointer.drag(strip, QPoint(b, 40))
        pointer.release(strip, QPoint(b, 40))

    drag(200, 400)
    assert strip.stretch == pytest.approx((20, 40))
    drag(300, 500)
    assert strip.stretch == pytest.approx((40, 60))
    drag(600, 700)
    assert strip.stretch == pytest.approx((40, 70)) and told[-1] == strip.stretch
    assert clock(67.44) == "1:07.4"


def test_taps_become_a_groove_through_the_same_door(window, until) -> None:
    window.run("file.tap")
    page: TapPage = window.at("listen").taps
    now = [10.0]
    page._clock = lambda: now[0]
    keys = {name: getattr(Qt.Key, f"Key_{k}") for k, name in TAP_KEYS}
    for i in range(32):
        now[0] = 10.0 + i * 0.25
        QTest.keyClick(page, keys["hat_closed"])
        if i % 8 in (0, 5):
            QTest.keyClick(page, keys["kick"], Qt.KeyboardModifier.ShiftModifier)
        if i % 8 == 4:
            QTest.keyClick(page, keys["snare"])
    assert page.count.text().startswith("44 taps")
    QTest.keyClick(page, Qt.Key.Key_Return)
    until(lambda: not window.studio.busy and window.studio.document.listening is not None)
    pattern = window.studio.groove.pattern
    assert window.studio.groove.tempo.main_bpm == pytest.approx(120, rel=0.01) and pattern.meter == Meter(4, 4)
    assert {h.velocity for h in pattern.hits if h.voice == "kick"} == {110} and window.studio.history.unsaved


def test_tapping_can_be_left_begun_anew_and_be_empty(window, until) -> None:
    window.run("file.tap")
    page = window.at("listen").taps
    QTest.keyClick(page, Qt.Key.Key_Return)
    assert "Nothing was tapped" in page.count.text()
    QTest.keyClick(page, Qt.Key.Key_F)
    assert page.count.text().startswith("1 tap,") and not window.studio.playback.wish.click  # K, L, F are taps here
    QTest.keyClick(page, Qt.Key.Key_Backspace)
    assert not page.taps
    page.click.setChecked(True)
    until(lambda: window.studio.playback.player.playing)
    QTest.keyClick(page, Qt.Key.Key_Escape)
    assert not window.studio.playback.player.playing and window.at("listen")._stack.currentIndex() == 0


def test_a_performance_of_taps_begins_with_the_first() -> None:
    played = performance_of([Tap(5.5, "snare", 90), Tap(5.0, "kick", 80)])
    assert played.onset_s.tolist() == [0.0, 0.5] and played.length_s == 0.5


def test_a_long_file_asks_for_a_passage_first(window, until, tmp_path: Path) -> None:
    sound, rate = soundfile.read(demo_recordings()[0], dtype="float32")
    path = tmp_path / "night.wav"
    soundfile.write(path, np.tile(sound, (16, 1)), rate)
    window.open(path)
    until(lambda: not window.studio.busy)
    page = window.at("listen").passage
    assert window.at("listen")._stack.currentWidget() is page and "night.wav" in page._title.text()
    page._start.setValue(len(sound) / rate)
    page._end.setValue(2 * len(sound) / rate)
    assert page.strip.stretch == pytest.approx((len(sound) / rate, 2 * len(sound) / rate), abs=0.06)
    page._hear()
    until(lambda: window.studio.playback.player.playing)
    page._listen()
    until(lambda: not window.studio.busy and window.studio.document.listening is not None)
    assert window.studio.groove.tempo.main_bpm == pytest.approx(92, rel=0.01)
    assert window.studio.document.recording.length_s == pytest.approx(len(sound) / rate, abs=0.2)
    page._end.setValue(0)
    assert "has to end" in page._words.text()


def test_mouth_drumming_can_be_opened(window, until, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from tools.mouth_voice import mouthed

    beat = [(0.3 + 0.25 * i, ("kick", "hat_closed", "snare", "hat_closed")[i % 4], 90) for i in range(16)]
    path = tmp_path / "mouth.wav"
    soundfile.write(path, mouthed(beat, rate=44100, length_s=5, seed=1), 44100)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a, **_k: (str(path), ""))
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("", True))
    window.run("file.mouth")
    until(lambda: not window.studio.busy and window.studio.document.listening is not None)
    assert {h.voice for h in window.studio.groove.pattern.hits} == {"kick", "snare", "hat_closed"}


def test_a_click_is_tapped_along_and_proposed(listening, settled, monkeypatch) -> None:
    place, studio = listening.at("listen"), listening.studio
    bpm = studio.groove.tempo.main_bpm
    listening.run("heard.tap_click")
    assert "Play the recording" in listening.message
    start_s = studio.document.listening.explained.start_s
    for n in range(5):
        ticks = round(n * TICKS_PER_QUARTER + 0.01 * bpm / 60 * TICKS_PER_QUARTER)
        monkeypatch.setattr(studio.playback.player, "position_ticks", lambda t=ticks: t)
        listening.run("heard.tap_click")
    assert "Shift+K takes it" in listening.message
    tapped = place.click_taps.click()
    assert tapped is not None and tapped.bpm == pytest.approx(bpm, abs=0.5)
    assert tapped.at_s == pytest.approx(start_s + 0.01, abs=0.005)
    # Going back to the start of the loop begins anew.
    monkeypatch.setattr(studio.playback.player, "position_ticks", lambda: 0)
    listening.run("heard.tap_click")
    assert place.click_taps.click() is None and "Tap 1" in listening.message
