"""The pictures of Check in the documentation."""

from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.picture_steps import opens_demo, opens_text
from ghoststep.desk.model.pictures import Picture

_OVERLOADED = """tempo 132
hat_closed x-x-x-x-x-x-x-x- | xxxxxxxxxxxxxxxx | x-x-x-x-x-x-x-x- | x-x-x-x---------
ride ---------------- | ---------------- | ---------------- | --------x-x-x-x-
crash X--------------- | ---------------- | X--------------- | --------X-------
snare ----X--o-o--X--o | ----X--o-o--X--o | X---X-o-----X--- | ----X---xxxxxxxx
kick X---xx----X----- | X-------xxxx---- | X---------X----- | X-----x---------
hat_pedal ---------------- | ---------------- | ---------------- | ----x-------x---
"""


def _shown(desk: Desk) -> None:
    desk.go("check")
    desk.at("check").show_page(0)


def _mend(desk: Desk) -> None:
    for _ in range(3):
        desk.run("check.next")
    desk.run("check.mend")


def _like(desk: Desk) -> None:
    desk.studio.playback.stop()
    desk.go("check")
    desk.at("check").show_page(1)


PICTURES = (
    Picture("check", (opens_text("night-depot", _OVERLOADED), _shown, _mend)),
    Picture("check-like-a-player", (opens_demo(1), _like)),
)
