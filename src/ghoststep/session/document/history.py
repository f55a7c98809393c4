"""Unlimited undo over immutable documents: a stack of versions with the words for each step."""

from collections.abc import Callable
from dataclasses import dataclass, field

from ghoststep.session.document.document import Document

MAX_STEPS = 5000
# Versions share their hits; what a version holds for itself is the row of them, 8 bytes a hit, and what changed.
MAX_BYTES = 192_000_000
_BYTES_A_HIT, _BYTES_A_STEP = 8, 2000


@dataclass(frozen=True)
class Step:
    """A version and the words for how it came to be ("Kick 2a: 64 → 88")."""

    document: Document
    words: str


@dataclass
class History:
    """The versions of one document.

    `commit` is what every new version goes through (`session.edits.commit.committed`); `changed` is called after each
    move.
    """

    document: Document
    commit: Callable[[Document, tuple[str, Document]], tuple[str, Document]]
    changed: Callable[[Document], None] = lambda document: None
    _steps: list[Step] = field(default_factory=list)
    _at: int = 0
    _saved: Document | None = None
    _held: int = 0  # bytes of all steps

    def __post_init__(self) -> None:
        self._steps = [Step(self.document, "opened")]
        self._held = _weight(self._steps[0])
        self._saved = self.document

    def do(self, words: str, document: Document, *, settled: bool = False) -> str:
        """Go on to a new version; what was undone before is dropped. The same version again is no step.

        Returns the words of the step, with what the commit had to add; `settled` says that it came through the commit.
        """
        if document is self.document:
            return words
        if not settled:
            words, document = self.commit(self.document, (words, document))
        for step in self._steps[self._at + 1 :]:
            self._held -= _weight(step)
        del self._steps[self._at + 1 :]
        self._steps.append(Step(document, words))
        self._held += _weight(self._steps[-1])
        while len(self._steps) > 2 and (len(self._steps) > MAX_STEPS or self._held > MAX_BYTES):
            self._held -= _weight(self._steps[0])
            del self._steps[0]
        self._at = len(self._steps) - 1
        self._show()
        return words

    def undo(self) -> str | None:
        """Go back one version; the words of the step taken back, None at the start."""
        if not self._at:
            return None
        words = self._steps[self._at].words
        self._at -= 1
        self._show()
        return words

    def redo(self) -> str | None:
        if self._at + 1 >= len(self._steps):
            return None
        self._at += 1
        self._show()
        return self._steps[self._at].words

    def go_to(self, step: int) -> str:
        """Go to any version by its number; the words of the step that made it."""
        self._at = min(max(step, 0), len(self._steps) - 1)
        self._show()
        return self._steps[self._at].words

    @property
    def words(self) -> list[str]:
        """The words of all steps, those that were taken back too; the first is how it began."""
        return [s.words for s in self._steps]

    @property
    def at(self) -> int:
        return self._at

    def _show(self) -> None:
        self.document = self._steps[self._at].document
        self.changed(self.document)

    @property
    def undo_words(self) -> str | None:
        return self._steps[self._at].words if self._at else None

    @property
    def redo_words(self) -> str | None:
        return self._steps[self._at + 1].words if self._at + 1 < len(self._steps) else None

    @property
    def unsaved(self) -> bool:
        return self.document is not self._saved

    def mark_saved(self, document: Document) -> None:
        """What was written to the file: the version that was open when saving began."""
        self._saved = document


def _weight(step: Step) -> int:
    """About how many bytes a step holds for itself."""
    return _BYTES_A_STEP + _BYTES_A_HIT * len(step.document.groove.pattern.hits)
