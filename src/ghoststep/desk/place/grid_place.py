"""Place: the grid, and beside it pages for the hit, touch, hands, the groove and versions."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from ghoststep.desk.grid.grid_view import GridView
from ghoststep.desk.model.command_table import do_named
from ghoststep.desk.model.studio import Studio
from ghoststep.desk.parts.page import Page
from ghoststep.desk.parts.widgets import PANEL_W, scrolled
from ghoststep.desk.place.groove_page import GroovePage
from ghoststep.desk.place.hands_page import HandsPage
from ghoststep.desk.place.hit_page import HitPage
from ghoststep.desk.place.touch_page import TouchPage
from ghoststep.desk.place.versions_page import VersionsPage
from ghoststep.listen.explain import Explained
from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, LANES
from ghoststep.music.pattern import Hit
from ghoststep.session.document.document import Document
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.edits import touch_edits as touch
from ghoststep.session.language.language import Stand


class PlacePlace(QWidget):
    """The second place."""

    command_wanted = Signal(str)

    def __init__(self, studio: Studio) -> None:
        super().__init__()
        self._studio = studio
        self.grid = GridView()
        self._before: Document | None = None  # the document a drag began with
        self._drag_hits: list[Hit] = []
        self._held = False
        self._build_pages()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.grid, 1)
        layout.addWidget(self._panel)
        studio.document_changed.connect(self.show_document)
        studio.document_opened.connect(lambda: self.grid.put_cursor(0, 0))
        studio.wish_changed.connect(self._show_region)
        self.grid.selection_changed.connect(self._show_page)
        self.grid.hit_wanted.connect(self._place)
        self.grid.drag_changed.connect(self._drag)
        self.grid.drag_ended.connect(self._drop)
        self.grid.line_drawn.connect(self._draw_line)
        self.grid.region_wanted.connect(lambda region: studio.set_wish(region_ticks=region))

    def _build_pages(self) -> None:
        parts = (self._studio, self.grid, self.do)
        self.hit_page, self.touch_page, self.hands_page = HitPage(*parts), TouchPage(*parts), HandsPage(*parts)
        self.groove_page, self.versions_page = GroovePage(*parts), VersionsPage(*parts)
        self.pages: tuple[Page, ...] = (
            self.hit_page, self.touch_page, self.hands_page, self.groove_page, self.versions_page,
        )  # fmt: skip
        self.hit_page.moment_wanted.connect(self._studio.hear_moment)
        self.groove_page.all_lanes.connect(self._show_all)
        self.versions_page.asked = self.command_wanted.emit
        self._stack, self._tabs = QStackedWidget(), QButtonGroup(self)
        tabs = QHBoxLayout()
        tabs.setContentsMargins(6, 4, 6, 0)
        tabs.setSpacing(0)
        for i, page in enumerate(self.pages):
            button = QPushButton(page.title)
            button.setObjectName("tab")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setToolTip(f"{page.title} (Ctrl+Tab: next page)")
            self._tabs.addButton(button, i)
            tabs.addWidget(button)
            self._stack.addWidget(scrolled(page))
        self._tabs.idClicked.connect(self.show_page)
        self._tabs.button(0).setChecked(True)
        self._panel = QWidget()
        self._panel.setObjectName("panel")
        self._panel.setFixedWidth(PANEL_W)
        column = QVBoxLayout(self._panel)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(tabs)
        column.addWidget(self._stack, 1)

    # -- showing ------------------------------------------------------------------------------------------------

    def show_document(self) -> None:
        document = self._studio.document
        self.grid.show_groove(document.groove, _spreads(document))

    def _show_page(self) -> None:
        if self._held:
            return
        self.pages[self._stack.currentIndex()].show_now()

    def show_page(self, number: int) -> None:
        self._stack.setCurrentIndex(number)
        self._tabs.button(number).setChecked(True)
        self._show_page()

    def next_page(self) -> None:
        self.show_page((self._stack.currentIndex() + 1) % len(self.pages))

    def _show_region(self) -> None:
        if self.grid.region != self._studio.wish.region_ticks:
            self.grid.region = self._studio.wish.region_ticks
            self.grid.refresh()

    def _show_all(self, on: bool) -> None:
        self.grid.all_lanes = on
        self.grid.refresh()

    # -- doing --------------------------------------------------------------------------------------------------

    def stand(self) -> Stand:
        """Where the user stands, for a command."""
        grid = self.grid
        lane = grid.geometry_now().lanes[grid.cursor_row]
        return Stand(self._studio.document, frozenset(grid.chosen), grid.cursor_ticks, lane, self._studio.shelf)

    def do(self, phrase: str) -> bool:
        """Do a phrase as one step; trouble is said and changes nothing."""
        try:
            self.perform(phrase)
        except InputError as error:
            self._studio.said.emit(str(error), True)
            self._show_page()
            return False
        return True

    def perform(self, phrase: str) -> None:
        """Do a phrase as one step; trouble is an InputError."""
        before = self.stand()
        words, after = do_named(before, phrase)
        self._studio.shelf = after.shelf
        if after.document is not before.document:
            self._held = True  # the page is shown once, when the choice stands too
            self._studio.edit(lambda _d: (words, after.document))
            self._held = False
        elif words:
            self._studio.said.emit(words, False)
        self.grid.stand(after.chosen, after.cursor_ticks, after.lane)

    def _place(self, ticks: int, voice_name: str) -> None:
        lane = LANE_OF_VOICE[voice_name]
        self.grid.stand(frozenset(), ticks, lane)
        self.do(f"place {voice_name}")

    def _drag(self, velocity: int, offset_ms: float) -> None:
        """While dragging, the change is shown but is no step yet."""
        if self._before is None:
            self._before = self._studio.document
            self._drag_hits = self.grid.chosen_hits()
        try:
            preview = _dragged(self._before, self._drag_hits, velocity, offset_ms)
        except InputError as error:  # dragged further than a hit may be moved: the last picture stays
            self._studio.said.emit(str(error), True)
            return
        self.grid.groove = preview.groove
        self.grid.viewport().update()
        self._studio.said.emit(_drag_words(self._before, self._drag_hits, velocity, offset_ms), False)

    def _drop(self, velocity: int, offset_ms: float) -> None:
        before, self._before = self._before, None
        if before is None:
            return
        hits = self._drag_hits
        self.grid.groove = before.groove
        words = _drag_words(before, hits, velocity, offset_ms)
        self._studio.edit(lambda d: (words, _dragged(d, hits, velocity, offset_ms)))

    def _draw_line(self, row: int, points: object) -> None:
        """Velocities of a lane's hits along a drawn line; where several are chosen, only of those."""
        drawn: list[tuple[float, float]] = sorted(points)  # type: ignore[call-overload]
        pattern = self._studio.groove.pattern
        lane = LANES[self.grid.geometry_now().lanes[row]]
        found = pattern.between(drawn[0][0], drawn[-1][0] + 1)
        hits = [pattern.hits[i] for i in found if pattern.hits[i].voice in lane.voices]
        chosen = {id(h) for h in self.grid.chosen_hits()}
        if len(chosen) > 1 and any(id(h) in chosen for h in hits):
            hits = [h for h in hits if id(h) in chosen]
        if hits:
            self._studio.edit(lambda d: touch.line(d, hits, drawn))


def _dragged(document: Document, hits: list[Hit], velocity: int, offset_ms: float) -> Document:
    """All chosen hits changed by as much as the one under the mouse (the first that differs decides)."""
    if not hits:
        return document
    by_velocity, by_ms = velocity - hits[0].velocity, offset_ms - hits[0].offset_ms
    if by_velocity:
        document, hits = _following(edits.change_velocity(document, hits, by_velocity)[1], hits, document)
    if abs(by_ms) > 1e-9:
        document = edits.nudge(document, hits, by_ms)[1]
    return document


def _following(new: Document, hits: list[Hit], old: Document) -> tuple[Document, list[Hit]]:
    """The same hits in a newer document: those that are there now and were not before."""
    before = {id(h) for h in old.groove.pattern.hits}
    wanted = {id(h) for h in hits}
    now = new.groove.pattern.hits
    return new, [h for h in now if id(h) not in before or id(h) in wanted]


def _drag_words(document: Document, hits: list[Hit], velocity: int, offset_ms: float) -> str:
    if not hits:
        return ""
    name = edits.hit_name(hits[0], document.groove.pattern.meter) if len(hits) == 1 else f"{len(hits)} hits"
    parts = []
    if velocity != hits[0].velocity:
        parts.append(f"{hits[0].velocity} → {velocity}")
    if abs(offset_ms - hits[0].offset_ms) > 1e-9:
        parts.append(f"{offset_ms:+.1f} ms")
    return f"{name}: {', '.join(parts)}"


def _spreads(document: Document) -> dict[str, tuple[float, float]]:
    """Lean and looseness of every voice in use: looseness as heard, or as set."""
    groove = document.groove
    heard: Explained | None = document.listening.explained if document.listening else None
    out = {}
    for name in groove.pattern.voices:
        loose = (heard.loose_ms.get(name, 0.0) if heard else 0.0) or groove.feel.loose_ms
        out[name] = (groove.feel.lean_of(name), loose)
    return out
