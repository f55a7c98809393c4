"""Two versions, parts or sections side by side, and single changes taken over from one into the other."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QHBoxLayout,
    QListWidget,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from ghoststep.desk.grid.grid_view import GridView
from ghoststep.desk.model.studio import Studio
from ghoststep.desk.parts.widgets import choice, label, row
from ghoststep.music.errors import InputError
from ghoststep.session.document.takeover import NOW, Side, Single, names_of, side, singles, taken_over
from ghoststep.session.words import count


class CompareDialog(QDialog):
    """The grids of two sides under each other; what differs is marked in both, told in words, and can be taken over.

    Above stands where changes come from, below what they are taken into.
    """

    def __init__(self, studio: Studio, parent: QWidget | None, theirs: str = "", mine: str = NOW) -> None:
        super().__init__(parent)
        self.setWindowTitle("Compare")
        self.resize(1180, 700)
        self.studio = studio
        self._found: list[Single] = []
        self._sides: tuple[Side, Side] | None = None
        self._theirs, self._mine = self._box("What is compared with"), self._box("What changes are taken into")
        self._grids = (GridView(), GridView())
        self._grids[0].horizontalScrollBar().valueChanged.connect(self._grids[1].horizontalScrollBar().setValue)
        self._grids[1].horizontalScrollBar().valueChanged.connect(self._grids[0].horizontalScrollBar().setValue)
        layout = QHBoxLayout(self)
        layout.addWidget(self._stack(), 1)
        layout.addLayout(self._words())
        self._fill_boxes(theirs or next((n for n in names_of(studio.document) if n != mine), mine), mine)
        self._show()

    def _box(self, name: str) -> QComboBox:
        out = choice((), lambda _name: self._show(), name=name)
        out.setMinimumWidth(240)
        return out

    def _stack(self) -> QSplitter:
        stack = QSplitter(Qt.Orientation.Vertical)
        for at, (grid, box) in enumerate(zip(self._grids, (self._theirs, self._mine), strict=True)):
            half = QWidget()
            column = QVBoxLayout(half)
            column.setContentsMargins(0, 0, 0, 0)
            play = QPushButton("Hear")
            play.clicked.connect(lambda _=False, at=at: self._hear(at))
            column.addLayout(row(label("From" if at == 0 else "Into", "dim"), box, play))
            column.addWidget(grid, 1)
            stack.addWidget(half)
        return stack

    def _words(self) -> QVBoxLayout:
        self.told = QListWidget()
        self.told.setWordWrap(True)
        self.told.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.told.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.told.setSelectionMode(QListWidget.SelectionMode.ExtendedSelection)
        self.told.setAccessibleName("What differs")
        self.told.currentRowChanged.connect(self._look)
        self.told.itemActivated.connect(lambda _item: self.take())
        self._head = label("", "section", wrap=True)
        self._trouble = label("", "warn", wrap=True)
        self._take, self._all = QPushButton("Take over  (Enter)"), QPushButton("Take all")
        undo, close = QPushButton("Undo"), QPushButton("Close")
        undo.setShortcut("Ctrl+Z")
        for button, act in ((self._take, self.take), (self._all, self.take_all), (undo, self._undo)):
            button.setAutoDefault(False)
            button.clicked.connect(lambda _=False, act=act: act())
        close.setAutoDefault(False)
        close.clicked.connect(self.accept)
        side_column = QVBoxLayout()
        side_column.addWidget(self._head)
        side_column.addWidget(self.told, 1)
        side_column.addWidget(self._trouble)
        side_column.addLayout(row(self._take, self._all))
        side_column.addLayout(row(undo, close))
        for widget in (self._head, self.told, self._trouble):
            widget.setFixedWidth(300)
        return side_column

    def _fill_boxes(self, theirs: str, mine: str) -> None:
        names = names_of(self.studio.document)
        for box, now in ((self._theirs, theirs), (self._mine, mine)):
            box.clear()
            for name in names:
                box.addItem(name, name)
            box.setCurrentIndex(max(box.findData(now), 0))

    # -- showing ------------------------------------------------------------------------------------------------

    def _show(self) -> None:
        document = self.studio.document
        try:
            mine, theirs = (side(document, str(box.currentData())) for box in (self._mine, self._theirs))
        except InputError as error:  # a part that was there went while the dialog stood
            self._trouble.setText(str(error))
            return
        self._sides, self._found = (theirs, mine), singles(mine, theirs)
        self._trouble.setText("")
        self._head.setText(f"From {mine.name} to {theirs.name}: {count(len(self._found), 'change')}")
        for grid, shown in zip(self._grids, self._sides, strict=True):
            grid.show_groove(shown.groove, {})
        self._mark(self._found)
        self.told.blockSignals(True)
        self.told.clear()
        self.told.addItems([single.words for single in self._found] or ["No difference."])
        self.told.blockSignals(False)
        may = bool(self._found) and self._may_take
        self._take.setEnabled(may)
        self._all.setEnabled(may)

    @property
    def _may_take(self) -> bool:
        """Whether what stands below is of now, and not a version that was kept."""
        name = str(self._mine.currentData())
        return name == NOW or (name.startswith(("part ", "section ")) and " of " not in name)

    def _mark(self, found: list[Single]) -> None:
        theirs, mine = self._grids
        for grid, hits in (
            (theirs, [n for s in found for _, n in s.pairs]),
            (mine, [g for s in found for g, _ in s.pairs]),
        ):
            marked = {id(h) for h in hits if h is not None}
            grid.choose({i for i, h in enumerate(grid.groove.pattern.hits) if id(h) in marked})

    def _look(self, number: int) -> None:
        """Mark the change that is chosen, and bring it into sight."""
        if not 0 <= number < len(self._found):
            return
        single = self._found[number]
        self._mark([single])
        hit = single.gone or single.new
        if hit is not None:
            for grid in self._grids:
                grid.reveal(min(hit.position_ticks, grid.groove.pattern.length_ticks - 1))

    def _hear(self, at: int) -> None:
        if self._sides is not None:
            self.studio.playback.try_out(self._sides[at].groove)

    # -- taking over --------------------------------------------------------------------------------------------

    def take(self) -> None:
        """The changes that are chosen in the list, taken over."""
        self._take_these(sorted(index.row() for index in self.told.selectedIndexes()))

    def take_all(self) -> None:
        self._take_these(list(range(len(self._found))))

    def _take_these(self, numbers: list[int]) -> None:
        if self._sides is None or not self._may_take or not self._found:
            return
        if not numbers:
            self._trouble.setText("Choose a change in the list first.")
            return
        theirs, mine = self._sides
        chosen = [self._found[k] for k in numbers]
        words = f"From {theirs.name}: {'; '.join(s.words for s in chosen[:3])}"
        words += f" and {len(chosen) - 3} more" * (len(chosen) > 3)
        groove = taken_over(self.studio.groove, mine, chosen)
        self.studio.edit(lambda d: (words, d.with_groove(pattern=groove.pattern, feel=groove.feel, tempo=groove.tempo)))
        self._fill_boxes(str(self._theirs.currentData()), str(self._mine.currentData()))
        self._show()
        if self._found:
            self.told.setCurrentRow(min(numbers[0], len(self._found) - 1))

    def _undo(self) -> None:
        self.studio.undo()
        self._show()
