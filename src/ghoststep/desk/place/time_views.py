"""Pictures of the feel under the grid: the pocket over the bars, where off notes fall, how hard which spot is struck.

What was heard in the recording, a version that was kept, or the groove in a feel of the shelf can lie behind it; and in
front can stand what is played now, or it in another feel, so that two feels are seen over each other.
"""

from collections.abc import Callable

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QButtonGroup, QComboBox, QFrame, QHBoxLayout, QPushButton, QVBoxLayout

from ghoststep.desk.look.look import Look, font
from ghoststep.desk.parts.widgets import choice, label, show_choice
from ghoststep.feel.transfer import laid_on
from ghoststep.feel.views import Floats, off_notes, pockets, touches, unheard_ms
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel
from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice

HEIGHT = 250
_NOW = "now"
MIDDLE = (0.53, 0.62)  # between straight and shuffled
_MARKS = ((0.5, "straight"), (2 / 3, "triplet"), (0.75, "dotted"))
_SYMBOLS = {"kick": "s", "snare": "o", "hat": "t1", "toms": "d", "cymbals": "+"}
_LEAST_REACH_MS = 15.0
MOST_HITS = 3000  # of these at most the first bars are drawn
_PALE = 90  # how strongly what lies behind is drawn, of 255


class TimeViews(QFrame):
    """One picture at a time, below the grid."""

    closed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setFixedHeight(HEIGHT)
        self._groove: Groove | None = None
        self._others: dict[str, Groove] = {}
        self._feels: dict[str, Feel] = {}
        self._cut = False  # whether only the first bars are drawn
        self._reach_ms = _LEAST_REACH_MS
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 6, 12, 6)
        layout.setSpacing(4)
        head = QHBoxLayout()
        self._kinds = QButtonGroup(self)
        for i, (name, tip) in enumerate((
            ("Pocket", "How early or late each stroke is, over the bars"),
            ("Swing", "Where the off notes fall between their neighbours"),
            ("Touch", "How hard each spot of the bar is struck"),
        )):  # fmt: skip
            button = QPushButton(name)
            button.setCheckable(True)
            button.setObjectName("tab")
            button.setToolTip(tip)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            self._kinds.addButton(button, i)
            head.addWidget(button)
        self._kinds.button(0).setChecked(True)
        self._kinds.idClicked.connect(lambda _i: self.draw())
        self._words = label("", "dim")
        self.front = choice([(_NOW, "")], lambda _name: self.draw(), name="What stands in front")
        self.over = choice([("alone", "")], lambda _name: self.draw(), name="What lies behind it")
        for box in (self.front, self.over):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        away = QPushButton("Close")
        away.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        away.clicked.connect(self.closed)
        head.addSpacing(10)
        head.addWidget(self._words, 1)
        head.addWidget(self.front)
        head.addWidget(self.over)
        head.addWidget(away)
        layout.addLayout(head)
        self.plot = pg.PlotWidget()
        self.plot.setMenuEnabled(False)
        self.plot.setMouseEnabled(x=False, y=False)
        self.plot.hideButtons()
        layout.addWidget(self.plot, 1)

    @property
    def kind(self) -> int:
        return self._kinds.checkedId()

    @property
    def behind(self) -> Groove | None:
        """What lies behind what stands in front."""
        return self._named(str(self.over.currentData() or ""))

    def _named(self, name: str) -> Groove | None:
        """A groove by its name: one of the others, or this one in a feel."""
        if name in self._others:
            return self._others[name]
        if name not in self._feels or self._groove is None or not self._groove.pattern.hits:
            return None
        feel, _ = laid_on(self._feels[name], self._groove)
        return self._groove.changed(feel=feel, feels=())

    def choose(self, kind: int) -> None:
        """Show the picture of a number: pocket, swing, touch."""
        self._kinds.button(kind).setChecked(True)
        self.draw()

    def show_groove(self, groove: Groove, others: dict[str, Groove], feels: dict[str, Feel] | None = None) -> None:
        """What is played now, and what can lie behind it: what was heard, kept versions, feels, by their names."""
        named = {f"feel {name}": feel for name, feel in (feels or {}).items()}
        if [*others, *named] != [*self._others, *self._feels]:
            self._fill(self.front, [("", _NOW), *((name, f"in {name.removeprefix('feel ')}") for name in named)])
            over = [("", "alone"), *((name, f"over {name.removeprefix('feel ')}") for name in (*others, *named))]
            self._fill(self.over, over)
        self._feels = named
        self._groove = _stretch(groove)
        self._cut = self._groove is not groove
        self._others = {name: _stretch(other) for name, other in others.items()}
        self.over.setVisible(bool(others or named))
        self.front.setVisible(bool(named))
        if self.isVisible():
            self.draw()

    @staticmethod
    def _fill(box: QComboBox, items: list[tuple[str, str]]) -> None:
        now = box.currentData()
        box.clear()
        for value, words in items:
            box.addItem(words, value)
        show_choice(box, now)

    def draw(self) -> None:
        """Draw the picture anew."""
        plot, groove = self.plot, self._named(str(self.front.currentData() or "")) or self._groove
        plot.clear()
        plot.setBackground(Look.color("ground"))
        item = plot.getPlotItem()
        for side in ("left", "bottom"):
            axis = item.getAxis(side)
            axis.setPen(pg.mkPen(Look.color("strong_line")))
            axis.setTextPen(pg.mkPen(Look.color("dim")))
            axis.setStyle(tickFont=font(11))
            axis.setTicks(None)
            axis.enableAutoSIPrefix(False)
        if groove is None:
            return
        self._reach_ms = _LEAST_REACH_MS
        drawn: Callable[[Groove, int], str] = (self._pocket, self._swing, self._touch)[self.kind]
        try:
            if (behind := self.behind) is not None:
                drawn(behind, _PALE)
            first = f"The first {groove.pattern.bars} bars. " if self._cut else ""
            self._words.setText(first + drawn(groove, 255))
        except InputError as error:
            self._words.setText(str(error))
        item.enableAutoRange()
        self._fit(item, groove)

    def _fit(self, item: pg.PlotItem, groove: Groove) -> None:
        """Ranges that stay the same where the same things are compared."""
        if self.kind == 0:
            item.setYRange(-self._reach_ms, self._reach_ms, padding=0)
            item.setXRange(0.95, groove.pattern.bars + 1.05, padding=0)
            step = max(1, groove.pattern.bars // 16)
            bars = [(float(b), str(b)) for b in range(1, groove.pattern.bars + 2, step)]
            item.getAxis("bottom").setTicks([bars])
        elif self.kind == 1:
            item.setXRange(0.45, 0.8, padding=0)
        else:
            item.setYRange(0, 127, padding=0.02)

    # -- the pictures -------------------------------------------------------------------------------------------

    def _pocket(self, groove: Groove, strong: int) -> str:
        self._axes("bar", "early      ms      late")
        quiet = unheard_ms(groove)
        if strong == 255:
            self._band((-quiet, quiet), "horizontal")
            self.plot.addLine(y=0, pen=pg.mkPen(Look.color("strong_line")))
        said = []
        for p in pockets(groove):
            self._reach_ms = max(self._reach_ms, 1.1 * float(np.abs(p.late_ms).max()))
            color = _color(p.voice, strong)
            self._dots(p.bars, p.late_ms, p.voice, color, filled=True)
            ends = [p.bars.min(), p.bars.max()]
            self.plot.plot(ends, [p.mean_ms, p.mean_ms], pen=pg.mkPen(color, width=1.4, style=Qt.PenStyle.DashLine))
            if len(p.line_ms):
                order = np.argsort(p.bars)
                self.plot.plot(p.bars[order], p.line_ms[order], pen=pg.mkPen(color, width=1.2))
            said.append(f"{voice(p.voice).label} {round(p.mean_ms) + 0:+d} ± {p.spread_ms:.0f}")
        return f"{', '.join(said[:5])} ms.  The band is what nobody hears: ±{quiet:.0f} ms."

    def _swing(self, groove: Groove, strong: int) -> str:
        self._axes("share of the pair before the off note", "")
        unit = groove.feel.swing.unit
        rows = off_notes(groove, unit)
        if strong == 255:
            self._band(MIDDLE, "vertical")
            for share, _ in _MARKS:
                self.plot.addLine(x=share, pen=pg.mkPen(Look.color("strong_line")))
            axis = self.plot.getPlotItem().getAxis("bottom")
            axis.setTicks([[(s, f"{100 * s:.0f} %  {word}") for s, word in _MARKS], [(0.575, "the middle")]])
            named = [(float(-i), voice(r.voice).label) for i, r in enumerate(rows)]
            self.plot.getPlotItem().getAxis("left").setTicks([named])
        if not rows:
            return f"There are no off notes of {unit}ths in this groove."
        said = []
        for i, row in enumerate(rows):
            jitter = np.linspace(-0.25, 0.25, len(row.shares)) if len(row.shares) > 1 else np.zeros(1)
            self._dots(row.shares, -i + jitter, row.voice, _color(row.voice, strong), filled=True)
            mean = float(row.shares.mean())
            self.plot.plot([mean, mean], [-i - 0.35, -i + 0.35], pen=pg.mkPen(_color(row.voice, strong), width=3))
            said.append(f"{voice(row.voice).label} {100 * mean:.1f} %")
        self.plot.getPlotItem().setYRange(-len(rows) + 0.5, 0.5, padding=0.05)
        return f"{', '.join(said[:5])} of a pair of {unit}ths."

    def _touch(self, groove: Groove, strong: int) -> str:
        self._axes("quarter of the bar", "velocity")
        rows = touches(groove)
        for row in rows:
            color = _color(row.voice, strong)
            self._dots(row.quarters[~row.ghost] + 1, row.velocity[~row.ghost], row.voice, color, filled=True)
            self._dots(row.quarters[row.ghost] + 1, row.velocity[row.ghost], row.voice, color, filled=False)
        said = [f"{voice(r.voice).label} {r.velocity[~r.ghost].mean():.0f}" for r in rows if (~r.ghost).any()]
        return f"Mean velocities: {', '.join(said[:5])}.  Hollow: ghosts."

    def _band(self, ends: tuple[float, float], way: str) -> None:
        """A shaded stretch behind what is drawn."""
        brush = pg.mkBrush(Look.color("raised", 90))
        band = pg.LinearRegionItem(ends, orientation=way, movable=False, brush=brush)
        for line in band.lines:
            line.setPen(pg.mkPen(None))
        self.plot.addItem(band)

    def _axes(self, bottom: str, left: str) -> None:
        item = self.plot.getPlotItem()
        style = {"color": Look.theme.dim, "font-size": "11px"}
        item.setLabel("bottom", bottom, **style)
        item.setLabel("left", left, **style)

    def _dots(self, x: Floats, y: Floats, name: str, color: QColor, *, filled: bool) -> None:
        if len(x):
            brush = pg.mkBrush(color) if filled else pg.mkBrush(Look.color("ground"))
            symbol = _SYMBOLS.get(voice(name).group, "o")
            self.plot.addItem(pg.ScatterPlotItem(x, y, symbol=symbol, size=8, pen=pg.mkPen(color), brush=brush))


def _stretch(groove: Groove) -> Groove:
    """The groove, or as many of its first bars as can be drawn at once."""
    pattern = groove.pattern
    if len(pattern.hits) <= MOST_HITS:
        return groove
    bars = max(pattern.frame.spot_at(pattern.hits[MOST_HITS].position_ticks).bar - 1, 1)
    end = pattern.frame.start_of(bars + 1)
    kept = tuple(h for h in pattern.hits if h.position_ticks < end)
    return groove.changed(hits=kept, bars=bars, passages=())


def _color(name: str, strong: int) -> QColor:
    color = QColor(Look.limb(voice(name).limb))
    color.setAlpha(strong)
    return color
