"""A sentence read as items: the longest row of words that means something, from each word on."""

from collections.abc import Mapping

from ghoststep.session.say.items import Amount, Item
from ghoststep.session.say.lexicon import LONGEST, Entry, lexicon
from ghoststep.session.say.places import InBars
from ghoststep.session.say.reading_places import Words, bars_at, nth_at, scope_at, spots_at, stretch_at
from ghoststep.session.say.tokens import Token

_UNITS = {
    "ms": "ms", "millisecond": "ms", "milliseconds": "ms", "db": "dB", "decibel": "dB", "decibels": "dB", "%": "%",
    "percent": "%", "bpm": "bpm", "times": "times", "time": "times",
}  # fmt: skip
_SEPARATORS = {",", ";", "and", "then", "but", "&", ":"}
_METER_UNITS = {"two": 2, "four": 4, "eight": 8, "sixteen": 16, "2": 2, "4": 4, "8": 8, "16": 16}


def items_of(tokens: list[Token], names: Mapping[tuple[str, ...], InBars] | None = None) -> list[Item]:
    """Every word in one item or another; what means nothing is an item of the kind "unknown".

    names: rows of words that name bars of this groove, such as its sections.
    """
    w = Words(tokens)
    out: list[Item] = []
    i = 0
    while i < len(w.tokens):
        item = _named_at(w, i, names or {}) or _item_at(w, i, out)
        out.append(item)
        i = item.last
    return out


def _named_at(w: Words, i: int, names: Mapping[tuple[str, ...], InBars]) -> Item | None:
    """The longest name of a part or a section that begins at a word."""
    for row in sorted(names, key=len, reverse=True):
        if tuple(t.word for t in w.tokens[i : i + len(row)]) == row:
            return Item("bars", names[row], i, i + len(row))
    return None


def _item_at(w: Words, i: int, before: list[Item]) -> Item:
    """The item that begins at a word: of all that can stand there, what takes the most words, and places first."""
    found: list[tuple[int, int, Item]] = []

    def add(rank: int, kind: str, value: object, last: int) -> None:
        found.append((last - i, rank, Item(kind, value, i, last)))

    if w.word(i) in _SEPARATORS:
        add(1, "sep", w.word(i), i + 1)
    for rank, kind, reader in (
        (9, "bars", bars_at),
        (8, "stretch", stretch_at),
        (6, "spots", spots_at),
        (4, "nth", nth_at),
        (7, "scope", scope_at),
    ):
        there = reader(w, i)
        if there is not None:
            add(rank, kind, there[0], there[1])
    for rank, kind, number_reader in ((11, "length", _length), (10, "meter", _meter), (9, "amount", _amount)):
        amount = number_reader(w, i)
        if amount is not None:
            add(rank, kind, *amount)
    for entries, last in _rows_at(w, i):
        add(5 if last - i > 1 else 3, "word", entries, last)
    if not found:
        return Item("unknown", w.word(i), i, i + 1)
    best = max(found, key=lambda f: (f[0], f[1]))[2]
    return _named(best) if best.kind == "word" else best


def _rows_at(w: Words, i: int) -> list[tuple[list[Entry], int]]:
    """What the longest row of the lexicon that begins at a word may stand for."""
    rows = lexicon()
    for size in range(min(LONGEST, len(w.tokens) - i), 0, -1):
        found = rows.get(tuple(t.word for t in w.tokens[i : i + size]))
        if found:
            return [(found, i + size)]
    return []


def _named(item: Item) -> Item:
    """An item by its table; where a word is in several, all that it may be goes along as (table, value)."""
    entries: list[Entry] = item.value
    if len(entries) == 1:
        return Item(entries[0].table, entries[0].value, item.first, item.last)
    return Item("either", tuple((e.table, e.value) for e in entries), item.first, item.last)


def _length(w: Words, i: int) -> tuple[object, int] | None:
    """ "lasts 3/16": a share of a whole note."""
    over, under = w.number(i), w.number(i + 2)
    if w.word(i - 1) not in ("lasts", "lasting", "for") or w.word(i + 1) != "/" or not over or not under:
        return None
    return f"{over}/{under}", i + 3


def _meter(w: Words, i: int) -> tuple[object, int] | None:
    """ "3/4", "three four", "seven eight, two two three"."""
    number = w.number(i)
    if number is None or not 1 <= number <= 64:
        return None
    if w.word(i + 1) == "/" and w.number(i + 2) in (1, 2, 4, 8, 16, 32):
        unit, j = w.number(i + 2), i + 3
    elif (
        w.word(i + 1) in _METER_UNITS
        and w.word(i - 1) in ("in", "to", "it", "of")
        and w.word(i + 2) in ("", ",", "time", "please")
    ):
        unit, j = _METER_UNITS[w.word(i + 1)], i + 2
    else:
        return None
    groups, k = [], w.past(j, (",", "in", "as"))
    while (part := w.number(k)) is not None and 1 <= part <= 9:
        groups.append(part)
        k = w.past(k + 1, ("+",))
    if groups and sum(groups) == number:
        return f"{number}/{unit} {'+'.join(map(str, groups))}", k
    return f"{number}/{unit}", w.past(j, ("time",))


def _amount(w: Words, i: int) -> tuple[object, int] | None:
    """A number with a unit, or one that a sign makes an amount."""
    sign, j = 0, i
    if (w.word(i) in ("+", "-") and w.glued(i + 1)) or (w.word(i) in ("plus", "minus") and w.number(i + 1) is not None):
        sign, j = (1 if w.word(i) in ("+", "plus") else -1), i + 1
    value = w.tokens[j].number if j < len(w.tokens) else None
    if value is None:
        return None
    unit = _UNITS.get(w.word(j + 1), "")
    if w.word(j + 1) == "beats" and w.word(j + 2) == "per":
        return Amount(value, "bpm", sign), j + 4
    if unit:
        return Amount(value, unit, sign), j + 2
    what = w.word(j + 1).rstrip("s") + "s"
    if (w.word(j + 2) == "fill" and what in ("beats", "bars")) or (
        what == "bars" and w.word(j + 2) in ("long", "of", "")
    ):
        return Amount(value, what, sign), j + 2
    if w.word(j + 1) == "more" and w.word(j + 2) in ("bar", "bars"):
        return Amount(value, "bars", sign), j + 3
    if w.word(i - 1) in ("up", "down", "by"):
        return Amount(value, "", sign), j + 1
    if w.word(j + 1) == "empty" and w.word(j + 2) in ("bar", "bars"):
        return Amount(value, "bars", sign), j + 3
    if w.word(j + 1) in ("louder", "softer", "harder", "quieter", "faster", "slower") and w.word(i - 1) not in (
        "on",
        "at",
    ):
        return Amount(value, "", sign), j + 1
    if w.word(j + 1) == "beats" and w.word(j + 2) in ("landing", "and", "into", "with", "on"):
        return Amount(value, "beats", sign), j + 2
    if sign or value != int(value) or value > 64:
        return Amount(value, "", sign), j + 1
    return None
