"""How like a player it sounds: each measure beside the range of players, and what it would be taken for."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QVBoxLayout, QWidget

from ghoststep.desk.look.look import Look, font
from ghoststep.desk.parts.widgets import label
from ghoststep.judge.check import Report
from ghoststep.judge.likeness import Reason

_TAKEN = {
    "straight": "It would be taken for a machine: dead on its places, equal in every stroke.",
    "copied": "It would be taken for bars that were copied.",
    "dice": "It would be taken for dice: each stroke strays on its own.",
    "player": "It would be taken for a player.",
}
_ROW_H = 46


class LikenessPage(QFrame):
    """The score, its reasons, and how hard the part is."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 10, 16, 12)
        column.setSpacing(7)
        self._score = label("", "headline")
        self._taken = label("", "sentence", wrap=True)
        self._rows = _Reasons()
        self._hard = label("", "", wrap=True)
        for widget in (
            self._score,
            self._taken,
            label("Measures; the band is where players are", "section"),
            self._rows,
        ):
            column.addWidget(widget)
        column.addWidget(label("How hard it is", "section"))
        column.addWidget(self._hard)
        column.addStretch(1)

    def show_report(self, report: Report) -> None:
        """Show what was found."""
        found = report.likeness
        self._score.setText(f"{found.score * 100:.0f} %")
        self._taken.setText(_TAKEN[found.taken_for] if found.reasons else "There are too few strokes to tell.")
        self._rows.show_reasons(found.reasons)
        hard = report.difficulty
        parts = [
            ("rate", hard.rate), ("coordination", hard.coordination), ("syncopation", hard.syncopation),
            ("control", hard.control),
        ]  # fmt: skip
        told = ", ".join(f"{name} {10 * value:.0f}" for name, value in parts)
        self._hard.setText(f"{hard.whole:g} of 10: {told}.")


class _Reasons(QWidget):
    """A line a measure: its range as a band, its value as a mark."""

    def __init__(self) -> None:
        super().__init__()
        self._reasons: tuple[Reason, ...] = ()

    def show_reasons(self, reasons: tuple[Reason, ...]) -> None:
        self._reasons = reasons
        self.setFixedHeight(max(len(reasons), 1) * _ROW_H)
        self.setAccessibleDescription("; ".join(r.words for r in reasons))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for k, r in enumerate(self._reasons):
            self._paint(painter, r, k * _ROW_H)
        painter.end()

    def _paint(self, painter: QPainter, r: Reason, y: float) -> None:
        w = self.width()
        inside = r.low <= r.value <= r.high
        painter.setFont(font(13))
        painter.setPen(Look.color("text"))
        painter.drawText(QRectF(0, y, w, 20), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, r.measure)
        painter.setFont(font(13, bold=True))
        painter.setPen(Look.color("text" if inside else "warn"))
        value = f"{r.value:.0f} %" if r.unit == "%" else f"{r.value:.1f} {r.unit}".strip()
        painter.drawText(QRectF(0, y, w, 20), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, value)
        top = max(r.high * 1.5, 1e-9) if r.unit != "%" else 100.0
        top = 1.0 if not r.unit and r.high <= 1 else top
        low = min(0.0, r.value) if r.value > -0.3 * top else -0.3 * top

        def x(v: float) -> float:
            return float(min(max((v - low) / (top - low), 0.0), 1.0)) * (w - 8) + 4

        line = y + 29
        painter.setPen(QPen(Look.color("line"), 2))
        painter.drawLine(QPointF(4, line), QPointF(w - 4, line))
        painter.fillRect(QRectF(x(r.low), line - 5, x(r.high) - x(r.low), 10), Look.color("wave", 110))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(Look.color("lamp" if inside else "warn"))
        painter.drawEllipse(QPointF(x(r.value), line), 5, 5)
