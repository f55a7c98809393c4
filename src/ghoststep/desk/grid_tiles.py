"""The grid in strips that are painted once: an edit or a scrolled screen only paints the strips it changed.

A strip knows everything it shows: the layout, and its own hits as a slice of the pattern. The hits of two versions are
the same objects where nothing changed, so telling whether a strip is still right takes microseconds.
"""

from collections import OrderedDict
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, replace

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPixmap

from ghoststep.desk.geometry import GUTTER_W, RULER_H, Geometry
from ghoststep.desk.grid_paint import paint_ground, paint_ruler, paint_stems
from ghoststep.desk.look import Look
from ghoststep.desk.stick_paint import paint_sticking

TILE_W = 128
_KEPT = 96  # strips: several screens, about 0.4 MB each


@dataclass
class _Tile:
    key: tuple[object, ...]
    pixmap: QPixmap


class Tiles:
    """Strips of the grid by number, newest used last."""

    def __init__(self) -> None:
        self._tiles: OrderedDict[int, _Tile] = OrderedDict()
        self.painted = 0  # strips painted so far, for tests

    def draw(
        self,
        painter: QPainter,
        g: Geometry,
        rect: QRectF,
        chosen: AbstractSet[int],
        region: tuple[int, int] | None,
        ratio: float,
    ) -> None:
        """Draw what of the grid lies in a rectangle of the viewport."""
        layout = _layout(g, region, ratio)
        left = max(rect.left(), GUTTER_W)
        first = int((left - GUTTER_W + g.scroll_px) // TILE_W)
        last = int((rect.right() - GUTTER_W + g.scroll_px) // TILE_W)
        for number in range(max(first, 0), last + 1):
            x = GUTTER_W + number * TILE_W - g.scroll_px
            painter.drawPixmap(round(x), 0, self._tile(number, g, layout, chosen, region, ratio))

    def _tile(
        self,
        number: int,
        g: Geometry,
        layout: tuple[object, ...],
        chosen: AbstractSet[int],
        region: tuple[int, int] | None,
        ratio: float,
    ) -> QPixmap:
        local = replace(g, scroll_px=GUTTER_W + number * TILE_W)
        pattern = g.groove.pattern
        low, high = local.visible(0, TILE_W)
        reach = 2 * pattern.meter.bar_ticks if pattern.voices and _rings(pattern.voices) else 0
        found = pattern.between(low - reach, high + reach + 1)
        marked = tuple(i - found.start for i in found if i in chosen) if chosen else ()
        key = (layout, pattern.hits[found.start : found.stop], marked)
        old = self._tiles.get(number)
        if old is None or old.key != key:
            old = self._tiles[number] = _Tile(key, self._painted(local, chosen, region, ratio))
            if len(self._tiles) > _KEPT:
                self._tiles.popitem(last=False)
        self._tiles.move_to_end(number)
        return old.pixmap

    def _painted(self, g: Geometry, chosen: AbstractSet[int], region: tuple[int, int] | None, ratio: float) -> QPixmap:
        self.painted += 1
        pixmap = QPixmap(round(TILE_W * ratio), round(g.height * ratio))
        pixmap.setDevicePixelRatio(ratio)
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_ground(painter, g, 0, TILE_W)
        paint_ruler(painter, g, region, 0, TILE_W)
        painter.setClipRect(QRectF(0, RULER_H, TILE_W, g.height))
        paint_sticking(painter, g, 0, TILE_W)
        paint_stems(painter, g, chosen, 0, TILE_W, ratio)
        painter.end()
        return pixmap


def _rings(voices: tuple[str, ...]) -> bool:
    """Whether something may last and so reach from far into a strip."""
    return any(v not in ("kick", "hat_closed") for v in voices)


def _layout(g: Geometry, region: tuple[int, int] | None, ratio: float) -> tuple[object, ...]:
    """Everything but hits that a strip shows."""
    p = g.groove.pattern
    shown = (g.lanes, g.quarter_px, g.height, g.magnify, ratio, Look.theme.name, region)
    meant = (p.meter, p.bars, p.grid, p.lane_grids, p.passages, p.rules.cycles, p.rules.linear)
    return (*shown, *meant, g.groove.feel.swing, tuple(g.groove.feel.lean_ms.items()), g.groove.tempo)
