"""Listen: the recording, what was heard in it, other ways to hear it, and everything that sets it right."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from ghoststep.desk.listen.click_taps import ClickTaps
from ghoststep.desk.listen.hit_panel import HitPanel
from ghoststep.desk.listen.passage_page import PassagePage
from ghoststep.desk.listen.reading_strip import MOST, ReadingStrip
from ghoststep.desk.listen.tap_page import TapPage
from ghoststep.desk.listen.wave_view import DOUBTFUL, WaveView, peaks
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.parts.overview import OverviewStrip
from ghoststep.desk.parts.place_widget import PlaceWidget
from ghoststep.desk.parts.widgets import choice, label, panel, scrolled, show_choice
from ghoststep.files.sound import Overview
from ghoststep.listen.bars.reading import TempoReading, near_readings
from ghoststep.listen.words import lean_words, looseness_words, near_words, summary, swing_words, tempo_words
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit
from ghoststep.session.commands import COMMANDS
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.work import corrections
from ghoststep.work.time_lines import time_line_words

_METERS = ("4/4", "3/4", "2/4", "6/8", "12/8", "9/8", "5/4", "7/8 2+2+3", "7/8 3+2+2", "7/4", "11/4 4+4+3")
_OVERVIEW_COLUMNS = 2000
_NEW_VELOCITY = 72
_LEAST_SHARE = 0.01


class ListenPlace(PlaceWidget):
    """The first place; empty it invites a file."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        studio = self._studio = self.studio
        self._in_doubts = False
        self._one = 0  # the hit from which the choice was widened
        self.click_taps = ClickTaps()
        self.card = HitPanel(desk.run)
        self.view: WaveView = WaveView(studio.choice)
        self.view.hit_clicked.connect(lambda _hit: self.hear_chosen())
        self.view.moment_clicked.connect(studio.playback.hear_moment)
        self.view.hit_chosen.connect(lambda _hit: self._show_card())
        self.view.region_wanted.connect(studio.choice.set_range)
        self.readings = ReadingStrip(self.take_reading)
        self.view.window_changed.connect(self.readings.show_window)
        self.overview = OverviewStrip()
        self.view.window_changed.connect(self.overview.show_stretch)
        self.overview.stretch_changed.connect(self.view.show_window)
        self._stack = QStackedWidget()
        self._stack.addWidget(self._empty())
        self._stack.addWidget(self._full())
        self.passage, self.taps = PassagePage(), TapPage()
        self._stack.addWidget(self.passage)
        self._stack.addWidget(self.taps)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._stack)
        studio.session.document_opened.connect(self._leave_pages)
        studio.session.document_opened.connect(self.click_taps.clear)
        self.passage.passage_wanted.connect(lambda path, a, b: studio.listener.listen_to(path, (a, b)))
        self.passage.whole_wanted.connect(lambda path: studio.listener.listen_to(path, None))
        self.passage.hear_wanted.connect(studio.listener.hear_passage)
        self.passage.cancelled.connect(self._leave_pages)
        self.taps.click_wanted.connect(studio.playback.play_click)
        self.taps.finished.connect(studio.listener.take_taps)
        self.taps.cancelled.connect(self._leave_pages)

    # -- building -----------------------------------------------------------------------------------------------

    def _empty(self) -> QWidget:
        out = QWidget()
        layout = QVBoxLayout(out)
        layout.addStretch(3)
        layout.addWidget(label("Drop a drum recording here", "headline"), 0, Qt.AlignmentFlag.AlignHCenter)
        words = (
            "WAV, FLAC, OGG, MP3 or AIFF: a loop, or a whole song to pick a passage from. A MIDI performance works too."
        )
        layout.addWidget(label(words, "dim"), 0, Qt.AlignmentFlag.AlignHCenter)
        layout.addSpacing(14)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        for text, name, main in (
            ("Choose a file …", "file.open", True),
            ("Open the demo", "file.demo", False),
            ("Tap a groove", "file.tap", False),
            ("New groove …", "file.new", False),
        ):
            button = QPushButton(text)
            button.setObjectName("main" if main else "")
            button.clicked.connect(lambda _=False, n=name: self.desk.run(n))
            buttons.addWidget(button)
        buttons.addStretch(1)
        layout.addLayout(buttons)
        layout.addStretch(4)
        return out

    def _full(self) -> QWidget:
        out = QWidget()
        side, self._side = panel()
        self._side.setSpacing(4)
        self._side.setContentsMargins(16, 4, 16, 2)
        self._tempo = label("", "headline")
        self._meter = label("", "title")
        self._swing, self._lean = label("", "sentence", wrap=True), label("", "sentence", wrap=True)
        self._remarks = label("", "warn", wrap=True)
        for widget in (self._tempo, self._meter, self._swing, self._lean, self._remarks):
            self._side.addWidget(widget)
        self._why = label("", "dim", wrap=True)
        self._near = label("", "warn", wrap=True)
        self._side.addWidget(self._near)
        self._side.addWidget(self._why)
        self._side.addLayout(self._whole_buttons())
        self._side.addSpacing(6)
        self._side.addWidget(self.card)
        self._side.addStretch(1)
        self._sentence = label("", "sentence", wrap=True)
        self._sentence.setContentsMargins(14, 8, 14, 8)
        left = QVBoxLayout()
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(0)
        left.addWidget(self.overview)
        left.addWidget(self.readings)
        left.addWidget(self.view, 1)
        left.addWidget(self._sentence)
        layout = QHBoxLayout(out)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(left, 1)
        layout.addLayout(self._right(side))
        return out

    def _right(self, side: QFrame) -> QVBoxLayout:
        """The panel, which scrolls where there is little room, and below it the way on, which is always seen."""
        go = QPushButton("To the grid  (F2)")
        go.clicked.connect(lambda: self.desk.go("place"))
        foot = QWidget()
        foot.setObjectName("panel")
        below = QVBoxLayout(foot)
        below.setContentsMargins(16, 6, 16, 8)
        below.addWidget(go)
        right = QVBoxLayout()
        right.setSpacing(0)
        right.addWidget(scrolled(side), 1)
        right.addWidget(foot)
        return right

    def _whole_buttons(self) -> QGridLayout:
        """What can be said of the reading as a whole."""
        grid = QGridLayout()
        grid.setSpacing(4)
        self._meters = choice([(m, m) for m in _METERS], self._meter_picked, name="It is in this meter (I for others)")
        self._meters.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._swung = self._command_button("heard.swing", "Straight")
        places = (
            (self._command_button("heard.twice", "Twice as fast"), 0, 0),
            (self._command_button("heard.half", "Half as fast"), 0, 1),
            (self._command_button("heard.beat_one", "Beat 1 is here"), 1, 0),
            (self._swung, 1, 1),
        )
        for button, row, column in places:
            grid.addWidget(button, row, column)
        grid.addWidget(label("It is in", "dim"), 2, 0, Qt.AlignmentFlag.AlignRight)
        grid.addWidget(self._meters, 2, 1)
        return grid

    def _command_button(self, name: str, text: str) -> QPushButton:
        command = COMMANDS[name]
        button = QPushButton(f"{text}  ({command.keys[0].replace('Shift+', 'Shift ')})")
        button.setToolTip(command.text)
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        button.setStyleSheet("padding: 3px 4px;")
        button.clicked.connect(lambda: self.desk.run(name))
        return button

    # -- showing ------------------------------------------------------------------------------------------------

    def show_document(self) -> None:
        document = self._studio.document
        heard = document.listening
        # A page that is being used (taps, a passage) is not closed because something changes under it.
        if self._stack.currentIndex() < 2:
            self._stack.setCurrentIndex(1 if heard else 0)
        self._show_overview(document)
        self.view.show_document(document)
        if heard is None:
            return
        explained = heard.explained
        pattern = explained.groove.pattern
        self._tempo.setText(tempo_words(explained))
        bars = f"{pattern.bars} bar{'s' if pattern.bars > 1 else ''}"
        self._meter.setText(f"{pattern.meter.full_name}, {bars}, {len(pattern.hits)} hits")
        self._swing.setText(swing_words(explained).capitalize())
        spread = looseness_words(explained)
        self._lean.setText(lean_words(explained).capitalize() + (f"; {spread}" if spread else ""))
        told = f"{document.name}: {summary(explained)} {time_line_words(explained.groove)}"
        self._sentence.setText(told.strip())
        self._remarks.setText("\n".join(heard.remarks))
        self._remarks.setVisible(bool(heard.remarks))
        self._swung.setText("Straight  (W)" if not explained.swing.straight else "Swung  (W)")
        show_choice(self._meters, next((m for m in _METERS if Meter.parse(m) == pattern.meter), None))
        others = tuple(r for r in explained.readings if not _is(r, document) and r.share >= _LEAST_SHARE)
        self.readings.show_readings(others)
        taken = next((r for r in explained.readings if _is(r, document)), None)
        first = bool(taken) and taken is explained.readings[0]
        self._why.setText(f"Counted so because {taken.why}." if taken and first and taken.why else "")
        self._why.setVisible(bool(self._why.text()))
        settled = heard.corrections.tempo_bpm is not None or heard.corrections.meter is not None
        near = near_readings(explained.readings) if taken and first and not settled else ()
        keys = " or ".join(f"Alt+{others.index(r) + 1}" for r in near if r in others[:MOST])
        asked = f"Not decided: it may as well be {near_words(explained.readings)}. {keys} takes that, Alt+0 this."
        self._near.setText(asked if keys else "")
        self._near.setVisible(bool(keys))
        self.card.show_doubts(sum(c < DOUBTFUL for c in heard.confidence))
        self._show_card()

    def _show_card(self) -> None:
        self.card.show_hits(self.view.all_chosen, self._studio.document)
        self.card.show_offers(self.view.chosen_offer, self.view.offers)

    def _leave_pages(self) -> None:
        """Back from taps or a passage to what was heard."""
        self._stack.setCurrentIndex(1 if self._studio.document.listening else 0)

    def set_playhead(self, ticks: float | None) -> None:
        self.view.set_playhead(self._recorded_s(ticks))

    def playing_s(self) -> float | None:
        """The moment of the recording that is heard now, in s; None where nothing plays."""
        return self._recorded_s(self._studio.playback.player.position_ticks())

    def _recorded_s(self, ticks: float | None) -> float | None:
        """The recording goes on at the tempo it was heard in, whatever the groove's is now."""
        heard = self._studio.document.listening
        if ticks is None or heard is None:
            return None
        return heard.explained.start_s + float(heard.explained.groove.tempo.seconds(ticks))

    def zoom(self, factor: float) -> None:
        self.view.zoom(factor)

    def take_focus(self) -> None:
        (self.taps if self._stack.currentWidget() is self.taps else self.view).setFocus()

    def look_changed(self) -> None:
        self.view.refresh()

    def pick_passage(self, path: Path, overview: Overview) -> None:
        self.passage.show_file(path, overview)
        self._stack.setCurrentWidget(self.passage)

    def show_taps(self) -> None:
        self._stack.setCurrentWidget(self.taps)
        self.taps.setFocus()

    def _show_overview(self, document: Document) -> None:
        recording = document.recording
        self.overview.setVisible(recording is not None)
        if recording is not None and recording is not self.view.document.recording:
            columns = min(_OVERVIEW_COLUMNS, len(recording.samples))
            self.overview.show_peaks(*peaks(recording, columns, 0, recording.length_s), recording.length_s)

    def keep_reading(self) -> None:
        """Count it as it is counted: decided."""
        heard = self._studio.document.listening
        if heard is not None and heard.explained.readings:
            now = next((r for r in heard.explained.readings if _is(r, self._studio.document)), None)
            if now is not None:
                self._studio.session.correct(lambda d: corrections.reading(d, now.tempo_bpm, now.meter))

    def take_reading(self, number: int) -> None:
        """Count it as one of the other readings."""
        if number >= len(self.readings.readings):
            self._studio.said.emit("There is no such other way to count it.", True)
            return
        reading = self.readings.readings[number]
        self._studio.session.correct(lambda d: corrections.reading(d, reading.tempo_bpm, reading.meter))

    # -- setting right ------------------------------------------------------------------------------------------

    def _meter_picked(self, value: object) -> None:
        meter = Meter.parse(str(value))
        self._studio.session.correct(lambda d: corrections.in_meter(d, meter))

    def correct_chosen(self, change: Callable[[Document, Sequence[Hit]], Edit], *, then_doubt: bool) -> None:
        hits = self.view.all_chosen
        if not hits:
            self._studio.said.emit("No hit is chosen: click one, or press D for the next doubt.", True)
            return
        following = self._after(hits) if then_doubt and self._in_doubts else None
        self._studio.session.correct(lambda d: change(d, hits))
        if following is not None:
            self._choose_and_hear(following)

    def _after(self, hits: Sequence[Hit]) -> Hit | None:
        """The doubt that comes after these; the round ends with the last."""
        answered = {h.key for h in hits}
        found = corrections.next_doubt(self._studio.document, hits[0], limit=DOUBTFUL, but=answered)
        self._in_doubts = found is not None and found.key not in answered
        return found if self._in_doubts else None

    def widen_choice(self) -> None:
        """From one hit to those of its voice at the same spot of all bars, to all of the voice, and back to the one."""
        now = self.view.all_chosen
        if not now:
            self._studio.said.emit("No hit is chosen: click one, or press D for the next doubt.", True)
            return
        if len(now) == 1:
            self._one = now[0].key
        one = next((h for h in now if h.key == self._one), now[0])
        document = self._studio.document
        sets = [(one,), corrections.alike(document, one), corrections.alike(document, one, anywhere=True)]
        wider = next((found for found in sets if len(found) > len(now)), sets[0])
        self._studio.choice.put(keys=[h.key for h in wider])

    def next_doubt(self) -> None:
        """Choose and play the most doubtful hit, then the next one."""
        found = corrections.next_doubt(self._studio.document, self.view.chosen, limit=DOUBTFUL)
        self._in_doubts = found is not None
        if found is None:
            self._studio.said.emit("No doubts left.", False)
        else:
            self._choose_and_hear(found)

    def _choose_and_hear(self, hit: Hit) -> None:
        self.view.choose(hit)
        self.hear_chosen()

    def hear_chosen(self) -> None:
        moment = self.view.moment()
        if moment is not None and self._studio.document.recording is not None:
            self._studio.playback.hear_moment(moment)

    def add_missed(self) -> None:
        """A hit on the cursor's lane at the attack nearest to the cursor."""
        from ghoststep.listen.signal.onsets import nearest_attack_s  # SciPy takes long to import

        moment, document = self.view.moment(), self._studio.document
        if moment is None or document.listening is None:
            self._studio.said.emit("Click on a lane where the missed hit belongs, then press Enter.", True)
            return
        name = self.view.cursor_voice
        if document.recording is not None:
            moment = nearest_attack_s(document.recording.samples, document.recording.rate, moment)
        alike = sorted(h.velocity for h in self.view.hits() if h.voice == name)
        velocity = alike[len(alike) // 2] if alike else _NEW_VELOCITY
        at = moment
        self._studio.session.correct(lambda d: corrections.missed_hit(d, at, name, velocity))

    def beat_one_here(self) -> None:
        moment = self.view.moment()
        if moment is None:
            self._studio.said.emit("Choose a hit or click on a moment first.", True)
        else:
            at = moment
            self._studio.session.correct(lambda d: corrections.beat_one(d, at))


def _is(reading: TempoReading, document: Document) -> bool:
    """Whether a reading is the one in force."""
    assert document.listening is not None
    explained = document.listening.explained
    bpm = explained.groove.tempo.main_bpm
    return reading.meter == explained.groove.pattern.meter and abs(reading.tempo_bpm / bpm - 1) < 0.05
