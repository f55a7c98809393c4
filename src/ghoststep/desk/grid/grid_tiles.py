"""The grid in strips that are painted once: an edit or a scrolled screen only paints the strips it changed.

A strip knows everything it shows: the layout, and its own hits as a slice of the pattern. The hits of two versions are
the same objects where nothing changed, so telling whether a strip is still right takes microseconds.
"""

import math
import time
from collections import OrderedDict
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, replace

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPixmap

from ghoststep.desk.grid.geometry import GUTTER_W, RULER_H, Geometry
from ghoststep.desk.grid.grid_paint import Lasting, lasting, paint_ground, paint_ruler, paint_stems
from ghoststep.desk.grid.stick_paint import paint_sticking
from ghoststep.desk.look.look import Look

TILE_W = 64
_KEPT = 96  # strips: several screens, about 0.4 MB each


@dataclass
class _Tile:
    """A strip: its ground, which edits of hits leave alone, and the whole with the stems on it."""

    layout: tuple[object, ...]
    ground: QPixmap
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
        *,
        within_s: float = math.inf,
    ) -> bool:
        """Draw what of the grid lies in a rectangle of the viewport; True where all of it is there.

        Once strips took longer than `within_s`, those that are still to be painted show their lanes only, so that a
        frame of scrolling never waits; the caller comes back for them.
        """
        layout = _layout(g, region, ratio)
        left = max(rect.left(), GUTTER_W)
        first = int((left - GUTTER_W + g.scroll_px) // TILE_W)
        last = int((rect.right() - GUTTER_W + g.scroll_px) // TILE_W)
        ends = lasting(g, left, rect.right())
        until, complete = time.perf_counter() + within_s, True
        for number in range(max(first, 0), last + 1):
            x = GUTTER_W + number * TILE_W - g.scroll_px
            known = self._tiles.get(number)
            if time.perf_counter() > until and (known is None or known.layout != layout):
                _lanes_only(painter, g, round(x))
                complete = False
                continue
            painter.drawPixmap(round(x), 0, self._tile(number, g, layout, chosen, ends, region, ratio))
        return complete

    def _tile(
        self,
        number: int,
        g: Geometry,
        layout: tuple[object, ...],
        chosen: AbstractSet[int],
        ends: Lasting,
        region: tuple[int, int] | None,
        ratio: float,
    ) -> QPixmap:
        local = replace(g, scroll_px=GUTTER_W + number * TILE_W)
        pattern = g.groove.pattern
        low, high = local.visible(0, TILE_W)
        found = pattern.between(low, high + 1)
        marked = tuple(i - found.start for i in found if i in chosen) if chosen else ()
        mine = tuple(e for e in ends if e[0].position_ticks <= high and e[1] >= low)
        key = (layout, pattern.hits[found.start : found.stop], marked, mine)
        old = self._tiles.get(number)
        if old is None or old.key != key:
            ground = old.ground if old is not None and old.layout == layout else _ground(local, region, ratio)
            whole = self._painted(ground, local, chosen, mine, ratio)
            old = self._tiles[number] = _Tile(layout, ground, key, whole)
            if len(self._tiles) > _KEPT:
                self._tiles.popitem(last=False)
        self._tiles.move_to_end(number)
        return old.pixmap

    def _painted(self, ground: QPixmap, g: Geometry, chosen: AbstractSet[int], ends: Lasting, ratio: float) -> QPixmap:
        self.painted += 1
        pixmap = QPixmap(ground)
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(QRectF(0, RULER_H, TILE_W, g.height))
        paint_sticking(painter, g, 0, TILE_W)
        paint_stems(painter, g, chosen, ends, 0, TILE_W, ratio)
        painter.end()
        return pixmap


def _lanes_only(painter: QPainter, g: Geometry, x: int) -> None:
    """What stands in for a strip for a frame or two."""
    painter.fillRect(QRectF(x, 0, TILE_W, g.height), Look.color("ground"))
    for row in range(0, len(g.lanes), 2):
        painter.fillRect(QRectF(x, g.lane_top(row), TILE_W, g.lane_h), Look.color("panel"))


def _ground(g: Geometry, region: tuple[int, int] | None, ratio: float) -> QPixmap:
    pixmap = QPixmap(round(TILE_W * ratio), round(g.height * ratio))
    pixmap.setDevicePixelRatio(ratio)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint_ground(painter, g, 0, TILE_W)
    paint_ruler(painter, g, region, 0, TILE_W)
    painter.end()
    return pixmap


def _layout(g: Geometry, region: tuple[int, int] | None, ratio: float) -> tuple[object, ...]:
    """Everything but hits that a strip shows."""
    p = g.groove.pattern
    shown = (g.lanes, g.quarter_px, g.height, g.magnify, ratio, Look.theme.name, region)
    meant = (
        p.frame,
        p.bars,
        p.grid,
        p.lane_grids,
        p.passages,
        p.rules.cycles,
        p.rules.restarts,
        p.rules.own_rounds,
        p.rules.linear,
    )
    return (*shown, *meant, g.groove.feel, g.groove.tempo, g.letters)
