"""Form: the road map of the piece, and beside it the part that is chosen."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout

from ghoststep.desk.form.part_panel import PartPanel
from ghoststep.desk.form.road import Cell
from ghoststep.desk.form.road_map import RoadMap
from ghoststep.desk.model.places import Desk
from ghoststep.desk.model.tasks import Progress
from ghoststep.desk.parts.place_widget import PlaceWidget
from ghoststep.judge.form_found import letter
from ghoststep.music.form import Form
from ghoststep.session.language.answering import Answer, answers
from ghoststep.session.language.kinds import Amount


class FormPlace(PlaceWidget):
    """Every change of the form is a phrase of the language, and so an undo step."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.map, self.panel = RoadMap(), PartPanel()
        self._answers: list[Answer] = []
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.map, 1)
        layout.addWidget(self.panel)
        self.map.chosen_changed.connect(self._show_part)
        self.map.opened.connect(self.open)
        self.panel.wanted.connect(self.desk.run)
        self.panel.looked_at.connect(self._hear_answer)

    # -- showing ------------------------------------------------------------------------------------------------

    def show_document(self) -> None:
        self._leave_answers()
        document = self.studio.document
        self.map.show_form(document.form, document.groove)

    def _show_part(self) -> None:
        cell = self.map.cell
        self.panel.show_part(self.map.form, cell.part if cell else "")

    def set_playhead(self, ticks: float | None) -> None:
        frame = self.studio.groove.pattern.frame
        self.map.set_playhead(None if ticks is None else frame.spot_at(int(ticks)).bar)

    def take_focus(self) -> None:
        self.map.setFocus()

    def look_changed(self) -> None:
        self.map.viewport().update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._answers:
            self._leave_answers()
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
        self.studio.play()

    def again(self) -> None:
        """The chosen part once more behind itself."""
        self._rewrite(lambda row, at: [*row[: at + 1], row[at], *row[at + 1 :]], 1)

    def leave_out(self) -> None:
        """The chosen playing taken out of its section."""
        self._rewrite(lambda row, at: [*row[:at], *row[at + 1 :]], 0)

    def shift(self, by: int) -> None:
        """The chosen playing earlier or later in its section."""

        def moved(row: list[str], at: int) -> list[str]:
            to = min(max(at + by, 0), len(row) - 1)
            out = [*row[:at], *row[at + 1 :]]
            out.insert(to, row[at])
            return out

        self._rewrite(moved, by)

    def _rewrite(self, change: Callable[[list[str], int], list[str]], then: int) -> None:
        here = self._here()
        if here is None:
            return
        form, cell = here
        section = form.played[cell.section]
        if section.endings:
            self.studio.said.emit(
                f"{section.name} has endings: say its order with Ctrl+K, section {section.name} = …", True
            )
            return
        row = change(list(section.row), cell.index)
        if not row:
            self.studio.said.emit("A section plays at least one part.", True)
            return
        name = section.name
        if all(s.name != name for s in form.sections):  # the parts one after another: they become a section
            self.studio.said.emit("Say the sections first with Ctrl+K, as: section verse = A B x2.", True)
            return
        chosen = self.map.chosen + then
        if self.studio.say(f"section {name} = {' '.join(row)}"):
            self.map.choose(chosen)

    def free(self) -> None:
        """The chosen part set free of its base."""
        here = self._here()
        if here is not None:
            self.studio.call("free", name=here[1].part)

    def letters(self) -> None:
        """The form found in the groove."""
        self.studio.call("letters")

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
            self._kept_here("not-same", bar=Amount(float(here[1].first_bar)), name=_free_name(here[0]))

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

    # -- answers ------------------------------------------------------------------------------------------------

    def propose_answers(self) -> None:
        """Answers to the chosen part, worked out off the GUI thread."""
        here = self._here()
        if here is None:
            return
        form, cell = here
        document = self.studio.document
        groove = document.groove.changed(pattern=form.part(cell.part).pattern)
        terms = document.judged.terms

        def work(_progress: Progress) -> list[Answer]:
            return answers(groove, terms)

        def done(found: list[Answer]) -> None:
            if self.studio.document is document:
                self._answers = found
                if not found:
                    self.studio.said.emit(f"No small change of {cell.part} can be played.", True)
                self.panel.show_answers(found)

        self.studio.tasks.start("craft", work, done=done, failed=lambda words: self.studio.said.emit(words, True))

    def _hear_answer(self, number: int) -> None:
        """Question and answer, one behind the other."""
        here = self._here()
        if here is None or not 0 <= number < len(self._answers):
            return
        part = here[0].part(here[1].part).pattern
        answer = self._answers[number].pattern
        length = part.length_ticks
        later = [replace(h, position_ticks=h.position_ticks + length) for h in answer.hits]
        both = replace(part, bars=2 * part.bars, hits=(*part.hits, *later)) if not part.meter_changes else answer
        self.studio.try_out(self.studio.groove.changed(pattern=both))

    def take_answer(self) -> None:
        """The answer that is heard becomes a part of its own, played here."""
        here = self._here()
        number = self.panel.answers.currentRow()
        if here is None or not self._answers or number < 0:
            self.open()
            return
        form, cell = here
        section = form.played[cell.section]
        name = _free_name(form)
        chosen = self.map.chosen
        phrases = self._answers[number].phrases  # they were worked out already
        self._leave_answers()
        if not self.studio.call("vary", name=cell.part, new=name, phrases=" then ".join(phrases)):
            return
        if not section.endings and any(s.name == section.name for s in form.sections):
            row = list(section.row)
            row[cell.index] = name
            self.studio.say(f"section {section.name} = {' '.join(row)}")
        self.map.choose(chosen)
        self.map.setFocus()

    def _leave_answers(self) -> None:
        if self._answers:
            self._answers = []
            self.studio.try_out(None)
            self.panel.show_answers(())


def _free_name(form: Form) -> str:
    """The next letter that no part has."""
    return next(x for x in map(letter, range(9999)) if all(p.name != x for p in form.parts))
