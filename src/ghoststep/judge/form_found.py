"""The form of a long groove: which bars are alike, which are variations of which, and where sections begin.

Bars are alike where what they stand on (kick, backbeats, toms) is the same and time and ghosts hardly differ. Each set
of alike bars gets a letter in the order of appearance; a set near an earlier one is a variation of it. Section borders
are the best division of the row of letters: by what changes there, by crashes and fills, by blocks that came before,
and by lengths that people play (dynamic programming over bars).
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from statistics import median_low

from ghoststep.judge.relatedness import Bar, Place, bar_of, distance
from ghoststep.music.groove import Groove
from ghoststep.music.kit import of_kind
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.touch import Role, role_of
from ghoststep.music.unrolled import bars_of

_SOFT = 0.34  # bars on the same core are alike up to this distance
_RELATED = 0.5  # sets nearer than this are variations
_SHARED = 0.5  # of alike bars have to have a stroke for it to be the part's
_LENGTHS = {4: -0.1, 8: 0.0, 12: -0.3, 16: -0.25, 2: -0.9, 6: -0.9}
_ODD_LENGTH, _LONGEST = -1.6, 32
_CHANGE, _CRASH, _FILL, _AGAIN, _COST = 1.6, 0.8, 0.7, 1.3, -1.5
_NAMES = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


@dataclass(frozen=True)
class FoundPart:
    """A set of alike bars: its letter, its bars (from 1), what they have in common, and the part it varies."""

    name: str
    bars: tuple[int, ...]
    pattern: Pattern
    base: str = ""


@dataclass(frozen=True)
class FoundSection:
    """A stretch of bars, and the letters it plays; alike stretches have one name."""

    name: str
    first_bar: int
    letters: tuple[str, ...]


@dataclass(frozen=True)
class FoundForm:
    parts: tuple[FoundPart, ...]
    sections: tuple[FoundSection, ...]

    def letter_of(self, bar: int) -> str:
        """The part that a bar is a playing of."""
        return self._letters[bar]

    @cached_property
    def _letters(self) -> dict[int, str]:
        return {bar: p.name for p in self.parts for bar in p.bars}


def found_form(groove: Groove) -> FoundForm:
    """The form of a groove of one bar or more."""
    pattern = groove.pattern
    rows = list(pattern.frame.between(0, pattern.length_ticks))
    hits = [_hits(pattern, start, start + meter.bar_ticks) for _, start, meter in rows]
    bars = [bar_of(h, start, meter.bar_ticks) for h, (_, start, meter) in zip(hits, rows, strict=True)]
    parts = _parts(pattern, _alike(bars))
    letters = {bar: p.name for p in parts for bar in p.bars}
    row = [letters[k] for k in range(1, len(bars) + 1)]
    base = {p.name: p.base or p.name for p in parts}
    return FoundForm(tuple(parts), tuple(_sections(row, [base[x] for x in row], bars)))


def _hits(pattern: Pattern, start: int, end: int) -> list[Hit]:
    inside = pattern.between(start, end)
    return list(pattern.hits[inside.start : inside.stop])


# -- alike bars ---------------------------------------------------------------------------------------------------


class _Group:
    """A set of alike bars, with how often each place is struck in it."""

    def __init__(self) -> None:
        self.bars: list[int] = []
        self._count: Counter[Place] = Counter()
        self._weight: dict[Place, float] = {}
        self._ticks = 0

    def add(self, index: int, bar: Bar) -> None:
        self.bars.append(index)
        self._ticks = bar.ticks
        self._count.update(p for p, _ in bar.struck)
        self._weight.update(bar.struck)

    def middle(self) -> Bar:
        """What most of its bars have."""
        least = _SHARED * len(self.bars)
        struck = sorted((p, self._weight[p]) for p, n in self._count.items() if n >= least)
        return Bar(self._ticks, tuple(struck))


def _alike(bars: Sequence[Bar]) -> list[_Group]:
    """Sets of alike bars, in the order of appearance; each bar goes to the nearest it is alike to."""
    groups: list[_Group] = []
    by_core: dict[tuple[int, frozenset[Place]], list[_Group]] = {}
    same: dict[Bar, _Group] = {}  # a bar that came before goes where that one went
    for i, bar in enumerate(bars):
        group = same.get(bar)
        if group is None:
            near = [(distance(g.middle(), bar), k, g) for k, g in enumerate(by_core.get((bar.ticks, bar.core), []))]
            group = min(near)[2] if near and min(near)[0] <= _SOFT else None
        if group is None:
            group = _Group()
            groups.append(group)
            by_core.setdefault((bar.ticks, bar.core), []).append(group)
        same[bar] = group
        group.add(i, bar)
    return groups


def _parts(pattern: Pattern, groups: Sequence[_Group]) -> list[FoundPart]:
    out: list[FoundPart] = []
    middles = [group.middle() for group in groups]
    for g, group in enumerate(groups):
        base = ""
        near = _RELATED
        for earlier in range(g):
            d = distance(middles[earlier], middles[g])
            if d < near and not out[earlier].base:
                near, base = d, out[earlier].name
        numbers = tuple(i + 1 for i in group.bars)
        own = common(pattern, numbers)
        if base:
            own = _leaning_on(next(p.pattern for p in out if p.name == base), own)
        out.append(FoundPart(letter(g), numbers, own, base))
    return out


def told_apart(found: FoundForm, groove: Groove) -> FoundForm:
    """The form with a letter of their own for alike bars that are the same as each other hit for hit, and not as most.

    The largest such set is the part; a bar that is like no other goes with it.
    """
    pattern = groove.pattern
    parts: list[FoundPart] = []
    for part in found.parts:
        sets, heard = _same_bars(pattern, part.bars)
        if not sets:
            alone = len(part.bars) == 1 and not heard
            parts.append(replace(part, pattern=_bar(pattern, part.bars[0])) if alone else part)
            continue
        others = {bar for more in sets[1:] for bar in more}
        mine = tuple(bar for bar in part.bars if bar not in others)
        parts.append(replace(part, bars=mine, pattern=_bar(pattern, sets[0][0])))
        parts += [FoundPart("", more, _bar(pattern, more[0]), part.name) for more in sets[1:]]
    parts = _named_anew(parts)
    of_bar = {bar: p.name for p in parts for bar in p.bars}
    row = [of_bar[k] for k in range(1, pattern.bars + 1)]
    return FoundForm(tuple(parts), tuple(_named(row, [s.first_bar - 1 for s in found.sections])))


def _same_bars(pattern: Pattern, bars: Sequence[int]) -> tuple[list[tuple[int, ...]], bool]:
    """Sets of two or more bars that are the same hit for hit, the largest first; and whether any hit was heard."""
    by_sound: dict[tuple[Hit, ...], list[int]] = {}
    heard = False
    for bar in bars:
        hits = bars_of(pattern, bar, bar).hits
        heard = heard or any(h.origin for h in hits)
        by_sound.setdefault(tuple(replace(h, origin=None) if h.origin else h for h in hits), []).append(bar)
    sets = sorted((s for s in by_sound.values() if len(s) > 1), key=lambda s: (-len(s), s[0]))
    return [tuple(s) for s in sets], heard


def _named_anew(parts: Sequence[FoundPart]) -> list[FoundPart]:
    """Letters in the order in which the parts come first."""
    in_order = sorted(parts, key=lambda p: p.bars[0])
    names = {p.name: letter(k) for k, p in enumerate(in_order) if p.name}
    out = [replace(p, name=letter(k), base=names.get(p.base, "")) for k, p in enumerate(in_order)]
    first = {p.name: k for k, p in enumerate(out)}
    return [replace(p, base="") if p.base and first[p.base] > first[p.name] else p for p in out]


def _bar(pattern: Pattern, bar: int) -> Pattern:
    """A bar as it is, without names and without where it was heard."""
    own = bars_of(pattern, bar, bar)
    return replace(own, hits=tuple(replace(h, key=0, origin=None) for h in own.hits))


def _leaning_on(base: Pattern, own: Pattern) -> Pattern:
    """A variation with the strokes it shares with its base as the base has them, and the others at their usual level.

    How hard a player struck in these bars and not in those is no change of the part.
    """
    known = {(h.position_ticks, h.voice, h.grace): h for h in base.hits}
    hits = []
    for h in own.hits:
        same = known.get((h.position_ticks, h.voice, h.grace))
        soft = (h.role is Role.GHOST) != (same is not None and same.role is Role.GHOST)
        if same is not None and not soft:
            hits.append(same)
        else:
            hits.append(replace(h, velocity=own.rules.level_of(h.voice, h.role), limb=""))
    return replace(own, hits=tuple(hits))


def letter(number: int) -> str:
    """A, B, ... Z, A2, B2, ..."""
    again, at = divmod(number, len(_NAMES))
    return _NAMES[at] + (str(again + 1) if again else "")


def common(pattern: Pattern, bars: Sequence[int]) -> Pattern:
    """One bar with the strokes that most of some bars have, each with its middle velocity and length."""
    frame = pattern.frame
    found: dict[tuple[int, str, bool], list[Hit]] = {}
    for bar in bars:
        start = frame.start_of(bar)
        for h in _hits(pattern, start, start + frame.length_of(bar)):
            found.setdefault((h.position_ticks - start, h.voice, h.grace), []).append(h)
    hits = []
    for (tick, name, grace), same in found.items():
        if len(same) >= _SHARED * len(bars):
            velocity = median_low(h.velocity for h in same)
            first = same[0]
            late = median_low(h.offset_ms for h in same) if grace else 0.0
            role = Counter(h.role for h in same).most_common(1)[0][0] if not grace else role_of(velocity)
            hits.append(
                Hit(tick, name, velocity, role, first.stroke, first.limb, late, grace, None, first.ornament)
            )  # fmt: skip
    meter = frame.meter_of(bars[0])
    return Pattern(tuple(hits), meter, 1, pattern.grid, pattern.lane_grids, (), pattern.rules)


# -- sections -----------------------------------------------------------------------------------------------------


def _sections(row: Sequence[str], bases: Sequence[str], bars: Sequence[Bar]) -> list[FoundSection]:
    number = len(row)
    often = Counter(row)
    first: dict[tuple[str, ...], int] = {}  # where a block of four came first
    for k in range(number - 3):
        first.setdefault(tuple(row[k : k + 4]), k)
    evidence = [_begins(k, row, bases, bars, often, first) for k in range(number)]
    best: list[tuple[float, int]] = [(0.0, 0)] + [(-1e9, 0)] * number
    for end in range(1, number + 1):
        for start in range(max(0, end - _LONGEST), end):
            length = end - start
            cost = _LENGTHS.get(length, _ODD_LENGTH if length % 4 else -0.5)
            score = best[start][0] + cost + (evidence[start] + _COST if start else 0.0)
            if score > best[end][0]:
                best[end] = (score, start)
    starts = []
    at = number
    while at > 0:
        at = best[at][1]
        starts.append(at)
    starts.reverse()
    return _named(row, starts)


def _begins(
    k: int,
    row: Sequence[str],
    bases: Sequence[str],
    bars: Sequence[Bar],
    often: Counter[str],
    first: dict[tuple[str, ...], int],
) -> float:
    """What speaks for a section beginning at a bar."""
    if k == 0:
        return 0.0
    score = 0.0
    before, after = Counter(bases[max(k - 3, 0) : k]), Counter(bases[k : k + 3])
    shared = sum((before & after).values()) / max(min(sum(before.values()), sum(after.values())), 1)
    score += _CHANGE * (1 - shared)
    if any(p == (0, "crash") for p, _ in bars[k].struck):
        score += _CRASH
    if _is_fill(bars[k - 1], row[k - 1], often):
        score += _FILL
    block = tuple(row[k : k + 4])
    if len(block) == 4 and first[block] <= k - 4:
        score += _AGAIN
    return score


def _is_fill(bar: Bar, name: str, often: Counter[str]) -> bool:
    """Whether a bar is a fill: toms in it, or a bar that hardly comes again."""
    toms = sum(n in _TOMS for (_, n), _ in bar.struck)
    return toms >= 2 or (often[name] <= max(1, often.total() // 16) and len(often) > 1)


_TOMS = of_kind("tom")


def _named(row: Sequence[str], starts: Sequence[int]) -> list[FoundSection]:
    """Stretches with names: those that play the same letters, fills and endings aside, have one."""
    out: list[FoundSection] = []
    known: dict[tuple[str, ...], str] = {}
    ends = [*starts[1:], len(row)]
    for start, end in zip(starts, ends, strict=True):
        letters = tuple(row[start:end])
        name = known.setdefault(letters, f"s{len(known) + 1}")
        out.append(FoundSection(name, start + 1, letters))
    return out
