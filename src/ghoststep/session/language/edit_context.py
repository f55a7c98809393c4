"""What a phrase is said to, and what it leaves behind: document, choice, cursor, what was copied."""

from dataclasses import dataclass, field, replace
from functools import cached_property

from ghoststep.music.kit import LANE_OF_VOICE, LANES
from ghoststep.music.pattern import Hit
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import Follow, committed, opened
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.edits.shelf import Shelf


@dataclass(frozen=True)
class Ask:
    """What a phrase asks of whoever does it, as it changes no groove: with which bars, voices, number."""

    what: str
    bars: tuple[int, int] | None = None
    voices: tuple[str, ...] = ()
    number: float = 0.0
    player: str = ""
    some: tuple[int, ...] = ()  # bars that need not follow one another


@dataclass(frozen=True)
class EditContext:
    """The document, the keys of the chosen hits, the cursor (ticks, and an index into LANES), and what was copied.

    asks: what phrases asked for that is no change of the document.
    """

    document: Document
    chosen: frozenset[int] = frozenset()
    cursor_ticks: int = 0
    lane: int = LANE_OF_VOICE["snare"]
    shelf: Shelf | None = None
    asks: tuple[Ask, ...] = ()
    # Handed in by whoever does a verb: what goes along with its changes.
    follow: Follow | None = field(default=None, compare=False)

    def __post_init__(self) -> None:
        hits = self.document.groove.pattern.hits
        if hits and not hits[0].key:  # a groove fresh from a file: choices need keys
            object.__setattr__(self, "document", opened(self.document))

    @cached_property
    def indices(self) -> list[int]:
        """The chosen hits as places in the row of hits."""
        return self.document.groove.pattern.indices_of_keys(self.chosen)

    @cached_property
    def hits(self) -> list[Hit]:
        """The chosen hits, in the order of the pattern."""
        hits = self.document.groove.pattern.hits
        return [hits[i] for i in self.indices]

    @property
    def voice(self) -> str:
        """The voice a new hit at the cursor gets."""
        return LANES[self.lane].voices[0]

    @property
    def bar(self) -> int:
        return self.document.groove.pattern.frame.spot_at(self.cursor_ticks).bar

    def choosing(self, hits: list[Hit]) -> "EditContext":
        """The same place with other hits chosen."""
        return replace(self, chosen=frozenset(h.key for h in hits))


Done = tuple[str, EditContext]


def edited(context: EditContext, edit: Edit) -> Done:
    """What an edit of hits gives: what was chosen stays chosen, and what is new is chosen too."""
    words, document = committed(context.document, edit, context.follow)
    if document is context.document:
        return words, context
    first = context.document.next_key
    chosen = context.chosen
    if document.next_key > first:
        chosen |= {h.key for h in document.groove.pattern.hits if h.key >= first}
    return words, replace(context, document=document, chosen=chosen)


def settled(context: EditContext, edit: Edit) -> Done:
    """What a change of the whole gives: what was chosen stays chosen where it still stands."""
    words, document = committed(context.document, edit, context.follow)
    return words, replace(context, document=document)
