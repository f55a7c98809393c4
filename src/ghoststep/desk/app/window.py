"""The window: places in the order of the work, the transport below, one line for what was just done or went wrong."""

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QIcon, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QMessageBox,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ghoststep import __version__
from ghoststep.desk.app import commands
from ghoststep.desk.app.key_guard import guard_fields
from ghoststep.desk.app.sheet import ShortcutSheet
from ghoststep.desk.dialogs.questions import OPEN_FILTER
from ghoststep.desk.listen import listen_commands
from ghoststep.desk.listen.listen_place import ListenPlace
from ghoststep.desk.look.look import DAY, NIGHT, Look, use
from ghoststep.desk.model import memory
from ghoststep.desk.model import phrase_commands as phrases
from ghoststep.desk.model.command_table import COMMANDS, MENUS, Command
from ghoststep.desk.model.studio import Studio
from ghoststep.desk.parts.notices import BusyBar, MessageLine, RecoveryBanner
from ghoststep.desk.parts.say_bar import SayBar
from ghoststep.desk.parts.transport import Transport
from ghoststep.desk.parts.widgets import label
from ghoststep.desk.place.grid_place import PlacePlace
from ghoststep.files.places import state_folder
from ghoststep.files.project import PROJECT_SUFFIX
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document
from ghoststep.sound.program import Source

# Importing them fills the command table.
_DECLARED = (commands, phrases, listen_commands)
_FRAME_MS = 30
PLACES = (("listen", "Listen"), ("place", "Place"))


class Window(QMainWindow):
    """One window on one studio."""

    def __init__(self, studio: Studio, settings: QSettings) -> None:
        super().__init__()
        self.studio, self._settings = studio, settings
        self.setMinimumSize(960, 620)
        self.setAcceptDrops(True)
        self.listen_place, self.place_place = ListenPlace(studio), PlacePlace(studio)
        self.grid = self.place_place.grid
        self.transport = Transport(studio)
        self._stack = QStackedWidget()
        self._stack.addWidget(self.listen_place)
        self._stack.addWidget(self.place_place)
        self._actions: dict[str, QAction] = {}
        self._build_menus()
        self._build()
        self._clock = QTimer(self)
        self._clock.timeout.connect(self._tick)
        self._was_playing = False
        self._wire()
        self._guard = guard_fields(self)
        self.go("listen")
        self._show_title()
        if studio.startup_trouble:
            self.say(studio.startup_trouble, True)

    # -- building -----------------------------------------------------------------------------------------------

    def _build_menus(self) -> None:
        for name in MENUS:
            menu = self.menuBar().addMenu(name)
            for command in COMMANDS.values():
                if command.menu == name:
                    menu.addAction(self._action(command))
            if name == "File":
                self._recent = menu.addMenu("Recent")
                self._recent.aboutToShow.connect(self._fill_recent)
                demo = menu.addMenu("Demo recordings")
                self._fill_demo(demo)

    def _action(self, command: Command) -> QAction:
        action = QAction(command.text, self)
        action.setShortcuts([QKeySequence(k) for k in command.keys])
        action.triggered.connect(lambda _=False, c=command: self.run(c.name))
        self.addAction(action)
        self._actions[command.name] = action
        return action

    def _build(self) -> None:
        top = QHBoxLayout()
        top.setContentsMargins(6, 0, 14, 0)
        top.setSpacing(0)
        self._place_buttons: dict[str, QPushButton] = {}
        for name, text in PLACES:
            button = QPushButton(text)
            button.setObjectName("place")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setToolTip(f"{text} ({COMMANDS['view.' + name].keys[0]})")
            button.clicked.connect(lambda _=False, n=name: self.go(n))
            top.addWidget(button)
            self._place_buttons[name] = button
        top.addStretch(1)
        self._title = label("", "title")
        top.addWidget(self._title)
        head = QWidget()
        head.setLayout(top)
        self._busy = BusyBar(self.studio.cancel)
        self._banner = RecoveryBanner()
        self._message = MessageLine()
        self._say_bar = SayBar(self.place_place.do, self.grid.setFocus)
        layout = QVBoxLayout()
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        for widget in (head, self._banner, self._busy):
            layout.addWidget(widget)
        layout.addWidget(self._stack, 1)
        layout.addWidget(self._say_bar)
        layout.addWidget(self._message)
        layout.addWidget(self.transport)
        body = QWidget()
        body.setLayout(layout)
        self.setCentralWidget(body)

    def _wire(self) -> None:
        studio = self.studio
        studio.said.connect(self.say)
        studio.busy_changed.connect(self._busy.show_busy)
        studio.file_changed.connect(self._show_title)
        studio.playing_changed.connect(self._playing_changed)
        studio.heard.connect(lambda: self.go("listen"))
        self.listen_place.take_to_grid.connect(lambda: self.go("place"))
        self.listen_place.file_wanted.connect(self.ask_open)
        self.listen_place.demo_wanted.connect(self.open_demo)
        self.listen_place.command_wanted.connect(self.run)
        self.place_place.command_wanted.connect(self.run)
        self.listen_place.taps_wanted.connect(self.tap)
        studio.passage_wanted.connect(lambda *_: self.go("listen"))

    # -- showing ------------------------------------------------------------------------------------------------

    def run(self, name: str) -> None:
        """Run a command of the table; trouble is said in the window."""
        command = COMMANDS[name]
        if command.place and command.place != self.place:
            return
        try:
            if command.run is not None:
                command.run(self)
            else:
                self.place_place.perform(command.phrase)
        except InputError as error:
            self.say(str(error), True)

    def ask_phrase(self, start: str = "") -> None:
        """Open the line in which commands are typed."""
        self._say_bar.ask(start)

    @property
    def place(self) -> str:
        return PLACES[self._stack.currentIndex()][0]

    def go(self, place: str) -> None:
        """Show a place; keys that mean something only elsewhere are free there."""
        names = [name for name, _ in PLACES]
        self._stack.setCurrentIndex(names.index(place))
        for name, button in self._place_buttons.items():
            button.setChecked(name == place)
        for command in COMMANDS.values():
            self._actions[command.name].setEnabled(command.place in ("", place))
        self._say_bar.hide()
        (self.grid if place == "place" else self.listen_place.view).setFocus()

    def say(self, words: str, trouble: bool = False) -> None:
        """Show a line; trouble stays until the next line, other words fade."""
        self._message.say(words, trouble)

    @property
    def message(self) -> str:
        return self._message.text()

    def _show_title(self) -> None:
        document, star = self.studio.document, " (not saved)" if self.studio.history.unsaved else ""
        name = self.studio.path.name if self.studio.path else document.name
        self._title.setText(f"{name}{star}")
        self.setWindowTitle(f"{name}{star} - Ghost Step")
        for which, words in (("undo", self.studio.history.undo_words), ("redo", self.studio.history.redo_words)):
            action = self._actions[f"edit.{which}"]
            action.setText(f"{which.capitalize()}: {words}" if words else which.capitalize())

    def _playing_changed(self) -> None:
        if self.studio.player.playing:
            self._clock.start(_FRAME_MS)
        self._tick()

    def _tick(self) -> None:
        """Move the playheads; notice when a pass without loop has ended."""
        playing = self.studio.player.playing
        ticks = self.studio.player.position_ticks()
        heard = self.studio.document.listening
        self.grid.set_playhead(ticks)
        seconds = None
        if ticks is not None and heard is not None:
            seconds = heard.explained.start_s + float(self.studio.groove.tempo.seconds(ticks))
        self.listen_place.view.set_playhead(seconds)
        self.transport.show_position(ticks)
        if not playing:
            self._clock.stop()
            if self._was_playing:
                self.studio.player.stop()
                self.transport.show_playing()
        self._was_playing = playing

    def zoom(self, factor: float) -> None:
        if self.place == "place":
            self.grid.zoom(factor)
        else:
            self.listen_place.view.zoom(factor)

    def next_source(self) -> None:
        """From one way of hearing to the next."""
        order = list(Source)
        at = order.index(self.studio.wish.source)
        self.studio.set_wish(source=order[(at + 1) % len(order)])

    def tap(self) -> None:
        """Tap a groove on the keyboard."""
        if self.may_leave():
            self.go("listen")
            self.listen_place.show_taps()

    def switch_theme(self) -> None:
        theme = DAY if Look.theme is NIGHT else NIGHT
        self._settings.setValue("theme", theme.name)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        use(app, theme)
        self.grid.refresh()
        self.listen_place.view.refresh()

    def show_keys(self) -> None:
        ShortcutSheet(self.place, self).exec()

    def show_log_place(self) -> None:
        self.say(f"The log is {state_folder() / 'ghost-step.log'}", False)

    def show_about(self) -> None:
        words = f"Ghost Step {__version__}\n\nDrum grooves heard, written as a grid, and played with a drummer's touch."
        QMessageBox.about(self, "About Ghost Step", words)

    # -- files --------------------------------------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Open a file, after asking about work that is not saved."""
        if self.may_leave():
            self.studio.open(path)
            self.go("listen" if path.suffix.lower() not in (PROJECT_SUFFIX, ".txt") else self.place)

    def open_demo(self) -> None:
        from ghoststep.files.demo import demo_recordings

        self.open(demo_recordings()[0])

    def _fill_demo(self, menu: QMenu) -> None:
        from ghoststep.files.demo import demo_recordings

        for file in demo_recordings():
            action = menu.addAction(file.stem.replace("-", " ").capitalize())
            action.triggered.connect(lambda _=False, f=file: self.open(f))
        menu.addAction("Driver at dusk (mouth drumming)").triggered.connect(self.open_demo_mouth)

    def open_demo_mouth(self) -> None:
        from ghoststep.files.demo import demo_mouth

        if self.may_leave():
            self.studio.listen_to_mouth(demo_mouth(), ())

    def _fill_recent(self) -> None:
        self._recent.clear()
        files = memory.recent_files()
        for file in files:
            action = self._recent.addAction(file.name)
            action.setToolTip(str(file))
            action.triggered.connect(lambda _=False, f=file: self.open(f))
        if not files:
            self._recent.addAction("No files yet").setEnabled(False)

    def ask_open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open or listen to", "", OPEN_FILTER)
        if name:
            self.open(Path(name))

    def save(self) -> bool:
        return self.studio.save(self.studio.path) if self.studio.path else self.save_as()

    def save_as(self) -> bool:
        start = f"{self.studio.document.name}{PROJECT_SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the project", start, f"Ghost Step projects (*{PROJECT_SUFFIX})"
        )
        return bool(name) and self.studio.save(Path(name))

    def may_leave(self) -> bool:
        """Ask what to do with work that is not saved; True where we may go on."""
        if not self.studio.history.unsaved:
            return True
        buttons = QMessageBox.StandardButton
        words = f"{self.studio.document.name} has changes that are not saved."
        answer = QMessageBox.question(self, "Save first?", words, buttons.Save | buttons.Discard | buttons.Cancel)
        if answer == buttons.Save:
            return self.save()
        return bool(answer == buttons.Discard)

    def offer_recovery(self) -> None:
        """A banner for work that an earlier run could not save."""
        found = memory.leftovers()
        if not found:
            return
        newest = found[0]

        def recover() -> None:
            try:
                document: Document = memory.recovered(newest)
            except InputError as error:
                self.say(str(error), True)
                return
            self.studio.set_document(replace(document, name=f"{document.name} recovered"), None, saved=False)
            self.go("place")
            dismiss()

        def dismiss() -> None:
            memory.drop(newest)
            self._banner.hide()

        self._banner.offer(newest, recover=recover, dismiss=dismiss)

    # -- events -------------------------------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        files = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if files:
            event.acceptProposedAction()
            self.open(files[0])
            if len(files) > 1:
                self.say(f"Only one file opens at a time: {files[0].name}.", True)

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.may_leave():
            event.ignore()
            return
        self._settings.setValue("geometry", self.saveGeometry())
        self._clock.stop()
        self.studio.close()
        event.accept()


def window_icon() -> QIcon:
    """The icon that ships with the program."""
    from importlib import resources

    from PySide6.QtGui import QPixmap

    pixmap = QPixmap()
    pixmap.loadFromData((resources.files("ghoststep.desk") / "data" / "ghost-step.png").read_bytes())
    return QIcon(pixmap)
