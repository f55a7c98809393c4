"""What goes on from what was said before: "again", "a bit more", "no, earlier", "and the same on 3", "and the kick"."""

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from ghoststep.session.say.clause import Clause, clause_of
from ghoststep.session.say.items import Item
from ghoststep.session.say.sense import Reading, Sense

if TYPE_CHECKING:
    from ghoststep.session.say.understanding import Understood

_GOES_ON = ("and", "also", "same", "no", "too", "likewise", "again", "then")


Followed = tuple[list[Reading], list[Clause]] | None


def followed(items: list[Item], words: list[str], before: Sequence["Understood"], sense: Sense) -> Followed:
    """Readings of a sentence that leans on the one before, and the clauses they are of; None where it stands by
    itself."""
    last = next((u for u in reversed(before) if u.tried), None)
    clause = clause_of(items, words)
    content = [i for i in items if i.content]
    if last is None:
        return None
    if clause.acts("again") and len(content) == 1:
        return [Reading(last.tried[0].reading.about, last.tried[0].reading.phrases)], list(last.clauses)
    degrees = [str(d) for d in clause.all("degree")]
    if content and all(_kind(i) == "degree" for i in content):
        return _more(last, degrees, words, sense)
    if not last.clauses or (words[0] not in _GOES_ON and not clause.acts("same")):
        return None
    return _changed(items, words, last, sense)


def _more(last: "Understood", degrees: list[str], words: list[str], sense: Sense) -> Followed:
    """The last sentence once more, by a bit where "a bit more" was said, the other way by "less"."""
    from ghoststep.session.say.understanding import _of_clause

    if not last.clauses:
        return [Reading(last.tried[0].reading.about, last.tried[0].reading.phrases)], []
    less = "less" in words
    old = last.clauses[-1]
    changed = _with_degree(list(old.items), "bit" if "bit" in degrees else "")
    clause = clause_of(_turned(changed) if less else changed, old.row)
    found = _of_clause(clause, sense, [])
    return (found, [clause]) if found else None


def _with_degree(items: list[Item], degree: str) -> list[Item]:
    kept = [i for i in items if i.kind != "degree" and i.kind != "amount"]
    return [*kept, Item("degree", degree, kept[-1].first, kept[-1].last)] if degree else kept


def _turned(items: list[Item]) -> list[Item]:
    """Comparisons the other way round."""
    return [
        Item(i.kind, (i.value[0], -i.value[1]), i.first, i.last) if i.kind in ("compared", "too") else i for i in items
    ]


_SLOTS = (
    {"spots", "stretch"}, {"bars"}, {"compared", "too"}, {"drum", "role"}, {"degree", "amount"}, {"note"}, {"ornament"},
)  # fmt: skip


def _changed(items: list[Item], words: list[str], last: "Understood", sense: Sense) -> Followed:
    """The last sentence with what is said now in the place of what was said then."""
    from ghoststep.session.say.understanding import FRAMES, _of_clause

    assert FRAMES
    new = [i for i in items if i.content and not _goes_on(i, words)]
    if not new:
        return None
    base = list(last.clauses[-1].items)
    if "same" in words:
        new = [_same_share(i, base) for i in new]
    for item in new:
        kind = _kind(item)
        slot = next((s for s in _SLOTS if kind in s), None)
        if slot is None:
            return None
        held = [k for k, i in enumerate(base) if _kind(i) in slot]
        if kind == "compared" and not held:
            return None
        if held:
            base[held[-1]] = Item(item.kind, item.value, base[held[-1]].first, base[held[-1]].last)
        else:
            base.append(item)
    old = last.clauses[-1]
    clause = clause_of(base, _words_of(old, words, base))
    found = _of_clause(clause, sense, [])
    return (found, [clause]) if found else None


def _same_share(item: Item, base: list[Item]) -> Item:
    """ "the same on 3" after "the e of 2" is the e of 3."""
    old = next((i.value for i in base if i.kind == "spots"), None)
    if item.kind != "spots" or old is None or any(s.share for s in item.value.all):
        return item
    shares = {s.share for s in old.all if s.kind == "beat"}
    if len(shares) != 1 or not all(s.kind == "beat" for s in item.value.all):
        return item
    share = shares.pop()
    return replace(item, value=replace(item.value, all=tuple(replace(s, share=share) for s in item.value.all)))


def _words_of(old: object, words: list[str], base: list[Item]) -> list[str]:
    """Words as many as the items ask for: those of the sentence before carry no meaning of their own any more."""
    size = max(i.last for i in base)
    return [*words, *([""] * max(size - len(words), 0))]


def _goes_on(item: Item, words: list[str]) -> bool:
    if item.kind == "act":
        return item.value in ("same", "again", "remove") and words[item.first] in (*_GOES_ON, "the")
    if item.kind == "either":
        return words[item.first] in _GOES_ON
    return item.kind == "filler"


def _kind(item: Item) -> str:
    if item.kind == "either":
        names = [n for n, _ in item.value]
        for wanted in ("compared", "drum", "spots", "ornament", "degree"):
            if wanted in names:
                return wanted
    return item.kind
