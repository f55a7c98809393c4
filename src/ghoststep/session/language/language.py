"""The language of commands: one phrase does one thing to a document, in the window and without it.

A phrase is a verb with its words, "velocity +4" or "accents off-beat on hat bars 2-4". Verbs are declared once, in
`session.language.verbs`; keys, menus, the command line of the window and `ghost-step edit` all speak them.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from difflib import get_close_matches

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, LANES
from ghoststep.music.pattern import Hit
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.edits.rules import kept
from ghoststep.session.edits.shelf import Shelf


@dataclass(frozen=True)
class Stand:
    """Where the user stands: the document, the chosen hits (indices), the cursor, and what was copied."""

    document: Document
    chosen: frozenset[int] = frozenset()
    cursor_ticks: int = 0
    lane: int = LANE_OF_VOICE["snare"]
    shelf: Shelf | None = None

    @property
    def hits(self) -> list[Hit]:
        """The chosen hits, in the order of the pattern."""
        hits = self.document.groove.pattern.hits
        return [hits[i] for i in sorted(self.chosen) if i < len(hits)]

    @property
    def voice(self) -> str:
        """The voice a new hit at the cursor gets."""
        return LANES[self.lane].voices[0]

    @property
    def bar(self) -> int:
        return self.cursor_ticks // self.document.groove.pattern.meter.bar_ticks + 1


Done = tuple[str, Stand]


@dataclass(frozen=True)
class Verb:
    """`on_hits`: works on the chosen hits, or on those named after "on"."""

    name: str
    usage: str
    about: str
    run: Callable[[Stand, list[str]], Done]
    on_hits: bool = False

    @property
    def line(self) -> str:
        return " ".join(p for p in (self.name, self.usage, "[on TARGET]" if self.on_hits else "") if p)


VERBS: dict[str, Verb] = {}


def verb(
    name: str, usage: str, about: str, *, on_hits: bool = False
) -> Callable[[Callable[[Stand, list[str]], Done]], Callable[[Stand, list[str]], Done]]:
    """Declare a verb."""

    def add(run: Callable[[Stand, list[str]], Done]) -> Callable[[Stand, list[str]], Done]:
        VERBS[name] = Verb(name, usage, about, run, on_hits)
        return run

    return add


def do(stand: Stand, phrase: str) -> Done:
    """Do what a phrase says; the words for the undo step, and where the user stands then.

    Raises
    ------
    InputError
        Where the phrase means nothing or cannot be done; the document is as it was.
    """
    from ghoststep.session.language.targets import target
    from ghoststep.session.language.verbs import load

    load()
    words = phrase.split()
    if not words:
        raise InputError("Say what to do, for example: velocity 64 on snare ghosts.")
    found = VERBS.get(words[0].lower())
    if found is None:
        near = get_close_matches(words[0].lower(), VERBS, n=3, cutoff=0.5)
        hint = f" Did you mean {' or '.join(near)}?" if near else " 'ghost-step edit --list' shows what there is."
        raise InputError(f"'{words[0]}' is no command.{hint}")
    rest = words[1:]
    aim = stand
    if found.on_hits and "on" in rest:
        at = rest.index("on")
        rest, named = rest[:at], rest[at + 1 :]
        aim = replace(stand, chosen=target(stand, named))
        if not aim.chosen:
            raise InputError(f"No hit is '{' '.join(named)}' in this groove.")
    said, after = found.run(aim, rest)
    if after.document.groove.pattern is not stand.document.groove.pattern:
        addition, document = kept(stand.document, after.document)
        after = replace(moved_choice(after, document), document=document)
        said += addition
    return said, after


def moved_choice(stand: Stand, document: Document) -> Stand:
    """The same hits chosen in another document, found by what they are."""
    if document is stand.document:
        return stand
    wanted = {id(h) for h in stand.hits}
    spots = {(h.position_ticks, h.voice, h.grace) for h in stand.hits}
    hits = document.groove.pattern.hits
    chosen = frozenset(
        i for i, h in enumerate(hits) if id(h) in wanted or (h.position_ticks, h.voice, h.grace) in spots
    )
    return replace(stand, chosen=chosen)


def edited(stand: Stand, edit: Edit) -> Done:
    """What an edit of hits gives: the hits it made or changed are chosen, and those that stayed chosen."""
    words, document = edit
    if document is stand.document:
        return words, stand
    old, hits = stand.document.groove.pattern.hits, document.groove.pattern.hits
    low, high, away = _same_ends(old, hits)
    before = {id(h) for h in old[low : high - away]}
    stayed = {id(h) for h in stand.hits}
    new = {i for i in range(low, high) if id(hits[i]) not in before or id(hits[i]) in stayed}
    # Outside what changed the same hits stand at the same places, or moved on by as many as came or went.
    new |= {i for i in stand.chosen if i < low}
    new |= {i + away for i in stand.chosen if i + away >= high}
    return words, replace(stand, document=document, chosen=frozenset(i for i in new if i < len(hits)))


def _same_ends(old: Sequence[Hit], new: Sequence[Hit]) -> tuple[int, int, int]:
    """Where two rows of hits begin and end to differ (indices into the new one), and how much longer the new one is."""
    away = len(new) - len(old)
    most = min(len(old), len(new))
    low = 0
    while low < most and old[low] is new[low]:
        low += 1
    back = 0
    while back < most - low and old[-1 - back] is new[-1 - back]:
        back += 1
    return low, len(new) - back, away


def settled(stand: Stand, edit: Edit) -> Done:
    """What a change of the whole gives: what was chosen stays chosen where it still stands."""
    words, document = edit
    return words, replace(moved_choice(stand, document), document=document)
