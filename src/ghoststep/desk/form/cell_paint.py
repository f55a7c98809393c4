"""Cells of the road map drawn: hits as small marks, the letter, and a bar at the left for how far it is from its base.

Cells that look alike share one picture, so that a form of hundreds of bars is drawn out of a few.
"""

from collections import OrderedDict

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPixmap

from ghoststep.desk.form.road import CELL_H, Cell
from ghoststep.desk.look.look import Look, font
from ghoststep.music.kit import LANE_OF_VOICE, LANES
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.touch import Role

_MOST = 400  # pictures that are kept
_HALF = {Role.GHOST: 1.4, Role.NORMAL: 2.2, Role.ACCENT: 3.2}


class CellPictures:
    """Pictures of cells by what is seen on them."""

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[object, ...], QPixmap] = OrderedDict()
        self._bases: dict[int, Pattern | None] = {}  # they are known by their identity, and so have to live on

    def forget(self) -> None:
        """Draw everything anew: the colours changed."""
        self._kept.clear()
        self._bases.clear()

    def of(self, cell: Cell, pattern: Pattern, base: Pattern | None, *, playing: bool, ratio: float) -> QPixmap:
        """The picture of a cell, without its bar number and frame; what differs from its base is marked on it."""
        frame = pattern.frame
        start = frame.start_of(cell.first_bar)
        end = frame.start_of(cell.first_bar + cell.bars)
        inside = pattern.between(start, end)
        hits = [h for h in pattern.hits[inside.start : inside.stop] if not h.grace]
        seen = tuple((h.position_ticks - start, h.voice, h.role, h.limb) for h in hits)
        lines = tuple(frame.start_of(cell.first_bar + k) - start for k in range(1, cell.bars))
        looks = (cell.part, cell.base, cell.nth < 0, cell.apart, cell.other, cell.w, playing)
        key = (*looks, ratio, end - start, lines, seen, id(base))
        if key not in self._kept:
            drawn = self._drawn(cell, hits, (start, end), lines, base, playing=playing, ratio=ratio)
            self._kept[key], self._bases[id(base)] = drawn, base
            if len(self._kept) > _MOST:
                self.forget()
                return self.of(cell, pattern, base, playing=playing, ratio=ratio)
        self._kept.move_to_end(key)
        return self._kept[key]

    def _drawn(
        self, cell: Cell, hits: list[Hit], ticks: tuple[int, int], lines: tuple[int, ...],
        base: Pattern | None, *, playing: bool, ratio: float,
    ) -> QPixmap:  # fmt: skip
        out = QPixmap(round(cell.w * ratio), round(CELL_H * ratio))
        out.setDevicePixelRatio(ratio)
        area = QRectF(0, 0, cell.w, CELL_H)
        out.fill(Look.color("raised" if playing else "panel"))
        painter = QPainter(out)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        # The further a bar is from its base, the stronger the line at its left side.
        if cell.base:
            painter.fillRect(QRectF(0, 0, 2 + 22 * min(cell.apart, 0.5), CELL_H), Look.color("lamp", 190))
        inner = area.adjusted(16, 20, -6, -5)
        _hits(painter, inner, hits, ticks, lines)
        if base is not None:
            _changes(painter, inner, hits, ticks, base)
        painter.setFont(font(13, bold=True))
        painter.setPen(Look.color("text"))
        told = f"{cell.part} = {cell.base}" if cell.base else cell.part
        if cell.nth < 0:
            painter.setPen(Look.color("dim"))
            told = f"{told}  leads in"
        painter.drawText(area.adjusted(16, 2, -6, 0), Qt.AlignmentFlag.AlignTop, told)
        if cell.other:  # a bar of it is otherwise here
            painter.setPen(QPen(Look.color("warn"), 2))
            foot = area.bottom() - 3
            painter.drawLine(QPointF(area.right() - 14, foot), QPointF(area.right() - 3, foot))
        painter.end()
        return out


def _hits(painter: QPainter, area: QRectF, hits: list[Hit], ticks: tuple[int, int], lines: tuple[int, ...]) -> None:
    """The hits as marks: lanes from the top of the kit to its foot, accents longer, ghosts hollow."""
    start, end = ticks
    scale = area.width() / max(end - start, 1)
    painter.setPen(QPen(Look.color("line"), 1))
    for line in lines:
        x = area.left() + line * scale
        painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
    for h in hits:
        x = area.left() + (h.position_ticks - start) * scale
        y = area.top() + (LANE_OF_VOICE[h.voice] + 0.5) / len(LANES) * area.height()
        color, half = Look.limb(h.limb_letter), _HALF[h.role]
        if h.role is Role.GHOST:
            painter.setPen(QPen(color, 1))
            painter.drawLine(QPointF(x, y - half), QPointF(x, y + half))
        else:
            painter.fillRect(QRectF(x - 1.1, y - half, 2.2, 2 * half), color)


def _changes(painter: QPainter, area: QRectF, hits: list[Hit], ticks: tuple[int, int], base: Pattern) -> None:
    """What differs from the base: a ring round what is new or struck otherwise, a cross where a stroke is gone."""
    start, end = ticks
    scale = area.width() / max(end - start, 1)
    now = {(h.position_ticks - start, h.voice): h.role for h in hits}
    was = {(h.position_ticks, h.voice): h.role for h in base.hits if not h.grace}
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(Look.color("text"), 1.2))
    for tick, name in now.keys() | was.keys():
        x = area.left() + tick * scale
        y = area.top() + (LANE_OF_VOICE[name] + 0.5) / len(LANES) * area.height()
        if (tick, name) not in now:
            if any(t == tick and LANE_OF_VOICE[n] == LANE_OF_VOICE[name] for t, n in now):
                continue  # the lane is struck otherwise there, which the ring says
            painter.drawLine(QPointF(x - 2.2, y - 2.2), QPointF(x + 2.2, y + 2.2))
            painter.drawLine(QPointF(x - 2.2, y + 2.2), QPointF(x + 2.2, y - 2.2))
        elif was.get((tick, name)) is not now[tick, name]:
            painter.drawEllipse(QPointF(x, y), 4.2, 4.2)
