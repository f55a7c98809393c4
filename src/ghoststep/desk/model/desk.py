"""What commands and places may ask of the window they stand in."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

if TYPE_CHECKING:
    from ghoststep.desk.model.studio import Studio


class Desk(Protocol):
    """A window, as commands and places see it."""

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

    def show_sayable(self) -> None:
        """Show what can be said, by topics."""

    def show_log_place(self) -> None: ...

    def show_about(self) -> None: ...

    def leave(self, then: Callable[[], None]) -> None:
        """Ask about work that is not saved; `then` goes on, at once or once it is saved, or never."""

    def ask(self, title: str, label: str, text: str = "") -> str | None:
        """Let a line be typed; None where it was left."""

    def ask_phrase(self, start: str = "") -> None:
        """Open the line in which commands are typed."""
