"""The commands of the Place that are more than a phrase."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from ghoststep.desk.dialogs import compare
from ghoststep.desk.grid.grid_view import MAGNIFICATIONS
from ghoststep.desk.model.command_table import command
from ghoststep.desk.model.places import Desk
from ghoststep.desk.place import making, proposals
from ghoststep.music.errors import InputError

if TYPE_CHECKING:
    from ghoststep.desk.grid.grid_view import GridView
    from ghoststep.desk.place.grid_place import GridPlace

HERE = "place"


def _place(desk: Desk) -> "GridPlace":
    found: GridPlace = desk.at(HERE)
    return found


def _grid(desk: Desk) -> "GridView":
    return _place(desk).grid


# -- Edit, Hit, Touch -------------------------------------------------------------------------------------------

command("edit.say", "Say what to do …", "Ctrl+K", menu="Edit", place=HERE, group="say")(lambda d: d.ask_phrase())
command("edit.find", "Find and replace …", "Ctrl+H", menu="Edit", place=HERE, group="say")(
    lambda d: d.ask_phrase("replace ")
)


@command("hit.hear", "Hear its moment in the recording", "H", menu="Hit", place=HERE, group="hear")
def _hear(desk: Desk) -> None:
    chosen = _grid(desk).chosen_hits()
    origin = chosen[0].origin if chosen else None
    if origin is None:
        desk.say("The chosen hit does not come from a recording.", True)
    else:
        desk.studio.hear_moment(origin.time_s)


command("groove.ghosts", "Propose ghosts", "P", menu="Touch", place=HERE, group="ghosts")(
    lambda d: proposals.ghosts(_place(d))
)
command("groove.voices", "The same rhythm on other voices", "Alt+O", menu="Groove", place=HERE, group="making")(
    lambda d: making.voices(_place(d))
)
command("groove.layers", "Layers and time lines", "Alt+L", menu="Groove", place=HERE, group="making")(
    lambda d: making.layers_under(_place(d))
)
command("hands.ways", "Hear the three best stickings", "Alt+S", menu="Hands", place=HERE, group="sticking")(
    lambda d: proposals.stickings(_place(d))
)
command("touch.balances", "Hear the balances in turn", "Shift+Y", menu="Touch", place=HERE, group="balance")(
    lambda d: proposals.balances(_place(d))
)

# -- Versions ---------------------------------------------------------------------------------------------------


@command("versions.keep", "Keep this version …", "Ctrl+Shift+K", menu="Versions", place=HERE)
def _keep(desk: Desk) -> None:
    taken = len(desk.studio.document.snapshots) + 1
    name = desk.ask("Keep this version", "Its name", f"version {taken}")
    if name is not None:
        desk.studio.call("keep", name=name)


command(
    "versions.compare", "Compare, and take changes over …", "Ctrl+Shift+C", menu="Versions", place=HERE, group="compare"
)(compare.compare)
command("versions.file", "Compare with a file …", "Ctrl+Shift+F", menu="Versions", place=HERE, group="compare")(
    compare.compare_with_file
)
command("versions.blind", "Compare blind …", "Ctrl+Shift+H", menu="Versions", place=HERE, group="compare")(
    compare.compare_blind
)

# -- Play -------------------------------------------------------------------------------------------------------

command("play.here", "Play from the cursor", "Shift+Space", menu="Play", place=HERE)(
    lambda d: d.studio.play(float(_grid(d).cursor_ticks))
)


def _range_edge(*, start: bool) -> Callable[[Desk], object]:
    def run(desk: Desk) -> None:
        pattern, choice = desk.studio.groove.pattern, desk.studio.choice
        a, b = choice.range_ticks or (0, pattern.length_ticks)
        beat = pattern.frame.beat_start_at(_grid(desk).cursor_ticks)
        a, b = (beat, b) if start else (a, beat + pattern.frame.meter_at(beat).unit_ticks)
        if a >= b:
            raise InputError("The range would end before it begins.")
        choice.set_range((a, b))

    return run


command("play.range_start", "Range starts at the cursor", "[", menu="Play", place=HERE, group="range")(
    _range_edge(start=True)
)
command("play.range_end", "Range ends at the cursor", "]", menu="Play", place=HERE, group="range")(
    _range_edge(start=False)
)


@command("play.range_bar", "Range is the cursor's bar", "R", menu="Play", place=HERE, group="range")
def _range_bar(desk: Desk) -> None:
    frame = desk.studio.groove.pattern.frame
    start = frame.bar_start_at(_grid(desk).cursor_ticks)
    desk.studio.choice.set_range((start, start + frame.meter_at(start).bar_ticks))


# -- View -------------------------------------------------------------------------------------------------------

command("view.next_page", "Next page of the panel", "Ctrl+Tab", menu="View", place=HERE)(
    lambda d: _place(d).next_page()
)
command("view.fit_all", "Fit all bars (up to 16)", "Shift+F", menu="View", place=HERE, group="zoom")(
    lambda d: _grid(d).fit_all()
)


@command("view.magnify", "Show deviations larger", "M", menu="View", place=HERE, group="look")
def _magnify(desk: Desk) -> None:
    grid = _grid(desk)
    at = MAGNIFICATIONS.index(grid.magnify)
    grid.set_magnify(MAGNIFICATIONS[(at + 1) % len(MAGNIFICATIONS)])


def _moves(name: str, text: str, key: str, move: Callable[["GridView"], object]) -> None:
    command(f"view.{name}", text, key, menu="View", place=HERE, group="cursor")(lambda d: move(_grid(d)))


_moves("left", "Cursor left", "Left", lambda g: g.move_cursor(-1, 0))
_moves("right", "Cursor right", "Right", lambda g: g.move_cursor(1, 0))
_moves("up", "Cursor up", "Up", lambda g: g.move_cursor(0, -1))
_moves("down", "Cursor down", "Down", lambda g: g.move_cursor(0, 1))
_moves("fine_left", "Cursor a 64th left", "Alt+Shift+Left", lambda g: g.move_fine(-1))
_moves("fine_right", "Cursor a 64th right", "Alt+Shift+Right", lambda g: g.move_fine(1))
_moves("bar_back", "A bar back", "PgUp", lambda g: g.move_bars(-1))
_moves("bar_on", "A bar on", "PgDown", lambda g: g.move_bars(1))
_moves("next_hit", "Next hit of the lane", ".", lambda g: g.next_hit(1))
_moves("previous_hit", "Previous hit of the lane", ",", lambda g: g.next_hit(-1))


@command("view.spot", "Go to a spot …", "Ctrl+J", menu="View", place=HERE, group="cursor")
def _go_to_spot(desk: Desk) -> None:
    spot = desk.ask("Go to a spot", "2a, the & of 3, 2.75, step 8, bar 3 step 11 ...")
    if spot is not None:
        desk.studio.perform(f"go {spot}")
        _grid(desk).reveal(_grid(desk).cursor_ticks)
