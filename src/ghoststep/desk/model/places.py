"""The places of the window: each declares itself once, and the window, its menus and keys, the shortcut sheet, the
off-screen run, the pictures and the tests walk this registry.

A new place is a folder that declares one, and a line in `desk.app.places`.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.pictures import Picture


@dataclass(frozen=True)
class Place:
    """One place.

    name, title: in the code, and on its button; key: opens it; sheet: menus in columns, as the shortcut sheet shows
    them; opens: names of formats (`work.formats`) shown here. The functions load what they need when they are called,
    so that a window is there before any place is: build: its widget, a `parts.place_widget.PlaceWidget`; does: what it
    does for its commands; pictures: what the documentation shows of it.
    """

    name: str
    title: str
    key: str
    build: Callable[[Desk], Any]
    does: Callable[[], Bound]
    pictures: Callable[[], tuple[Picture, ...]]
    sheet: tuple[tuple[str, ...], ...]
    opens: tuple[str, ...] = ()
