"""The pictures of Place in the documentation."""

from ghoststep.desk.dialogs.compare_dialog import CompareDialog
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.picture_steps import opens_demo, opens_text
from ghoststep.desk.model.pictures import Picture, Step
from ghoststep.music.time import TICKS_PER_QUARTER

_STROKES = """tempo 96
meter 4/4
grid 16
crash      X--------------- | ----------------
hat_closed x-x-x-x-x-x-x-x- | x-----------x-x-
hat_open   ---------------- | ----x---x-------
snare      ----X--o-o--X--o | ----X--o-o--X---
tom_low    ---------------- | -------------x-x
kick       X------x--X----- | X------x--X---x-
"""
_TOUCHES = (
    "ornament flam on snare accents bars 1", "ornament roll5 on snare at 2 bars 2", "stroke rim on snare at 4",
    "stroke shoulder on hat_closed beats 1", "length 1/16 on hat_open at 3", "length 1/4 on crash",
    "grid triplets bars 2", "accents beat on hat bars 1",
)  # fmt: skip
_FRAME = """tempo 96
bar 2 meter 7/8 2+2+3
bar 3 meter 4/4
bar 2 tempo 96 -> 120 over 2
crash      X--------------- | -------------- | ----------------
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
snare      ----X--o-o--X--o | ----X---X--o-- | ----X--o-o--X--o
kick       X------x--X----- | X-------x----- | X------x--X---x-
"""


def _does(*phrases: str, page: int) -> Step:
    """A step that turns to a page and types commands."""

    def step(desk: Desk) -> None:
        desk.go("place")
        desk.at("place").show_page(page)
        for phrase in phrases:
            desk.at("place").do(phrase)

    return step


def _on_the_grid(zoom: float) -> Step:
    """A step to the snare's first ghost; a zoom of 0 shows the whole."""

    def step(desk: Desk) -> None:
        desk.go("place")
        grid = desk.at("place").grid
        desk.at("place").show_page(0)
        desk.at("place").zoom(zoom)
        grid.put_cursor(5 * TICKS_PER_QUARTER, 1)
        grid.next_hit(1)

    return step


def _asks(phrase: str) -> Step:
    return lambda desk: desk.ask_phrase(phrase)


def _sees_pocket(desk: Desk) -> None:
    desk.run("time.view_pocket")


def _versions(desk: Desk) -> None:
    _does("keep as heard", "fill snare under hat", "remove on kick at 2&", page=3)(desk)


def _compared(desk: Desk) -> CompareDialog:
    return CompareDialog(desk.studio, desk.at("place"), desk.studio.document.snapshots[-1].name)


def _range(desk: Desk) -> None:
    desk.studio.choice.set_range((0, 4 * TICKS_PER_QUARTER))


def _proposes(desk: Desk) -> None:
    desk.run("groove.ghosts")


def _leaves_proposals(desk: Desk) -> None:
    desk.studio.playback.stop()
    desk.at("place").proposal_page.leave()


def _silent(desk: Desk) -> None:
    desk.studio.playback.stop()


def _other_theme(desk: Desk) -> None:
    desk.studio.playback.stop()
    desk.studio.choice.set_range(None)
    desk.switch_theme()


PICTURES = (
    Picture("place", (opens_demo(0), _on_the_grid(0))),
    Picture("place-touch", (_does("accents beat on hat", "balance snare-led", page=1),)),
    Picture(
        "place-hands",
        (
            _does("balance played", "accents off-beat on hat", "hands RLRRLRLL on hat", page=3),
            _asks("ghosts around the backbeats, and the snare a bit later"),
        ),
    ),
    Picture("place-time", (opens_demo(0), _does("feel laid-back", page=2), _sees_pocket)),
    Picture("compare", (_sees_pocket, _versions), _compared),
    Picture("place-frame", (opens_text("Night line", _FRAME), _does("go bar 2 3", page=4))),
    Picture("place-strokes", (opens_text("Signal box", _STROKES), _does(*_TOUCHES, "go hat_open bar 2 3", page=0))),
    Picture("place-proposals", (opens_demo(0), _on_the_grid(0), _range, _proposes, _silent)),
    Picture("place-day", (_leaves_proposals, _other_theme)),
)
