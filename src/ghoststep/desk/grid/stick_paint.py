"""The sticking line below the lanes: which limbs strike at each moment, and where more than one does."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QLineF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from ghoststep.desk.grid.geometry import GUTTER_W, Geometry
from ghoststep.desk.look.look import Look, font

if TYPE_CHECKING:
    from ghoststep.judge.names import Named

_LINE_H = 30  # letters of hands and feet
_LETTER_PX = 8.0  # room of a moment from which letters are drawn, else marks


def paint_stick_head(painter: QPainter, g: Geometry) -> None:
    """The head of the line, in the gutter."""
    painter.setFont(font(12, bold=True))
    painter.setPen(Look.color("dim"))
    painter.drawText(QRectF(12, g.content_h + 2, GUTTER_W - 24, _LINE_H), Qt.AlignmentFlag.AlignVCenter, "Sticking")
    if g.groove.pattern.rules.linear:
        painter.setPen(Look.color("lamp"))
        painter.setFont(font(11))
        painter.drawText(
            QRectF(80, g.content_h + 2, GUTTER_W - 88, _LINE_H),
            Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
            "linear",
        )


def paint_sticking(painter: QPainter, g: Geometry, x0: float, x1: float) -> None:
    """Letters of the limbs, feet below hands; a part that is kept linear shows where two limbs meet."""
    top = g.content_h
    painter.setPen(QPen(Look.color("strong_line"), 1))
    painter.drawLine(QLineF(x0, top, x1, top))
    pattern = g.groove.pattern
    low, high = g.visible(x0, x1)
    moments: dict[int, str] = {}
    for i in pattern.between(low, high + 1):
        h = pattern.hits[i]
        if not h.grace:
            letters = moments.get(h.position_ticks, "")
            moments[h.position_ticks] = letters if h.limb_letter in letters else letters + h.limb_letter
    if g.sixteenth_px >= _LETTER_PX:
        _letters(painter, g, moments)
    else:
        _ticks(painter, g, moments)


def paint_names(painter: QPainter, g: Geometry, names: "Sequence[Named]", x0: float, x1: float) -> None:
    """What strokes are called, under them: a line from the first to the last, and the words where there is room."""
    y = g.content_h + 33
    free = x0  # up to where words stand already
    painter.setFont(font(11))
    for n in names:
        left, right = g.line_x(n.start_ticks) - 5, g.line_x(n.end_ticks) + 5
        if right < x0 or left > x1:
            continue
        painter.setPen(QPen(Look.color("lamp", 170), 1.5))
        painter.drawLine(QLineF(left, y, right, y))
        width = painter.fontMetrics().horizontalAdvance(n.words) + 4
        if left < free or right - left < min(width, _LETTER_PX * 4):
            continue
        painter.setPen(Look.color("lamp"))
        area = QRectF(left, y, max(right - left, width), 14)
        painter.drawText(area, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, n.words)
        free = left + width + 6


def _letters(painter: QPainter, g: Geometry, moments: dict[int, str]) -> None:
    top = g.content_h
    painter.setFont(font(11, bold=True))
    for ticks, letters in moments.items():
        x = g.line_x(ticks)
        if g.groove.pattern.rules.linear and len(letters) > 1:
            painter.fillRect(QRectF(x - 6, top + 1, 12, _LINE_H), Look.color("warn", 90))
        both = "R" in letters and "L" in letters
        for letter in letters:
            y = top + (2 if letter in "RL" else 16)
            side = {"R": 5.0, "L": -5.0}.get(letter, 0.0) if both else 0.0
            painter.setPen(Look.limb(letter))
            painter.drawText(QRectF(x - 8 + side, y, 16, 15), Qt.AlignmentFlag.AlignCenter, letter)


def _ticks(painter: QPainter, g: Geometry, moments: dict[int, str]) -> None:
    """Where letters have no room: a mark for each limb, in its colour."""
    top = g.content_h
    lines: dict[str, list[QLineF]] = {}
    for ticks, letters in moments.items():
        x = g.line_x(ticks)
        for letter in letters:
            y = top + (5 if letter in "RL" else 19)
            at = x + {"R": 0.8, "L": -0.8}.get(letter, 0.0)
            lines.setdefault(letter, []).append(QLineF(at, y, at, y + 9))
    for letter, found in lines.items():
        painter.setPen(QPen(Look.limb(letter), 1))
        painter.drawLines(found)
