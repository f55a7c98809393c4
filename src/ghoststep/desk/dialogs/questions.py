"""What the window asks before it does something: a spot, a meter, a file, one of several alternatives."""

import dataclasses
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog

from ghoststep.craft.balance import BALANCES, balanced
from ghoststep.craft.ghosts import proposals
from ghoststep.desk.dialogs.compare_dialog import BlindDialog, CompareDialog
from ghoststep.desk.dialogs.exports import EXPORTS
from ghoststep.desk.dialogs.proposal_dialog import ProposalDialog
from ghoststep.files.textgrid import grid_text, parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.meter import Meter
from ghoststep.music.spots import parse_spot
from ghoststep.session.edits import touch_edits as touch
from ghoststep.session.edits import version_edits as versions
from ghoststep.work import corrections as listening

if TYPE_CHECKING:
    from ghoststep.desk.app.window import Window

_KINDS = "*.ghoststep *.wav *.flac *.ogg *.mp3 *.aif *.aiff *.mid *.midi *.csv *.grid.txt"
OPEN_FILTER = f"Everything Ghost Step reads ({_KINDS});;All files (*)"


def go_to_spot(window: "Window") -> None:
    """Go to a spot by any of its names: 2a, the & of 3, 2.75, step 8, bar 3 step 11."""
    pattern = window.studio.groove.pattern
    bar = window.grid.cursor_ticks // pattern.meter.bar_ticks + 1
    text, given = QInputDialog.getText(window, "Go to a spot", "2a, the & of 3, 2.75, step 8, bar 3 step 11 ...")
    if given:
        spot = parse_spot(text, pattern.meter, pattern.grid, bar=bar)
        if spot.bar > pattern.bars:
            raise InputError(f"There is no bar {spot.bar}: this groove has {pattern.bars}.")
        window.grid.put_cursor(spot.position_ticks(pattern.meter), window.grid.cursor_row)


def listen_to_mouth(window: "Window") -> None:
    """Listen to mouth drumming; the recording may begin with a lesson."""
    name, _ = QFileDialog.getOpenFileName(window, "Listen to mouth drumming", "", OPEN_FILTER)
    if not name or not window.may_leave():
        return
    words = "If it begins with one of each sound as a lesson, name them: kick, snare, hat_closed. Else leave it."
    text, given = QInputDialog.getText(window, "Mouth drumming", words)
    if given:
        window.studio.listen_to_mouth(Path(name), tuple(w.strip() for w in text.split(",") if w.strip()))


def propose_ghosts(window: "Window") -> None:
    """Ghost strokes from few to many, each heard before it is taken."""
    groove = window.studio.groove
    found = proposals(groove)
    if not found:
        raise InputError("No hand has the time for a ghost anywhere in this groove.")
    tried = [groove.changed(hits=(*groove.pattern.hits, *p.hits)) for p in found]
    names = [f"{p.name}: {len(p.hits)} ghost{'s' * (len(p.hits) != 1)}" for p in found]
    dialog = ProposalDialog("Ghosts for this groove", names, lambda i: window.studio.try_out(tried[i]), window)
    taken = dialog.exec() == ProposalDialog.DialogCode.Accepted and dialog.chosen >= 0
    window.studio.try_out(None)
    if taken:
        hits, name = found[dialog.chosen].hits, names[dialog.chosen]
        window.studio.edit(lambda d: touch.add_hits(d, hits, f"Ghosts added ({name.lower()})"))


def balances(window: "Window") -> None:
    """Which drum leads, each way heard before it is taken."""
    groove = window.studio.groove
    names = list(BALANCES)
    ways = [groove.changed(feel=dataclasses.replace(groove.feel, balance_db=balanced(groove, name))) for name in names]
    title = "Which drum leads"
    dialog = ProposalDialog(title, [n.capitalize() for n in names], lambda i: window.studio.try_out(ways[i]), window)
    taken = dialog.exec() == ProposalDialog.DialogCode.Accepted and dialog.chosen >= 0
    window.studio.try_out(None)
    if taken:
        window.place_place.perform(f"balance {names[dialog.chosen]}")


def keep_version(window: "Window") -> None:
    """Keep the groove as it is under a name."""
    taken = len(window.studio.document.snapshots) + 1
    text, given = QInputDialog.getText(window, "Keep this version", "Its name", text=f"version {taken}")
    if given:
        window.place_place.perform(f"keep {text}")


def _versions(window: "Window") -> list[tuple[str, Groove]]:
    """What can be compared: now, what was kept, what was heard."""
    document = window.studio.document
    out = [("now", document.groove), *((s.name, s.groove) for s in document.snapshots)]
    if document.listening is not None:
        out.append(("as heard", document.listening.explained.groove))
    return out


def compare(window: "Window") -> None:
    """Two versions side by side."""
    found = _versions(window)
    if len(found) < 2:
        raise InputError("There is nothing to compare with: keep a version first (Ctrl+Shift+K).")
    CompareDialog(found, window.studio.try_out, window).exec()
    window.studio.try_out(None)


def compare_blind(window: "Window") -> None:
    """Hear versions without their names, choose one, and be told which it was."""
    found = _versions(window)
    if len(found) < 2:
        raise InputError("There is nothing to compare with: keep a version first (Ctrl+Shift+K).")
    dialog = BlindDialog(found, window.studio.try_out, window)
    dialog.exec()
    window.studio.try_out(None)
    if dialog.verdict is not None:
        chosen, among = dialog.verdict
        window.studio.edit(lambda d: versions.judged(d, chosen, among))


def tell_meter(window: "Window") -> None:
    """The meter of what was heard, typed: 7/8 2+2+3, 11/4 4+4+3 ..."""
    heard = window.studio.document.listening
    now = heard.explained.groove.pattern.meter.full_name if heard else "4/4"
    text, given = QInputDialog.getText(window, "It is in", "7/4, 7/8 2+2+3, 11/4 4+4+3 ...", text=now)
    if given:
        meter = Meter.parse(text)
        window.studio.correct(lambda d: listening.in_meter(d, meter))


def copy_grid(window: "Window") -> None:
    QApplication.clipboard().setText(grid_text(window.studio.groove))
    window.say("The groove is on the clipboard as a text grid.")


def paste_grid(window: "Window") -> None:
    """The text grid on the clipboard takes the place of the pattern and its tempo, as one step."""
    pasted = parse_grid(QApplication.clipboard().text(), "the clipboard")
    window.studio.edit(lambda d: ("Text grid pasted", d.with_groove(pattern=pasted.pattern, tempo=pasted.tempo)))
    window.go("place")
    window.grid.put_cursor(0, 0)


def export(window: "Window", kind: str) -> None:
    endings = {"midi": ("mid", "MIDI files"), "sound": ("wav", "Sound files"), "grid": ("grid.txt", "Text grids")}
    ending, words = endings[kind]
    also = " *.flac" if kind == "sound" else ""
    start = f"{window.studio.document.name}.{ending}"
    name, _ = QFileDialog.getSaveFileName(window, f"Export {kind}", start, f"{words} (*.{ending}{also})")
    if name:
        EXPORTS[kind](window.studio, Path(name))
