"""Listen, transport and the studio, by themselves and together."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMessageBox, QPushButton

from ghoststep.desk.app import start as app
from ghoststep.desk.dialogs import questions
from ghoststep.desk.dialogs.exports import export
from ghoststep.desk.grid.geometry import GUTTER_W
from ghoststep.desk.listen.reading_strip import ROW_H, told
from ghoststep.desk.look.look import DAY, NIGHT, Look, font
from ghoststep.desk.look.stems import HEAD, head_pixmap
from ghoststep.desk.model import memory
from ghoststep.desk.model.studio import Studio
from ghoststep.desk.parts.widgets import clear, label, number, row, show_number
from ghoststep.devices.output import SimulatedOutput
from ghoststep.files.demo import demo_recordings
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.textgrid import parse_grid, read_grid
from ghoststep.listen.bars.reading import TempoReading
from ghoststep.music.kit import LANES, LIMB_LETTERS, VOICE_NAMES
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document
from ghoststep.sound.click import Click
from ghoststep.sound.program import Plays, Source

# -- Listen -----------------------------------------------------------------------------------------------------


def test_the_panel_says_what_was_heard(listening) -> None:
    place = listening.at("listen")
    assert place._tempo.text() in ("92.0 BPM", "92.1 BPM") and place._meter.text().startswith("4/4, 4 bars, ")
    assert "57 %" in place._swing.text() and "late" in place._lean.text()
    assert place._sentence.text().startswith("larch-terrace: 92.")


def click_hit(view, hit) -> None:
    scene = view.scene()
    at = QPoint(round(scene.x_of(hit.origin.time_s)), round(scene.row_rect(scene.row_of(hit)).center().y()))
    QTest.mouseClick(view.viewport(), Qt.MouseButton.LeftButton, pos=at)


def test_clicking_a_hit_tells_its_figures_and_plays_it(listening, until) -> None:
    view = listening.at("listen").view
    hit = next(h for h in view.hits() if h.voice == "snare" and h.velocity > 90)
    click_hit(view, hit)
    words = listening.at("listen").card.words.text()
    assert "Snare, bar" in words and f"velocity {hit.velocity}" in words
    assert view.chosen is hit and listening.studio.playback.player.playing
    until(lambda: not listening.studio.playback.player.playing)


def test_zoom_keeps_the_place_under_the_mouse_and_fits_again(listening) -> None:
    view = listening.at("listen").view
    before = view.seconds_at(500)
    view.zoom(3, 500)
    assert view.seconds_at(500) == pytest.approx(before, abs=0.02) and view.horizontalScrollBar().maximum() > 0
    event = QWheelEvent(
        QPointF(500, 200),
        QPointF(500, 200),
        QPoint(0, 0),
        QPoint(0, -240),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    at = view.horizontalScrollBar().value()
    view.wheelEvent(event)
    assert view.horizontalScrollBar().value() > at
    listening.run("view.fit")
    assert view.horizontalScrollBar().maximum() == 0


def test_other_readings_stand_above_the_ruler_and_are_a_key_or_a_click_away(listening, until) -> None:
    strip, studio = listening.at("listen").readings, listening.studio
    strip.show_readings((TempoReading(184.0, Meter(), 0.2, 0.1, "fewer people count this tempo or meter"),))
    assert strip.isVisible() and strip.height() == ROW_H
    assert "fewer people" in told(strip.readings[0])
    QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(300, ROW_H // 2))
    until(lambda: not studio.session.fitting)
    assert studio.groove.tempo.main_bpm == pytest.approx(184, rel=0.01)
    assert studio.history.undo_words == "184.0 BPM in 4/4"
    assert [round(r.tempo_bpm) for r in strip.readings][:1] == [92]  # the first one is on offer now
    listening.run("heard.reading_1")
    until(lambda: not studio.session.fitting)
    assert studio.groove.tempo.main_bpm == pytest.approx(92, rel=0.01)
    strip.show_readings(())
    listening.run("heard.reading_1")
    assert "no such other way" in listening.message and not strip.isVisible()


def test_where_two_readings_are_near_it_says_so_and_one_key_settles_it(listening, heard, until) -> None:
    place, studio = listening.at("listen"), listening.studio
    assert place._near.isHidden()
    explained = heard.listening.explained
    first = explained.readings[0]
    other = replace(first, tempo_bpm=2 * first.tempo_bpm, share=0.8 * first.share)
    asked = replace(explained, readings=(first, other, *explained.readings[1:]))
    studio.set_document(replace(heard, listening=replace(heard.listening, explained=asked)), None)
    assert "Not decided: it may as well be 4/4 at 184 BPM" in place._near.text() and "Alt+1" in place._near.text()
    listening.run("heard.reading_kept")
    until(lambda: not studio.session.fitting)
    assert place._near.isHidden() and studio.groove.tempo.main_bpm == pytest.approx(92, rel=0.01)


def test_the_empty_place_invites(window, monkeypatch: pytest.MonkeyPatch, until) -> None:
    place = window.at("listen")
    assert place._stack.currentIndex() == 0
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(demo_recordings()[1]), ""))
    next(b for b in place.findChildren(QPushButton) if "Choose" in b.text()).click()
    until(lambda: not window.studio.busy)
    assert window.studio.document.name == "fog-viaduct" and place._stack.currentIndex() == 1


def test_dropping_several_files_opens_one_and_says_so(window, tmp_path: Path, until) -> None:
    files = [tmp_path / f"{n}.grid.txt" for n in "ab"]
    for file in files:
        file.write_text("kick X---x---X---x---")
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(f)) for f in files])
    window.dropEvent(
        QDropEvent(
            QPointF(9, 9), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
    )
    until(lambda: not window.studio.busy)
    assert window.studio.document.name == "a"


# -- Transport --------------------------------------------------------------------------------------------------


def test_sources_need_a_recording(placed) -> None:
    buttons = [placed.transport._sources.button(i) for i in range(3)]
    assert [b.isEnabled() for b in buttons] == [False, True, False]


def test_the_transport_shows_and_sets_the_wish(listening) -> None:
    transport, studio = listening.transport, listening.studio
    transport._sources.button(2).click()
    transport._click.click()
    transport._count.click()
    transport._speed.setValue(70)
    assert (
        studio.playback.wish.source,
        studio.playback.wish.click,
        studio.playback.wish.count_in,
        studio.playback.wish.speed,
    ) == (
        Source.IN_TURN,
        True,
        True,
        0.7,
    )
    for wanted in (Source.TOGETHER, Source.SIDES, Source.GROOVE):
        listening.run("play.next_source")
        assert studio.playback.wish.source is wanted
    assert studio.playback.wish.source is Source.GROOVE and transport._sources.button(1).isChecked()
    notes = {a.text(): a for a in transport._click.menu().actions()}
    notes["Only 2 and 4"].trigger()
    notes["2 bars on, 2 silent"].trigger()
    notes["Softer"].trigger()
    assert studio.playback.wish.click_kind == Click("backbeat", -3.0, 2, 2)
    listening.run("play.loop")
    assert not studio.playback.wish.loop and not transport._loop.isChecked()


def test_playing_moves_playheads_and_ends_by_itself(placed, until) -> None:
    placed.studio.playback.set_wish(loop=False)
    placed.studio.choice.set_range((0, 20160))
    assert placed.transport._where.text() == "bar 1, 1 to bar 1, 1"
    placed.transport.play.click()
    until(lambda: placed.at("place").grid._playhead is not None)
    assert placed.transport.play.text() == "Stop"
    until(lambda: not placed.studio.playback.player.playing)
    until(lambda: placed.transport.play.text() == "Play")


def test_slow_motion_and_count_in_play(listening, until) -> None:
    studio = listening.studio
    studio.playback.set_wish(source=Source.IN_TURN, speed=0.5, count_in=True, click=True)
    studio.choice.set_range((0, 20160))
    studio.playback.play()
    until(lambda: studio.playback.player.playing)
    assert studio.playback.player.position_ticks() is None  # still counting in
    program = studio.playback.player.program
    assert len(program.samples) == pytest.approx(2 * 2 * 60 / 92 * 44100, rel=0.01)
    studio.playback.stop()


def test_the_silent_output_is_named(window) -> None:
    assert window.transport._device.text() == "No sound device"


# -- Place ------------------------------------------------------------------------------------------------------


def test_the_range_follows_the_cursor_and_refuses_nonsense(placed) -> None:
    placed.at("place").grid.put_cursor(2 * 20160, 0)
    placed.run("play.range_start")
    placed.at("place").grid.put_cursor(20160, 0)
    placed.run("play.range_end")
    assert "would end before it begins" in placed.message and placed.studio.choice.range_ticks == (2 * 20160, 8 * 20160)
    placed.run("play.range_bar")
    assert placed.studio.choice.range_ticks == (0, 4 * 20160)
    placed.run("groove.bar_less")
    placed.run("play.range_all")
    assert placed.studio.choice.range_ticks is None and placed.studio.groove.pattern.bars == 1
    placed.run("groove.bar_less")
    assert "1 to 4096 bars" in placed.message


def test_a_spot_is_found_by_its_names(placed, monkeypatch: pytest.MonkeyPatch) -> None:
    for text, ticks in (("2a", 35280), ("step 16", 75600), ("bar 2 the & of 3", 80640 + 50400)):
        monkeypatch.setattr(QInputDialog, "getText", lambda *_, text=text: (text, True))
        placed.run("view.spot")
        assert placed.at("place").grid.cursor_ticks == ticks
        monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("bar 9", True))
        placed.run("view.spot")
        assert "There is no bar 9" in placed.message and placed.at("place").grid.cursor_ticks == ticks


def test_text_grids_are_copied_and_pasted(placed) -> None:
    before = placed.studio.document
    QApplication.clipboard().setText("tempo 133\nmeter 7/8 2+2+3\ngrid 8\nsnare --X---X | --X-o-X")
    placed.run("edit.paste_grid")
    groove = placed.studio.groove
    assert (groove.tempo.main_bpm, groove.pattern.bars, len(groove.pattern.hits)) == (133, 2, 5)
    placed.run("edit.copy_grid")
    assert "meter 7/8 2+2+3" in QApplication.clipboard().text() and "--X-o-X" in QApplication.clipboard().text()
    placed.studio.undo()
    assert placed.studio.document is before
    QApplication.clipboard().setText("hello there")
    placed.run("edit.paste_grid")
    assert "The clipboard, line 1: 'hello' is no voice" in placed.message and placed.studio.document is before


def test_choosing_by_lane_role_and_next_hit(placed) -> None:
    grid = placed.at("place").grid
    grid.put_cursor(0, grid.geometry_now().row_of("kick"))
    placed.run("edit.select_lane")
    assert {h.voice for h in grid.chosen_hits()} == {"kick"}
    placed.run("edit.select_ghosts")
    assert {h.role for h in grid.chosen_hits()} == {Role.GHOST}
    grid.put_cursor(0, grid.geometry_now().row_of("snare"))
    placed.run("view.next_hit")
    assert grid.cursor_ticks == 20160
    placed.run("view.previous_hit")
    assert grid.cursor_ticks == 20160


def test_the_card_of_several_hits_changes_them_all(placed) -> None:
    placed.run("edit.select_ghosts")
    card = placed.at("place").hit_page
    assert card._title.text() == "5 hits"
    card._velocity.setValue(40)
    assert {h.velocity for h in placed.studio.groove.pattern.hits if h.role is Role.GHOST} == {40}
    card._limb.setCurrentIndex(0)
    card._limb.activated.emit(0)
    assert {h.limb_letter for h in placed.studio.groove.pattern.hits if h.role is Role.GHOST} == {"R"}


def test_hits_remember_where_they_were_heard(listening, until) -> None:
    listening.go("place")
    grid = listening.at("place").grid
    grid.put_cursor(0, grid.geometry_now().row_of("kick"))
    card = listening.at("place").hit_page
    assert card._from.text().startswith("Heard at 0.3") and not card._hear.isHidden()
    card._hear.click()
    assert listening.studio.playback.player.playing
    listening.studio.playback.stop()
    listening.run("groove.straighten")
    assert all(h.offset_ms == 0 for h in listening.studio.groove.pattern.hits if not h.grace)
    listening.run("groove.as_heard")
    assert any(h.offset_ms for h in listening.studio.groove.pattern.hits)


def test_every_lane_can_be_shown_and_the_lean_set(placed) -> None:
    card = placed.at("place").groove_page
    card._all.setChecked(True)
    assert len(placed.at("place").grid.geometry_now().lanes) == len(LANES)
    box, _line = placed.at("place").time_page._leans["snare"]
    box.setValue(9.0)
    assert placed.studio.groove.feel.lean_of("snare") == 9 and "Snare" not in placed.windowTitle()


def test_zoom_scroll_and_follow(placed) -> None:
    grid = placed.at("place").grid
    placed.studio.set_document(Document("long", parse_grid("kick " + "|".join(["X---x---X---x---"] * 64))), None)
    assert grid.horizontalScrollBar().maximum() > 1000
    grid.set_playhead(60 * 80640.0)
    g = grid.geometry_now()
    assert 0 < g.x_of(60 * 80640.0) < g.width
    placed.at(placed.place).zoom(0.1)
    assert grid.geometry_now().quarter_px >= 4
    placed.at(placed.place).zoom(0)
    grid.put_cursor(80640 * 40, 0)
    assert 0 < grid.geometry_now().x_of(80640 * 40) < g.width


def test_all_bars_fit_on_the_screen_up_to_sixteen(placed) -> None:
    grid, bar = placed.at("place").grid, 4 * TICKS_PER_QUARTER
    for bars, first in ((3, 0), (16, 0), (40, 32)):
        groove = parse_grid("kick " + "|".join(["X---x---X---x---"] * bars))
        placed.studio.set_document(Document("long", groove), None)
        grid.put_cursor(first * bar + bar // 2, 0)
        placed.run("view.fit_all")
        g = grid.geometry_now()
        last = min(first + 16, bars)
        # The page begins at the left and its last bar ends before the right border.
        assert g.x_of((last - 1) * bar) < g.x_of(last * bar) <= g.width
        assert GUTTER_W <= g.x_of(first * bar) < g.x_of((first + 1) * bar)


@pytest.mark.parametrize("voice", VOICE_NAMES)
def test_every_voice_has_a_head_in_both_looks(qapp, voice: str) -> None:
    for theme in (NIGHT, DAY):
        Look.theme = theme
        images = [
            head_pixmap(Hit(0, voice, 60, role, limb=limb), chosen=False, size="full", ratio=1.0).toImage()
            for limb in LIMB_LETTERS
            for role in Role
        ]
        assert all(i.width() == HEAD and i.pixelColor(HEAD // 2, HEAD // 2 - 6).alpha() for i in images)
        assert len({i.bits().tobytes() for i in images}) == len(images)
    Look.theme = NIGHT


def brightness(color: str) -> float:
    """Relative luminance (WCAG 2)."""
    parts = [int(color[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    r, g, b = (p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


@pytest.mark.parametrize("theme", [NIGHT, DAY], ids=lambda t: t.name)
def test_text_and_limbs_stand_out(theme) -> None:
    def contrast(a: str, b: str) -> float:
        high, low = sorted((brightness(a), brightness(b)), reverse=True)
        return (high + 0.05) / (low + 0.05)

    for ground in (theme.ground, theme.panel):
        assert (
            contrast(theme.text, ground) > 7 and contrast(theme.dim, ground) > 4.5 and contrast(theme.warn, ground) > 4
        )
        assert all(contrast(color, ground) > 3 for color in theme.limbs.values())
    assert contrast(theme.lamp, theme.on_lamp) > 4.5
    assert all(contrast(color, theme.on_limb) > 3 for color in theme.limbs.values())


# -- files and the rest -----------------------------------------------------------------------------------------


def test_exports_write_what_they_say(placed, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, until) -> None:
    names = {"sound": "a.wav", "grid": "a.grid.txt", "midi": "a"}
    for kind, name in names.items():
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, n=name, **_k: (str(tmp_path / n), ""))
        questions.export(placed, kind)
    until(lambda: not placed.studio.tasks.running)
    assert soundfile.info(tmp_path / "a.wav").duration > 4.9
    assert read_grid(tmp_path / "a.grid.txt").pattern.hits == placed.studio.groove.pattern.hits
    assert (tmp_path / "a.mid").exists()
    for kind, name in (("grid", "a.grid.txt"), ("midi", "a.mid")):
        export(placed.studio, tmp_path / "no" / name, kind)
        until(lambda: not placed.studio.tasks.running)
        assert f"{name} could not be written" in placed.message


def test_saving_under_a_new_name_adds_the_ending(
    placed, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, saves
) -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **_k: (str(tmp_path / "night"), ""))
    assert saves(lambda then: questions.save(placed, then)) and placed.studio.file.path == tmp_path / "night.ghoststep"
    placed.run("hit.toggle")
    assert saves(lambda then: questions.save(placed, then)) and not placed.studio.history.unsaved
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **_k: ("", ""))
    assert not saves(lambda then: questions.save_as(placed, then))


def test_a_bad_key_map_does_not_stop_the_start(own_folders: Path) -> None:
    from ghoststep.files.places import keys_file

    keys_file().parent.mkdir(parents=True)
    keys_file().write_text("36,gong")
    made = app.make_window(Studio(SimulatedOutput()))
    assert made.studio.keys == general_midi_keys() and "gong" in made.message
    made.close()


def test_a_key_map_of_ones_own_is_written_once(window) -> None:
    from ghoststep.files.keymap import read_keys
    from ghoststep.files.places import keys_file

    window.run("file.keys")
    assert read_keys(keys_file()) == general_midi_keys() and "keys.csv" in window.message
    keys_file().write_text(keys_file().read_text().replace("36,kick\n", "60,kick\n36,kick\n"))
    window.run("file.keys")
    assert read_keys(keys_file()).key_of("kick") == 60


def test_recent_files_fill_their_menu(window, tmp_path: Path) -> None:
    window._fill_recent()
    assert [a.text() for a in window._recent.actions()] == ["No files yet"]
    grid = tmp_path / "x.grid.txt"
    grid.write_text("kick X---x---X---x---")
    memory.remember(grid)
    window._fill_recent()
    assert [a.text() for a in window._recent.actions()] == ["x.grid.txt"]


def test_a_window_keeps_its_size_and_look(window, qtbot) -> None:
    window.resize(1100, 700)
    if Look.theme is not NIGHT:  # random commands of another test may have left it by day
        window.switch_theme()
    window.switch_theme()
    assert window._settings.value("theme") == "day"
    window.close()
    again = app.make_window(Studio(SimulatedOutput()))
    qtbot.addWidget(again)
    assert (again.width(), again.height()) == (1100, 700)
    again.switch_theme()


def test_about_and_log(window, monkeypatch: pytest.MonkeyPatch) -> None:
    said: list[str] = []
    monkeypatch.setattr(QMessageBox, "about", lambda *a: said.append(a[-1]))
    window.run("help.about")
    window.run("help.log")
    assert "Ghost Step 0." in said[0] and "ghost-step.log" in window.message


def test_nothing_to_undo_is_said(window) -> None:
    window.run("edit.undo")
    assert window.message == "Nothing to take back."
    window.run("edit.redo")
    assert window.message == "Nothing to do again."


def test_small_parts(window) -> None:
    values: list[float] = []
    box = number(0, 10, values.append, name="Ten", unit="ms", decimals=1)
    box.setValue(3)
    show_number(box, 7)
    assert values == [3] and box.value() == 7 and box.suffix() == " ms"
    from PySide6.QtWidgets import QVBoxLayout, QWidget

    holder = QWidget()
    layout = QVBoxLayout(holder)
    layout.addWidget(label("x"))
    layout.addLayout(row(label("y")))
    clear(layout)
    assert layout.count() == 0 and font(13).pixelSize() == 13


def test_the_moment_is_heard_as_it_is(listening) -> None:
    recording = listening.studio.document.recording
    listening.studio.playback.hear_moment(1.0)
    program = listening.studio.playback.player.program
    a = round(0.99 * recording.rate)
    assert np.allclose(program.samples[:100, 0], recording.samples[a : a + 100].mean(axis=1))
    listening.studio.playback.stop()
    listening.studio.set_document(Document(), None)
    listening.studio.playback.hear_moment(1.0)
    assert "no recording" in listening.message


# -- touch of many hits -------------------------------------------------------------------------------------------


def test_ghosts_are_drawn_tried_out_and_taken_or_left(placed, until) -> None:
    before, place = placed.studio.groove, placed.at("place")
    page = place.proposal_page
    placed.run("groove.ghosts")
    until(lambda: page.waiting)
    counts = [int(page.choices.item(i).text().split(":")[1].split()[0]) for i in range(page.choices.count())]
    assert counts == sorted(counts) and len(counts) > 1
    QTest.keyClick(page.choices, Qt.Key.Key_Down)
    until(lambda: placed.studio.playback.player.playing)
    assert placed.studio.playback.player.what is Plays.PREVIEW and len(place.grid.proposed) == counts[1]
    assert placed.studio.groove is before and page.isVisible() and place.grid.isVisible()
    QTest.keyClick(page.choices, Qt.Key.Key_Escape)
    assert placed.studio.groove is before and not placed.studio.playback.player.playing and not place.grid.proposed
    placed.run("groove.ghosts")
    until(lambda: page.waiting)
    QTest.keyClick(page.choices, Qt.Key.Key_Return)
    new = [h for h in placed.studio.groove.pattern.hits if h not in before.pattern.hits]
    assert len(new) == counts[0] and {h.role for h in new} == {Role.GHOST} and "Ghosts added" in placed.message
    placed.run("edit.undo")
    assert placed.studio.groove is before


def test_a_lane_is_shaped_by_keys_alone(placed) -> None:
    placed.run("edit.select_lane")
    first = placed.at("place").grid.chosen_hits()
    placed.run("hit.crescendo")
    loud = [h.velocity for h in placed.at("place").grid.chosen_hits()]
    assert loud == sorted(loud) and len(loud) == len(first) and loud[0] < first[0].velocity
    placed.run("hit.even")
    placed.run("hit.swap_hands")
    assert {h.limb_letter for h in placed.at("place").grid.chosen_hits()} == {"L"}
    bars = placed.studio.groove.pattern.bars
    placed.run("groove.double_bar")
    assert placed.studio.groove.pattern.bars == bars + 1
    placed.run("groove.delete_bar")
    placed.run("groove.rotate_on")
    placed.run("groove.rotate_back")
    for _ in range(7):
        placed.run("edit.undo")
    assert placed.studio.history.undo_words is None
