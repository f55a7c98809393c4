"""The places of the window: each declares itself once, and the window, its menus and keys, the shortcut sheet, the
off-screen run, the pictures and the tests walk this registry.

A new place is a folder that declares one, and a line in `desk.app.places`.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

from ghoststep.desk.model.bound import Bound

if TYPE_CHECKING:
    from ghoststep.desk.model.pictures import Picture
    from ghoststep.desk.model.studio import Studio


class Desk(Protocol):
    """What commands and places may ask of the window they stand in."""

    @property
    def studio(self) -> "Studio": ...

    @property
    def place(self) -> str: ...

    def at(self, place: str) -> Any:
        """The widget of a place."""

    def go(self, place: str) -> None: ...

    def say(self, words: str, trouble: bool = False) -> None: ...

    def run(self, name: str) -> None:
        """Run a command of the table."""

    def open(self, path: Path) -> None:
        """Open a file, after asking about work that is not saved."""

    def close(self) -> bool: ...

    def switch_theme(self) -> None: ...

    def show_keys(self) -> None: ...

    def show_log_place(self) -> None: ...

    def show_about(self) -> None: ...

    def may_leave(self) -> bool:
        """Ask about work that is not saved; whether we may go on."""

    def ask(self, title: str, label: str, text: str = "") -> str | None:
        """Let a line be typed; None where it was left."""

    def ask_phrase(self, start: str = "") -> None:
        """Open the line in which commands are typed."""


@dataclass(frozen=True)
class Place:
    """One place.

    name, title: in the code, and on its button; key: opens it; build: its widget, a `parts.place_widget.PlaceWidget`;
    sheet: menus in columns, as the shortcut sheet shows them; opens: names of formats (`work.formats`) shown here;
    pictures: what the documentation shows of it; does: what it does for its commands.
    """

    name: str
    title: str
    key: str
    build: Callable[[Desk], Any]
    sheet: tuple[tuple[str, ...], ...]
    opens: tuple[str, ...] = ()
    pictures: tuple["Picture", ...] = ()
    does: Bound = field(default_factory=Bound)
