"""The window: places in the order of the work, the transport below, one line for what was just done or went wrong."""

from collections.abc import Callable, Iterable, Sequence
from importlib import resources
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QIcon, QKeySequence, QPixmap
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QInputDialog,
    QLineEdit,
    QMainWindow,
    QMenu,
    QMessageBox,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ghoststep import __version__
from ghoststep.desk.app import commands
from ghoststep.desk.app.answering import answer
from ghoststep.desk.app.key_guard import KeyGuard
from ghoststep.desk.app.place_stack import PlaceStack, does_of
from ghoststep.desk.app.places import PLACES
from ghoststep.desk.app.sheet import ShortcutSheet
from ghoststep.desk.dialogs import questions
from ghoststep.desk.dialogs.sayable import SayableDialog
from ghoststep.desk.look.look import DAY, NIGHT, Look, use
from ghoststep.desk.model import memory
from ghoststep.desk.model.bound import Bound, Run
from ghoststep.desk.model.studio import Studio
from ghoststep.desk.parts.notices import BusyBar, MessageLine, OfferBanner
from ghoststep.desk.parts.say_bar import SayBar
from ghoststep.desk.parts.transport import Transport
from ghoststep.desk.parts.widgets import asked, label
from ghoststep.files.demo import demo_mouth, demo_recordings
from ghoststep.files.places import log_file
from ghoststep.files.safe import shown
from ghoststep.music.errors import InputError, tidy
from ghoststep.session.commands import COMMANDS, MENUS, Command
from ghoststep.session.document.document import Document
from ghoststep.sound.program import Plays
from ghoststep.work.formats import Holds, format_of, holds

if TYPE_CHECKING:
    from ghoststep.session.say.understanding import Tried

_FRAME_MS = 30
_FIRST = "listen"
_OWN = Bound()
runs = _OWN.runs


def _opens(name: str) -> Callable[[Any], object]:
    return lambda desk: desk.go(name)


for _place in PLACES.values():
    runs(f"view.{_place.name}")(_opens(_place.name))


@runs("view.menus")
def _menus(desk: Any) -> None:
    bar = desk.menuBar()
    bar.setFocus()
    bar.setActiveAction(bar.actions()[0])


@runs("file.demo")
def _demo(desk: Any) -> None:
    desk.open(demo_recordings()[0])


_EVERYWHERE: dict[str, Run] = {**commands.DOES, **_OWN}


def bound(name: str) -> Run:
    """What the desk does for a command that says no phrase; what a place does is loaded with it."""
    if name in _EVERYWHERE:
        return _EVERYWHERE[name]
    return does_of(COMMANDS[name].place, name)


class Window(QMainWindow):
    """One window on one studio; it is the desk that commands and places are given (`model.places.Desk`)."""

    def __init__(self, studio: Studio, settings: QSettings) -> None:
        super().__init__()
        self.studio, self._settings = studio, settings
        self.setMinimumSize(960, 620)
        self.setAcceptDrops(True)
        self._place_name = _FIRST
        self._ending = False
        self._guard = KeyGuard(self)
        self._stack = PlaceStack(self, self._guard)
        self.transport = Transport(studio)
        self._actions: dict[str, QAction] = {}
        self._build_menus()
        self._build()
        self._clock = QTimer(self)
        self._clock.timeout.connect(self._tick)
        self._was_playing = False
        self._wire()
        self._guard.watch(self)
        self.go(_FIRST)
        self._show_title()
        if studio.startup_trouble:
            self.say(studio.startup_trouble, True)

    # -- building -----------------------------------------------------------------------------------------------

    def _build_menus(self) -> None:
        for name, letter in lettered(MENUS, COMMANDS.values()).items():
            menu = self.menuBar().addMenu(name.replace(letter, f"&{letter}", 1) if letter else name)
            groups: dict[str, list[Command]] = {}
            for row in COMMANDS.values():
                if row.menu == name:
                    groups.setdefault(row.group, []).append(row)
            for i, rows in enumerate(groups.values()):
                if i:
                    menu.addSeparator()
                for row in rows:
                    menu.addAction(self._action(row))
            if name == "File":
                first = self._actions["file.save"]
                self._recent = QMenu("Recent", self)
                self._recent.aboutToShow.connect(self._fill_recent)
                demo = QMenu("Demo recordings", self)
                self._fill_demo(demo)
                menu.insertMenu(first, self._recent)
                menu.insertMenu(first, demo)
                menu.insertSeparator(first)

    def _action(self, row: Command) -> QAction:
        action = QAction(row.text, self)
        action.setShortcuts([QKeySequence(k) for k in row.keys])
        action.triggered.connect(lambda _=False, c=row: self.run(c.name))
        self.addAction(action)
        self._actions[row.name] = action
        return action

    def _build(self) -> None:
        top = QHBoxLayout()
        top.setContentsMargins(6, 0, 14, 0)
        top.setSpacing(0)
        self._place_buttons: dict[str, QPushButton] = {}
        for name, place in PLACES.items():
            button = QPushButton(place.title)
            button.setObjectName("place")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setToolTip(f"{place.title} ({place.key})")
            button.clicked.connect(lambda _=False, n=name: self.go(n))
            top.addWidget(button)
            self._place_buttons[name] = button
        self._message = MessageLine()
        top.addSpacing(18)
        top.addWidget(self._message, 1)
        self._title = label("", "title")
        top.addWidget(self._title)
        head = QWidget()
        head.setLayout(top)
        self._busy = BusyBar(self.studio.cancel)
        self._banner = OfferBanner()
        self._say_bar = SayBar(self.studio.saying, lambda: self.at(self.place).take_focus())
        layout = QVBoxLayout()
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        for widget in (head, self._banner, self._busy):
            layout.addWidget(widget)
        layout.addWidget(self._stack, 1)
        layout.addWidget(self._say_bar)
        layout.addWidget(self.transport)
        body = QWidget()
        body.setLayout(layout)
        self.setCentralWidget(body)

    def _wire(self) -> None:
        studio = self.studio
        studio.said.connect(self.say)
        studio.session.asked.connect(lambda ask: answer(self, ask))
        studio.saying.meant_bars = lambda: self.at(self.place).meant_bars()
        self._say_bar.looked_at.connect(self._try_said)
        self._say_bar.wants_heard.connect(self._hear_said)
        studio.tasks.busy_changed.connect(self._busy.show_busy)
        studio.file.changed.connect(self._show_title)
        studio.playback.changed.connect(self._playing_changed)
        studio.listener.heard.connect(lambda: self.go("listen"))
        studio.listener.heard_late.connect(self._offer_late)
        studio.listener.passage_wanted.connect(self._pick_passage)

    # -- what commands and places ask for -----------------------------------------------------------------------

    def run(self, name: str) -> None:
        """Run a command of the table; trouble is said in the window."""
        row = COMMANDS[name]
        if row.place and row.place != self.place:
            return
        try:
            if row.phrase:
                self.studio.session.perform(row.phrase)
            else:
                bound(name)(self)
        except InputError as error:
            self.say(str(error), True)

    def _try_said(self, tried: "Tried | None") -> None:
        """Show what a reading would change; none ends it, and what was heard of it."""
        self.at(self.place).show_trial(tried.context.document if tried is not None else None)
        if tried is None and self.studio.playback.player.what is Plays.PREVIEW:
            self.studio.playback.stop()

    def _hear_said(self, tried: "Tried | None") -> None:
        if tried is not None:
            self.studio.playback.try_out(tried.context.document.groove)

    @property
    def place(self) -> str:
        return self._place_name

    def at(self, place: str) -> Any:
        return self._stack.at(place)

    def go(self, place: str) -> None:
        """Show a place; keys that mean something only elsewhere are free there."""
        if place != self._place_name:
            self.say("")  # what was said belongs to the place that is left
        self._say_bar.hide_quietly()
        self._place_name = place
        self._stack.setCurrentWidget(self._stack.at(place))
        for name, button in self._place_buttons.items():
            button.setChecked(name == place)
        for row in COMMANDS.values():
            self._actions[row.name].setEnabled(row.place in ("", place))
        self._stack.at(place).take_focus()

    def ask(self, title: str, label: str, text: str = "") -> str | None:
        typed, given = QInputDialog.getText(self, title, label, QLineEdit.EchoMode.Normal, text)
        return typed if given else None

    def ask_phrase(self, start: str = "") -> None:
        self._say_bar.ask(start)

    def say(self, words: str, trouble: bool = False) -> None:
        """Show a line; trouble stays until the next line, other words fade."""
        self._message.say(tidy(words), trouble)

    @property
    def message(self) -> str:
        return self._message.words

    # -- showing ------------------------------------------------------------------------------------------------

    def _show_title(self) -> None:
        document, star = self.studio.document, " (not saved)" if self.studio.history.unsaved else ""
        name = tidy(shown(self.studio.file.path) if self.studio.file.path else document.name)
        self._title.setText(f"{name if len(name) < 44 else name[:43] + '…'}{star}")
        self.setWindowTitle(f"{name}{star} - Ghost Step")
        for which, words in (("undo", self.studio.history.undo_words), ("redo", self.studio.history.redo_words)):
            action = self._actions[f"edit.{which}"]
            action.setText(tidy(f"{which.capitalize()}: {words}").replace("&", "&&") if words else which.capitalize())

    def _playing_changed(self) -> None:
        if self.studio.playback.player.playing:
            self._clock.start(_FRAME_MS)
        self._tick()

    def _tick(self) -> None:
        """Move the playhead of the place that is seen; notice when a pass without loop has ended."""
        playing = self.studio.playback.player.playing
        ticks = self.studio.playback.player.position_ticks()
        for widget in self._stack.built:
            if widget.isVisible() or ticks is None:
                widget.set_playhead(ticks)
        self.transport.show_position(ticks)
        if not playing:
            self._clock.stop()
            if self._was_playing:
                self.studio.playback.player.stop()
                self.transport.show_playing()
        self._was_playing = playing

    def switch_theme(self) -> None:
        theme = DAY if Look.theme is NIGHT else NIGHT
        self._settings.setValue("theme", theme.name)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        use(app, theme)
        for widget in self._stack.built:
            widget.look_changed()

    def show_keys(self) -> None:
        asked(ShortcutSheet(PLACES[self.place], self))

    def show_sayable(self) -> None:
        asked(SayableDialog(self.ask_phrase, self))

    def show_log_place(self) -> None:
        self.say(f"The log is {log_file()}")

    def show_about(self) -> None:
        words = f"Ghost Step {__version__}\n\nDrum grooves heard, written as a grid, and played with a drummer's touch."
        QMessageBox.about(self, "About Ghost Step", words)

    # -- files --------------------------------------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Open a file, after asking about work that is not saved."""

        def begin() -> None:
            self.studio.listener.open(path)
            row = format_of(path)
            shows = [p.name for p in PLACES.values() if row is not None and row.name in p.opens]
            self.go(shows[0] if shows else _FIRST)

        self.leave(begin)

    def _pick_passage(self, path: Path, overview: object) -> None:
        self.go("listen")
        self.at("listen").pick_passage(path, overview)

    def open_all(self, files: list[Path]) -> None:
        """Open a file; several sound files are tracks of one performance."""
        if len(files) > 1 and all(holds(f) is Holds.SOUND for f in files):
            self.leave(lambda: self._open_together(tuple(files)))
            return
        self.open(files[0])
        if len(files) > 1:
            self.say(f"Only one file opens at a time, other than tracks of sound: {shown(files[0])}.", True)

    def _open_together(self, files: tuple[Path, ...]) -> None:
        self.studio.listener.listen_together(files)
        self.go(_FIRST)

    def _fill_demo(self, menu: QMenu) -> None:
        for file in demo_recordings():
            action = menu.addAction(file.stem.replace("-", " ").capitalize())
            action.triggered.connect(lambda _=False, f=file: self.open(f))
        menu.addAction("Driver at dusk (mouth drumming)").triggered.connect(self.open_demo_mouth)

    def open_demo_mouth(self) -> None:
        self.leave(lambda: self.studio.listener.listen_to_mouth(demo_mouth(), ()))

    def _fill_recent(self) -> None:
        self._recent.clear()
        files = memory.recent_files()
        for file in files:
            action = self._recent.addAction(shown(file).replace("&", "&&"))
            action.triggered.connect(lambda _=False, f=file: self.open(f))
        if not files:
            self._recent.addAction("No files yet").setEnabled(False)

    def leave(self, then: Callable[[], None]) -> None:
        """Ask what to do with work that is not saved; `then` goes on, at once or once it is saved, or never."""

        def go_on() -> None:
            self.say("")  # what was said of it is gone with it
            then()

        if not self.studio.history.unsaved:
            go_on()
            return
        buttons = QMessageBox.StandardButton
        words = tidy(f"{self.studio.document.name} has changes that are not saved.").replace("<", "‹")
        answer = QMessageBox.question(self, "Save first?", words, buttons.Save | buttons.Discard | buttons.Cancel)
        if answer == buttons.Save:
            # What was changed while it was being saved is asked about again.
            questions.save(self, lambda saved: self.leave(then) if saved else None)
        elif answer == buttons.Discard:
            go_on()

    def offer_recovery(self) -> None:
        """A banner for work that an earlier run could not save."""
        found = memory.leftovers()
        if not found:
            return
        newest = found[0]

        def bring_back() -> None:
            try:
                self.studio.recover(newest)
            except InputError as error:
                self.say(str(error), True)
                return
            self._banner.hide()
            self.go("place")

        def recover() -> bool:
            self.leave(bring_back)
            return False  # the banner goes once the work is here

        def dismiss() -> bool:
            memory.drop(newest)
            return True

        words = f"Ghost Step ended unexpectedly. A copy of the work was kept {newest.age_words}."
        if newest.ended:
            words = f"Work that was not saved when Ghost Step was ended was kept {newest.age_words}."
        self._banner.offer(words, ("Bring it back", recover), ("Throw it away", dismiss))

    def _offer_late(self, document: Document, path: Path | None) -> None:
        """What was heard or opened after this document was worked on is offered, never laid over it."""

        def show_it() -> None:
            self._banner.hide()
            self.studio.listener.show(document, path)

        def show() -> bool:
            self.leave(show_it)
            return False  # the banner goes once it is shown

        words = f"{tidy(document.name)} is ready. This groove was changed meanwhile."
        self._banner.offer(words, ("Show it", show), ("Leave it", lambda: True))

    # -- events -------------------------------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        files = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if files:
            event.acceptProposedAction()
            self.open_all(files)

    def end(self) -> None:
        """Close without a question, since the session or the system ends us: what is not saved is kept."""
        self.studio.autosave.hand_over()
        self._ending = True
        self.close()

    def _may_close_at_once(self) -> bool:
        """Ask about work that is not saved; where it is saved first, the window closes by itself after that."""
        asking = True

        def may_close() -> None:
            self._ending = True
            if not asking:
                self.close()

        self.leave(may_close)
        asking = False
        return self._ending

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._ending and self.studio.history.unsaved and not self._may_close_at_once():
            event.ignore()
            return
        self._settings.setValue("geometry", self.saveGeometry())
        self._clock.stop()
        self.studio.close()
        event.accept()


def lettered(names: Sequence[str], rows: Iterable[Command]) -> dict[str, str]:
    """A letter for each menu that opens it with Alt: the first of its name that no other menu and no command has."""
    taken = {key.removeprefix("Alt+").lower() for row in rows for key in row.keys if key.startswith("Alt+")}
    out: dict[str, str] = {}
    for name in names:
        out[name] = next((c for c in name if c.isalpha() and c.lower() not in taken), "")
        taken.add(out[name].lower())
    return out


def window_icon() -> QIcon:
    """The icon that ships with the program."""
    pixmap = QPixmap()
    pixmap.loadFromData((resources.files("ghoststep.desk") / "data" / "ghost-step.png").read_bytes())
    return QIcon(pixmap)
