"""The recording on screen: waveform, bar and beat lines laid over it, and below it the detected hits as stems.

A hit that the listening is not sure of is drawn pale with a question mark, so the eye goes there.
"""

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPen, QPixmap

from ghoststep.desk.layered import LayeredView
from ghoststep.desk.look import Look, font
from ghoststep.desk.stems import draw_stem
from ghoststep.music.kit import LANE_OF_VOICE, LANES
from ghoststep.music.pattern import Hit
from ghoststep.session.document import Document, Recording

GUTTER_W = 96
RULER_H = 34
DOUBTFUL = 0.75
_MAX_PX_PER_S = 4000.0


def peaks(recording: Recording, columns: int, start_s: float, end_s: float) -> tuple[np.ndarray, np.ndarray]:
    """Lowest and highest sample of each pixel column between two moments; shape (columns,) each."""
    mono = recording.samples.mean(axis=1)
    edges = np.linspace(start_s, end_s, columns + 1) * recording.rate
    edges = np.clip(edges.astype(int), 0, max(len(mono) - 1, 0))
    low = np.minimum.reduceat(mono, edges[:-1])
    high = np.maximum.reduceat(mono, edges[:-1])
    # Past the end of the sound there is nothing to see.
    silent = edges[:-1] >= len(mono) - 1
    low[silent] = high[silent] = 0
    return low, high


class WaveView(LayeredView):
    """Shows a document's recording; clicking a hit asks to hear it."""

    hit_clicked = Signal(object)
    moment_clicked = Signal(float)
    gutter_px = GUTTER_W

    def __init__(self) -> None:
        super().__init__()
        self.document = Document()
        self.chosen: Hit | None = None
        self._zoom = 0.0  # pixels a second; 0 fits the whole recording
        self.setAccessibleName("Recording")

    # -- layout -------------------------------------------------------------------------------------------------

    def show_document(self, document: Document) -> None:
        self.document = document
        hits = self._hits()
        if self.chosen is not None and not any(h is self.chosen for h in hits):
            self.chosen = None
        self.refresh()

    def _hits(self) -> tuple[Hit, ...]:
        heard = self.document.listening
        return heard.explained.groove.pattern.hits if heard else ()

    @property
    def length_s(self) -> float:
        if self.document.recording:
            return self.document.recording.length_s
        return max((h.origin.time_s for h in self._hits() if h.origin), default=1.0) + 0.5

    def px_per_s(self) -> float:
        fit = (self.viewport().width() - GUTTER_W - 12) / max(self.length_s, 0.1)
        return max(self._zoom, fit)

    def x_of(self, seconds: float) -> float:
        return GUTTER_W + 6 + seconds * self.px_per_s() - self.horizontalScrollBar().value()

    def seconds_at(self, x: float) -> float:
        return (x - GUTTER_W - 6 + self.horizontalScrollBar().value()) / self.px_per_s()

    def zoom(self, factor: float, around_x: float | None = None) -> None:
        x = around_x if around_x is not None else self.viewport().width() / 2
        seconds = self.seconds_at(x)
        self._zoom = min(self.px_per_s() * factor, _MAX_PX_PER_S) if factor else 0.0
        self.set_scroll_range()
        bar = self.horizontalScrollBar()
        bar.setValue(round(bar.value() + self.x_of(seconds) - x))
        self.refresh()

    def set_scroll_range(self) -> None:
        room = self.viewport().width() - GUTTER_W - 12
        bar = self.horizontalScrollBar()
        bar.setPageStep(max(1, room))
        bar.setRange(0, max(0, round(self.length_s * self.px_per_s()) - room))

    def _rows(self) -> list[int]:
        used = {LANE_OF_VOICE[h.voice] for h in self._hits()}
        return [i for i, lane in enumerate(LANES) if i in used or lane.always]

    def _wave_rect(self) -> QRectF:
        height = self.viewport().height() - RULER_H
        share = 0.42 if self.document.recording else 0.0
        return QRectF(GUTTER_W, RULER_H, self.viewport().width() - GUTTER_W, height * share)

    def _row_rect(self, place: int, count: int) -> QRectF:
        top = self._wave_rect().bottom() + 6
        height = (self.viewport().height() - top - 4) / max(count, 1)
        return QRectF(GUTTER_W, top + place * height, self.viewport().width() - GUTTER_W, height)

    # -- painting -----------------------------------------------------------------------------------------------

    def set_playhead(self, seconds: float | None) -> None:
        self.move_playhead(None if seconds is None else self.x_of(seconds))

    def painted_layer(self, ratio: float) -> QPixmap:
        layer = self.empty_layer(ratio)
        painter = QPainter(layer)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.viewport().rect(), Look.color("ground"))
        self._paint_rows(painter)
        self._paint_wave(painter)
        self._paint_lines(painter)
        self._paint_hits(painter, ratio)
        self._paint_gutter(painter)
        painter.end()
        return layer

    def _paint_wave(self, painter: QPainter) -> None:
        recording, rect = self.document.recording, self._wave_rect()
        if recording is None:
            return
        painter.fillRect(rect, Look.color("panel"))
        columns = max(1, round(rect.width()))
        low, high = peaks(recording, columns, self.seconds_at(rect.left()), self.seconds_at(rect.right()))
        loudest = max(float(np.abs(recording.samples).max()), 1e-6)
        middle, half = rect.center().y(), rect.height() / 2 - 6
        painter.setPen(QPen(Look.color("wave"), 1))
        xs = rect.left() + np.arange(columns)
        top, bottom = middle - high / loudest * half, middle - low / loudest * half
        painter.drawLines([QLineF(x, t, x, max(b, t + 1)) for x, t, b in zip(xs, top, bottom, strict=True)])

    def _paint_lines(self, painter: QPainter) -> None:
        """Beats fine, bars strong and numbered, from the heard groove's own tempo."""
        heard = self.document.listening
        if heard is None:
            return
        explained, height = heard.explained, self.viewport().height()
        pattern, tempo = explained.groove.pattern, explained.groove.tempo
        unit, bar = pattern.meter.unit_ticks, pattern.meter.bar_ticks
        for tick in range(0, pattern.length_ticks + 1, unit):
            x = self.x_of(explained.start_s + float(tempo.seconds(tick)))
            if not GUTTER_W - 2 <= x <= self.viewport().width():
                continue
            on_bar = tick % bar == 0
            painter.setPen(
                QPen(Look.color("text" if on_bar else "strong_line", 170 if on_bar else 150), 2 if on_bar else 1)
            )
            painter.drawLine(QLineF(x, RULER_H - (16 if on_bar else 5), x, height))
            if on_bar and tick < pattern.length_ticks:
                painter.setFont(font(14, bold=True))
                painter.setPen(Look.color("text"))
                painter.drawText(QPointF(x + 5, RULER_H - 10), f"bar {tick // bar + 1}")

    def _paint_rows(self, painter: QPainter) -> None:
        rows = self._rows()
        for place in range(len(rows)):
            if place % 2 == 0:
                painter.fillRect(self._row_rect(place, len(rows)), Look.color("panel"))

    def _paint_hits(self, painter: QPainter, ratio: float) -> None:
        rows = self._rows()
        explained = self.document.listening.explained if self.document.listening else None
        for h in self._hits():
            if h.origin is None or explained is None:
                continue
            x = self.x_of(h.origin.time_s)
            if not GUTTER_W - 20 <= x <= self.viewport().width() + 20:
                continue
            rect = self._row_rect(rows.index(LANE_OF_VOICE[h.voice]), len(rows))
            foot = rect.bottom() - 5
            head = foot - (rect.height() - 26) * h.velocity / 127
            sure = h.origin.confidence
            painter.setOpacity(1.0 if sure >= DOUBTFUL else 0.55)
            draw_stem(painter, h, x, x, foot, head, chosen=h is self.chosen, ratio=ratio)
            painter.setOpacity(1.0)
            if sure < DOUBTFUL:
                painter.setFont(font(13, bold=True))
                painter.setPen(Look.color("warn"))
                painter.drawText(QPointF(x + 9, head - 3), "?")

    def _paint_gutter(self, painter: QPainter) -> None:
        painter.fillRect(QRectF(0, 0, GUTTER_W, self.viewport().height()), Look.color("ground"))
        rows = self._rows()
        painter.setFont(font(13, bold=True))
        painter.setPen(Look.color("text"))
        for place, index in enumerate(rows):
            rect = self._row_rect(place, len(rows))
            painter.drawText(
                QRectF(12, rect.top(), GUTTER_W - 16, rect.height()), Qt.AlignmentFlag.AlignVCenter, LANES[index].label
            )
        if self.document.recording is not None:
            rect = self._wave_rect()
            painter.setFont(font(13))
            painter.setPen(Look.color("dim"))
            painter.drawText(
                QRectF(12, rect.top(), GUTTER_W - 16, rect.height()), Qt.AlignmentFlag.AlignVCenter, "Recording"
            )

    # -- input --------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        rows = self._rows()
        for h in self._hits():
            rect = self._row_rect(rows.index(LANE_OF_VOICE[h.voice]), len(rows))
            if h.origin and rect.contains(at) and abs(self.x_of(h.origin.time_s) - at.x()) <= 10:
                self.chosen = h
                self.refresh()
                self.hit_clicked.emit(h)
                return
        if at.x() > GUTTER_W and self.document.recording is not None:
            self.moment_clicked.emit(max(0.0, self.seconds_at(at.x())))
