"""What all places have in common: they show the document when they are seen, and only then."""

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QWidget

from ghoststep.desk.model.desk import Desk
from ghoststep.session.document.document import Document


class PlaceWidget(QWidget):
    """A place. While it is hidden, changes are only noted; it shows the newest state once it is seen again."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.studio = desk, desk.studio
        self._stale = True
        self.studio.document_changed.connect(self._document_changed)

    def show_document(self) -> None:
        """Show the document as it is."""
        raise AssertionError("a place shows the document")

    def set_playhead(self, ticks: float | None) -> None:
        """Where the groove is that is heard; None when nothing moves."""

    def zoom(self, factor: float) -> None:
        """Nearer or further in time; 0 fits again."""

    def show_trial(self, document: Document | None) -> None:
        """Show what would change if the document were that one; None shows again what is."""

    def meant_bars(self) -> frozenset[int]:
        """The bars that a sentence means here where it names none; none for all."""
        return frozenset()

    def take_focus(self) -> None:
        """Give the keyboard to what it is meant for."""
        self.setFocus()

    def look_changed(self) -> None:
        """Paint anew, as colours changed."""

    def _document_changed(self) -> None:
        if self.isVisible():
            self.show_document()
        else:
            self._stale = True

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.bring_up_to_date()

    def bring_up_to_date(self) -> None:
        """Show the document, if it changed while this was not seen."""
        if self._stale:
            self._stale = False
            self.show_document()
