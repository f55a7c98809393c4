"""The places, one behind the other; each is built when it is first asked for: the window itself is there at once."""

from collections.abc import Iterable

from PySide6.QtWidgets import QStackedWidget

from ghoststep.desk.app.key_guard import KeyGuard
from ghoststep.desk.app.places import PLACES
from ghoststep.desk.model.bound import Run
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.parts.place_widget import PlaceWidget


class PlaceStack(QStackedWidget):
    """Holds the widgets of the places that were shown, and what each does for its commands."""

    def __init__(self, desk: Desk, guard: KeyGuard) -> None:
        super().__init__()
        self._desk, self._guard = desk, guard
        self._built: dict[str, PlaceWidget] = {}

    def at(self, name: str) -> PlaceWidget:
        """The widget of a place."""
        if name not in self._built:
            widget = PLACES[name].build(self._desk)
            assert isinstance(widget, PlaceWidget)
            self._guard.watch(widget)
            self._built[name] = widget
            self.addWidget(widget)
        return self._built[name]

    @property
    def built(self) -> Iterable[PlaceWidget]:
        """Those that were shown until now."""
        return self._built.values()


def does_of(place: str, name: str) -> Run:
    """What a place does for a command of its own."""
    return PLACES[place].does()[name]
