"""The sentence that is being typed: understood off the GUI thread, then taken; and what was said before."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from ghoststep.desk.model.session import Session

if TYPE_CHECKING:
    from ghoststep.session.language.edit_context import EditContext
    from ghoststep.session.say.understanding import Tried, Understood

_REMEMBERED = 100


class Saying(QObject):
    """Understands what is typed on the document as it is, the newest text only."""

    understood = Signal(object)  # an `Understood`: of the newest text
    suggested = Signal(list)  # sentences that would do something here

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._text = ""
        self.before: list[Understood] = []
        self.meant_bars: Callable[[], frozenset[int]] = frozenset  # what a place has chosen, where no bar is named
        self.lines: list[str] = []  # what was typed and taken, the newest last
        session.document_opened.connect(self.before.clear)

    def think(self, text: str) -> None:
        """Find out what a text means; what an older one meant is dropped."""
        self._text = text
        context, before, within = self._session.context(), tuple(self.before), self.meant_bars()

        def work(_document: object, _progress: object) -> "Understood":
            from ghoststep.files.degrees import read_degrees
            from ghoststep.session.say.understanding import understood

            return understood(context, text, before, read_degrees(), within)

        def apply(found: "Understood") -> None:
            if found.text == self._text:
                self.understood.emit(found)
                if not found.tried and found.text.strip():
                    self._offer_near(context, text)

        self._session.compute("say", work, apply)

    def _offer_near(self, context: "EditContext", text: str) -> None:
        """Sentences like one that was not understood, which would do something."""

        def work(_document: object, _progress: object) -> list[str]:
            from ghoststep.session.say.topics import near_to

            return near_to(context, text, 2)

        def apply(sentences: list[str]) -> None:
            if text == self._text:
                self.suggested.emit(sentences)

        self._session.compute("say", work, apply)

    def suggest(self) -> None:
        """Find sentences that would do something on the groove at hand."""
        context = self._session.context()

        def work(_document: object, _progress: object) -> list[str]:
            from ghoststep.session.say.topics import suggestions

            return suggestions(context)

        self._session.compute("say", work, self.suggested.emit)

    def take(self, found: "Understood", chosen: "Tried") -> None:
        """Do what a sentence was taken for, as one step."""
        from dataclasses import replace

        rest = [t for t in found.tried if t is not chosen]
        self.before = [*self.before, replace(found, tried=(chosen, *rest))][-_REMEMBERED:]
        if found.text.strip() not in self.lines[-1:]:
            self.lines = [*self.lines, found.text.strip()][-_REMEMBERED:]
        words = chosen.words or chosen.reading.about
        self._session.take(words, chosen.context)
