"""What is asked before something is done: a file, a name, a meter, what a new groove is to be like."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox

from ghoststep.desk.dialogs import exports
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.parts.widgets import asked
from ghoststep.files.places import PROJECT_SUFFIX
from ghoststep.files.safe import shown
from ghoststep.work.formats import BY_NAME, FORMATS

_KINDS = " ".join(f"*{ending}" for row in FORMATS if row.read_as_groove or row.listened_to for ending in row.endings)
_PLAIN = Qt.TextFormat.PlainText
OPEN_FILTER = f"Everything Ghost Step reads ({_KINDS});;All files (*)"


def file_to_write(desk: Desk, title: str, name: str, kinds: str, endings: tuple[str, ...]) -> Path | None:
    """A file to write to, with its ending; asked again before another file is written over.

    The ending is added before the question, so that what is asked about is what would be written.
    """
    parent = desk.at(desk.place).window()
    options = QFileDialog.Option.DontConfirmOverwrite
    text, _ = QFileDialog.getSaveFileName(parent, title, name, kinds, options=options)
    if not text:
        return None
    path = Path(text)
    if not path.name.lower().endswith(endings):
        path = path.with_name(path.name + endings[0])
    if path.exists() and path != desk.studio.file.path and not _may_replace(desk, path):
        return None
    return path


def _question(desk: Desk, title: str, words: str) -> QMessageBox:
    """A question in plain text; names in it may come from anywhere."""
    box = QMessageBox(desk.at(desk.place).window())
    box.setIcon(QMessageBox.Icon.Question)
    box.setWindowTitle(title)
    box.setTextFormat(_PLAIN)
    box.setText(words)
    return box


def _may_replace(desk: Desk, path: Path) -> bool:
    buttons = QMessageBox.StandardButton
    box = _question(desk, "Write over it?", f"{shown(path)} is there already. Write over it?")
    box.setStandardButtons(buttons.Save | buttons.Cancel)
    box.setDefaultButton(buttons.Cancel)
    return asked(box) == buttons.Save


def ask_open(desk: Desk, title: str = "Open or listen to") -> Path | None:
    name, _ = QFileDialog.getOpenFileName(desk.at(desk.place).window(), title, "", OPEN_FILTER)
    return Path(name) if name else None


def open_file(desk: Desk) -> None:
    path = ask_open(desk)
    if path is not None:
        desk.open(path)


def new(desk: Desk) -> None:
    """An empty groove, or one typed as a text grid."""
    from ghoststep.desk.dialogs.new_dialog import NewDialog

    dialog = NewDialog(desk.at(desk.place).window())
    made = dialog.document if asked(dialog) == NewDialog.DialogCode.Accepted else None
    if made is None:
        return

    def begin() -> None:
        desk.studio.set_document(made, None)
        desk.go("place")
        desk.say(f"{made.name}: Enter places a hit, Ctrl+K says what to do in words.")

    desk.leave(begin)


def rename(desk: Desk) -> None:
    """Call the groove something else."""
    name = desk.ask("Rename", "What the groove is called", desk.studio.document.name)
    if name is not None:
        desk.studio.call("name", name=name)


def tap(desk: Desk) -> None:
    """Tap a groove on the keyboard."""

    def begin() -> None:
        desk.go("listen")
        desk.at("listen").show_taps()

    desk.leave(begin)


def listen_to_mouth(desk: Desk) -> None:
    """Listen to mouth drumming; the recording may begin with a lesson."""
    path = ask_open(desk, "Listen to mouth drumming")
    if path is not None:
        desk.leave(lambda: _mouth_with_lesson(desk, path))


def _mouth_with_lesson(desk: Desk, path: Path) -> None:
    words = "If it begins with one of each sound as a lesson, name them: kick, snare, hat_closed. Else leave it."
    text = desk.ask("Mouth drumming", words)
    if text is not None:
        desk.studio.listener.listen_to_mouth(path, tuple(w.strip() for w in text.split(",") if w.strip()))


def save(desk: Desk, then: Callable[[bool], None] = lambda _saved: None) -> None:
    """Save to the project's file; one that was changed by somebody else meanwhile is asked about.

    then: is told whether it was saved, once that is known.
    """
    file = desk.studio.file
    if file.path is None or (file.changed_outside and not _may_replace_changed(desk, file.path)):
        save_as(desk, then)
    else:
        file.save(file.path, then)


def _may_replace_changed(desk: Desk, path: Path) -> bool:
    words = f"{shown(path)} was changed by something else since it was opened. Write over it, or save beside it?"
    box = _question(desk, "Changed outside", words)
    over = box.addButton("Write over it", QMessageBox.ButtonRole.DestructiveRole)
    box.addButton("Save as …", QMessageBox.ButtonRole.AcceptRole)
    asked(box)
    return box.clickedButton() is over


def save_as(desk: Desk, then: Callable[[bool], None] = lambda _saved: None) -> None:
    """Save to a file that is asked for; then: is told whether it was saved."""
    start = f"{desk.studio.document.name[:80]}{PROJECT_SUFFIX}"
    kinds = f"Ghost Step projects (*{PROJECT_SUFFIX})"
    path = file_to_write(desk, "Save the project", start, kinds, (PROJECT_SUFFIX,))
    if path is None:
        then(False)
    else:
        desk.studio.file.save(path, then)


def copy_grid(desk: Desk) -> None:
    from ghoststep.files.textgrid_out import grid_text

    QApplication.clipboard().setText(grid_text(desk.studio.groove))
    desk.say("The groove is on the clipboard as a text grid.")


def paste_grid(desk: Desk) -> None:
    """The text grid on the clipboard takes the place of the groove, as one step."""
    from ghoststep.files.textgrid import parse_grid

    pasted = parse_grid(QApplication.clipboard().text(), "the clipboard")
    name = pasted.name or desk.studio.groove.name
    desk.studio.edit(lambda d: ("Text grid pasted", d.with_groove(
        pattern=pasted.pattern, tempo=pasted.tempo, feel=pasted.feel, name=name)))  # fmt: skip
    desk.go("place")
    desk.studio.choice.put(keys=(), cursor_ticks=0)


def export(desk: Desk, name: str) -> None:
    """Write what is open as a format of the table, to a file that is asked for."""
    row = BY_NAME[name]
    start = f"{desk.studio.document.name[:80]}{row.written[0]}"
    title = f"Export {row.words.removeprefix('a ')}"
    path = file_to_write(desk, title, start, row.filter, row.written)
    if path is not None:
        exports.export(desk.studio, path, name)
