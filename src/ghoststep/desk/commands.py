"""The commands of the window, by menu; those of the Listen place stand in `listen_commands`."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from ghoststep.desk import questions
from ghoststep.desk.command_table import command
from ghoststep.desk.exports import make_key_map
from ghoststep.desk.grid_view import MAGNIFICATIONS
from ghoststep.music.errors import InputError
from ghoststep.music.time import step_ticks
from ghoststep.music.touch import Role
from ghoststep.session import edits, touch

if TYPE_CHECKING:
    from ghoststep.desk.window import Window

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


command("edit.copy_grid", "Copy as a text grid", "Ctrl+C", menu="Edit")(questions.copy_grid)
command("edit.paste_grid", "Paste a text grid", "Ctrl+V", menu="Edit")(questions.paste_grid)


@command("edit.select_all", "Select every hit", "Ctrl+A", menu="Edit", place="place")
def _select_all(w: "Window") -> None:
    w.grid.choose(set(range(len(w.studio.groove.pattern.hits))))


@command("edit.select_lane", "Select every hit of the lane", "Ctrl+L", menu="Edit", place="place")
def _select_lane(w: "Window") -> None:
    g = w.grid.geometry_now()
    w.grid.choose({i for i, h in enumerate(g.groove.pattern.hits) if g.row_of(h.voice) == w.grid.cursor_row})


@command("edit.select_ghosts", "Select every ghost", "Ctrl+G", menu="Edit", place="place")
def _select_ghosts(w: "Window") -> None:
    w.grid.choose({i for i, h in enumerate(w.studio.groove.pattern.hits) if h.role is Role.GHOST})


# -- Hit --------------------------------------------------------------------------------------------------------


@command("hit.toggle", "Place or remove a hit", "Return", "Enter", menu="Hit", place="place")
def _toggle(w: "Window") -> None:
    chosen = w.grid.chosen_hits()
    if chosen:
        w.studio.edit(lambda d: edits.remove_hits(d, chosen))
    else:
        ticks, voice = w.grid.cursor_ticks, w.grid.cursor_voice
        w.studio.edit(lambda d: edits.place_hit(d, ticks, voice))
        w.grid.put_cursor(ticks, w.grid.cursor_row)


@command("hit.remove", "Remove", "Delete", "Backspace", menu="Hit", place="place")
def _remove(w: "Window") -> None:
    chosen = w.grid.chosen_hits()
    w.studio.edit(lambda d: edits.remove_hits(d, chosen))


def _change(name: str, text: str, *keys: str, change: Callable[..., edits.Edit]) -> None:
    """A command that changes the chosen hits."""

    def run(w: "Window") -> None:
        chosen = w.grid.chosen_hits()
        w.studio.edit(lambda d: change(d, chosen))

    command(name, text, *keys, menu="Hit", place="place")(run)


def _role(role: Role) -> Callable[["Window"], None]:
    def run(w: "Window") -> None:
        chosen = w.grid.chosen_hits()
        if chosen:
            w.studio.edit(lambda d: edits.set_role(d, chosen, role))
        else:
            ticks, voice = w.grid.cursor_ticks, w.grid.cursor_voice
            w.studio.edit(lambda d: edits.place_hit(d, ticks, voice, role))
            w.grid.put_cursor(ticks, w.grid.cursor_row)

    return run


command("hit.ghost", "Ghost", "G", menu="Hit", place="place")(_role(Role.GHOST))
command("hit.normal", "Normal", "N", menu="Hit", place="place")(_role(Role.NORMAL))
command("hit.accent", "Accent", "A", menu="Hit", place="place")(_role(Role.ACCENT))
_change("hit.louder", "Louder", "Shift+Up", change=lambda d, h: edits.change_velocity(d, h, 4))
_change("hit.softer", "Softer", "Shift+Down", change=lambda d, h: edits.change_velocity(d, h, -4))
_change("hit.earlier", "1 ms earlier", "Alt+Left", change=lambda d, h: edits.nudge(d, h, -1.0))
_change("hit.later", "1 ms later", "Alt+Right", change=lambda d, h: edits.nudge(d, h, 1.0))
_change("hit.on_spot", "On its spot", "0", change=lambda d, h: edits.set_offset(d, h, 0.0))


_change("hit.all_louder", "Louder by a tenth, roles kept", "Ctrl+Up", change=lambda d, h: touch.scale(d, h, 110))
_change("hit.all_softer", "Softer by a tenth, roles kept", "Ctrl+Down", change=lambda d, h: touch.scale(d, h, 91))
_change("hit.even", "More even", "E", change=lambda d, h: touch.compress(d, h, 0.3))
_change("hit.uneven", "Less even", "Shift+E", change=lambda d, h: touch.compress(d, h, -0.4))
_change("hit.crescendo", "Crescendo over the chosen", "C", change=lambda d, h: touch.ramp(d, h, 75, 115))
_change("hit.diminuendo", "Diminuendo over the chosen", "Shift+C", change=lambda d, h: touch.ramp(d, h, 115, 75))
_change("hit.swap_hands", "Swap the hands", "S", change=touch.swap_hands)


def _moved(direction: int) -> Callable[["Window"], None]:
    def run(w: "Window") -> None:
        chosen = w.grid.chosen_hits()
        step = step_ticks(w.studio.groove.pattern.grid) * direction
        if chosen and w.studio.edit(lambda d: edits.move_hits(d, chosen, step)):
            w.grid.put_cursor(chosen[0].position_ticks + step, w.grid.cursor_row)

    return run


command("hit.step_back", "A step earlier", "Shift+Left", menu="Hit", place="place")(_moved(-1))
command("hit.step_on", "A step later", "Shift+Right", menu="Hit", place="place")(_moved(1))


@command("hit.hear", "Hear its moment in the recording", "H", menu="Hit", place="place")
def _hear(w: "Window") -> None:
    chosen = w.grid.chosen_hits()
    origin = chosen[0].origin if chosen else None
    if origin is None:
        w.studio.said.emit("The chosen hit does not come from a recording.", True)
    else:
        w.studio.hear_moment(origin.time_s)


# -- Groove -----------------------------------------------------------------------------------------------------


@command("groove.straighten", "Everything dead on the grid", menu="Groove")
def _straighten(w: "Window") -> None:
    w.studio.edit(edits.straighten)


@command("groove.as_heard", "Back to what was heard", menu="Groove")
def _as_heard(w: "Window") -> None:
    w.studio.edit(edits.as_heard)


@command("groove.new_take", "Another take of the looseness", "T", menu="Groove")
def _new_take(w: "Window") -> None:
    feel = w.studio.groove.feel
    w.studio.edit(lambda d: edits.set_looseness(d, feel.loose_ms, feel.take + 1))


def _bars(by: int) -> Callable[["Window"], None]:
    def run(w: "Window") -> None:
        bars = w.studio.groove.pattern.bars + by
        if bars < 1:
            w.studio.said.emit("A groove has at least one bar.", True)
        else:
            w.studio.edit(lambda d: edits.set_bars(d, bars))

    return run


def _rotated(steps: int) -> Callable[["Window"], None]:
    def run(w: "Window") -> None:
        lane = w.grid.geometry_now().lanes[w.grid.cursor_row]
        w.studio.edit(lambda d: touch.rotate_lane(d, lane, steps))

    return run


command("groove.ghosts", "Propose ghosts …", "P", menu="Groove", place="place")(questions.propose_ghosts)
command("groove.rotate_on", "Rotate the lane a step later", "Ctrl+Right", menu="Groove", place="place")(_rotated(1))
command("groove.rotate_back", "Rotate the lane a step earlier", "Ctrl+Left", menu="Groove", place="place")(_rotated(-1))


def _bar_edit(change: Callable[..., edits.Edit]) -> Callable[["Window"], None]:
    """A change of the bar the cursor is in."""

    def run(w: "Window") -> None:
        bar = w.grid.cursor_ticks // w.studio.groove.pattern.meter.bar_ticks + 1
        w.studio.edit(lambda d: change(d, bar))

    return run


command("groove.double_bar", "Double the cursor's bar", "D", menu="Groove", place="place")(
    _bar_edit(touch.duplicate_bar)
)
command("groove.delete_bar", "Take the cursor's bar out", "Shift+Delete", menu="Groove", place="place")(
    _bar_edit(touch.delete_bar)
)
command("groove.bar_more", "Add an empty bar", "Ctrl++", menu="Groove", place="place")(_bars(1))
command("groove.bar_less", "Drop the last bar", "Ctrl+-", menu="Groove", place="place")(_bars(-1))

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
command("view.zoom_in", "Zoom in", "+", "=", menu="View")(lambda w: w.zoom(1.4))
command("view.zoom_out", "Zoom out", "-", menu="View")(lambda w: w.zoom(1 / 1.4))
command("view.fit", "Fit", "F", menu="View")(lambda w: w.zoom(0))
command("view.theme", "Night or day", "Ctrl+D", menu="View")(lambda w: w.switch_theme())


@command("view.magnify", "Show deviations larger", "M", menu="View", place="place")
def _magnify(w: "Window") -> None:
    at = MAGNIFICATIONS.index(w.grid.magnify)
    w.grid.set_magnify(MAGNIFICATIONS[(at + 1) % len(MAGNIFICATIONS)])


command("view.left", "Cursor left", "Left", menu="View", place="place")(lambda w: w.grid.move_cursor(-1, 0))
command("view.right", "Cursor right", "Right", menu="View", place="place")(lambda w: w.grid.move_cursor(1, 0))
command("view.up", "Cursor up", "Up", menu="View", place="place")(lambda w: w.grid.move_cursor(0, -1))
command("view.down", "Cursor down", "Down", menu="View", place="place")(lambda w: w.grid.move_cursor(0, 1))
command("view.spot", "Go to a spot …", "Ctrl+J", menu="View", place="place")(questions.go_to_spot)
command("view.next_hit", "Next hit of the lane", ".", menu="View", place="place")(lambda w: w.grid.next_hit(1))
command("view.previous_hit", "Previous hit of the lane", ",", menu="View", place="place")(lambda w: w.grid.next_hit(-1))

# -- Help -------------------------------------------------------------------------------------------------------

command("help.keys", "Shortcuts", "?", menu="Help")(lambda w: w.show_keys())
command("help.log", "Where the log is", menu="Help")(lambda w: w.show_log_place())
command("help.about", "About Ghost Step", menu="Help")(lambda w: w.show_about())
