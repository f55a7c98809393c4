"""The recording on screen: sound with bars and hits laid over it, and below it the hits as stems on their lanes.

A hit that the listening is not sure of is drawn pale with a question mark, so the eye goes there. Clicking a hit
chooses and plays it; clicking elsewhere sets the cursor, where a missed hit can be put; dragging over the ruler sets
the range that plays.
"""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPixmap

from ghoststep.desk.listen import wave_paint as paint
from ghoststep.desk.listen.wave_paint import DOUBTFUL, GUTTER_W, LEAD_PX, RULER_H, Scene, peaks
from ghoststep.desk.look.layered import LayeredView
from ghoststep.desk.look.look import Look
from ghoststep.desk.model.choice import Choice, Range
from ghoststep.music.kit import LANE_OF_VOICE, LANES
from ghoststep.music.pattern import Hit
from ghoststep.session.document.document import Document
from ghoststep.work.offers import Offer, offers

__all__ = ["DOUBTFUL", "WaveView", "peaks"]

_MAX_PX_PER_S = 4000.0
_GRAB_PX = 10.0


class WaveView(LayeredView):
    """Shows a document's recording; it changes nothing itself."""

    hit_clicked = Signal(object)
    moment_clicked = Signal(float)
    hit_chosen = Signal(object)
    region_wanted = Signal(object)  # (start, end) in ticks, or None
    window_changed = Signal(float, float)  # the seconds that are seen
    gutter_px = GUTTER_W

    def __init__(self, choice: Choice | None = None) -> None:
        super().__init__()
        self.document = Document()
        self.choice = choice or Choice()
        self.choice.changed.connect(self._choice_changed)
        self.choice.range_changed.connect(self._choice_changed)
        self.spectral = False
        self.offers: tuple[Offer, ...] = ()
        self._region_from: int | None = None
        self.setAccessibleName("Recording")

    # -- state --------------------------------------------------------------------------------------------------

    def show_document(self, document: Document) -> None:
        """Show a document; the chosen hit stays chosen as long as it is there."""
        self.document = document
        self.offers = offers(document)
        self.refresh()

    @property
    def chosen(self) -> Hit | None:
        """The one hit that is looked at: the first of the chosen ones that were heard."""
        return next(iter(self.all_chosen), None)

    @property
    def all_chosen(self) -> tuple[Hit, ...]:
        """The chosen hits that were heard: what is said goes for all of them."""
        heard = self.document.listening
        if heard is None or self.cursor_s is not None:
            return ()
        return tuple(h for h in self.choice.hits(heard.explained.groove.pattern) if h.origin)

    @property
    def cursor_s(self) -> float | None:
        return self.choice.moment_s

    @property
    def cursor_row(self) -> int:
        rows = self.rows()
        return rows.index(self.choice.lane) if self.choice.lane in rows else 0

    @property
    def region(self) -> Range | None:
        return self.choice.range_ticks

    def _choice_changed(self) -> None:
        if self.isVisible():
            self.refresh()
        self.hit_chosen.emit(self.chosen)

    def hits(self) -> tuple[Hit, ...]:
        heard = self.document.listening
        return heard.explained.groove.pattern.hits if heard else ()

    def rows(self) -> tuple[int, ...]:
        used = {LANE_OF_VOICE[h.voice] for h in self.hits()} | {LANE_OF_VOICE[o.perhaps.voice] for o in self.offers}
        return tuple(i for i, lane in enumerate(LANES) if i in used or lane.always)

    @property
    def cursor_voice(self) -> str:
        return LANES[self.rows()[self.cursor_row]].voices[0]

    @property
    def chosen_offer(self) -> Offer | None:
        """The stroke that may be one under the cursor."""
        at = self.cursor_s
        lane = self.choice.lane
        return next(
            (
                o for o in self.offers
                if at is not None and abs(o.perhaps.time_s - at) < 1e-6 and LANE_OF_VOICE[o.perhaps.voice] == lane
            ),
            None,
        )  # fmt: skip

    def choose_offer(self, offer: Offer) -> None:
        """Set the cursor on a stroke that may be one and bring it into view."""
        self._bring_into_view(offer.perhaps.time_s)
        self.put_cursor(offer.perhaps.time_s, self.rows().index(LANE_OF_VOICE[offer.perhaps.voice]))

    def choose(self, hit: Hit | None) -> None:
        """Choose a hit and bring it into view."""
        if hit is None or hit.origin is None:
            self.choice.put(keys=())
            return
        cursor = self._ticks_at(hit.origin.time_s)
        self.choice.put(keys=(hit.key,), cursor_ticks=cursor, lane=LANE_OF_VOICE[hit.voice])
        self._bring_into_view(hit.origin.time_s)
        self.refresh()

    def _ticks_at(self, seconds: float) -> int:
        """The position in the heard groove nearest to a moment."""
        heard = self.document.listening
        if heard is None:
            return 0
        groove = heard.explained.groove
        ticks = round(float(groove.tempo.to_ticks(seconds - heard.explained.start_s)))
        return min(max(ticks, 0), groove.pattern.length_ticks - 1)

    def choose_next(self, direction: int) -> None:
        """The next or previous hit in the order of time."""
        ordered = sorted((h for h in self.hits() if h.origin), key=lambda h: h.origin.time_s if h.origin else 0)
        if not ordered:
            return
        chosen = self.chosen
        if chosen is not None:
            at = next((i for i, h in enumerate(ordered) if h.key == chosen.key), 0) + direction
        else:
            now = self.cursor_s or 0.0
            later = [i for i, h in enumerate(ordered) if h.origin and h.origin.time_s > now]
            at = later[0] if direction > 0 and later else (later[0] - 1 if later else len(ordered) - 1)
        self.choose(ordered[min(max(at, 0), len(ordered) - 1)])

    def move_lane(self, by: int) -> None:
        """The cursor to another lane; with a hit chosen, to the moment of that hit."""
        moment, rows = self.moment(), self.rows()
        row = min(max(self.cursor_row + by, 0), len(rows) - 1)
        if moment is None:
            self.choice.put(lane=rows[row])
        else:
            self.put_cursor(moment, row)

    def put_cursor(self, seconds: float, row: int | None = None) -> None:
        """To a moment, which need not be a spot of the grid."""
        seconds = min(max(seconds, 0.0), self.length_s)
        rows = self.rows()
        self.choice.keys = frozenset()
        self.choice.cursor_ticks, self.choice.moment_s = self._ticks_at(seconds), seconds
        self.choice.lane = rows[self.cursor_row if row is None else row]
        self.choice.changed.emit()

    def moment(self) -> float | None:
        """The moment pointed at: of the chosen hit, else of the cursor."""
        if self.chosen is not None and self.chosen.origin is not None:
            return self.chosen.origin.time_s
        return self.cursor_s

    def switch_picture(self) -> None:
        self.spectral = not self.spectral
        self.refresh()

    # -- layout -------------------------------------------------------------------------------------------------

    @property
    def length_s(self) -> float:
        if self.document.recording:
            return self.document.recording.length_s
        return max((h.origin.time_s for h in self.hits() if h.origin), default=1.0) + 0.5

    def px_per_s(self) -> float:
        fit = (self.viewport().width() - GUTTER_W - 2 * LEAD_PX) / max(self.length_s, 0.1)
        return max(self.choice.second_px, fit)

    def scene(self) -> Scene:
        view = self.viewport()
        scale = self.px_per_s()
        return Scene(
            self.document, self.hits(), self.rows(), view.width(), view.height(), scale,
            self.horizontalScrollBar().value() / scale, self.all_chosen, self.cursor_s, self.cursor_row, self.spectral,
            self.offers, self.chosen_offer,
        )  # fmt: skip

    def x_of(self, seconds: float) -> float:
        return self.scene().x_of(seconds)

    def seconds_at(self, x: float) -> float:
        return self.scene().seconds_at(x)

    def zoom(self, factor: float, around_x: float | None = None) -> None:
        moment = self.moment()
        x = around_x if around_x is not None else self.viewport().width() / 2
        if around_x is None and moment is not None and GUTTER_W < self.x_of(moment) < self.viewport().width():
            x = self.x_of(moment)
        seconds = self.seconds_at(x)
        self.choice.second_px = min(self.px_per_s() * factor, _MAX_PX_PER_S) if factor else 0.0
        self.set_scroll_range()
        bar = self.horizontalScrollBar()
        bar.setValue(round(bar.value() + self.x_of(seconds) - x))
        self.refresh()

    def show_window(self, start_s: float, end_s: float) -> None:
        """Scroll and zoom to a stretch."""
        room = self.viewport().width() - GUTTER_W - 2 * LEAD_PX
        self.choice.second_px = min(room / max(end_s - start_s, 0.05), _MAX_PX_PER_S)
        self.set_scroll_range()
        self.horizontalScrollBar().setValue(round(start_s * self.px_per_s()))
        self.refresh()

    def _bring_into_view(self, seconds: float) -> None:
        x = self.x_of(seconds)
        if not GUTTER_W + 30 <= x <= self.viewport().width() - 40:
            bar = self.horizontalScrollBar()
            bar.setValue(round(bar.value() + x - (GUTTER_W + self.viewport().width()) / 2))

    def set_scroll_range(self) -> None:
        room = round(self.viewport().width() - GUTTER_W - 2 * LEAD_PX)
        bar = self.horizontalScrollBar()
        bar.setPageStep(max(1, room))
        bar.setRange(0, max(0, round(self.length_s * self.px_per_s()) - room))

    # -- painting -----------------------------------------------------------------------------------------------

    def set_playhead(self, seconds: float | None) -> None:
        self.move_playhead(None if seconds is None else self.x_of(seconds))

    def painted_layer(self, ratio: float) -> QPixmap:
        scene = self.scene()
        layer = self.empty_layer(ratio)
        painter = QPainter(layer)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.viewport().rect(), Look.color("ground"))
        paint.paint_rows(painter, scene)
        (paint.paint_spectrum if self.spectral else paint.paint_wave)(painter, scene)
        paint.paint_lines(painter, scene, self.region)
        paint.paint_hits(painter, scene, ratio)
        paint.paint_offers(painter, scene)
        paint.paint_cursor(painter, scene)
        paint.paint_gutter(painter, scene)
        painter.end()
        self.window_changed.emit(scene.seconds_at(GUTTER_W), scene.seconds_at(scene.width))
        return layer

    # -- input --------------------------------------------------------------------------------------------------

    def _hit_at(self, x: float, y: float) -> Hit | None:
        scene = self.scene()
        near = [
            (abs(scene.x_of(h.origin.time_s) - x), i)
            for i, h in enumerate(scene.hits)
            if h.origin and scene.row_rect(scene.row_of(h)).top() <= y < scene.row_rect(scene.row_of(h)).bottom()
        ]
        away, index = min(near, default=(_GRAB_PX + 1, 0))
        return scene.hits[index] if away <= _GRAB_PX else None

    def _offer_at(self, x: float, y: float) -> Offer | None:
        scene = self.scene()
        for offer in self.offers:
            rect = scene.row_rect(scene.rows.index(LANE_OF_VOICE[offer.perhaps.voice]))
            if rect.top() <= y < rect.bottom() and abs(scene.x_of(offer.perhaps.time_s) - x) <= _GRAB_PX:
                return offer
        return None

    def _beat_at(self, x: float) -> int | None:
        """The nearest beat, in ticks, where there are beats."""
        heard = self.document.listening
        if heard is None:
            return None
        explained = heard.explained
        pattern = explained.groove.pattern
        ticks = round(float(explained.groove.tempo.to_ticks(self.seconds_at(x) - explained.start_s)))
        unit = pattern.frame.meter_at(ticks).unit_ticks
        return min(max(pattern.frame.beat_start_at(ticks + unit // 2), 0), pattern.length_ticks)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is not Qt.MouseButton.LeftButton:
            return
        x, y = event.position().x(), event.position().y()
        if y < RULER_H and x > GUTTER_W:
            self._region_from = self._beat_at(x)
            return
        found = self._hit_at(x, y)
        if found is not None:
            self.choose(found)
            self.hit_clicked.emit(found)
        elif (offer := self._offer_at(x, y)) is not None:
            self.choose_offer(offer)
            self.moment_clicked.emit(offer.perhaps.time_s)
        elif x > GUTTER_W:
            scene = self.scene()
            rows = [i for i in range(len(scene.rows)) if scene.row_rect(i).contains(event.position())]
            self.put_cursor(self.seconds_at(x), rows[0] if rows else None)
            if not rows and self.document.recording is not None:
                self.moment_clicked.emit(self.cursor_s)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._region_from is None:
            return
        to = self._beat_at(event.position().x())
        if to is not None and to != self._region_from:
            self.region_wanted.emit((min(self._region_from, to), max(self._region_from, to)))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        start, self._region_from = self._region_from, None
        if start is not None and self._beat_at(event.position().x()) == start:
            self.region_wanted.emit(None)
