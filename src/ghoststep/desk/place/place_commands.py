"""The commands of the Place that are more than a phrase."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from ghoststep.desk.dialogs import compare
from ghoststep.desk.grid.grid_view import MAGNIFICATIONS
from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.place import making, proposals
from ghoststep.music.errors import InputError

if TYPE_CHECKING:
    from ghoststep.desk.grid.grid_view import GridView
    from ghoststep.desk.place.grid_place import GridPlace

DOES = Bound()
runs = DOES.runs

HERE = "place"


def _place(desk: Desk) -> "GridPlace":
    found: GridPlace = desk.at(HERE)
    return found


def _grid(desk: Desk) -> "GridView":
    return _place(desk).grid


# -- Edit, Hit, Touch -------------------------------------------------------------------------------------------

runs("edit.find")(lambda d: d.ask_phrase("replace "))


@runs("hit.hear")
def _hear(desk: Desk) -> None:
    chosen = _grid(desk).chosen_hits()
    origin = chosen[0].origin if chosen else None
    if origin is None:
        desk.say("The chosen hit does not come from a recording.", True)
    else:
        desk.studio.playback.hear_moment(origin.time_s)


runs("groove.ghosts")(lambda d: proposals.ghosts(_place(d)))
runs("groove.voices")(lambda d: making.voices(_place(d)))
runs("groove.layers")(lambda d: making.layers_under(_place(d)))
runs("hands.ways")(lambda d: proposals.stickings(_place(d)))
runs("touch.balances")(lambda d: proposals.balances(_place(d)))

# -- Versions ---------------------------------------------------------------------------------------------------


@runs("versions.keep")
def _keep(desk: Desk) -> None:
    taken = len(desk.studio.document.snapshots) + 1
    name = desk.ask("Keep this version", "Its name", f"version {taken}")
    if name is not None:
        desk.studio.call("keep", name=name)


runs("versions.compare")(compare.compare)
runs("versions.file")(compare.compare_with_file)
runs("versions.blind")(compare.compare_blind)

# -- Play -------------------------------------------------------------------------------------------------------

runs("play.here")(lambda d: d.studio.playback.play(float(_grid(d).cursor_ticks)))


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


runs("play.range_start")(_range_edge(start=True))
runs("play.range_end")(_range_edge(start=False))


@runs("play.range_bar")
def _range_bar(desk: Desk) -> None:
    frame = desk.studio.groove.pattern.frame
    start = frame.bar_start_at(_grid(desk).cursor_ticks)
    desk.studio.choice.set_range((start, start + frame.meter_at(start).bar_ticks))


# -- View -------------------------------------------------------------------------------------------------------

runs("view.next_page")(lambda d: _place(d).next_page())
runs("view.fit_all")(lambda d: _grid(d).fit_all())


@runs("view.magnify")
def _magnify(desk: Desk) -> None:
    grid = _grid(desk)
    at = MAGNIFICATIONS.index(grid.magnify)
    grid.set_magnify(MAGNIFICATIONS[(at + 1) % len(MAGNIFICATIONS)])


def _moves(name: str, move: Callable[["GridView"], object]) -> None:
    runs(f"view.{name}")(lambda d: move(_grid(d)))


_moves("left", lambda g: g.move_cursor(-1, 0))
_moves("right", lambda g: g.move_cursor(1, 0))
_moves("up", lambda g: g.move_cursor(0, -1))
_moves("down", lambda g: g.move_cursor(0, 1))
_moves("fine_left", lambda g: g.move_fine(-1))
_moves("fine_right", lambda g: g.move_fine(1))
_moves("bar_back", lambda g: g.move_bars(-1))
_moves("bar_on", lambda g: g.move_bars(1))
_moves("next_hit", lambda g: g.next_hit(1))
_moves("previous_hit", lambda g: g.next_hit(-1))


@runs("view.spot")
def _go_to_spot(desk: Desk) -> None:
    spot = desk.ask("Go to a spot", "2a, the & of 3, 2.75, step 8, bar 3 step 11 ...")
    if spot is not None:
        desk.studio.session.perform(f"go {spot}")
        _grid(desk).reveal(_grid(desk).cursor_ticks)
