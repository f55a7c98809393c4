"""Drawing a hit: a stem with a head.

The head tells the stroke, the colour and letter the limb, hollow means ghost, a cap means accent. Heads are drawn once
into pixmaps and blitted, since thousands of antialiased shapes take too long for one frame.
"""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPixmap, QPolygonF

from ghoststep.desk.look import Look, font
from ghoststep.music.pattern import Hit
from ghoststep.music.touch import Role

HEAD = 30  # side of a head's pixmap
_R = 8.0  # radius of a head
_cache: dict[tuple[str, ...], QPixmap] = {}


def head_pixmap(voice: str, limb: str, role: Role, *, chosen: bool, ratio: float) -> QPixmap:
    """The head of a hit, centred in a HEAD x HEAD pixmap."""
    key = (voice, limb, role.value, str(chosen), str(ratio), Look.theme.name)
    found = _cache.get(key)
    if found is None:
        found = _cache[key] = _drawn(voice, limb, role, chosen, ratio)
    return found


def _drawn(voice: str, limb: str, role: Role, chosen: bool, ratio: float) -> QPixmap:
    pixmap = QPixmap(round(HEAD * ratio), round(HEAD * ratio))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(HEAD / 2, HEAD / 2)
    color = Look.limb(limb)
    if chosen:
        painter.setPen(QPen(Look.color("lamp"), 2))
        painter.setBrush(Look.color("lamp", 60))
        painter.drawEllipse(QPointF(0, 0), _R + 4, _R + 4)
    hollow = role is Role.GHOST
    painter.setPen(QPen(color, 1.8))
    painter.setBrush(Look.color("ground") if hollow else color)
    painter.drawPath(_shape(voice))
    _marks(painter, voice, color)
    if role is Role.ACCENT:
        painter.setPen(QPen(Look.color("text"), 2.4))
        painter.drawLine(QPointF(-_R, -_R - 4.5), QPointF(_R, -_R - 4.5))
    painter.setPen(color if hollow else Look.color("on_limb"))
    painter.setFont(font(10.5, bold=True))
    painter.drawText(QRectF(-_R, -_R, 2 * _R, 2 * _R), Qt.AlignmentFlag.AlignCenter, limb)
    painter.end()
    return pixmap


def _shape(voice: str) -> QPainterPath:
    """Drums are round, cymbals have corners, the cross-stick is a bar."""
    path = QPainterPath()
    if voice in ("crash", "splash", "ride", "ride_bell"):
        r = _R + 1.5
        path.addPolygon(QPolygonF([QPointF(0, -r), QPointF(r, 0), QPointF(0, r), QPointF(-r, 0)]))
        path.closeSubpath()
    elif voice == "cross_stick":
        path.addRoundedRect(QRectF(-_R - 1, -_R * 0.72, 2 * _R + 2, _R * 1.44), 2, 2)
    elif voice == "kick":
        path.addRoundedRect(QRectF(-_R, -_R * 0.95, 2 * _R, _R * 1.9), 4, 4)
    else:
        path.addEllipse(QPointF(0, 0), _R, _R)
    return path


def _marks(painter: QPainter, voice: str, color: QColor) -> None:
    """What tells strokes of one lane apart: opening arcs over hats, a dot for the bell, a foot for the pedal."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(color, 1.8))
    if voice in ("hat_open", "hat_half"):
        spans = (50, 80) if voice == "hat_open" else (0, 80)
        for start in (0, 180):
            painter.drawArc(QRectF(-_R - 4, -_R - 4, 2 * _R + 8, 2 * _R + 8), (start - 40) * 16, spans[1] * 16)
            if voice == "hat_half":
                break
    elif voice == "hat_pedal":
        painter.drawLine(QPointF(-_R, _R + 3), QPointF(_R, _R + 3))
    elif voice in ("ride_bell", "splash"):
        painter.setBrush(color)
        painter.drawEllipse(QPointF(_R + 3.5, -_R), 2.2, 2.2)


def draw_stem(
    painter: QPainter, h: Hit, line_x: float, stem_x: float, foot_y: float, head_y: float, *, chosen: bool, ratio: float
) -> None:
    """The stem of a hit, its tie to the step line, and its head."""
    color = Look.limb(h.limb_letter)
    if abs(stem_x - line_x) > 1:
        painter.setPen(QPen(Look.color("text"), 2))
        painter.drawLine(QPointF(line_x, foot_y), QPointF(stem_x, foot_y))
    ghost = h.role is Role.GHOST
    painter.setPen(QPen(color, 1.4 if ghost else 3.0))
    painter.drawLine(QPointF(stem_x, foot_y), QPointF(stem_x, head_y + _R))
    pixmap = head_pixmap(h.voice, h.limb_letter, h.role, chosen=chosen, ratio=ratio)
    painter.drawPixmap(QPointF(stem_x - HEAD / 2, head_y - HEAD / 2), pixmap)
