"""The commands that are the same in every place; those of a place stand in its folder.

What changes a groove by a phrase stands in `model.phrase_commands`.
"""

from ghoststep.desk.dialogs import questions
from ghoststep.desk.dialogs.exports import make_key_map
from ghoststep.desk.model.command_table import command
from ghoststep.desk.model.places import Desk
from ghoststep.sound.program import Source

# -- File -------------------------------------------------------------------------------------------------------

command("file.new", "New …", "Ctrl+N", menu="File", group="open")(questions.new)
command("file.open", "Open or listen to …", "Ctrl+O", menu="File", group="open")(questions.open_file)
command("file.tap", "Tap a groove", "Ctrl+T", menu="File", group="listen")(questions.tap)
command("file.mouth", "Listen to mouth drumming …", "Ctrl+M", menu="File", group="listen")(questions.listen_to_mouth)
command("file.cancel", "Stop listening", "Esc", menu="File", group="listen")(lambda d: d.studio.cancel())
command("file.save", "Save", "Ctrl+S", menu="File", group="save")(questions.save)
command("file.save_as", "Save as …", "Ctrl+Shift+S", menu="File", group="save")(questions.save_as)
command("file.rename", "Rename …", "Ctrl+Shift+R", menu="File", group="save")(questions.rename)
command("file.midi", "Export MIDI …", "Ctrl+E", menu="File", group="export")(lambda d: questions.export(d, "midi"))
command("file.sound", "Export sound …", "Ctrl+Shift+E", menu="File", group="export")(
    lambda d: questions.export(d, "sound")
)
command("file.grid", "Export text grid …", menu="File", group="export")(lambda d: questions.export(d, "grid"))
command("file.keys", "Make a MIDI key map of my own", menu="File", group="keys")(lambda d: make_key_map(d.studio))
command("file.quit", "Quit", "Ctrl+Q", menu="File", group="quit")(lambda d: d.close())

# -- Edit -------------------------------------------------------------------------------------------------------

command("edit.undo", "Undo", "Ctrl+Z", menu="Edit", group="undo")(lambda d: d.studio.undo())
command("edit.redo", "Redo", "Ctrl+Shift+Z", "Ctrl+Y", menu="Edit", group="undo")(lambda d: d.studio.redo())
command("edit.copy_grid", "Copy as a text grid", "Ctrl+Alt+C", menu="Edit", group="grid")(questions.copy_grid)
command("edit.paste_grid", "Paste a text grid", "Ctrl+Alt+V", menu="Edit", group="grid")(questions.paste_grid)

# -- Play -------------------------------------------------------------------------------------------------------

command("play.toggle", "Play or stop", "Space", menu="Play")(lambda d: d.studio.toggle())
command("play.loop", "Loop", "L", menu="Play", group="how")(lambda d: d.studio.set_wish(loop=not d.studio.wish.loop))
command("play.click", "Click", "K", menu="Play", group="how")(
    lambda d: d.studio.set_wish(click=not d.studio.wish.click)
)


@command("play.next_source", "Recording, groove, in turn", "B", menu="Play", group="how")
def _next_source(desk: Desk) -> None:
    order = list(Source)
    desk.studio.set_wish(source=order[(order.index(desk.studio.wish.source) + 1) % len(order)])


command("play.range_all", "Range is everything", "\\", menu="Play", group="range")(
    lambda d: d.studio.choice.set_range(None)
)

# -- View -------------------------------------------------------------------------------------------------------

command("view.zoom_in", "Zoom in", "+", "=", menu="View", group="zoom")(lambda d: d.at(d.place).zoom(1.4))
command("view.zoom_out", "Zoom out", "-", menu="View", group="zoom")(lambda d: d.at(d.place).zoom(1 / 1.4))
command("view.fit", "Fit", "F", menu="View", group="zoom")(lambda d: d.at(d.place).zoom(0))
command("view.theme", "Night or day", "Ctrl+D", menu="View", group="look")(lambda d: d.switch_theme())

# -- Help -------------------------------------------------------------------------------------------------------

command("help.keys", "Shortcuts", "?", menu="Help")(lambda d: d.show_keys())
command("help.log", "Where the log is", menu="Help")(lambda d: d.show_log_place())
command("help.about", "About Ghost Step", menu="Help")(lambda d: d.show_about())
