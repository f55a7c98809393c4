"""Place: the grid, beside it pages for the hit, touch, time, hands, the groove and versions, below it pictures."""

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from ghoststep.desk.grid.grid_view import GridView
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.parts.page import Page
from ghoststep.desk.parts.place_widget import PlaceWidget
from ghoststep.desk.parts.widgets import PANEL_W, scrolled
from ghoststep.desk.place.groove_page import GroovePage
from ghoststep.desk.place.hands_page import HandsPage
from ghoststep.desk.place.hit_page import HitPage
from ghoststep.desk.place.proposal_page import ProposalPage, Proposed
from ghoststep.desk.place.tap_tempo import TapTempo
from ghoststep.desk.place.time_page import TimePage
from ghoststep.desk.place.touch_page import TouchPage
from ghoststep.desk.place.versions_page import VersionsPage
from ghoststep.files.feels import shelf
from ghoststep.listen.bars.explain import Explained
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.form import letters_of
from ghoststep.music.kit import LANE_OF_VOICE, LANES
from ghoststep.music.pattern import Hit
from ghoststep.session.document.document import Document
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.edits import touch_edits as touch
from ghoststep.session.language.doing import commit
from ghoststep.session.language.kinds import Amount

if TYPE_CHECKING:
    from ghoststep.desk.place.time_views import TimeViews


class GridPlace(PlaceWidget):
    """The grid with its panel."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        studio = self.studio
        self.grid = GridView(studio.choice)
        self._before: Document | None = None  # the document a drag began with
        self._drag_keys: frozenset[int] = frozenset()
        self._build_pages()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self._left = QVBoxLayout()
        self._left.setSpacing(0)
        self._left.addWidget(self.grid, 1)
        layout.addLayout(self._left, 1)
        layout.addWidget(self._panel)
        self.views: TimeViews | None = None
        self.grid.selection_changed.connect(self._show_page)
        self.grid.hit_wanted.connect(self._place)
        self.grid.drag_changed.connect(self._drag)
        self.grid.drag_ended.connect(self._drop)
        self.grid.line_drawn.connect(self._draw_line)
        self.tap_tempo = TapTempo(self)
        self.tap_tempo.told.connect(studio.said)
        self.tap_tempo.found.connect(lambda bpm: studio.call("tempo", bpm=Amount(bpm)))
        self.grid.swing_changed.connect(self._show_swing)
        self.grid.swing_ended.connect(self._take_swing)
        self.grid.region_wanted.connect(studio.choice.set_range)

    def _build_pages(self) -> None:
        parts = (self.studio, self.grid)
        self.hit_page, self.touch_page, self.hands_page = HitPage(*parts), TouchPage(*parts), HandsPage(*parts)
        self.groove_page, self.versions_page, self.time_page = (
            GroovePage(*parts),
            VersionsPage(*parts),
            TimePage(*parts),
        )
        self.pages: tuple[Page, ...] = (
            self.hit_page, self.touch_page, self.time_page, self.hands_page, self.groove_page, self.versions_page,
        )  # fmt: skip
        self.time_page.asked = self.desk.run
        self.hands_page.asked = self.desk.run
        self.groove_page.all_lanes.connect(self._show_all)
        self.versions_page.asked = self.desk.run
        self.proposal_page = ProposalPage()
        self.proposal_page.looked_at.connect(self._look_at)
        self.proposal_page.ended.connect(self._end_proposal)
        self._stack, self._tabs = QStackedWidget(), QButtonGroup(self)
        tabs = QHBoxLayout()
        tabs.setContentsMargins(6, 4, 6, 0)
        tabs.setSpacing(0)
        for i, page in enumerate(self.pages):
            button = QPushButton(page.title)
            button.setObjectName("tab")
            button.setStyleSheet("padding-left: 4px; padding-right: 4px; min-width: 0;")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setToolTip(f"{page.title} (Ctrl+Tab: next page)")
            self._tabs.addButton(button, i)
            tabs.addWidget(button)
            self._stack.addWidget(scrolled(page))
        self._stack.addWidget(self.proposal_page)
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
        document = self.studio.document
        if self.proposal_page.waiting:  # what was proposed was proposed for what was there before
            self.proposal_page.leave()
        self.grid.letters = letters_of(document.form) if document.form is not None else ()
        self.grid.show_groove(document.groove, _spreads(document))
        self._show_view()

    def _show_page(self) -> None:
        if self.isVisible() and self._stack.currentIndex() < len(self.pages):
            self.pages[self._stack.currentIndex()].show_now()

    @property
    def page(self) -> int:
        """The page that is shown."""
        return self._stack.currentIndex()

    def show_page(self, number: int) -> None:
        if self.proposal_page.waiting:
            self.proposal_page.leave()
        self._stack.setCurrentIndex(number)
        self._tabs.button(number).setChecked(True)
        self.desk.say("")
        self._show_page()

    def next_page(self) -> None:
        self.show_page((self._tabs.checkedId() + 1) % len(self.pages))

    def _show_all(self, on: bool) -> None:
        self.grid.all_lanes = on
        self.grid.refresh()

    def toggle_view(self, kind: int) -> None:
        """Show a picture of the feel under the grid, or put it away where it is shown already."""
        if self.views is None:
            from ghoststep.desk.place.time_views import TimeViews  # half a second, which the start need not take

            self.views = TimeViews()
            self.views.closed.connect(self.views.hide)
            self.views.hide()
            self._left.addWidget(self.views)
        if self.views.isVisible() and self.views.kind == kind:
            self.views.hide()
            return
        self.views.show()
        self.views.choose(kind)
        self._show_view()

    def _show_view(self) -> None:
        if self.views is not None and not self.views.isHidden():
            document = self.studio.document
            others = {"what was heard": document.listening.explained.groove} if document.listening else {}
            others |= {s.name: s.groove for s in document.snapshots}
            self.views.show_groove(self.studio.groove, others, {s.name: s.feel for s in shelf()[0]})

    def set_playhead(self, ticks: float | None) -> None:
        self.grid.set_playhead(ticks)

    def zoom(self, factor: float) -> None:
        self.grid.zoom(factor)

    def take_focus(self) -> None:
        choice = self.studio.choice
        if not choice.keys:  # cursor and choice go together here
            self.studio.session.put_cursor(choice.cursor_ticks, choice.lane)
        self.grid.setFocus()

    def look_changed(self) -> None:
        self.grid.refresh()
        self.time_page.fill_shelf()
        self._show_view()

    # -- proposals ----------------------------------------------------------------------------------------------

    def propose(self, title: str, proposed: Sequence[Proposed]) -> None:
        """Let one of some alternatives be taken, each drawn and heard before."""
        self._stack.setCurrentWidget(self.proposal_page)
        self.proposal_page.propose(title, proposed)

    def _look_at(self, proposed: Proposed) -> None:
        self.grid.propose(proposed.hits)
        if not proposed.hits:  # nothing is added: what is there is shown as it would be played
            self.grid.show_groove(
                proposed.groove, _spreads(self.studio.document.with_groove(feel=proposed.groove.feel))
            )
        self.studio.playback.try_out(proposed.groove)

    def _end_proposal(self, taken: Proposed | None) -> None:
        self.grid.propose(())
        self.grid.show_groove(self.studio.groove, _spreads(self.studio.document))
        self.studio.playback.try_out(None)
        self._stack.setCurrentIndex(self._tabs.checkedId())
        self.grid.setFocus()
        if taken is not None:
            taken.take()
        self._show_page()

    def show_trial(self, document: Document | None) -> None:
        """What a sentence would change, dotted: strokes that come, and rings round those that go or change."""
        if document is None:
            self.grid.propose(())
            return
        now = {h.key: h for h in self.studio.groove.pattern.hits}
        then = {h.key: h for h in document.groove.pattern.hits}
        new = tuple(h for key, h in then.items() if _drawn(h) != _drawn(now.get(key)))
        gone = tuple(h for key, h in now.items() if _stands(h) != _stands(then.get(key)))
        self.grid.propose(new, gone)

    # -- doing --------------------------------------------------------------------------------------------------

    def do(self, phrase: str) -> bool:
        """Do a phrase as one step; trouble is said and changes nothing."""
        done = self.studio.say(phrase)
        self.grid.reveal(self.grid.cursor_ticks)
        return done

    def _place(self, ticks: int, voice_name: str) -> None:
        self.grid.stand(frozenset(), ticks, LANE_OF_VOICE[voice_name])
        self.studio.call("place", voice=voice_name)

    def _drag(self, by_velocity: int, by_ms: float) -> None:
        """While dragging, the change is shown but is no step yet; rules are kept in what is shown."""
        if self._before is None:
            self._before = self.studio.document
            self._drag_keys = self.studio.choice.keys
        try:
            words, preview = commit(self._before, _dragged(self._before, self._drag_keys, by_velocity, by_ms))
        except InputError as error:  # dragged further than a hit may be moved: the last picture stays
            self.studio.said.emit(str(error), True)
            return
        self.grid.groove = preview.groove
        self.grid.viewport().update()
        self.studio.said.emit(words, False)

    def _drop(self, by_velocity: int, by_ms: float) -> None:
        before, self._before = self._before, None
        if before is None:
            return
        self.grid.groove = before.groove
        keys = self._drag_keys
        self.studio.edit(lambda d: _dragged(d, keys, by_velocity, by_ms))

    def _show_swing(self, swing: Swing, name: str) -> None:
        """While an off note is dragged, all move with it; that is no step yet."""
        groove = self.studio.groove
        self.grid.groove = groove.changed(feel=_swung(groove.feel, swing, name))
        self.grid.viewport().update()
        self.studio.said.emit(f"Swing {100 * swing.ratio:.1f} %", False)

    def _take_swing(self, swing: Swing, name: str) -> None:
        self.grid.groove = self.studio.groove
        own = (name,) if name in self.studio.groove.feel.swings else ()
        self.studio.call("swing", swing=swing, voices=own)

    def _draw_line(self, row: int, points: object) -> None:
        """Velocities of a lane's hits along a drawn line; where several are chosen, only of those."""
        drawn: list[tuple[float, float]] = sorted(points)  # type: ignore[call-overload]
        pattern, keys = self.studio.groove.pattern, self.studio.choice.keys
        lane = LANES[self.grid.geometry_now().lanes[row]]
        found = pattern.between(drawn[0][0], drawn[-1][0] + 1)
        hits = [pattern.hits[i] for i in found if pattern.hits[i].voice in lane.voices]
        if len(keys) > 1 and any(h.key in keys for h in hits):
            hits = [h for h in hits if h.key in keys]
        if hits:
            self.studio.edit(lambda d: touch.line(d, hits, drawn))


def _dragged(document: Document, keys: frozenset[int], by_velocity: int, by_ms: float) -> edits.Edit:
    """All chosen hits changed by as much as the one under the mouse."""
    pattern = document.groove.pattern
    hits = [pattern.hits[i] for i in pattern.indices_of_keys(keys)]
    if not hits:
        return "", document
    new, parts = document, []
    if by_velocity:
        _, new = edits.change_velocity(new, hits, by_velocity)
        first = hits[0].velocity
        parts.append(f"{first} → {first + by_velocity}" if len(hits) == 1 else f"velocity {by_velocity:+d}")
    if abs(by_ms) > 1e-9:
        pattern = new.groove.pattern
        _, new = edits.nudge(new, [pattern.hits[i] for i in pattern.indices_of_keys(keys)], by_ms)
        parts.append(f"{hits[0].offset_ms + by_ms if len(hits) == 1 else by_ms:+.1f} ms")
    return f"{edits.named(hits, document)}: {', '.join(parts)}", new


def _swung(feel: Feel, swing: Swing, name: str) -> Feel:
    """The feel with another swing: that of a voice which has one of its own, else that of all."""
    if name in feel.swings:
        return replace(feel, swings={**feel.swings, name: swing})
    return replace(feel, swing=swing)


def _spreads(document: Document) -> dict[str, tuple[float, float]]:
    """Lean and looseness of every voice in use: looseness as heard, or as set."""
    groove = document.groove
    heard: Explained | None = document.listening.explained if document.listening else None
    out = {}
    for name in groove.pattern.voices:
        loose = (heard.loose_ms.get(name, 0.0) if heard else 0.0) or groove.feel.loose_ms
        out[name] = (groove.feel.lean_of(name), loose)
    return out


def _stands(h: Hit | None) -> tuple[object, ...] | None:
    """Where a hit stands on the grid."""
    return None if h is None else (h.position_ticks, h.voice)


def _drawn(h: Hit | None) -> tuple[object, ...] | None:
    """What is seen of a hit on the grid."""
    return (
        None if h is None else (h.position_ticks, h.voice, h.velocity, h.ornament, h.stroke, h.offset_ms, h.limb_letter)
    )
