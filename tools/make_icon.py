"""Draw the icon again: a tall stem and a hollow, softer one beside it, on a night ground."""

import os
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QGuiApplication, QImage, QPainter, QPen

SIZE = 128


def draw() -> QImage:
    image = QImage(SIZE, SIZE, QImage.Format.Format_ARGB32)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor("#11171e"))
    painter.drawRoundedRect(QRectF(2, 2, SIZE - 4, SIZE - 4), 26, 26)
    painter.setPen(QPen(QColor("#4a5c6d"), 4))
    painter.drawLine(QPointF(16, 104), QPointF(112, 104))
    amber, sky = QColor("#f4b23c"), QColor("#62b8f5")
    painter.setPen(QPen(amber, 9, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawLine(QPointF(46, 102), QPointF(46, 44))
    painter.setBrush(amber)
    painter.drawEllipse(QPointF(46, 38), 14, 14)
    painter.setPen(QPen(sky, 6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawLine(QPointF(88, 102), QPointF(88, 86))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(QPointF(88, 72), 13, 13)
    painter.end()
    return image


if __name__ == "__main__":
    app = QGuiApplication([])
    target = Path(__file__).resolve().parents[1] / "src/ghoststep/desk/data/ghost-step.png"
    draw().save(str(target))
    print(target.name)
