"""Whole bars: like others, copied, exchanged, put in, repeated, taken out; the length of the groove."""

from collections.abc import Iterator

from ghoststep.music.kit import VOICE_NAMES
from ghoststep.session.say.clause import Clause
from ghoststep.session.say.frames.common import name_of
from ghoststep.session.say.places import InBars
from ghoststep.session.say.selecting import Thing
from ghoststep.session.say.sense import MissingError, Reading, Sense
from ghoststep.session.words import runs

_PLAIN = {"lead", "compared", "act", "all", "amount", "noun", "nth", "relation", "degree", "style"}


def _words(bars: InBars, sense: Sense) -> str:
    found = sorted(bars.among(sense.pattern.bars, sense.context.bar))
    if not found:
        raise MissingError("Which bars?")
    return runs(found).replace(" ", "")


def _there(bars: InBars, sense: Sense) -> str:
    missing = sense.where.missing(bars)
    if missing:
        raise MissingError(f"There is no bar {missing[0]}: this groove has {sense.pattern.bars}.")
    return _words(bars, sense)


def alike(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "copy bar 1 to bar 3", "bar 4 like bar 2", "repeat bar 1 in bar 2", "same as bar 1 in bar 2"."""
    if c.kinds() - {"act", "noun", "nth"} or c.amounts or c.stretch or any(p.thing and p.thing.named for p in c.things):
        return
    pairs = list(c.bars)
    spots = c.spots
    nths = [n for p in c.parts if p.thing is not None and not p.thing.named for n in p.thing.nth]
    if len(pairs) == 1 and len(nths) == 1 and nths[0].at > 0 and {"like", "same"} & c.words:
        pairs.append(("", InBars((nths[0].at,))))  # "the second bar like the first"
    if len(pairs) == 1 and c.acts("copy") and c.one("noun") == "end" and spots is None:
        pairs.append(("to", InBars((sense.pattern.bars + 1,))))
    if (
        len(pairs) == 1
        and spots is not None
        and c.acts("copy")
        and all(s.kind == "beat" and not s.share for s in spots.all)
    ):
        pairs.append(("to", InBars(tuple(s.number for s in spots.all))))  # "copy bars 1 and 2 to 3 and 4"
        spots = None
    if len(pairs) != 2 or spots is not None:
        return
    (_, one), (prep, other) = pairs
    like = bool({"like", "same"} & c.words) or c.acts("same")
    if c.acts("swap"):
        a, b = _there(one, sense), _there(other, sense)
        if not (a.isdecimal() and b.isdecimal()):
            return
        yield Reading(f"Bars {a} and {b} change places", (f"swap-bar {a} with {b}",), 1.2)
    elif c.acts("copy") or (c.acts("repeat", "play") and prep in ("in", "to", "into", "on", "over")):
        yield Reading(
            f"Bar {_words(other, sense)} as bar {_there(one, sense)}",
            (f"copy-bar {_there(one, sense)} to {_words(other, sense)}",),
            1.2,
        )
    elif like:
        source, goal = (one, other) if prep == "in" else (other, one)
        yield Reading(
            f"Bar {_words(goal, sense)} like bar {_there(source, sense)}",
            (f"copy-bar {_there(source, sense)} to {_there(goal, sense)}",),
            1.2,
        )


def structure(c: Clause, sense: Sense) -> Iterator[Reading]:
    """Bars put in, taken out, repeated, turned round, moved; so many of them."""
    if (
        c.kinds() - _PLAIN
        or (c.spots is not None and not c.acts("move", "insert", "add", "delete", "remove"))
        or c.stretch
    ):
        return
    if any(p for p in c.things if p.value.voices or p.value.role):  # type: ignore[union-attr]
        return
    bars = c.where
    last = sense.pattern.bars
    times = next((a.value for a in c.amounts if a.unit == "times"), None)
    size = next((a.value for a in c.amounts if a.unit == "bars"), None)
    if "twice" in c.words or c.one("degree") == "twice":
        times = 2
    if times == 2 and {"long", "length"} & c.words and bars is None:
        yield Reading("The groove twice in a row", ("repeat 2",), 1.1)
        return
    if times is not None and (c.acts("repeat", "play", "double") or c.one("all") is not None or not c.all("act")):
        if bars is not None and c.acts("play") and not c.acts("repeat") and times == 2:
            yield Reading(f"Bar {_there(bars, sense)} twice in a row", (f"double-bar {_there(bars, sense)}",), 1.1)
        else:
            of = f" of {_there(bars, sense)}" if bars is not None else ""
            yield Reading(
                f"{'Bars ' + _there(bars, sense) if bars else 'The groove'} {times:g} times",
                (f"repeat {times:g}{of}",),
                1.1,
            )
        return
    if c.acts("reverse") and bars is not None:
        yield Reading(f"Bar {_there(bars, sense)} backwards", (f"reverse-bar {_there(bars, sense)}",))
    elif c.acts("swap") and bars is not None and len(bars.numbers) == 2:
        _there(bars, sense)
        a, b = bars.numbers
        yield Reading(f"Bars {a} and {b} change places", (f"swap-bar {a} with {b}",))
    elif c.acts("move") and bars is not None and (c.one("noun") in ("front", "end") or "front" in c.words):
        goal = last + 1 if c.one("noun") == "end" else 1
        yield Reading(f"Bar {_there(bars, sense)} moved", (f"move-bar {_there(bars, sense)} before {goal}",))
    elif c.acts("double") and bars is not None:
        yield Reading(f"Bar {_there(bars, sense)} twice in a row", (f"double-bar {_there(bars, sense)}",))
    elif c.acts("double") and bars is None and "bars" in c.words:
        yield Reading("The groove twice in a row", ("repeat 2",))
    elif c.acts("double") and c.kinds() <= {"act", "all"}:
        yield Reading("The groove twice in a row", ("repeat 2",), 0.8)
        tempo = sense.context.document.groove.tempo.main_bpm
        yield Reading(f"Twice the tempo: {2 * tempo:g} BPM", (f"tempo {2 * tempo:g}",), 0.75)
    elif (
        c.acts("remove")
        and bars is not None
        and not c.acts("add")
        and c.spots is None
        and not c.things
        and not c.acts("clear")
    ):
        rows = _there(bars, sense)
        yield Reading(f"Take bar {rows} out: the groove is shorter", (f"delete-bar {rows}",), 1.0)
    elif size is not None:
        yield from _many(c, sense, int(size), bars)
    elif _puts_in(c):
        yield from _put_in(c, sense, 1, bars)
    elif c.acts("only") and bars is not None and (bars.first or bars.numbers) and c.kinds() <= {"act", "nth"}:
        rows = _there(bars, sense)
        yield Reading(f"Only bar {rows} stays", (f"repeat 1 of {rows}",), 0.9)


def _puts_in(c: Clause) -> bool:
    return c.acts("insert", "add") and bool({"bar", "bars"} & c.words)


def _many(c: Clause, sense: Sense, size: int, bars: InBars | None) -> Iterator[Reading]:
    if not 1 <= size <= 4096:
        raise MissingError(f"A groove has 1 to 4096 bars, not {size}.")
    last = sense.pattern.bars
    if (
        c.acts("insert", "add")
        or (c.one("noun") == "empty")
        or (c.acts("replace") and c.one("noun") == "front")
        or "more" in c.words
    ):
        yield from _put_in(c, sense, size, bars)
    elif bars is not None and "of" in c.words:
        number = len(bars.among(last, 1))
        if size % number == 0:
            yield Reading(
                f"Bar {_there(bars, sense)} so often that it is {size} bars",
                (f"repeat {size // number} of {_there(bars, sense)}",),
            )
    elif bars is None:
        shorter = size < last
        if shorter or size % last:
            yield Reading(f"{size} bars", (f"bars {size}",))
        else:
            yield Reading(f"{size} bars: the groove {size // last} times", (f"repeat {size // last}",), 1.0)


def _put_in(c: Clause, sense: Sense, size: int, bars: InBars | None) -> Iterator[Reading]:
    last = sense.pattern.bars
    after = bool({"after", "behind"} & c.words)
    what = f"{size} empty bar{'s' if size > 1 else ''}"
    if bars is not None and (after or "before" in c.words):
        _there(bars, sense)
        numbers = sorted(bars.among(last, sense.context.bar))
        at = numbers[-1] + 1 if after else numbers[0]
        yield Reading(f"{what} before bar {at}", (f"insert-bar {size} before {at}",))
    elif c.one("noun") == "front" or {"front", "beginning", "start"} & c.words:
        yield Reading(f"{what} in front", (f"insert-bar {size} before 1",))
    elif bars is None or bars.each:
        yield Reading(f"{what} at the end", (f"bars {last + size}",))


def introduced(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "start with two bars of just hats": bars in front, in which only what is named is played, as it begins."""
    size = next((int(a.value) for a in c.amounts if a.unit == "bars"), None)
    things = [p.value for p in c.parts if isinstance(p.value, Thing) and p.value.voices]
    if size is None or not things or "start" not in c.words or c.kinds() - {"act", "drum", "amount", "noun"}:
        return
    voices = [v for t in things for v in t.voices or ()]
    last = sense.pattern.bars
    if not 1 <= size <= last:
        raise MissingError(f"The groove has {last} bars to take them from.")
    gone = sorted({v for v in sense.pattern.voices if v not in sense.where.meant(voices)}, key=VOICE_NAMES.index)
    phrases = [f"insert-bar {size} before 1", *(f"copy-bar {size + 1} to {k}" for k in range(1, size + 1))]
    if gone:
        phrases.append(f"remove on {' '.join(gone)} bars {f'1-{size}' if size > 1 else '1'}")
    yield Reading(f"{size} bars of {name_of(voices)} in front", tuple(phrases), 1.2)
