"""The commands of the window itself, by menu; what changes a groove stands in `session.commands`.

Those of the Listen place stand in `listen_commands`.
"""

from collections.abc import Callable
from typing import TYPE_CHECKING

from ghoststep.desk.dialogs import questions
from ghoststep.desk.dialogs.exports import make_key_map
from ghoststep.desk.grid.grid_view import MAGNIFICATIONS
from ghoststep.desk.model.command_table import command
from ghoststep.music.errors import InputError

if TYPE_CHECKING:
    from ghoststep.desk.app.window import Window

# -- File -------------------------------------------------------------------------------------------------------

command("file.open", "Open or listen to …", "Ctrl+O", menu="File")(lambda w: w.ask_open())
command("file.tap", "Tap a groove", "Ctrl+T", menu="File")(lambda w: w.tap())
command("file.mouth", "Listen to mouth drumming …", "Ctrl+M", menu="File")(questions.listen_to_mouth)
command("file.save", "Save", "Ctrl+S", menu="File")(lambda w: w.save())
command("file.save_as", "Save as …", "Ctrl+Shift+S", menu="File")(lambda w: w.save_as())
command("file.midi", "Export MIDI …", "Ctrl+E", menu="File")(lambda w: questions.export(w, "midi"))
command("file.sound", "Export sound …", "Ctrl+Shift+E", menu="File")(lambda w: questions.export(w, "sound"))
command("file.grid", "Export text grid …", menu="File")(lambda w: questions.export(w, "grid"))
command("file.keys", "Make a MIDI key map of my own", menu="File")(lambda w: make_key_map(w.studio))
command("file.cancel", "Stop listening", "Esc", menu="File")(lambda w: w.studio.cancel())
command("file.quit", "Quit", "Ctrl+Q", menu="File")(lambda w: w.close())

# -- Edit -------------------------------------------------------------------------------------------------------

command("edit.undo", "Undo", "Ctrl+Z", menu="Edit")(lambda w: w.studio.undo())
command("edit.redo", "Redo", "Ctrl+Shift+Z", "Ctrl+Y", menu="Edit")(lambda w: w.studio.redo())
command("edit.say", "Say what to do …", "Ctrl+K", menu="Edit", place="place")(lambda w: w.ask_phrase())
command("edit.find", "Find and replace …", "Ctrl+H", menu="Edit", place="place")(lambda w: w.ask_phrase("replace "))
command("edit.copy_grid", "Copy as a text grid", "Ctrl+Alt+C", menu="Edit")(questions.copy_grid)
command("edit.paste_grid", "Paste a text grid", "Ctrl+Alt+V", menu="Edit")(questions.paste_grid)

# -- Hit, Touch -------------------------------------------------------------------------------------------------


@command("hit.hear", "Hear its moment in the recording", "H", menu="Hit", place="place")
def _hear(w: "Window") -> None:
    chosen = w.grid.chosen_hits()
    origin = chosen[0].origin if chosen else None
    if origin is None:
        w.studio.said.emit("The chosen hit does not come from a recording.", True)
    else:
        w.studio.hear_moment(origin.time_s)


command("groove.ghosts", "Propose ghosts …", "P", menu="Touch", place="place")(questions.propose_ghosts)
command("touch.balances", "Hear the balances in turn …", "Shift+Y", menu="Touch", place="place")(questions.balances)

# -- Versions ---------------------------------------------------------------------------------------------------

command("versions.keep", "Keep this version …", "Ctrl+Shift+K", menu="Versions", place="place")(questions.keep_version)
command("versions.compare", "Compare with a version …", "Ctrl+Shift+C", menu="Versions", place="place")(
    questions.compare
)
command("versions.blind", "Compare blind …", "Ctrl+Shift+H", menu="Versions", place="place")(questions.compare_blind)

# -- Play -------------------------------------------------------------------------------------------------------

command("play.toggle", "Play or stop", "Space", menu="Play")(lambda w: w.transport.toggle())
command("play.here", "Play from the cursor", "Shift+Space", menu="Play", place="place")(
    lambda w: w.studio.play(float(w.grid.cursor_ticks))
)
command("play.loop", "Loop", "L", menu="Play")(lambda w: w.studio.set_wish(loop=not w.studio.wish.loop))
command("play.click", "Click", "K", menu="Play")(lambda w: w.studio.set_wish(click=not w.studio.wish.click))
command("play.next_source", "Recording, groove, in turn", "B", menu="Play")(lambda w: w.next_source())


def _range_edge(start: bool) -> Callable[["Window"], None]:
    def run(w: "Window") -> None:
        pattern = w.studio.groove.pattern
        a, b = w.studio.wish.region_ticks or (0, pattern.length_ticks)
        unit = pattern.meter.unit_ticks
        beat = w.grid.cursor_ticks // unit * unit
        a, b = (beat, b) if start else (a, beat + unit)
        if a >= b:
            raise InputError("The range would end before it begins.")
        w.studio.set_wish(region_ticks=(a, b))

    return run


command("play.range_start", "Range starts at the cursor", "[", menu="Play", place="place")(_range_edge(True))
command("play.range_end", "Range ends at the cursor", "]", menu="Play", place="place")(_range_edge(False))
command("play.range_all", "Range is everything", "\\", menu="Play")(lambda w: w.studio.set_wish(region_ticks=None))


@command("play.range_bar", "Range is the cursor's bar", "R", menu="Play", place="place")
def _range_bar(w: "Window") -> None:
    bar = w.studio.groove.pattern.meter.bar_ticks
    start = w.grid.cursor_ticks // bar * bar
    w.studio.set_wish(region_ticks=(start, start + bar))


# -- View -------------------------------------------------------------------------------------------------------

command("view.listen", "Listen", "F1", menu="View")(lambda w: w.go("listen"))
command("view.place", "Place", "F2", menu="View")(lambda w: w.go("place"))
command("view.next_page", "Next page of the panel", "Ctrl+Tab", menu="View", place="place")(
    lambda w: w.place_place.next_page()
)
command("view.zoom_in", "Zoom in", "+", "=", menu="View")(lambda w: w.zoom(1.4))
command("view.zoom_out", "Zoom out", "-", menu="View")(lambda w: w.zoom(1 / 1.4))
command("view.fit", "Fit", "F", menu="View")(lambda w: w.zoom(0))
command("view.fit_all", "Fit all bars (up to 16)", "Shift+F", menu="View", place="place")(lambda w: w.grid.fit_all())
command("view.theme", "Night or day", "Ctrl+D", menu="View")(lambda w: w.switch_theme())


@command("view.magnify", "Show deviations larger", "M", menu="View", place="place")
def _magnify(w: "Window") -> None:
    at = MAGNIFICATIONS.index(w.grid.magnify)
    w.grid.set_magnify(MAGNIFICATIONS[(at + 1) % len(MAGNIFICATIONS)])


command("view.left", "Cursor left", "Left", menu="View", place="place")(lambda w: w.grid.move_cursor(-1, 0))
command("view.right", "Cursor right", "Right", menu="View", place="place")(lambda w: w.grid.move_cursor(1, 0))
command("view.up", "Cursor up", "Up", menu="View", place="place")(lambda w: w.grid.move_cursor(0, -1))
command("view.down", "Cursor down", "Down", menu="View", place="place")(lambda w: w.grid.move_cursor(0, 1))
command("view.fine_left", "Cursor a 64th left", "Alt+Shift+Left", menu="View", place="place")(
    lambda w: w.grid.move_fine(-1)
)
command("view.fine_right", "Cursor a 64th right", "Alt+Shift+Right", menu="View", place="place")(
    lambda w: w.grid.move_fine(1)
)
command("view.bar_back", "A bar back", "PgUp", menu="View", place="place")(lambda w: w.grid.move_bars(-1))
command("view.bar_on", "A bar on", "PgDown", menu="View", place="place")(lambda w: w.grid.move_bars(1))
command("view.spot", "Go to a spot …", "Ctrl+J", menu="View", place="place")(questions.go_to_spot)
command("view.next_hit", "Next hit of the lane", ".", menu="View", place="place")(lambda w: w.grid.next_hit(1))
command("view.previous_hit", "Previous hit of the lane", ",", menu="View", place="place")(lambda w: w.grid.next_hit(-1))

# -- Help -------------------------------------------------------------------------------------------------------

command("help.keys", "Shortcuts", "?", menu="Help")(lambda w: w.show_keys())
command("help.log", "Where the log is", menu="Help")(lambda w: w.show_log_place())
command("help.about", "About Ghost Step", menu="Help")(lambda w: w.show_about())
