"""Drawing a hit: a stem with a head.

The head tells the voice and stroke, the colour and letter the limb, hollow means ghost, a cap means accent. Slashes
across the stem are rolls, small hollow heads to its left grace notes, as drummers write them. Where there is little
room heads shrink, down to a dot. Heads are drawn once into pixmaps and blitted, since thousands of antialiased shapes
take too long for one frame.
"""

from collections.abc import Sequence
from typing import NamedTuple

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPixmap, QPolygonF

from ghoststep.desk.look.look import Look, font
from ghoststep.music import kit
from ghoststep.music.ornaments import ornament
from ghoststep.music.pattern import Hit
from ghoststep.music.touch import Role

HEAD = 34  # side of a head's pixmap
FULL_PX, SMALL_PX = 15.0, 8.0  # room of a sixteenth from which heads are drawn in full, and small ones
# Radius of heads by how much room there is.
_RADII = {"full": 8.0, "small": 4.5, "dot": 2.4}
# A stroke that is not the plain one has its sign beside the head.
STROKE_SIGNS = {"edge": "(", "rim": "×", "buzz": "z", "brush": "~", "tip": "˙", "shoulder": "▾", "splash": "°"}
_SLASHES = {"double": 1, "roll5": 2, "roll6": 2, "roll7": 2, "roll": 3, "press": 3}
_cache: dict[tuple[object, ...], QPixmap] = {}


class Placed(NamedTuple):
    """A hit and where it is drawn."""

    hit: Hit
    line_x: float
    stem_x: float
    foot_y: float
    head_y: float
    chosen: bool


def size_for(sixteenth_px: float) -> str:
    """How large heads are where sixteenths have so much room."""
    return "full" if sixteenth_px >= FULL_PX else "small" if sixteenth_px >= SMALL_PX else "dot"


def head_pixmap(h: Hit, *, chosen: bool, size: str, ratio: float) -> QPixmap:
    """The head of a hit, centred in a HEAD x HEAD pixmap."""
    key = (h.voice, h.limb, h.role, h.stroke, chosen, size, ratio, Look.theme.name)
    found = _cache.get(key)
    if found is None:
        found = _cache[key] = _drawn(h, chosen, size, ratio)
    return found


def _drawn(h: Hit, chosen: bool, size: str, ratio: float) -> QPixmap:
    pixmap = QPixmap(round(HEAD * ratio), round(HEAD * ratio))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(HEAD / 2, HEAD / 2)
    color, r = Look.limb(h.limb_letter), _RADII[size]
    if chosen:
        painter.setPen(QPen(Look.color("lamp"), 2))
        painter.setBrush(Look.color("lamp", 60))
        ring = r + 6.5 if size == "full" else r + 3
        painter.drawEllipse(QPointF(0, 0), ring, ring)
    hollow = h.role is Role.GHOST
    painter.setPen(QPen(color, 1.8 if size == "full" else 1.3))
    painter.setBrush(Look.color("ground") if hollow else color)
    painter.drawPath(_shape(h.voice, r))
    if h.role is Role.ACCENT:
        painter.setPen(QPen(Look.color("text"), 2.4 if size == "full" else 1.6))
        painter.drawLine(QPointF(-r, -r - 0.55 * r), QPointF(r, -r - 0.55 * r))
    if size == "full":
        _marks(painter, h.voice, color)
        painter.setPen(color if hollow else Look.color("on_limb"))
        painter.setFont(font(10.5, bold=True))
        painter.drawText(QRectF(-r, -r, 2 * r, 2 * r), Qt.AlignmentFlag.AlignCenter, h.limb_letter)
        if sign := STROKE_SIGNS.get(h.stroke):
            painter.setPen(Look.color("text"))
            painter.setFont(font(13, bold=True))
            painter.drawText(QRectF(r - 1, -r - 7, 12, 14), Qt.AlignmentFlag.AlignCenter, sign)
    painter.end()
    return pixmap


def _shape(voice: str, r: float) -> QPainterPath:
    """Drums are round, cymbals have corners, the cross-stick is a bar."""
    path = QPainterPath()
    head = kit.voice(voice).head
    if head == "diamond":
        s = r + 1.5
        path.addPolygon(QPolygonF([QPointF(0, -s), QPointF(s, 0), QPointF(0, s), QPointF(-s, 0)]))
        path.closeSubpath()
    elif head == "bar":
        path.addRoundedRect(QRectF(-r - 1, -r * 0.72, 2 * r + 2, r * 1.44), 2, 2)
    elif head == "box":
        path.addRoundedRect(QRectF(-r, -r * 0.95, 2 * r, r * 1.9), r / 2, r / 2)
    else:
        path.addEllipse(QPointF(0, 0), r, r)
    return path


def _marks(painter: QPainter, voice: str, color: QColor) -> None:
    """What tells voices of one lane apart: opening arcs over hats, a dot for the bell, a foot for the pedal."""
    r = _RADII["full"]
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(color, 1.8))
    mark = kit.voice(voice).mark
    if mark in ("arcs", "arc"):
        for start in (0, 180):
            painter.drawArc(QRectF(-r - 4, -r - 4, 2 * r + 8, 2 * r + 8), (start - 40) * 16, 80 * 16)
            if mark == "arc":
                break
    elif mark == "foot":
        painter.drawLine(QPointF(-r, r + 3), QPointF(r, r + 3))
    elif mark == "dot":
        painter.setBrush(color)
        painter.drawEllipse(QPointF(r + 3.5, -r), 2.2, 2.2)


def draw_stems(painter: QPainter, placed: Sequence[Placed], *, size: str, ratio: float) -> None:
    """Stems with their ties to the step lines, heads, and what is struck around them.

    Stems of one limb are drawn in one go and heads after them: a screen may hold thousands.
    """
    lines: dict[tuple[str, bool], list[QLineF]] = {}
    ties = []
    for h, line_x, stem_x, foot_y, head_y, _ in placed:
        lines.setdefault((h.limb_letter, h.role is Role.GHOST), []).append(QLineF(stem_x, foot_y, stem_x, head_y))
        if abs(stem_x - line_x) > 1:
            ties.append(QLineF(line_x, foot_y, stem_x, foot_y))
    if ties:
        painter.setPen(QPen(Look.color("text"), 2 if size == "full" else 1))
        painter.drawLines(ties)
    for (limb, ghost), found in lines.items():
        width = {"full": 1.4 if ghost else 3.0, "small": 1.2 if ghost else 2.0, "dot": 1.1}[size]
        painter.setPen(QPen(Look.limb(limb), width))
        painter.drawLines(found)
    if size != "dot":
        for p in placed:
            if p.hit.ornament:
                _ornament(painter, p.hit, p.stem_x, p.foot_y, p.head_y, size)
    half = HEAD / 2
    for h, _, stem_x, _, head_y, chosen in placed:
        pixmap = head_pixmap(h, chosen=chosen, size=size, ratio=ratio)
        painter.drawPixmap(QPointF(stem_x - half, head_y - half), pixmap)


def _ornament(painter: QPainter, h: Hit, x: float, foot_y: float, head_y: float, size: str) -> None:
    found = ornament(h.ornament)
    r = _RADII[size]
    painter.setPen(QPen(Look.color("text"), 1.6))
    for i in range(len(found.leads_ms)):
        painter.setBrush(Look.color("ground"))
        painter.drawEllipse(QPointF(x - r - 5 - 8 * i, head_y + r + 1), 3.2, 3.2)
    middle = (foot_y + head_y + r) / 2
    for i in range(_SLASHES.get(h.ornament, 0)):
        y = middle + 4.5 * i
        painter.drawLine(QLineF(x - 5, y + 2.5, x + 5, y - 2.5))
    if found.buzz or found.name[-1].isdigit():
        painter.setFont(font(11, bold=True))
        painter.drawText(QRectF(x + 5, middle - 8, 14, 16), Qt.AlignmentFlag.AlignCenter,
                         "z" if found.buzz else found.name[-1])  # fmt: skip


def draw_end(painter: QPainter, h: Hit, x: float, end_x: float, y: float, by: str) -> None:
    """How long a hit lasts: a line at its head, ending in how it is ended (foot, hand, stroke or landing)."""
    painter.setPen(QPen(Look.limb(h.limb_letter), 1.4, Qt.PenStyle.DotLine))
    painter.drawLine(QLineF(x, y, end_x, y))
    painter.setPen(QPen(Look.color("text"), 1.6))
    if by == "hand":
        painter.drawLine(QLineF(end_x - 3.5, y - 3.5, end_x + 3.5, y + 3.5))
        painter.drawLine(QLineF(end_x - 3.5, y + 3.5, end_x + 3.5, y - 3.5))
    elif by == "foot":
        painter.drawLine(QLineF(end_x - 4, y + 3, end_x + 4, y + 3))
        painter.drawLine(QLineF(end_x, y - 4, end_x, y + 3))
    else:
        painter.drawLine(QLineF(end_x, y - 4, end_x, y + 4))
