"""Small widgets and helpers that several places use."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QPointF, QSignalBlocker, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QBoxLayout,
    QComboBox,
    QDialog,
    QDoubleSpinBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QScrollArea,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from ghoststep.desk.look.look import Look

PANEL_W = 288


def label(text: str = "", kind: str = "", *, wrap: bool = False) -> QLabel:
    """A label in one of the style sheet's kinds: headline, title, dim, section, sentence, warn."""
    out = QLabel(text)
    out.setTextFormat(Qt.TextFormat.PlainText)  # names may come from files
    if kind:
        out.setObjectName(kind)
    out.setWordWrap(wrap)
    out.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
    return out


def asked(dialog: QDialog) -> int:
    """Run a dialog and give back its answer; then it goes, or its parent would keep it for good."""
    answer = int(dialog.exec())
    dialog.deleteLater()
    return answer


def panel() -> tuple[QFrame, QVBoxLayout]:
    """The panel at the right side of a place."""
    frame = QFrame()
    frame.setObjectName("panel")
    frame.setFixedWidth(PANEL_W)
    layout = QVBoxLayout(frame)
    layout.setContentsMargins(16, 14, 16, 14)
    layout.setSpacing(7)
    return frame, layout


def scrolled(frame: QFrame) -> QScrollArea:
    """A panel that scrolls where the window is too low for all of it."""
    area = QScrollArea()
    area.setWidget(frame)
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFixedWidth(PANEL_W)
    return area


def row(*widgets: QWidget, stretch_last: bool = False) -> QHBoxLayout:
    out = QHBoxLayout()
    out.setSpacing(6)
    for i, widget in enumerate(widgets):
        out.addWidget(widget, 1 if stretch_last and i == len(widgets) - 1 else 0)
    if not stretch_last:
        out.addStretch(1)
    return out


def number(
    low: float,
    high: float,
    changed: Callable[[float], object],
    *,
    name: str,
    unit: str = "",
    step: float = 1,
    decimals: int = 0,
) -> QDoubleSpinBox:
    """A number that can be typed; `changed` is called once typing is done or a step is made."""
    out = QDoubleSpinBox()
    out.setRange(low, high)
    out.setDecimals(decimals)
    out.setSingleStep(step)
    out.setSuffix(f" {unit}" if unit else "")
    out.setKeyboardTracking(False)
    out.lineEdit().setTextMargins(7, 0, 4, 0)
    out.setAccessibleName(name)
    out.setToolTip(name)
    out.setFixedWidth(112)
    out.valueChanged.connect(changed)
    return out


class Choice(QComboBox):
    """A drop-down list with a chevron in the colours of the theme."""

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(Look.color("dim" if self.isEnabled() else "strong_line"), 1.6))
        x, y = self.width() - 14.0, self.height() / 2
        painter.drawPolyline([QPointF(x - 4, y - 2), QPointF(x, y + 2), QPointF(x + 4, y - 2)])
        painter.end()


def choice(items: Sequence[tuple[str, object]], changed: Callable[[object], object], *, name: str) -> QComboBox:
    """A drop-down list of (text, value); `changed` gets the value the user picks."""
    out = Choice()
    out.setAccessibleName(name)
    out.setToolTip(name)
    out.setMinimumWidth(112)
    for text, value in items:
        out.addItem(text, value)
    out.activated.connect(lambda i: changed(out.itemData(i)))
    return out


_ITEM_PADDING = 30  # beside the words of an item, frame and scroll bar included


def fill_wrapped(box: QListWidget, texts: Sequence[str]) -> None:
    """Fill a list with words that wrap, each item as high as its words: the list's own guess cuts some of them."""
    box.clear()
    width = max(box.viewport().width(), PANEL_W - 60) - _ITEM_PADDING
    metrics = box.fontMetrics()
    for text in texts:
        item = QListWidgetItem(text)
        lines = metrics.boundingRect(0, 0, width, 1000, int(Qt.TextFlag.TextWordWrap), text)
        item.setSizeHint(QSize(width, lines.height() + 6))
        box.addItem(item)


def show_number(box: QDoubleSpinBox | QSpinBox, value: float) -> None:
    """Set without telling anyone; a box the user types in is left alone."""
    if box.hasFocus() and abs(box.value() - value) < 10 ** -getattr(box, "decimals", lambda: 0)():
        return
    with QSignalBlocker(box):
        box.setValue(value)  # type: ignore[arg-type]


def show_choice(box: QComboBox, value: object) -> None:
    with QSignalBlocker(box):
        box.setCurrentIndex(max(box.findData(value), 0))


def clear(layout: QBoxLayout) -> None:
    """Remove and delete everything in a layout."""
    while (item := layout.takeAt(0)) is not None:
        inner, widget = item.layout(), item.widget()
        if isinstance(inner, QBoxLayout):
            clear(inner)
        if widget is not None:
            widget.deleteLater()
