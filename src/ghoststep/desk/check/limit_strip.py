"""All bars in one strip: up to which tempo each limb can play them, and what breaks at the tempo asked about."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from ghoststep.desk.look.look import Look, font
from ghoststep.judge.limits import Limit
from ghoststep.judge.played import LIMB_NAMES
from ghoststep.music.kit import LIMB_LETTERS

_HEAD, _ROW, _LEFT, _GAP = 18, 17, 28, 2
_NEAR = 0.92  # of the limit: hard
_ROOMY, _NUMBERED = 34.0, 22.0  # widths of a bar from which a tempo, and a bar's number, can be read


class LimitStrip(QWidget):
    """A column a bar, a row a limb. A press goes to the bar."""

    bar_wanted = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self._limits: dict[tuple[int, str], Limit] = {}
        self._bars, self._share, self._bar = 1, 1.0, 1
        self._found: dict[int, int] = {}
        self.setFixedHeight(_HEAD + _ROW * len(LIMB_LETTERS) + 6)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self.setAccessibleName("Up to which tempo each limb can play each bar")

    def show_limits(self, limits: Sequence[Limit], bars: int, found: dict[int, int]) -> None:
        """The limits of all bars; `found`: the worst rank of finding in a bar."""
        self._limits = {(row.bar, row.limb): row for row in limits}
        self._bars, self._found = max(bars, 1), found
        self.update()

    def ask(self, share: float) -> None:
        """Show what breaks at so many times the tempo there is."""
        self._share = share
        self.update()

    def show_bar(self, bar: int) -> None:
        """Mark the bar that is looked at."""
        self._bar = bar
        self.update()

    def breaking(self) -> list[Limit]:
        """The limits that are passed at the tempo that is asked about."""
        return [row for row in self._limits.values() if row.now_bpm * self._share > row.bpm * (1 + 1e-9)]

    # -- drawing ------------------------------------------------------------------------------------------------

    @property
    def _bar_w(self) -> float:
        return (self.width() - _LEFT - 8) / self._bars

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), Look.color("ground"))
        for k, letter in enumerate(LIMB_LETTERS):
            painter.setFont(font(12, bold=True))
            painter.setPen(Look.limb(letter))
            area = QRectF(0, _HEAD + k * _ROW, _LEFT, _ROW)
            painter.drawText(area, Qt.AlignmentFlag.AlignCenter, letter)
        every = max(1, round(_NUMBERED / self._bar_w + 0.5))
        for bar in range(1, self._bars + 1):
            self._paint_bar(painter, bar, numbered=(bar - 1) % every == 0)
        painter.end()

    def _paint_bar(self, painter: QPainter, bar: int, *, numbered: bool) -> None:
        x, w = _LEFT + (bar - 1) * self._bar_w, self._bar_w
        gap = _GAP if w > 8 else 0.5
        if bar == self._bar:
            painter.setPen(QPen(Look.color("lamp"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(x, 1, max(w - 1, 2), self.height() - 3))
        if numbered:
            painter.setFont(font(11))
            painter.setPen(Look.color("lamp" if bar == self._bar else "dim"))
            painter.drawText(QRectF(x + 3, 1, 40, _HEAD - 2), Qt.AlignmentFlag.AlignVCenter, f"{bar}")
        rank = self._found.get(bar)
        if rank is not None and w > 6:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(Look.color("warn" if rank == 0 else "lamp"))
            painter.drawEllipse(QPointF(x + min(w - 7, 28 if numbered else 8), _HEAD / 2), 3, 3)
        for k, letter in enumerate(LIMB_LETTERS):
            row = self._limits.get((bar, letter))
            cell = QRectF(x + gap, _HEAD + k * _ROW + 1, max(w - 2 * gap, 1), _ROW - 3)
            self._paint_cell(painter, cell, row, letter)

    def _paint_cell(self, painter: QPainter, cell: QRectF, row: Limit | None, letter: str) -> None:
        if row is None:
            painter.fillRect(QRectF(cell.left(), cell.center().y(), cell.width(), 1), Look.color("line"))
            return
        load = row.now_bpm * self._share / row.bpm
        breaks = load > 1 + 1e-9
        color = Look.color("warn") if breaks else Look.limb(letter)
        color.setAlpha(230 if breaks else 190 if load > _NEAR else 80)
        painter.fillRect(QRectF(cell.left(), cell.top(), cell.width() * min(load, 1.0), cell.height()), color)
        if cell.width() > _ROOMY:
            painter.setFont(font(11, bold=breaks))
            painter.setPen(Look.color("ground") if breaks else Look.color("text"))
            text = f"{row.whole_bpm}" + (" BPM" if cell.width() > 2 * _ROOMY else "")
            painter.drawText(cell.adjusted(4, 0, -4, 0), Qt.AlignmentFlag.AlignVCenter, text)

    # -- the mouse ----------------------------------------------------------------------------------------------

    def _bar_at(self, x: float) -> int:
        return min(max(int((x - _LEFT) / self._bar_w) + 1, 1), self._bars)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.bar_wanted.emit(self._bar_at(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        bar = self._bar_at(event.position().x())
        rows = [self._limits[bar, x] for x in LIMB_LETTERS if (bar, x) in self._limits]
        told = "\n".join(f"{LIMB_NAMES[r.limb]}: up to {r.whole_bpm} BPM" for r in rows) or "nothing limits it"
        QToolTip.showText(event.globalPosition().toPoint(), f"Bar {bar}\n{told}", self)
