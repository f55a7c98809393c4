"""A clause: the items of one thing that is asked, as acts, comparisons and parts that name hits and places.

Word order is free where meaning is: what is said where is looked up by what it is. Only small words in front of a part
("on", "to", "from", "of") and relations ("before", "with", "instead of") tie it to something.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from ghoststep.music.touch import Role
from ghoststep.session.say.items import Amount, Item
from ghoststep.session.say.places import InBars, Spot, Spots, Stretch
from ghoststep.session.say.selecting import Thing

_PLACING = ("spots", "bars", "stretch", "scope", "nth", "note", "compared", "amount", "ornament", "stroke", "meter")
_PREPS = ("on", "to", "from", "of", "in", "at", "for", "with", "by", "into", "over")


@dataclass(frozen=True)
class Part:
    """A thing, or spots, with the small word in front of it and the relation it stands in ("" for none)."""

    value: Thing | Spots
    prep: str = ""
    relation: str = ""
    first: int = 0

    @property
    def thing(self) -> Thing | None:
        return self.value if isinstance(self.value, Thing) else None

    @property
    def spots(self) -> Spots | None:
        return self.value if isinstance(self.value, Spots) else None


@dataclass
class Clause:
    """What was said in one go, by kind. `pairs`: every (table, value) that was said, where a word may be several."""

    items: Sequence[Item]
    parts: list[Part] = field(default_factory=list)
    bars: list[tuple[str, InBars]] = field(default_factory=list)
    stretch: Stretch | None = None
    amounts: list[Amount] = field(default_factory=list)
    unknown: list[Item] = field(default_factory=list)
    words: frozenset[str] = frozenset()
    already: str = ""  # that what it asks is so already, where that was found
    floor: bool = False  # "four on the floor"
    row: tuple[str, ...] = ()  # the words of the sentence, in order

    def all(self, table: str) -> list[object]:
        """Every value of a table that was said, or may have been."""
        out: list[object] = []
        for item in self.items:
            if item.kind == table:
                out.append(item.value)
            elif item.kind == "either":
                out += [value for name, value in item.value if name == table]
        return out

    def one(self, table: str) -> object | None:
        found = self.all(table)
        return found[0] if found else None

    def way(self, dimension: str) -> int:
        """Which way something is compared: 1 or -1 of "loud", "late", "tempo" or "swing"; 0 where it is not."""
        pairs: list[tuple[str, int]] = [*self.all("compared"), *self.all("too")]  # type: ignore[list-item]
        found = next((sign for name, sign in pairs if name == dimension), 0)
        return -found if "less" in self.all("degree") else found  # "swing it less"

    def acts(self, *names: str) -> bool:
        """Whether one of some acts was said."""
        said = {str(a) for a in self.all("act")}
        if "take" in self.words and self.words & {"away", "out", "off"}:
            said.add("remove")
        if "turn" in self.words and "off" in self.words and self.all("role"):
            said.add("remove")  # "turn the ghosts off"
        if {"out", "of"} <= self.words and not said and self.all("all"):
            said.add("remove")  # "everything out of bar 2"
        return not said.isdisjoint(names)

    def asks_else(self, allowed: frozenset[str]) -> bool:
        """Whether something is asked for that is none of some acts, so that they would be half of what is meant."""
        for item in self.items:
            pairs = [("act", item.value)] if item.kind == "act" else item.value if item.kind == "either" else []
            acts = {value for name, value in pairs if name == "act"}
            if acts and len(acts) == len(pairs) and acts.isdisjoint(allowed):
                return True
        return False

    @property
    def where(self) -> InBars | None:
        """The bars that were named, all together."""
        if not self.bars:
            return None
        out = self.bars[0][1]
        for _, more in self.bars[1:]:
            if more.each and not more.numbers:
                continue
            out = more if out.each and not out.numbers else replace(out, numbers=out.numbers + more.numbers)
        return out

    @property
    def things(self) -> list[Part]:
        """Parts that name hits and stand in no relation."""
        return [p for p in self.parts if isinstance(p.value, Thing) and not p.relation]

    @property
    def spots(self) -> Spots | None:
        """The spots that were named outside relations, all together."""
        mine = [p.value for p in self.parts if isinstance(p.value, Spots) and not p.relation]
        others = [s for s in mine if not _back(s)]
        return joined(others or mine)  # "the backbeat on 4" names one of them

    @property
    def backbeat(self) -> bool:
        """Whether the backbeats were named, as strokes or as spots."""
        return any(isinstance(p.value, Spots) and not p.relation and _back(p.value) for p in self.parts)

    @property
    def several(self) -> bool:
        """Whether more than one thing was said: a drum and its spots, then another and its; an act behind "and"."""
        segments: list[list[Item]] = [[]]
        for item in self.items:
            if item.kind != "sep":
                segments[-1].append(item)
                continue
            if item.value in ("then", ";") and segments[-1]:
                return True
            segments.append([])
        begun = False  # whether a segment before said a drum and something of it
        noted = False
        for k, segment in enumerate(segments):
            content = [i for i in segment if i.content and not _filler(i)]
            drum = any(_value(i, "drum") or i.kind in ("role", "floor") for i in content)
            placed = any(i.kind in _PLACING for i in content)
            if k and content and (content[0].kind in ("act", "compared", "too") or (begun and drum and placed)):
                return True
            if k and noted and any(i.kind in ("spots", "note") for i in content):
                return True  # "hats in eighths, open on the last and"
            begun = begun or (drum and placed)
            noted = noted or any(i.kind == "note" for i in content)
        return False

    def related(self, *relations: str) -> list[Part]:
        return [p for p in self.parts if p.relation in relations]

    def kinds(self) -> set[str]:
        """The kinds of what was said that says something; words of several kinds are not among them."""
        return {i.kind for i in self.items if i.content and i.kind not in ("either", "spots", "bars", "scope")}

    @property
    def degree(self) -> str:
        """How much: "tiny", "bit", "lot", or "" where nothing was said of it."""
        found = [d for d in self.all("degree") if d in ("tiny", "bit", "lot")]
        return str(found[0]) if found else ""

    def thing(self) -> Thing | None:
        """What is meant as one thing: its words, with the bars, spots and parts of bars that were named."""
        mine = self.things
        if not mine:
            if self.backbeat:
                return Thing(backbeat=True, spots=self.spots, bars=self.where, stretch=self.stretch)
            return None
        return self.placed(merged([p.value for p in mine if isinstance(p.value, Thing)]))

    def placed(self, thing: Thing) -> Thing:
        """A thing with the places that were named in the clause."""
        return replace(thing, spots=thing.spots or self.spots, bars=thing.bars or self.where, stretch=self.stretch)


def _back(spots: Spots) -> bool:
    return any(s.kind in ("backbeats", "nth backbeat") for s in spots.all)


def _filler(item: Item) -> bool:
    return item.kind == "either" and any(name == "filler" for name, _ in item.value)


def joined(found: Sequence[Spots]) -> Spots | None:
    """Spots of several parts as one row."""
    if not found:
        return None
    return Spots(tuple(s for f in found for s in f.all), any(f.last for f in found), all(f.beats for f in found))


def merged(things: Sequence[Thing]) -> Thing:
    """Several things as one: voices are added, a role holds for all."""
    voices: list[str] = []
    for t in things:
        voices += [v for v in t.voices or () if v not in voices]
    role = next((t.role for t in things if t.role), None)
    nth = tuple(n for t in things for n in t.nth)
    back = all(t.backbeat for t in things)
    return Thing(tuple(voices) if voices else None, role, back, nth)


def clause_of(items: Sequence[Item], words: Iterable[str]) -> Clause:
    """The parts of a row of items."""
    row = tuple(words)
    out = Clause(items, words=frozenset(row), row=row)
    prep, relation, open_relation = "", "", False
    thing: Thing | None = None
    begun = 0
    swaps = bool(out.words & {"replace", "swap", "exchange", "trade", "start"})  # "replace the hats with the ride"

    def close() -> None:
        nonlocal thing, relation, open_relation
        if thing is not None:
            tied = thing_relation or ("with" if thing_prep == "with" and out.parts and not swaps else "")
            out.parts.append(Part(thing, thing_prep, tied, begun))
            thing = None
            if relation:
                relation, open_relation = "", False

    thing_prep = thing_relation = ""
    for item in items:
        value = item.value
        drum = _value(item, "drum")
        role = _value(item, "role")
        # A word that may be an act or something else is a part of a thing only where nothing else can be meant.
        if item.kind in ("drum", "role", "all", "nth", "either") and (drum or role or item.kind in ("all", "nth")):
            if thing is not None and ((drum and thing.voices and prep) or (item.kind == "nth" and thing.named)):
                close()
            if thing is None:
                thing, begun, thing_prep, thing_relation = Thing(), item.first, prep, relation
            if drum and thing.voices and set(drum) < set(thing.voices):
                thing = replace(thing, voices=drum)  # "hats half open": what they are
            elif drum:
                thing = replace(
                    thing, voices=(*(thing.voices or ()), *[v for v in drum if v not in (thing.voices or ())])
                )
            if role:
                thing = replace(thing, role=Role(role))
            if item.kind == "nth":
                thing = replace(thing, nth=(*thing.nth, value))
            prep = ""
        elif item.kind == "scope":
            if thing is not None and thing.nth:
                thing = replace(thing, nth=(*thing.nth[:-1], replace(thing.nth[-1], scope=value)))
            elif value == "bar":
                out.bars.append(("", InBars(step=1, each=True)))
        elif item.kind == "floor":
            close()
            out.parts.append(Part(Spots((Spot("every"),)), prep, "", item.first))
            out.floor = True
        elif item.kind == "relation":
            close()
            relation, open_relation, prep = value, True, ""
        elif item.kind == "spots":
            if relation and thing is None and (not prep or relation in ("instead", "except", "between")):
                out.parts.append(Part(value, prep, relation, item.first))
                relation = "" if relation != "between" else relation
            else:
                close()
                out.parts.append(Part(value, prep, "", item.first))
            prep = ""
        elif item.kind == "bars":
            close()
            out.bars.append((prep, value))
            prep = ""
        elif item.kind == "stretch":
            close()
            out.stretch, prep = value, ""
        elif item.kind == "amount":
            out.amounts.append(value)
            prep = ""
        elif item.kind == "unknown":
            out.unknown.append(item)
        elif item.kind == "filler" or (item.kind == "either" and any(n == "filler" for n, _ in item.value)):
            word = str(words_of(item, words))
            if word in _PREPS:
                if (thing is not None and word != "of") or (thing is not None and word == "of" and thing.voices):
                    close()
                prep = word
        elif item.kind == "sep":
            if value not in ("and", ",", "&"):
                close()
        else:
            if item.kind in ("act", "compared", "too", "ornament", "stroke", "limb", "note", "lead", "degree"):
                close()
                prep = ""
    close()
    return out


def words_of(item: Item, words: Iterable[str]) -> str:
    row = list(words)
    return row[item.first] if item.last - item.first == 1 and item.first < len(row) else ""


def _value(item: Item, table: str) -> Any:
    if item.kind == table:
        return item.value
    if item.kind == "either":
        return next((value for name, value in item.value if name == table), None)
    return None
