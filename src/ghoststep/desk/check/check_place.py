"""Check: the grid with the limbs that were worked out, the limits of each bar below it, and the findings beside it."""

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtGui import QHideEvent, QKeyEvent
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QSlider, QStackedWidget, QVBoxLayout, QWidget

from ghoststep.desk.check.findings_page import FindingsPage
from ghoststep.desk.check.likeness_page import LikenessPage
from ghoststep.desk.check.limit_strip import LimitStrip
from ghoststep.desk.check.terms_bar import TermsBar
from ghoststep.desk.check.words_page import MOST_BARS, WordsPage
from ghoststep.desk.grid.grid_view import GridView
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.tasks import Progress
from ghoststep.desk.parts.place_widget import PlaceWidget
from ghoststep.desk.parts.widgets import PANEL_W, label, number, scrolled, show_number
from ghoststep.judge.check import Report, checked
from ghoststep.judge.finding import Finding
from ghoststep.judge.layers import Layer, hits_of
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.mending import made_playable, mended, mends_of
from ghoststep.session.words import count

_HINT = "M hears what mends it, A lets it be."


class CheckPlace(PlaceWidget):
    """What was found is worked out off the GUI thread, for the document there is; the newest report is shown."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.report: Report | None = None
        self._asked: Document | None = None
        self._mends: list[str] | None = None  # of the chosen finding, once they were tried
        self._at = -1  # the mend that is looked at
        self._offer: list[str] = []  # phrases that are offered together, to make it playable
        self.grid = GridView(self.studio.choice)
        self.strip, self.terms = LimitStrip(), TermsBar(self.studio)
        self.findings, self.likeness, self.words = FindingsPage(), LikenessPage(), WordsPage()
        self._build()
        self.strip.bar_wanted.connect(self._go_to_bar)
        self.findings.chosen.connect(self._chosen)
        self.findings.mend_wanted.connect(self.next_mend)
        self.findings.take_wanted.connect(self.take)
        self.findings.meant_wanted.connect(self.meant)
        self.words.name_chosen.connect(self._show_name)
        self.findings.list.itemActivated.connect(lambda _item: self.take())

    def _build(self) -> None:
        self._tempo = QSlider(Qt.Orientation.Horizontal)
        self._tempo.setRange(20, 400)
        self._tempo.setAccessibleName("Tempo that is asked about, in BPM")
        self._tempo.valueChanged.connect(self._ask)
        self._typed = number(
            20, 400, lambda bpm: self._tempo.setValue(round(bpm)), name="Tempo asked about", unit="BPM"
        )
        self._breaks = label("", "", wrap=True)
        self._playable = QPushButton("Make it playable  (P)")
        self._playable.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._playable.clicked.connect(self.make_playable)
        asked = QHBoxLayout()
        asked.setContentsMargins(12, 4, 12, 8)
        asked.setSpacing(10)
        asked.addWidget(label("At a tempo of", "dim"))
        asked.addWidget(self._tempo, 2)
        asked.addWidget(self._typed)
        asked.addWidget(self._breaks, 3)
        asked.addWidget(self._playable)
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addWidget(self.terms)
        left.addWidget(self.grid, 1)
        left.addWidget(self.strip)
        left.addLayout(asked)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(left, 1)
        layout.addWidget(self._panel())

    def _panel(self) -> QWidget:
        self._stack, self._tabs = QStackedWidget(), QButtonGroup(self)
        tabs = QHBoxLayout()
        tabs.setContentsMargins(6, 4, 6, 0)
        tabs.setSpacing(0)
        pages: tuple[tuple[str, QWidget], ...] = (
            ("Findings", self.findings), ("Like a player", scrolled(self.likeness)), ("In words", scrolled(self.words)),
        )  # fmt: skip
        for i, (title, page) in enumerate(pages):
            button = QPushButton(title)
            button.setObjectName("tab")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setToolTip(f"{title} (Ctrl+Tab: next page)")
            self._tabs.addButton(button, i)
            tabs.addWidget(button)
            self._stack.addWidget(page)
        self._tabs.idClicked.connect(self.show_page)
        self._tabs.button(0).setChecked(True)
        out = QWidget()
        out.setObjectName("panel")
        out.setFixedWidth(PANEL_W)
        column = QVBoxLayout(out)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(tabs)
        column.addWidget(self._stack, 1)
        return out

    # -- showing ------------------------------------------------------------------------------------------------

    def show_document(self) -> None:
        document = self.studio.document
        self._leave_mend()
        self.terms.show_now()
        if self.report is None or self.report.played.groove.pattern.bars != document.groove.pattern.bars:
            self._show_groove(document.groove)
        self._check(document)

    def _check(self, document: Document) -> None:
        if self._asked is document:
            return
        self._asked = document

        def work(document: Document, _progress: Progress) -> Report:
            report = checked(document.groove, document.judged.terms, document.judged.meant)
            for name in ("likeness", "names", "difficulty", "remarks", "with_limbs"):
                getattr(report, name)  # worked out here, and not when it is shown
            return report

        self.studio.compute("check", work, self._show_report)

    def _show_report(self, report: Report) -> None:
        self.report = report
        pattern = report.played.groove.pattern
        worst: dict[int, int] = {}
        for f in report.findings:
            worst[f.bar] = min(worst.get(f.bar, f.rank), f.rank)
        self.strip.show_limits(report.limits, pattern.bars, worst)
        with QSignalBlocker(self._tempo):
            self._tempo.setValue(round(report.played.groove.tempo.main_bpm))
        self._ask(self._tempo.value())
        self._show_groove(report.with_limbs)
        self.grid.show_names(report.names)
        self.findings.show_findings(report.findings, len(self.studio.document.judged.meant))
        self.likeness.show_report(report)
        self.words.show_report(report)
        self.studio.compute("words", _told, self.words.show_told)

    def _show_groove(self, groove: Groove) -> None:
        self.grid.show_groove(groove, {})

    def show_page(self, number: int) -> None:
        """Show a page of the panel."""
        self._stack.setCurrentIndex(number)
        self._tabs.button(number).setChecked(True)

    def next_page(self) -> None:
        self.show_page((self._stack.currentIndex() + 1) % self._stack.count())

    def set_playhead(self, ticks: float | None) -> None:
        self.grid.set_playhead(ticks)

    def zoom(self, factor: float) -> None:
        self.grid.zoom(factor)

    def take_focus(self) -> None:
        self.findings.list.setFocus()

    def look_changed(self) -> None:
        self.grid.refresh()
        self.strip.update()
        self.likeness.update()

    def hideEvent(self, event: QHideEvent) -> None:
        self._leave_mend()
        super().hideEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
        else:
            super().keyPressEvent(event)

    # -- findings -----------------------------------------------------------------------------------------------

    def _chosen(self, finding: Finding | None) -> None:
        self._leave_mend()
        self._mends = None
        self.findings.show_finding(_HINT if finding else "", ready=False)
        if finding is None or self.report is None:
            self.strip.show_bar(1)
            return
        self.strip.show_bar(finding.bar)
        frame = self.report.played.groove.pattern.frame
        self.grid.reveal(min(frame.start_of(finding.bar + 1), self.report.played.groove.pattern.length_ticks - 1))
        self.grid.reveal(finding.tick)
        keys = frozenset(k for k in finding.hits if k)
        self.studio.choice.put(keys=keys, cursor_ticks=finding.tick)

    def _go_to_bar(self, bar: int) -> None:
        """Show a bar, and its first finding where it has one."""
        self.strip.show_bar(bar)
        if self.report is not None:
            self.grid.reveal(self.report.played.groove.pattern.frame.start_of(bar))
            number = next((i for i, f in enumerate(self.report.findings) if f.bar == bar), None)
            if number is not None:
                self.findings.list.setCurrentRow(number)

    def _show_name(self, found: Layer) -> None:
        self.grid.reveal(found.places[0].start_ticks)
        self.grid.choose(hits_of(found, self.studio.groove.pattern))

    def step(self, by: int) -> None:
        """The next finding, or the one before."""
        number = self.findings.list.count()
        if number:
            self.show_page(0)
            self.findings.list.setCurrentRow((self.findings.list.currentRow() + by) % number)

    def meant(self) -> None:
        """Let the chosen finding be: it stays quiet."""
        finding = self.findings.finding
        if finding is None:
            self.studio.said.emit("There is no finding to let be.", True)
            return
        self.studio.call("meant", key=finding.key)

    # -- mends --------------------------------------------------------------------------------------------------

    def next_mend(self) -> None:
        """Show and play the next mend of the chosen finding; they are tried first, off the GUI thread."""
        finding = self.findings.finding
        if finding is None:
            self.studio.said.emit("There is no finding to mend.", True)
            return
        if self._mends is not None:
            self._look(finding)
            return

        def work(document: Document, _progress: Progress) -> list[str]:
            return mends_of(EditContext(document), finding, document.judged.terms, document.judged.meant)

        def show(found: list[str]) -> None:
            if self.findings.finding is finding:
                self._mends = found
                self._look(finding)

        self.studio.compute("check", work, show)

    def _look(self, finding: Finding) -> None:
        assert self._mends is not None
        if not self._mends:
            self.findings.show_finding(
                "No small change takes this away without bringing worse. A lets it be.", ready=False
            )
            return
        self._offer = []
        self._at = (self._at + 1) % len(self._mends)
        phrase = self._mends[self._at]
        more = f" ({self._at + 1} of {len(self._mends)}; M hears the next)" if len(self._mends) > 1 else ""
        self.findings.show_finding(f"Heard now: {phrase}{more}", ready=True)
        self._try(phrase)

    def _try(self, phrases: str) -> None:
        after = mended(EditContext(self.studio.document), phrases).document.groove
        self._show_groove(after)
        self.studio.playback.try_out(after)

    def take(self) -> None:
        """Take the mend that is heard."""
        phrases = "; ".join(self._offer) or (self._mends[self._at] if self._mends and self._at >= 0 else "")
        if not phrases:
            self.next_mend()
            return
        self._leave_mend()
        for phrase in phrases.split(";"):
            self.studio.say(phrase.strip())

    def leave(self) -> None:
        """Leave the mend: what was there is shown and heard again."""
        waiting = self._at >= 0 or self._offer
        self._leave_mend()
        if waiting and self.report is not None:
            self._show_groove(self.report.with_limbs)
            self.grid.show_names(self.report.names)
            self.findings.show_finding(_HINT, ready=False)

    def _leave_mend(self) -> None:
        if self._at >= 0 or self._offer:
            self.studio.playback.try_out(None)
        self._at, self._offer = -1, []

    # -- the tempo that is asked about --------------------------------------------------------------------------

    def _ask(self, bpm: int) -> None:
        show_number(self._typed, bpm)
        now = self.studio.groove.tempo.main_bpm
        self.strip.ask(bpm / now)
        rows = self.strip.breaking()
        bars = sorted({row.bar for row in rows})
        if not rows:
            self._breaks.setText("In reach of every limb.")
        else:
            listed = ", ".join(str(b) for b in bars[:8]) + (" …" if len(bars) > 8 else "")
            self._breaks.setText(f"{count(len(bars), 'bar')} break{'s' if len(bars) == 1 else ''}: {listed}")

    def _ask_typed(self, bpm: float) -> None:
        self._tempo.setValue(round(bpm))

    def faster(self, by: int) -> None:
        """Move the tempo that is asked about."""
        self._tempo.setValue(self._tempo.value() + by)

    def make_playable(self) -> None:
        """Work out changes that make it playable at the tempo that is asked about; they are heard before."""
        bpm = float(self._tempo.value())

        def work(document: Document, _progress: Progress) -> list[str]:
            return made_playable(EditContext(document), document.judged.terms, bpm)[0]

        def show(found: list[str]) -> None:
            if not found:
                self.studio.said.emit(f"It is playable at {bpm:g} BPM as it is.", False)
                return
            self._mends, self._at, self._offer = None, -1, found
            self.show_page(0)
            told = "; ".join(found[:5]) + (f" and {len(found) - 5} more" if len(found) > 5 else "")
            self.findings.show_finding(f"Playable at {bpm:g} BPM by {count(len(found), 'change')}: {told}", ready=True)
            try:
                self._try("; ".join(found))
            except InputError as error:
                self.studio.said.emit(str(error), True)

        self.studio.compute("check", work, show, words="Making it playable")


def _told(document: Document, _progress: Progress) -> list[str]:
    """The groove in sentences, a long one's beginning."""
    from ghoststep.session.say.telling import told

    bars = document.groove.pattern.bars
    return told(document.groove, range(1, MOST_BARS + 1) if bars > MOST_BARS else ())
