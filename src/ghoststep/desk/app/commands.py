"""The commands that are the same in every place; those of a place stand in its folder.

The words, keys and phrases of all commands stand in `session.commands`.
"""

from ghoststep.desk.dialogs import questions
from ghoststep.desk.dialogs.exports import make_key_map
from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.desk import Desk
from ghoststep.sound.program import Source

DOES = Bound()
runs = DOES.runs

# -- File -------------------------------------------------------------------------------------------------------

runs("file.new")(questions.new)
runs("file.open")(questions.open_file)
runs("file.tap")(questions.tap)
runs("file.mouth")(questions.listen_to_mouth)
runs("file.cancel")(lambda d: d.studio.cancel())
runs("file.save")(questions.save)
runs("file.save_as")(questions.save_as)
runs("file.rename")(questions.rename)
runs("file.midi")(lambda d: questions.export(d, "midi"))
runs("file.sound")(lambda d: questions.export(d, "sound"))
runs("file.grid")(lambda d: questions.export(d, "grid"))
runs("file.keys")(lambda d: make_key_map(d.studio))
runs("file.quit")(lambda d: d.close())

# -- Edit -------------------------------------------------------------------------------------------------------

runs("edit.undo")(lambda d: d.studio.undo())
runs("edit.redo")(lambda d: d.studio.redo())
runs("edit.copy_grid")(questions.copy_grid)
runs("edit.paste_grid")(questions.paste_grid)

# -- Play -------------------------------------------------------------------------------------------------------

runs("play.toggle")(lambda d: d.studio.playback.toggle())
runs("play.loop")(lambda d: d.studio.playback.set_wish(loop=not d.studio.playback.wish.loop))
runs("play.click")(lambda d: d.studio.playback.set_wish(click=not d.studio.playback.wish.click))


@runs("play.next_source")
def _next_source(desk: Desk) -> None:
    order = list(Source)
    desk.studio.playback.set_wish(source=order[(order.index(desk.studio.playback.wish.source) + 1) % len(order)])


runs("play.range_all")(lambda d: d.studio.choice.set_range(None))

# -- View -------------------------------------------------------------------------------------------------------

runs("view.zoom_in")(lambda d: d.at(d.place).zoom(1.4))
runs("view.zoom_out")(lambda d: d.at(d.place).zoom(1 / 1.4))
runs("view.fit")(lambda d: d.at(d.place).zoom(0))
runs("view.theme")(lambda d: d.switch_theme())

# -- Help -------------------------------------------------------------------------------------------------------

runs("edit.say")(lambda d: d.ask_phrase())
runs("help.say")(lambda d: d.show_sayable())
runs("help.keys")(lambda d: d.show_keys())
runs("help.log")(lambda d: d.show_log_place())
runs("help.about")(lambda d: d.show_about())
