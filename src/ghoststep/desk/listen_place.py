"""Listen: the recording, what was heard in it, and other ways to hear it."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from ghoststep.desk.parts import clear, label, panel
from ghoststep.desk.studio import Studio
from ghoststep.desk.wave_view import DOUBTFUL, WaveView
from ghoststep.listen.explain import Hints, TempoReading
from ghoststep.listen.words import lean_words, summary, swing_words, tempo_words
from ghoststep.music.kit import voice
from ghoststep.music.pattern import Hit
from ghoststep.music.spots import count_name, spot_at


class ListenPlace(QWidget):
    """The first place; empty it invites a file."""

    take_to_grid = Signal()
    file_wanted = Signal()
    demo_wanted = Signal()

    def __init__(self, studio: Studio) -> None:
        super().__init__()
        self._studio = studio
        self.view = WaveView()
        self.view.hit_clicked.connect(self._hit_clicked)
        self.view.moment_clicked.connect(studio.hear_moment)
        self._stack = QStackedWidget()
        self._stack.addWidget(self._empty())
        self._stack.addWidget(self._full())
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._stack)
        studio.document_changed.connect(self.show_document)

    def _empty(self) -> QWidget:
        out = QWidget()
        layout = QVBoxLayout(out)
        layout.addStretch(3)
        layout.addWidget(label("Drop a drum recording here", "headline"), 0, Qt.AlignmentFlag.AlignHCenter)
        words = "WAV, FLAC, OGG, MP3 or AIFF, up to 15 minutes. A MIDI performance works too."
        layout.addWidget(label(words, "dim"), 0, Qt.AlignmentFlag.AlignHCenter)
        layout.addSpacing(14)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        for text, signal, main in (
            ("Choose a file …", self.file_wanted, True),
            ("Open the demo", self.demo_wanted, False),
        ):
            button = QPushButton(text)
            button.setObjectName("main" if main else "")
            button.clicked.connect(signal)
            buttons.addWidget(button)
        buttons.addStretch(1)
        layout.addLayout(buttons)
        layout.addStretch(4)
        return out

    def _full(self) -> QWidget:
        out = QWidget()
        side, self._side = panel()
        self._tempo = label("", "headline")
        self._meter = label("", "title")
        self._swing, self._lean = label("", "sentence", wrap=True), label("", "sentence", wrap=True)
        self._counts = label("", "dim", wrap=True)
        self._hit = label("", "sentence", wrap=True)
        self._readings = QVBoxLayout()
        self._readings.setSpacing(5)
        self._remarks = label("", "warn", wrap=True)
        go = QPushButton("To the grid  (F2)")
        go.setObjectName("main")
        go.clicked.connect(self.take_to_grid)
        for widget in (self._tempo, self._meter, self._swing, self._lean, self._counts):
            self._side.addWidget(widget)
        self._side.addSpacing(8)
        self._also = label("Could also be heard as", "section")
        self._side.addWidget(self._also)
        self._side.addLayout(self._readings)
        self._side.addSpacing(8)
        self._side.addWidget(label("Hit", "section"))
        self._side.addWidget(self._hit)
        self._side.addWidget(self._remarks)
        self._side.addStretch(1)
        self._side.addWidget(go)
        self._sentence = label("", "sentence", wrap=True)
        self._sentence.setContentsMargins(14, 8, 14, 8)
        left = QVBoxLayout()
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(0)
        left.addWidget(self.view, 1)
        left.addWidget(self._sentence)
        layout = QHBoxLayout(out)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(left, 1)
        layout.addWidget(side)
        return out

    def show_document(self) -> None:
        document = self._studio.document
        heard = document.listening
        self._stack.setCurrentIndex(1 if heard else 0)
        self.view.show_document(document)
        if heard is None:
            return
        explained = heard.explained
        pattern = explained.groove.pattern
        self._tempo.setText(tempo_words(explained))
        self._meter.setText(f"{pattern.meter.full_name}, {pattern.bars} bar{'s' if pattern.bars > 1 else ''}")
        self._swing.setText(swing_words(explained).capitalize())
        self._lean.setText(lean_words(explained).capitalize())
        doubts = sum(c < DOUBTFUL for c in heard.confidence)
        self._counts.setText(
            f"{len(pattern.hits)} hits, {doubts} of them doubtful (marked ?)" if doubts else f"{len(pattern.hits)} hits"
        )
        self._sentence.setText(f"{document.name}: {summary(explained)}")
        self._remarks.setText("\n".join(heard.remarks))
        likely = tuple(r for r in explained.readings[1:4] if r.share >= 0.01)
        self._show_readings(likely, document.recording is not None)
        self._show_hit(self.view.chosen)

    def _show_readings(self, readings: tuple[TempoReading, ...], can: bool) -> None:
        clear(self._readings)
        self._also.setVisible(bool(readings))
        for reading in readings:
            share = f"{100 * reading.share:.0f} %"
            button = QPushButton(f"{reading.tempo_bpm:.1f} BPM in {reading.meter}   ({share})")
            button.setEnabled(can)
            button.setToolTip("Fit the grid anew with this tempo and meter")
            button.clicked.connect(lambda _=False, r=reading: self._studio.listen_again(Hints(r.tempo_bpm, r.meter)))
            self._readings.addWidget(button)

    def _hit_clicked(self, hit: Hit) -> None:
        self._show_hit(hit)
        if hit.origin and self._studio.document.recording is not None:
            self._studio.hear_moment(hit.origin.time_s)

    def _show_hit(self, hit: Hit | None) -> None:
        heard = self._studio.document.listening
        if hit is None or hit.origin is None or heard is None:
            self._hit.setText("Click a hit to hear it and see its figures.")
            return
        meter = heard.explained.groove.pattern.meter
        spot = spot_at(hit.position_ticks, meter)
        late = heard.explained.groove.feel.lean_of(hit.voice) + hit.offset_ms
        self._hit.setText(
            f"{voice(hit.voice).label}, bar {spot.bar}, {count_name(spot.tick, meter)}\n"
            f"at {hit.origin.time_s:.3f} s, velocity {hit.velocity}\n"
            f"{abs(late):.1f} ms {'late' if late > 0 else 'early'} on its spot\n"
            f"sure to {100 * hit.origin.confidence:.0f} %"
        )
