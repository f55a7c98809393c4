"""What is known of the playing that is chosen, of its part and its section, and what is offered for it."""

from collections import Counter

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from ghoststep.desk.form.offer_list import OfferList
from ghoststep.desk.form.road import Cell
from ghoststep.desk.parts.widgets import PANEL_W, choice, label, row, show_choice
from ghoststep.judge.relatedness import nearness
from ghoststep.music.form import Form, Part, Pass, bar_words
from ghoststep.session.words import count

_MOST_CHANGES = 7  # that are listed
_NOTHING, _COUNTED = "", "count-in "


class PartPanel(QFrame):
    """Words of part and section, buttons for what can be done; the offers stand in the place of the section."""

    wanted = Signal(str)  # the name of a command of the table
    lead_wanted = Signal(str)  # what leads into the section: a part, "count-in N", or nothing

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setFixedWidth(PANEL_W)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 12)
        column.setSpacing(7)
        self._title = label("", "title", wrap=True)
        self._told = label("", "", wrap=True)
        column.addWidget(self._title)
        column.addWidget(self._told)
        self._buttons(
            column,
            (("Open in Place  (Enter)", "form.open"), ("Play it round  (P)", "form.loop")),
            (("Answers  (A)", "form.answers"), ("Fills  (Shift+F)", "form.fills")),
            (("Once more  (D)", "form.again"), ("Leave it out  (Del)", "form.out")),
        )
        self.section = self._section()
        column.addWidget(self.section)
        self.offers = OfferList()
        column.addWidget(self.offers, 1)
        column.addStretch(0)
        self.show_offering(False)

    def _section(self) -> QWidget:
        out = QWidget()
        column = QVBoxLayout(out)
        column.setContentsMargins(0, 8, 0, 0)
        column.setSpacing(7)
        self._section_title = label("", "section")
        self._section_told = label("", "", wrap=True)
        self._lead = choice((), lambda value: self.lead_wanted.emit(str(value)), name="What leads into the section")
        column.addWidget(self._section_title)
        column.addWidget(self._section_told)
        column.addLayout(row(label("Before it", "dim"), self._lead, stretch_last=True))
        self._buttons(
            column,
            (("Play it  (Shift+P)", "form.loop_section"), ("Again  (Shift+D)", "form.section_again")),
            (("Earlier  (Alt+Up)", "form.section_earlier"), ("Later  (Alt+Down)", "form.section_later")),
        )
        column.addStretch(1)
        return out

    def _buttons(self, column: QVBoxLayout, *rows: tuple[tuple[str, str], ...]) -> None:
        for pair in rows:
            column.addLayout(row(*(self._button(text, name) for text, name in pair)))

    def _button(self, text: str, name: str) -> QPushButton:
        out = QPushButton(text)
        out.setStyleSheet("padding-left: 4px; padding-right: 4px;")
        out.clicked.connect(lambda: self.wanted.emit(name))
        return out

    def show_offering(self, offering: bool) -> None:
        """The offers, or else the section."""
        self.offers.setVisible(offering)
        self.section.setVisible(not offering)

    def show_cell(self, form: Form | None, cell: Cell | None) -> None:
        """Words of the playing that is chosen: what its part varies and by which changes, and what its section has."""
        self._section_title.setVisible(form is not None)
        if form is None or cell is None:
            self._title.setText("No parts yet")
            self._told.setText("Shift+L finds the form of this groove: alike bars get a letter, near ones vary it.")
            self._section_told.setText("")
            self._lead.clear()
            return
        part = form.part(cell.part)
        self._title.setText(f"Part {part.name}" + (f", a variation of {part.base}" if part.base else ""))
        self._told.setText("\n".join(_words(form, part)))
        played = form.passes[cell.section]
        self._section_title.setText(f"Section {played.section.name}")
        self._section_told.setText("\n".join(_section_words(form, played)))
        self._show_leads(form, played)

    def _show_leads(self, form: Form, played: Pass) -> None:
        """What may lead in: nothing, bars counted, each part; and what does."""
        before = played.section.before
        now = " ".join(p.part for p in before for _ in range(p.times))
        told = {_NOTHING: "nothing", f"{_COUNTED}1": "1 bar counted in", f"{_COUNTED}2": "2 bars counted in"}
        told |= {p.name: f"part {p.name}" for p in form.parts if not p.name.startswith("count")}
        counted = bool(before) and all(p.part.startswith("count") for p in before)
        value = f"{_COUNTED}{sum(p.times for p in before)}" if counted else now
        told.setdefault(value, now)
        self._lead.clear()
        for key, words in told.items():
            self._lead.addItem(words, key)
        show_choice(self._lead, value)


def _words(form: Form, part: Part) -> list[str]:
    places = [s for s in form.stretches() if s.part == part.name]
    near, why = nearness(form.part(part.base).pattern, part.pattern) if part.base else (1.0, [])
    lines = [f"It is {part.base}, {100 * near:.0f} % alike, but:"] if part.base and part.changes else []
    lines += [f"  {phrase}" for phrase in part.changes[:_MOST_CHANGES]]
    if len(part.changes) > _MOST_CHANGES:
        lines.append(f"  and {len(part.changes) - _MOST_CHANGES} changes more")
    if why:
        lines.append(f"({'; '.join(why[:4])})")
    if part.aside:
        lines += ["Kept aside, since it no longer fits:", *(f"  {phrase}" for phrase in part.aside)]
    bars = ", ".join(str(s.first_bar) for s in places[:12]) + (" …" if len(places) > 12 else "")
    often = f"Played {len(places)} times, in bars" if len(places) > 1 else "Played once, in bar"
    lines.append(f"{often} {bars}.")
    if part.pattern.bars > 1:
        lines.append(f"It has {part.pattern.bars} bars.")
    return lines


def _section_words(form: Form, played: Pass) -> list[str]:
    """Its bars, its exceptions and its cues."""
    section = played.section
    often = sum(s.name == section.name for s in form.played)
    stretch = f"Bars {played.body_bar} to {played.last_bar}" if played.bars > 1 else f"Bar {played.body_bar}"
    lines = [stretch + (f", played {often} times." if often > 1 else ".")]
    lines += [f"{bar_words(at).capitalize()} of it: {phrase}" for at, phrase in section.exceptions[:_MOST_CHANGES]]
    lines += _single_words(form, played)
    return lines + [f"Ends, before {to or 'what is next'}, with: {phrase}" for to, phrase in section.cues]


def _single_words(form: Form, played: Pass) -> list[str]:
    """Bars of a playing that have spots of their own, whatever part and exceptions say."""
    bars = range(played.first_bar, played.last_bar + 1)
    often = Counter(s.bar for s in form.singles if s.bar in bars)
    told = [f"Bar {bar}: {count(number, 'spot')} of its own" for bar, number in sorted(often.items())]
    more = len(told) - _MOST_CHANGES
    return [*told[:_MOST_CHANGES], *([f"and {count(more, 'bar')} more with spots of their own"] if more > 0 else [])]
