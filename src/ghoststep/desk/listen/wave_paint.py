"""Drawing of the Listen place: waveform or spectrogram, lines of bars, beats and steps, marks and stems of the hits."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from ghoststep.desk.look.look import Look, font
from ghoststep.desk.look.stems import Placed, draw_stems
from ghoststep.listen.signal.spectrum import LISTEN_RATE, band_matrix, bands_at
from ghoststep.music.kit import LANE_OF_VOICE, LANES, voice
from ghoststep.music.pattern import Hit
from ghoststep.music.time import step_ticks
from ghoststep.session.document.document import Document, Recording
from ghoststep.work.offers import Offer

GUTTER_W = 96.0
RULER_H = 34.0
LEAD_PX = 16.0  # room for a head that stands at the very start
DOUBTFUL = 0.75
_LEAST_STEP_PX = 9.0
_OFFER_PX = 6.5
_BANDS, _LOW_HZ, _HIGH_HZ = 96, 30.0, 16000.0


@dataclass(frozen=True, eq=False)
class Scene:
    """What is shown and where things stand; pixels of the viewport, seconds of the recording."""

    document: Document
    hits: tuple[Hit, ...]
    rows: tuple[int, ...]  # indices into LANES
    width: float
    height: float
    px_per_s: float
    left_s: float  # the second at the gutter's edge
    chosen: tuple[Hit, ...]
    cursor_s: float | None
    cursor_row: int
    spectral: bool
    offers: tuple[Offer, ...] = ()
    chosen_offer: Offer | None = None

    def x_of(self, seconds: float) -> float:
        return GUTTER_W + LEAD_PX + (seconds - self.left_s) * self.px_per_s

    def seconds_at(self, x: float) -> float:
        return (x - GUTTER_W - LEAD_PX) / self.px_per_s + self.left_s

    def wave_rect(self) -> QRectF:
        share = 0.40 if self.document.recording else 0.0
        return QRectF(GUTTER_W, RULER_H, self.width - GUTTER_W, (self.height - RULER_H) * share)

    def row_rect(self, place: int) -> QRectF:
        top = self.wave_rect().bottom() + 6
        height = (self.height - top - 4) / max(len(self.rows), 1)
        return QRectF(GUTTER_W, top + place * height, self.width - GUTTER_W, height)

    def row_of(self, hit: Hit) -> int:
        return self.rows.index(LANE_OF_VOICE[hit.voice])


def peaks(recording: Recording, columns: int, start_s: float, end_s: float) -> tuple[np.ndarray, np.ndarray]:
    """Lowest and highest sample of each pixel column between two moments; shape (columns,) each."""
    first = int(np.clip(start_s * recording.rate, 0, len(recording.samples)))
    last = int(np.clip(end_s * recording.rate + 1, first + 1, len(recording.samples)))
    mono = recording.samples[first:last].mean(axis=1)
    edges = np.linspace(start_s, end_s, columns + 1) * recording.rate - first
    edges = np.clip(edges.astype(int), 0, max(len(mono) - 1, 0))
    low = np.minimum.reduceat(mono, edges[:-1])
    high = np.maximum.reduceat(mono, edges[:-1])
    # Past the end of the sound there is nothing to see.
    silent = edges[:-1] >= len(mono) - 1
    low[silent] = high[silent] = 0
    return low, high


def paint_rows(painter: QPainter, scene: Scene) -> None:
    for place in range(0, len(scene.rows), 2):
        painter.fillRect(scene.row_rect(place), Look.color("panel"))


def paint_wave(painter: QPainter, scene: Scene) -> None:
    recording, rect = scene.document.recording, scene.wave_rect()
    if recording is None:
        return
    painter.fillRect(rect, Look.color("panel"))
    columns = max(1, round(rect.width()))
    low, high = peaks(recording, columns, scene.seconds_at(rect.left()), scene.seconds_at(rect.right()))
    loudest = max(float(np.abs(recording.samples).max()), 1e-6)
    middle, half = rect.center().y() + 4, rect.height() / 2 - 10
    painter.setPen(QPen(Look.color("wave"), 1))
    xs = rect.left() + np.arange(columns)
    top, bottom = middle - high / loudest * half, middle - low / loudest * half
    painter.drawLines([QLineF(x, t, x, max(b, t + 1)) for x, t, b in zip(xs, top, bottom, strict=True)])


def paint_spectrum(painter: QPainter, scene: Scene) -> None:
    """Loudness by pitch and time: low below, high above; louder is nearer to the lamp's colour."""
    recording, rect = scene.document.recording, scene.wave_rect()
    if recording is None:
        return
    columns = max(1, round(rect.width() / 2))
    centres = np.linspace(scene.seconds_at(rect.left()), scene.seconds_at(rect.right()), columns) * recording.rate
    first = max(0, int(centres[0]) - 4096)
    piece = recording.samples[first : max(0, int(centres[-1])) + 4096].mean(axis=1).astype(np.float32)
    scale = LISTEN_RATE / recording.rate
    bands = band_matrix(2048, _BANDS, _LOW_HZ * scale, min(_HIGH_HZ * scale, 0.49 * LISTEN_RATE))
    inside = (centres >= 0) & (centres < len(recording.samples))
    level = np.zeros((columns, _BANDS), np.float32)
    if len(piece) and inside.any():
        level[inside] = bands_at(piece, centres[inside].astype(np.int64) - first, 2048, bands)
    # Each band is shown partly against its own loudest moment, else the low drums outshine every cymbal.
    top = np.maximum(0.35 * level.max() + 0.65 * level.max(axis=0), 1e-6)
    share = np.clip((level / top - 0.35) / 0.65, 0, 1).T[::-1]
    painter.drawImage(rect, _tinted(share))


def _tinted(share: np.ndarray) -> QImage:
    """Shares 0 to 1, shape (rows, columns), as an image from the panel's colour to the lamp's."""
    stops = [Look.color("panel"), Look.color("wave"), Look.color("lamp")]
    table = np.array([[c.red(), c.green(), c.blue()] for c in stops], float)
    place = share * (len(stops) - 1)
    low = np.minimum(place.astype(int), len(stops) - 2)
    rgb = table[low] + (place - low)[..., None] * (table[low + 1] - table[low])
    pixels = np.zeros((*share.shape, 4), np.uint8)
    pixels[..., :3] = rgb[..., ::-1]
    pixels[..., 3] = 255
    data = pixels.tobytes()
    return QImage(data, share.shape[1], share.shape[0], 4 * share.shape[1], QImage.Format.Format_RGB32).copy()


def paint_lines(painter: QPainter, scene: Scene, region: tuple[int, int] | None) -> None:
    """Bars strong and numbered, beats fine, steps finer where there is room; the range that plays on the ruler."""
    heard = scene.document.listening
    if heard is None:
        return
    explained = heard.explained
    pattern, tempo = explained.groove.pattern, explained.groove.tempo
    low = int(tempo.to_ticks(scene.seconds_at(GUTTER_W) - explained.start_s))
    high = int(tempo.to_ticks(scene.seconds_at(scene.width) - explained.start_s))

    def x_at(ticks: float) -> float:
        return scene.x_of(explained.start_s + float(tempo.seconds(ticks)))

    if region is not None and region != (0, pattern.length_ticks):
        a, b = x_at(region[0]), x_at(region[1])
        painter.fillRect(QRectF(max(a, GUTTER_W), 2, max(b - max(a, GUTTER_W), 0), RULER_H - 4), Look.color("lamp", 70))
    _paint_steps(painter, scene, low, high)
    for tick, on_bar in pattern.frame.beats(max(0, low), min(high, pattern.length_ticks) + 1):
        x = x_at(tick)
        if x < GUTTER_W - 2:
            continue
        color = Look.color("text" if on_bar else "strong_line", 170 if on_bar else 150)
        painter.setPen(QPen(color, 2 if on_bar else 1))
        painter.drawLine(QLineF(x, RULER_H - (16 if on_bar else 5), x, scene.height))
        if on_bar and tick < pattern.length_ticks:
            painter.setFont(font(14, bold=True))
            painter.setPen(Look.color("text"))
            painter.drawText(QPointF(x + 5, RULER_H - 10), f"bar {pattern.frame.spot_at(tick).bar}")


def _paint_steps(painter: QPainter, scene: Scene, low: int, high: int) -> None:
    """The grid of each passage, swing included, as dotted lines."""
    heard = scene.document.listening
    assert heard is not None
    explained = heard.explained
    swing, tempo = explained.groove.feel.swing, explained.groove.tempo
    painter.setPen(QPen(Look.color("strong_line", 90), 1, Qt.PenStyle.DotLine))
    for passage in explained.passages:
        step = step_ticks(passage.grid)
        if step * tempo.tick_seconds(passage.start_ticks) * scene.px_per_s < _LEAST_STEP_PX:
            continue
        first = max(passage.start_ticks, low // step * step)
        for tick in range(first, min(passage.end_ticks, high), step):
            played = swing.bend_one(tick, explained.groove.pattern.frame)
            x = scene.x_of(explained.start_s + float(tempo.seconds(played)))
            if x >= GUTTER_W:
                painter.drawLine(QLineF(x, RULER_H, x, scene.height))


def paint_hits(painter: QPainter, scene: Scene, ratio: float) -> None:
    """A mark over the sound and a stem on the lane for each hit; doubtful ones pale, with a question mark."""
    wave = scene.wave_rect()
    heard = scene.document.listening
    closes = {round(a, 6): b for a, b in heard.closed_s} if heard else {}
    groove = heard.explained.groove if heard else scene.document.groove
    end_s = float(groove.tempo.seconds(groove.pattern.length_ticks)) + (heard.explained.start_s if heard else 0.0)
    end_x = scene.x_of(end_s)
    chosen = {h.key for h in scene.chosen}
    for h in scene.hits:
        if h.origin is None:
            continue
        x = scene.x_of(h.origin.time_s)
        if not GUTTER_W - 20 <= x <= scene.width + 20:
            continue
        rect = scene.row_rect(scene.row_of(h))
        foot = rect.bottom() - 5
        head = foot - (rect.height() - 26) * h.velocity / 127
        sure = h.origin.confidence
        painter.setOpacity(1.0 if sure >= DOUBTFUL else 0.55)
        if round(h.origin.time_s, 6) in closes and h.voice in ("hat_open", "hat_half"):
            _paint_ring(painter, x, scene.x_of(closes[round(h.origin.time_s, 6)]), head, Look.limb(h.limb_letter))
        draw_stems(painter, [Placed(h, x, x, foot, head, h.key in chosen)], size="full", ratio=ratio)
        painter.setOpacity(1.0)
        if sure < DOUBTFUL:
            painter.setFont(font(13, bold=True))
            painter.setPen(Look.color("warn"))
            # Beside the head, on the side away from the end of the last bar.
            ahead = x + 18 > end_x
            painter.drawText(QPointF(x - 17 if ahead else x + 9, head - 3), "?")
        if scene.document.recording is not None and x >= GUTTER_W:
            color = QColor(Look.limb(h.limb_letter))
            color.setAlpha(230 if sure >= DOUBTFUL else 130)
            length = 5 + 9 * h.velocity / 127
            painter.setPen(QPen(color, 2.5 if h.key in chosen else 1.6))
            # One row of ticks for each limb, so that hits that sound together stay apart.
            top = wave.top() + 2 + "RLKH".index(h.limb_letter) * 4
            painter.drawLine(QLineF(x, top, x, top + length))
    painter.setPen(QPen(Look.color("lamp", 190), 1, Qt.PenStyle.DashLine))
    for h in scene.chosen:
        if h.origin is not None and scene.x_of(h.origin.time_s) >= GUTTER_W:
            x = scene.x_of(h.origin.time_s)
            painter.drawLine(QLineF(x, wave.top(), x, wave.bottom()))


def paint_offers(painter: QPainter, scene: Scene) -> None:
    """Strokes that may be one: dotted, on the lanes where they would stand."""
    for offer in scene.offers:
        p = offer.perhaps
        x = scene.x_of(p.time_s)
        if not GUTTER_W - 8 <= x <= scene.width + 8:
            continue
        rect = scene.row_rect(scene.rows.index(LANE_OF_VOICE[p.voice]))
        foot = rect.bottom() - 5
        head = foot - (rect.height() - 26) * p.velocity / 127
        chosen = offer is scene.chosen_offer
        color = Look.color("lamp") if chosen else Look.limb(voice(p.voice).limb)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(color, 1.8, Qt.PenStyle.DotLine))
        painter.drawLine(QLineF(x, foot, x, head + _OFFER_PX))
        painter.drawEllipse(QPointF(x, head), _OFFER_PX, _OFFER_PX)
        if chosen:
            painter.setPen(QPen(color, 1.4))
            painter.drawEllipse(QPointF(x, head), _OFFER_PX + 4, _OFFER_PX + 4)


def _paint_ring(painter: QPainter, x: float, end_x: float, y: float, color: QColor) -> None:
    """An open hat rings from its head to where it is closed."""
    painter.setPen(QPen(color, 2))
    painter.drawLine(QLineF(x, y, end_x, y))
    painter.drawLine(QLineF(end_x, y - 5, end_x, y + 5))


def paint_cursor(painter: QPainter, scene: Scene) -> None:
    """Where a missed hit would be put: a thin line and a small cross on the lane."""
    if scene.cursor_s is None or not scene.rows or scene.chosen_offer is not None:
        return
    x = scene.x_of(scene.cursor_s)
    if not GUTTER_W <= x <= scene.width:
        return
    rect = scene.row_rect(min(scene.cursor_row, len(scene.rows) - 1))
    painter.setPen(QPen(Look.color("lamp"), 1.4))
    painter.drawLine(QLineF(x, RULER_H, x, scene.height))
    y = rect.center().y()
    painter.setPen(QPen(Look.color("lamp"), 2.6))
    painter.drawLine(QLineF(x - 6, y, x + 6, y))
    painter.drawLine(QLineF(x, y - 6, x, y + 6))


def paint_gutter(painter: QPainter, scene: Scene) -> None:
    painter.fillRect(QRectF(0, 0, GUTTER_W, scene.height), Look.color("ground"))
    painter.setFont(font(13, bold=True))
    for place, index in enumerate(scene.rows):
        rect = scene.row_rect(place)
        painter.setPen(Look.color("lamp" if place == scene.cursor_row and scene.cursor_s is not None else "text"))
        label = QRectF(12, rect.top(), GUTTER_W - 16, rect.height())
        painter.drawText(label, Qt.AlignmentFlag.AlignVCenter, LANES[index].label)
    if scene.document.recording is not None:
        rect = scene.wave_rect()
        painter.setFont(font(13))
        painter.setPen(Look.color("dim"))
        label = QRectF(12, rect.top(), GUTTER_W - 16, rect.height())
        painter.drawText(label, Qt.AlignmentFlag.AlignVCenter, "Pitch" if scene.spectral else "Recording")
        if scene.spectral:
            painter.setFont(font(11))
            painter.drawText(QPointF(12, rect.top() + 14), "16 kHz")
            painter.drawText(QPointF(12, rect.bottom() - 4), "30 Hz")
