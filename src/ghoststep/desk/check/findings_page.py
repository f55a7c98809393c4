"""The findings in the order of the bars, the one that is looked at with its reason, and its mends."""

from collections.abc import Sequence

from PySide6.QtCore import QRect, QSize, Qt, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import (
    QFrame,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
)

from ghoststep.desk.look.look import Look, font
from ghoststep.desk.parts.widgets import label
from ghoststep.judge.finding import Finding

_MOST = 500  # findings that are listed; the rest is told as a number
_ITEM_H = 40
_FINDING = Qt.ItemDataRole.UserRole


class _Row(QStyledItemDelegate):
    """Two lines: where and what kind, and which finding."""

    def sizeHint(self, option: QStyleOptionViewItem, index: object) -> QSize:
        return QSize(120, _ITEM_H)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: object) -> None:
        finding: Finding = index.data(_FINDING)  # type: ignore[attr-defined]
        rect: QRect = option.rect
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(rect, Look.color("lamp" if chosen else "panel"))
        inner = rect.adjusted(8, 3, -8, -3)
        painter.setFont(font(13, bold=True))
        painter.setPen(Look.color("on_lamp" if chosen else "warn" if finding.rank == 0 else "text"))
        where = f"bar {finding.bar}  {finding.spot}" if finding.hits else f"from bar {finding.bar}"
        painter.drawText(inner, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, where)
        painter.setFont(font(12))
        painter.drawText(inner, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, finding.kind)
        painter.setPen(Look.color("on_lamp" if chosen else "dim"))
        voices = ", ".join(v.replace("_", " ") for v in finding.voices[:3])
        about = f"{finding.name}: {voices}" if voices else finding.name
        painter.drawText(inner, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom, about)


class FindingsPage(QFrame):
    """The list and what is known of the finding that is chosen."""

    chosen = Signal(object)  # a Finding, or None
    mend_wanted = Signal()
    take_wanted = Signal()
    meant_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 10, 16, 12)
        column.setSpacing(7)
        self.head = label("", "title", wrap=True)
        column.addWidget(self.head)
        self.list = QListWidget()
        self.list.setItemDelegate(_Row(self.list))
        self.list.setAccessibleName("Findings in the order of the bars")
        self.list.currentRowChanged.connect(lambda _row: self.chosen.emit(self.finding))
        column.addWidget(self.list, 1)
        self._why = label("", "sentence", wrap=True)
        column.addWidget(self._why)
        self._mend = label("", "dim", wrap=True)
        column.addWidget(self._mend)
        self._hear = QPushButton("Hear a mend  (M)")
        self._take = QPushButton("Take it  (Enter)")
        self._take.setObjectName("main")
        self._meant = QPushButton("It is meant so  (A)")
        for button, signal in (
            (self._hear, self.mend_wanted),
            (self._take, self.take_wanted),
            (self._meant, self.meant_wanted),
        ):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(signal)
            column.addWidget(button)

    @property
    def finding(self) -> Finding | None:
        """The finding that is chosen."""
        item = self.list.currentItem()
        return item.data(_FINDING) if item is not None else None

    def show_findings(self, findings: Sequence[Finding], quiet: int) -> None:
        """List the findings; what was chosen stays chosen where it is still there, else its neighbour is."""
        before, row = self.finding, self.list.currentRow()
        self.list.blockSignals(True)
        self.list.clear()
        for f in findings[:_MOST]:
            item = QListWidgetItem(f"bar {f.bar} {f.spot}, {f.kind}: {f.why}")
            item.setData(_FINDING, f)
            self.list.addItem(item)
        keys = [f.key for f in findings[:_MOST]]
        again = keys.index(before.key) if before is not None and before.key in keys else max(row, 0)
        self.list.setCurrentRow(min(again, len(keys) - 1))
        self.list.blockSignals(False)
        self.head.setText(_counted(findings, quiet))
        self.chosen.emit(self.finding)

    def show_finding(self, mend: str, ready: bool) -> None:
        """What the chosen finding says, and the mend that is looked at; `ready`: it can be taken."""
        f = self.finding
        self._why.setText("" if f is None else f.why + (f" Sure to {f.sure * 100:.0f} %." if f.sure < 1 else ""))
        self._mend.setText(mend)
        self._hear.setEnabled(f is not None)
        self._take.setEnabled(ready)
        self._meant.setEnabled(f is not None)


def _counted(findings: Sequence[Finding], quiet: int) -> str:
    """How many findings of each kind, in a line."""
    kinds: dict[str, int] = {}
    for f in sorted(findings, key=lambda f: f.rank):
        kinds[f.kind] = kinds.get(f.kind, 0) + 1
    told = ", ".join(f"{n} {kind}" for kind, n in kinds.items()) or "Nothing found: a drummer could play it, and would"
    more = f" (the first {_MOST} are listed)" if len(findings) > _MOST else ""
    return told[:1].upper() + told[1:] + more + (f"; {quiet} meant so" if quiet else "")
