"""Names of a sticking in layers, each with where it is, how often, and what of it is cut short.

The layers: the whole line, each bar, half and beat, hands over a foot that goes on by itself, what crosses the loop's
end, and ornaments.

The whole line is told by its shortest description (judge.names). A drummer also hears what fills a beat, a half or a
bar again and again, whatever lies across it; so these are told apart, each by the letters of its limbs and by the name
of the rudiment that fills it.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from ghoststep.judge.independent import over_feet
from ghoststep.judge.line import in_bars, line
from ghoststep.judge.names import Moment, Named, named
from ghoststep.judge.rudiments import GRACE_NAMES
from ghoststep.judge.words import plain, runs
from ghoststep.music.groove import Groove
from ghoststep.music.kit import OTHER_HAND
from ghoststep.music.ornaments import ornament
from ghoststep.music.pattern import Pattern
from ghoststep.music.spots import count_name

LAYERS = ("as one line", "each bar", "each half", "each beat", "over the feet", "across the loop's end", "ornaments")
_LEAST = {"each bar": 6, "each half": 4, "each beat": 3}  # strokes of a figure: fewer are heard as none
_ALONE = 0.75  # so many of a figure's moments are of one limb, or its letters say little
_CUT_RUDIMENT = 2  # strokes of a rudiment that was begun


class Place(NamedTuple):
    """A stretch, in ticks of its first and last stroke."""

    start_ticks: int
    end_ticks: int


@dataclass(frozen=True)
class Layer:
    """What is found in one layer: its words, every place it stands at, how often in all; `cut`: what is cut short."""

    layer: str
    words: str
    places: tuple[Place, ...]
    times: int = 1
    cut: str = ""


def layers(groove: Groove, limbs: Mapping[int, str] | None = None) -> list[Layer]:
    """The names in a groove's sticking by layers, in the order of LAYERS; `limbs` as in judge.line."""
    pattern = groove.pattern
    moments = line(groove, limbs)
    whole = in_bars(moments, pattern)
    return [
        *_whole(moments, whole, pattern),
        *_of_bars(moments, whole, pattern),
        *_figures("each half", moments, _halves(pattern), pattern),
        *_figures("each beat", moments, _beats(pattern), pattern),
        *_over_feet(moments, whole, pattern),
        *_across(moments, whole, pattern),
        *_ornaments(pattern),
    ]


# -- the whole line ------------------------------------------------------------------------------------------------


def _whole(moments: Sequence[Moment], whole: Sequence[Named], pattern: Pattern) -> list[Layer]:
    ticks = [m.tick for m in moments]
    found: dict[tuple[str, str], list[Named]] = {}
    names = [n for n in whole if n.kind in ("rudiment", "cell")]
    starts = [n.start_ticks for n in names]
    for n in names:
        k = bisect_right(starts, n.end_ticks)
        until = starts[k] if k < len(starts) else pattern.length_ticks
        found.setdefault((n.words, _cut_short(moments, ticks, n, until, pattern)), []).append(n)
    return [_layer(LAYERS[0], words, row, cut) for (words, cut), row in found.items()]


def _layer(layer: str, words: str, names: Sequence[Named], cut: str = "") -> Layer:
    times = sum(n.times for n in names) if names[0].kind == "rudiment" else len(names)
    return Layer(layer, words, tuple(Place(n.start_ticks, n.end_ticks) for n in names), times, cut)


def _cut_short(moments: Sequence[Moment], ticks: Sequence[int], n: Named, until: int, pattern: Pattern) -> str:
    """ "cut short after K by the loop's end": where one more round is begun and not ended; else nothing.

    `until`: ticks at which the next name begins.
    """
    end = bisect_left(ticks, n.end_ticks) + 1
    size = n.cell
    if size < 2 or end < size:
        return ""
    last = moments[end - size : end]
    period = last[-1].tick - last[0].tick + _step(moments, end, size)
    rounds = [last]
    if n.kind == "rudiment":
        rounds.append([m._replace(letters="".join(OTHER_HAND.get(x, x) for x in m.letters)) for m in last])
    more = max(_begun(moments, end, [m._replace(tick=m.tick + period) for m in row], until) for row in rounds)
    if not (_CUT_RUDIMENT if n.kind == "rudiment" else 1) <= more < size:
        return ""
    said = " ".join(m.letters for m in moments[end : end + more])
    return f"cut short after {said} by {_cutter(moments, end + more, pattern)}"


def _step(moments: Sequence[Moment], end: int, size: int) -> int:
    """From the last stroke of a round to the first of the next, as the rounds before had it."""
    if end - size >= 1:
        return moments[end - size].tick - moments[end - size - 1].tick
    return moments[end - size + 1].tick - moments[end - size].tick


def _begun(moments: Sequence[Moment], end: int, wanted: Sequence[Moment], until: int) -> int:
    """How many strokes of one more round stand from a place on, before the next name."""
    more = 0
    for now, m in zip(moments[end:], wanted, strict=False):
        if now.tick >= until or (now.tick, now.letters) != (m.tick, m.letters):
            break
        more += 1
    return more


def _cutter(moments: Sequence[Moment], at: int, pattern: Pattern) -> str:
    if at == len(moments):
        return "the loop's end"
    tick, frame = moments[at].tick, pattern.frame
    return "the bar line" if frame.bar_start_at(tick) == tick else "what follows"


# -- bars, halves and beats ----------------------------------------------------------------------------------------


def _of_bars(moments: Sequence[Moment], whole: Sequence[Named], pattern: Pattern) -> list[Layer]:
    said: dict[str, list[Named]] = {}
    for n in whole:
        if n.kind == "bar":
            said.setdefault(n.words, []).append(n)
    spans = [(at, at + meter.bar_ticks) for _, at, meter in pattern.frame.between(0, pattern.length_ticks)]
    return [
        *(_layer("each bar", words, names) for words, names in said.items()),
        *_figures("each bar", moments, spans, pattern),
    ]


def _halves(pattern: Pattern) -> Iterator[tuple[int, int]]:
    """Halves of bars that have two of whole beats, or the groups of an odd meter."""
    for _, at, meter in pattern.frame.between(0, pattern.length_ticks):
        starts = [0, meter.bar_ticks // 2] if not meter.bar_ticks % (2 * meter.unit_ticks) else meter.group_starts
        yield from ((at + a, at + b) for a, b in zip(starts, (*starts[1:], meter.bar_ticks), strict=True))


def _beats(pattern: Pattern) -> Iterator[tuple[int, int]]:
    """The beats people count: the groups of a compound meter, else the notes of its lower number."""
    for _, at, meter in pattern.frame.between(0, pattern.length_ticks):
        compound = meter.denominator >= 8 and set(meter.groups) == {3}
        starts = meter.group_starts if compound else range(0, meter.bar_ticks, meter.unit_ticks)
        yield from ((at + a, at + b) for a, b in zip(starts, (*starts[1:], meter.bar_ticks), strict=True))


def _figures(layer: str, moments: Sequence[Moment], spans: Iterable[tuple[int, int]], pattern: Pattern) -> list[Layer]:
    """What fills these spans: a rudiment once, or letters that come again where the bar is not just another's copy."""
    ticks = [m.tick for m in moments]
    bars = _same_bars(moments, ticks, pattern) if layer != "each bar" else {m.tick: (m.tick,) for m in moments}
    found: dict[tuple[Moment, ...], list[Place]] = {}
    lengths: dict[tuple[Moment, ...], int] = {}
    for start, end in spans:
        row = moments[bisect_left(ticks, start) : bisect_left(ticks, end)]
        if len(row) >= _LEAST[layer]:
            key = tuple(m._replace(tick=m.tick - start, accent=False) for m in row)
            found.setdefault(key, []).append(Place(row[0].tick, row[-1].tick))
            lengths[key] = end - start
    out = []
    for row, places in found.items():
        words = figure_words(row)
        alone = sum(len(m.letters) == 1 for m in row) >= _ALONE * len(row) and len({m.letters for m in row}) > 1
        smaller = len(row) >= 2 * _LEAST["each beat"] and _twice(row, lengths[row])
        named_so = words.endswith(")")
        if not smaller and (named_so or (alone and len({bars.get(p.start_ticks) for p in places}) > 1)):
            out.append(Layer(layer, words, tuple(places), len(places)))
    return sorted(out, key=lambda x: (-x.times, x.places[0]))


def _same_bars(moments: Sequence[Moment], ticks: Sequence[int], pattern: Pattern) -> dict[int, tuple[object, int]]:
    """For every moment: what its whole bar is, and where in the bar it stands."""
    out: dict[int, tuple[object, int]] = {}
    for _, at, meter in pattern.frame.between(0, pattern.length_ticks):
        row = moments[bisect_left(ticks, at) : bisect_left(ticks, at + meter.bar_ticks)]
        bar = tuple((m.tick - at, m.letters) for m in row)
        out |= {m.tick: (bar, m.tick - at) for m in row}
    return out


def _twice(row: Sequence[Moment], length_ticks: int) -> bool:
    """Whether a figure is a smaller one twice, which is told instead."""
    half = length_ticks // 2
    first = [m for m in row if m.tick < half]
    return [m._replace(tick=m.tick + half) for m in first] == list(row[len(first) :])


def figure_words(row: Sequence[Moment]) -> str:
    """A figure by its letters, with the name of the rudiment that fills it: "R L K K (paradiddle)"."""
    letters = " ".join("-".join(m.letters) for m in row)
    begun = [m._replace(tick=m.tick - row[0].tick) for m in row]
    names = [n for n in named(begun) if n.kind == "rudiment"]
    full = [n.words for n in names if n.start_ticks == 0 and n.end_ticks == begun[-1].tick]
    return f"{letters} ({full[0]})" if full else letters


# -- over the feet, and across the loop's end ----------------------------------------------------------------------


def _over_feet(moments: Sequence[Moment], whole: Sequence[Named], pattern: Pattern) -> list[Layer]:
    """Names of what is left where a foot that goes on by itself is taken away."""
    known = {(n.start_ticks, n.words) for n in whole}
    out = []
    for foot, rest in over_feet(moments, pattern):
        found: dict[str, list[Named]] = {}
        for n in in_bars(rest, pattern):
            if n.kind in ("rudiment", "cell") and (n.start_ticks, n.words) not in known:
                found.setdefault(n.words, []).append(n)
        out += [_layer("over the feet", f"{words} over {foot}", names) for words, names in found.items()]
    return out


def _across(moments: Sequence[Moment], whole: Sequence[Named], pattern: Pattern) -> list[Layer]:
    """Names that begin in the last bar and end in the first, where the loop comes round."""
    end, frame = pattern.length_ticks, pattern.frame
    last, first = frame.start_of(pattern.bars), frame.length_of(1)
    if pattern.bars < 1 or not moments:
        return []
    tail = [m for m in moments if m.tick >= last]
    head = [m._replace(tick=m.tick + end) for m in moments if m.tick < first]
    row = [m._replace(tick=m.tick - last) for m in (*tail, *head)]
    if not tail or not head:
        return []
    known = {n.words for n in whole if n.start_ticks == moments[0].tick}
    out = []
    for n in named(row):
        start, stop = n.start_ticks + last, n.end_ticks + last
        crosses = tail[0].tick < start < end <= stop < head[-1].tick  # else the whole bar just comes again
        if n.kind in ("rudiment", "cell") and crosses and n.words not in known:
            place = Place(start, stop - end)
            out.append(Layer("across the loop's end", n.words, (place,), n.times if n.kind == "rudiment" else 1))
    return out


# -- ornaments -----------------------------------------------------------------------------------------------------


def _ornaments(pattern: Pattern) -> list[Layer]:
    """Strokes that are ornamented, by name and voice, also where the grace notes are hits of their own."""
    leads: dict[tuple[int, str], int] = {}
    for h in pattern.hits:
        if h.grace:
            leads[h.position_ticks, h.voice] = leads.get((h.position_ticks, h.voice), 0) + 1
    found: dict[str, list[Place]] = {}
    for h in pattern.hits:
        number = leads.get((h.position_ticks, h.voice), 0)
        if h.grace or not (h.ornament or number):
            continue
        name = ornament(h.ornament).label if h.ornament else GRACE_NAMES.get(number, "ruff")
        found.setdefault(f"{name} on the {plain(h.voice)}", []).append(Place(h.position_ticks, h.position_ticks))
    return [Layer("ornaments", words, tuple(places), len(places)) for words, places in found.items()]


# -- in words ------------------------------------------------------------------------------------------------------


def where(places: Sequence[Place], pattern: Pattern) -> str:
    """ "bars 1-2 at 1, 3; bar 4 at 1": the places by the bars that have the same."""
    frame = pattern.frame
    bars: dict[int, list[str]] = {}
    for place in places:
        spot = frame.spot_at(place.start_ticks)
        bars.setdefault(spot.bar, []).append(count_name(spot.tick, frame.meter_of(spot.bar)))
    alike: dict[tuple[str, ...], list[int]] = {}
    for bar, names in bars.items():
        alike.setdefault(tuple(names), []).append(bar)
    return "; ".join(
        f"bar{'s' if len(numbers) > 1 else ''} {runs(numbers)} at {', '.join(names)}"
        for names, numbers in alike.items()
    )


def words_of(found: Layer, pattern: Pattern) -> str:
    """A name with how often, where and what is cut short: "R L K K (paradiddle), 4 times: bar 1 at 1, 2, 3, 4"."""
    times = f", {found.times} times" if found.times > 1 else ""
    cut = f" ({found.cut})" if found.cut else ""
    return f"{found.words}{times}{cut}: {where(found.places, pattern)}"


def row_words(found: Layer, pattern: Pattern) -> str:
    """The same as a row of a list, with its layer before it where that is not the whole line."""
    layer = "" if found.layer == LAYERS[0] else f"{found.layer}: "
    return f"{layer}{words_of(found, pattern)}"


def hits_of(found: Layer, pattern: Pattern) -> list[int]:
    """Indices of the hits at all its places; what crosses the loop's end is at both ends."""
    out: list[int] = []
    for start, end in found.places:
        if end < start:
            out += [*pattern.between(start, pattern.length_ticks), *pattern.between(0, end + 1)]
        else:
            out += pattern.between(start, end + 1)
    return sorted(set(out))
