"""Form: the road map of the piece, and beside it the playing that is chosen."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout

from ghoststep.desk.dialogs.compare import compare
from ghoststep.desk.form.offers import At, Offer, answer_offers, fill_choices
from ghoststep.desk.form.part_panel import PartPanel
from ghoststep.desk.form.road import Cell
from ghoststep.desk.form.road_map import RoadMap
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.tasks import Progress
from ghoststep.desk.parts.place_widget import PlaceWidget
from ghoststep.music.errors import InputError
from ghoststep.music.form import Form
from ghoststep.session.document.document import Document
from ghoststep.session.form.reshaped import free_name
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.kinds import Amount


class FormPlace(PlaceWidget):
    """Every change of the form is a phrase of the language, and so an undo step."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.map, self.panel = RoadMap(), PartPanel()
        self._offers: list[Offer] = []
        self._copied = ""  # the part that Ctrl+C took
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.map, 1)
        layout.addWidget(self.panel)
        self.map.chosen_changed.connect(self._show_cell)
        self.map.opened.connect(self.open)
        self.map.dropped.connect(self._dropped)
        self.panel.wanted.connect(self.desk.run)
        self.panel.lead_wanted.connect(self.lead_in)
        self.panel.offers.looked_at.connect(self._hear)
        self.panel.offers.asked_anew.connect(lambda: self._propose(self.panel.offers.kind))
        self.panel.offers.taken.connect(self.take_offer)

    # -- showing ------------------------------------------------------------------------------------------------

    def show_document(self) -> None:
        self._leave_offers()
        document = self.studio.document
        self.map.show_form(document.form, document.groove)

    def _show_cell(self) -> None:
        self.panel.show_cell(self.map.form, self.map.cell)

    def set_playhead(self, ticks: float | None) -> None:
        if self._offers:  # what plays is something else
            ticks = None
        frame = self.studio.groove.pattern.frame
        self.map.set_playhead(None if ticks is None else frame.spot_at(int(ticks)).bar)

    def take_focus(self) -> None:
        self.map.setFocus()

    def look_changed(self) -> None:
        self.map.look_changed()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._offers:
            self._leave_offers()
            self.map.setFocus()
        else:
            super().keyPressEvent(event)

    # -- what can be done ---------------------------------------------------------------------------------------

    def _here(self) -> tuple[Form, Cell] | None:
        form, cell = self.studio.document.form, self.map.cell
        if form is None or cell is None:
            self.studio.said.emit("There is no form yet: Shift+L finds the one of this groove.", True)
            return None
        return form, cell

    def meant_bars(self) -> frozenset[int]:
        """The bars of the playing that is chosen: what is said here is said of its part."""
        form, cell = self.studio.document.form, self.map.cell
        if form is None or cell is None:
            return frozenset()
        return frozenset(range(cell.first_bar, cell.first_bar + cell.bars))

    def open(self) -> None:
        """The part in Place, at the bar that is chosen."""
        here = self._here()
        if here is not None:
            self.studio.choice.put(keys=(), cursor_ticks=self.studio.groove.pattern.frame.start_of(here[1].first_bar))
            self.desk.go("place")
            grid = self.desk.at("place").grid
            grid.reveal(grid.cursor_ticks)

    def loop(self, whole: bool) -> None:
        """Play the part that is chosen, or its section, round and round."""
        here = self._here()
        if here is None:
            return
        cell = here[1]
        first, bars = cell.first_bar, cell.bars
        if whole:
            head = self.map.road.heads[cell.section]
            first, bars = head.first_bar, head.bars
        frame = self.studio.groove.pattern.frame
        self.studio.choice.set_range((frame.start_of(first), frame.start_of(first + bars)))
        self.studio.playback.play()

    # -- the row of the section ---------------------------------------------------------------------------------

    def again(self) -> None:
        """The chosen part once more behind itself."""
        here = self._in_row()
        if here is not None:
            self._put_in(here, here[1].part, here[1].nth + 1)

    def leave_out(self) -> None:
        """The chosen playing taken out of its section."""
        here = self._in_row()
        if here is not None:
            self._then(f"take-out {here[1].nth + 1} of {self._section(here)}", 0)

    def shift(self, by: int) -> None:
        """The chosen playing earlier or later in its section."""
        here = self._in_row()
        if here is None:
            return
        to = here[1].nth + by
        if 0 <= to < len(here[0].passes[here[1].section].section.row):
            self._then(f"reorder {here[1].nth + 1} to {to + 1} of {self._section(here)}", by)

    def copy(self) -> None:
        """Remember the chosen part, to be put in elsewhere."""
        here = self._here()
        if here is not None:
            self._copied = here[1].part
            self.studio.said.emit(
                f"Part {self._copied} copied: Ctrl+V puts it in behind the part that is chosen.", False
            )

    def paste(self) -> None:
        """The part that was copied, behind the chosen one."""
        here = self._in_row()
        if here is None:
            return
        if not self._copied or not here[0].has(self._copied):
            self.studio.said.emit("Nothing is copied yet: Ctrl+C copies the part that is chosen.", True)
            return
        self._put_in(here, self._copied, here[1].nth + 1)

    def insert(self) -> None:
        """A part that is named, behind the chosen one."""
        here = self._in_row()
        if here is None:
            return
        names = ", ".join(p.name for p in here[0].parts)
        name = self.desk.ask("Put a part in", f"Which part ({names})", here[1].part)
        if name:
            self._put_in(here, name.strip(), here[1].nth + 1)

    def _put_in(self, here: tuple[Form, Cell], part: str, nth: int) -> None:
        self._then(f"put-in {part} into {self._section(here)} place {nth + 1}", 1)

    def _dropped(self, cell: int, beside: int, behind: bool, copied: bool) -> None:
        """A cell was dragged beside another one: it goes there, or a copy of it."""
        form, source, goal = self.studio.document.form, self.map.road.cells[cell], self.map.road.cells[beside]
        nth = goal.nth + behind
        if form is None or source.nth < 0 or nth < 0:
            self._lead_is_chosen_beside()
            return
        names = [s.name for s in form.sectioned().played]
        mine, theirs = names[source.section], names[goal.section]
        if copied or mine != theirs:
            phrases = [f"put-in {source.part} into {theirs} place {nth + 1}"]
            phrases += [] if copied else [f"take-out {source.nth + 1} of {mine}"]
        elif nth in (source.nth, source.nth + 1):
            return
        else:
            nth -= nth > source.nth
            phrases = [f"reorder {source.nth + 1} to {nth + 1} of {mine}"]
        if self._do(phrases):
            self.map.choose_playing(goal.section, nth)

    def section_again(self) -> None:
        """The section once more behind itself."""
        self._order("again")

    def section_out(self) -> None:
        """This playing of the section taken out of the form."""
        self._order("out")

    def section_moved(self, by: int) -> None:
        """This playing of the section earlier or later in the form."""
        self._order("earlier" if by < 0 else "later")

    def _order(self, change: str) -> None:
        here = self._here()
        if here is not None:
            number = here[1].section
            if self.studio.say(f"song-order {number + 1} {change}"):
                to = number + {"earlier": -1, "later": 1, "again": 1}.get(change, 0)
                self.map.choose_section(to)

    def lead_in(self, told: str) -> None:
        """What leads into the section: a part, "count-in 2", or nothing."""
        here = self._here()
        if here is None:
            return
        name, chosen = self._section(here), self.map.cell
        if told.startswith("count-in"):
            done = self.studio.say(f"{told} before {name}")
        else:
            done = self.studio.say(f"lead-in {name} = {told or 'none'}")
        if done and chosen is not None:
            self.map.choose_playing(chosen.section, max(chosen.nth, 0))
        self.map.setFocus()

    def count_in(self) -> None:
        """One bar counted in before the section, or none any more."""
        here = self._here()
        if here is not None:
            counted = any(p.part.startswith("count") for p in here[0].passes[here[1].section].section.before)
            self.lead_in("count-in 0" if counted else "count-in 1")

    def _section(self, here: tuple[Form, Cell]) -> str:
        return here[0].sectioned().played[here[1].section].name

    def _in_row(self) -> tuple[Form, Cell] | None:
        """The chosen playing where it stands in the row of its section."""
        here = self._here()
        if here is not None and here[1].nth < 0:
            self._lead_is_chosen_beside()
            return None
        return here

    def _lead_is_chosen_beside(self) -> None:
        self.studio.said.emit("What leads into a section is chosen beside it, under 'Before it'.", True)

    def _then(self, phrase: str, by: int) -> None:
        """Do a phrase and choose what stands so many cells further on."""
        chosen = self.map.chosen
        if self.studio.say(phrase):
            self.map.choose(chosen + by)

    def _do(self, phrases: list[str]) -> bool:
        """Do phrases as one step; trouble in one is said and none is done."""
        context, words = self.studio.session.context(), []
        try:
            for phrase in phrases:
                said, context = do(context, phrase)
                words.append(said)
        except InputError as error:
            self.studio.said.emit(str(error), True)
            return False
        return self.studio.session.take("; ".join(words), context)

    # -- what was found, corrected -----------------------------------------------------------------------------

    def free(self) -> None:
        """The chosen part set free of its base."""
        here = self._here()
        if here is not None:
            self.studio.call("free", name=here[1].part)

    def vary(self) -> None:
        """The chosen part as a variation of one that is named; the changes are worked out."""
        here = self._here()
        if here is None:
            return
        part = here[0].part(here[1].part)
        names = [p.name for p in here[0].parts if p.name != part.name]
        base = self.desk.ask("A variation of", f"Which part ({', '.join(names)})", part.base or next(iter(names), ""))
        if base:
            self._kept_here("rebase", name=part.name, base=base.strip())

    def compare(self) -> None:
        """The chosen part beside its base, or beside another part."""
        here = self._here()
        if here is None:
            return
        form, part = here[0], here[0].part(here[1].part)
        varied = [p.name for p in form.parts if p.base == part.name]
        rest = [s.part for s in form.stretches() if s.part != part.name and not s.part.startswith("count")]
        other = next(iter([*([part.base] if part.base else []), *varied, *rest]), "")
        compare(self.desk, f"part {other}" if other else "", f"part {part.name}")

    def letters(self) -> None:
        """The form found in the groove, off the GUI thread."""

        def work(document: Document, _progress: Progress) -> tuple[str, EditContext]:
            return do(EditContext(document), "letters")

        def take(found: tuple[str, EditContext]) -> None:
            self.studio.session.take(*found)

        self.studio.compute("craft", work, take, words="Finding the form")

    def same(self) -> None:
        """The chosen part is the one before it: it is played in its place."""
        here = self._here()
        if here is None:
            return
        before = self.map.road.cells[self.map.chosen - 1].part if self.map.chosen else here[1].part
        self._kept_here("same", name=here[1].part, other=before)

    def not_same(self) -> None:
        """The chosen bar becomes a part of its own."""
        here = self._here()
        if here is not None:
            self._kept_here("not-same", bar=Amount(float(here[1].first_bar)), name=free_name(here[0]))

    def begins(self) -> None:
        """A section begins at the chosen bar."""
        here = self._here()
        if here is None:
            return
        name = self.desk.ask("A section begins here", "Its name", f"s{len(here[0].sections) + 1}")
        if name:
            self._kept_here("begins", bar=Amount(float(here[1].first_bar)), name=name.strip())

    def _kept_here(self, verb: str, **values: object) -> None:
        chosen = self.map.chosen
        self.studio.call(verb, **values)
        self.map.choose(chosen)

    # -- offers -------------------------------------------------------------------------------------------------

    def propose_answers(self) -> None:
        """Answers to the chosen part, or phrases of question and answer."""
        self._propose("answers")

    def propose_fills(self) -> None:
        """Fills for the last beats of the chosen playing."""
        self._propose("fills")

    def _propose(self, kind: str) -> None:
        """Work out offers off the GUI thread, and list them."""
        here = self._in_row()
        if here is None:
            return
        asked, at = self.panel.offers, At(self.studio.document, *here)
        length, strictness = asked.length.currentData(), asked.strictness.currentData()
        beats, grid, cue = asked.beats.currentData(), asked.grid.currentData(), asked.where.currentData()

        def work(_document: Document, _progress: Progress) -> list[Offer]:
            if kind == "fills":
                return fill_choices(at, beats, grid, cue=cue)
            return answer_offers(at, length, strictness)

        def show(found: list[Offer]) -> None:
            if self.map.cell == at.cell:
                self._offers = found
                self.panel.show_offering(True)
                asked.show_offers(kind, found, focus=True)

        def failed(words: str) -> None:
            self._offers = []
            asked.show_offers(kind, (), focus=False)
            self.studio.playback.try_out(None)
            self.studio.said.emit(words, True)

        self.studio.compute("craft", work, show, failed=failed)

    def _hear(self, number: int) -> None:
        if 0 <= number < len(self._offers):
            self.studio.playback.try_out(self._offers[number].groove)

    def take_offer(self) -> None:
        """Take what is heard; where nothing is offered, open the part."""
        here, number = self._here(), self.panel.offers.list.currentRow()
        if here is None or not self._offers or number < 0:
            self.open()
            return
        chosen, offer = self.map.chosen, self._offers[number]
        self._leave_offers()
        if offer.phrases:
            self._do([phrase.replace("{new}", free_name(here[0])) for phrase in offer.phrases])
        self.map.choose(chosen)
        self.map.setFocus()

    def _leave_offers(self) -> None:
        if self._offers or not self.panel.offers.isHidden():
            self._offers = []
            self.studio.playback.try_out(None)
            self.panel.show_offering(False)
