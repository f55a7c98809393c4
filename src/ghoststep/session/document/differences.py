"""What changed between two grooves: hit by hit, and in words a drummer would use.

A difference is lossless: laid over the first groove it gives the second. For the words, a hit that is gone and one of
the same voice that came within half a bar are one hit that moved.
"""

from bisect import bisect_left, bisect_right
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, fields, replace
from fractions import Fraction

from ghoststep.judge.words import runs
from ghoststep.music.feel import Feel
from ghoststep.music.frame import Bars
from ghoststep.music.groove import Groove
from ghoststep.music.kit import STROKE_INDEX, STROKES, voice
from ghoststep.music.ornaments import ornament
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.spots import name_at
from ghoststep.music.time import TICKS_PER_WHOLE, TempoMap
from ghoststep.music.touch import Role

# How far apart two hits are as one and the same, None where they cannot be.
Measure = Callable[[Hit, Hit], int | None]
_TOGETHER = 3  # strokes that change alike are told as one change
_NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


@dataclass(frozen=True)
class Change:
    """A hit before and after; None for not there."""

    before: Hit | None
    after: Hit | None

    @property
    def place(self) -> int:
        hit = self.before or self.after
        assert hit is not None
        return hit.position_ticks


@dataclass(frozen=True)
class Difference:
    """All changes of hits, and what the whole became where that changed."""

    changes: tuple[Change, ...]
    frame: Pattern  # the second pattern without its hits
    feel: Feel
    tempo: TempoMap
    name: str

    def applied(self, groove: Groove) -> Groove:
        """The second groove, from the first one."""
        gone = [c.before for c in self.changes if c.before is not None]
        left = Counter(gone)
        hits = [h for h in groove.pattern.hits if not _took(left, h)]
        hits += [c.after for c in self.changes if c.after is not None]
        pattern = replace(self.frame, hits=tuple(hits))
        return Groove(pattern, self.feel, self.tempo, self.name)


def difference(first: Groove, second: Groove) -> Difference:
    """What has to be done to the first groove to get the second."""
    before, after = _without_equal(first.pattern.hits, second.pattern.hits)
    changes: list[Change] = []
    changes += _paired(before, after, _same_spot, 0)
    changes += _revoiced(before, after)
    for same, reach in ((_same_moment, 0), (_moved, first.pattern.meter.bar_ticks // 2)):
        changes += _paired(before, after, same, reach)
    changes += [Change(h, None) for h in before] + [Change(None, h) for h in after]
    changes.sort(key=lambda c: c.place)
    return Difference(tuple(changes), second.pattern.without_hits(), second.feel, second.tempo, second.name)


def _without_equal(first: tuple[Hit, ...], second: tuple[Hit, ...]) -> tuple[list[Hit], list[Hit]]:
    left, twice = Counter(second), Counter(first)
    before = [h for h in first if not _took(left, h)]
    return before, [h for h in second if not _took(twice, h)]


def _took(counts: Counter[Hit], h: Hit) -> bool:
    """Take one of a value away; False where none is left."""
    if counts[h] < 1:
        return False
    counts[h] -= 1
    return True


def _same_spot(a: Hit, b: Hit) -> int | None:
    return 0 if (a.position_ticks, a.voice, a.grace) == (b.position_ticks, b.voice, b.grace) else None


def _revoiced(before: list[Hit], after: list[Hit]) -> list[Change]:
    """Strokes that went to another voice together, all else the same: three of one voice to one other, or more."""

    def same(a: Hit, b: Hit) -> int | None:
        alike = (a.position_ticks, a.role, a.velocity, a.grace) == (b.position_ticks, b.role, b.velocity, b.grace)
        return 0 if alike and a.voice != b.voice else None

    mine, theirs = list(before), list(after)
    often = Counter((c.before.voice, c.after.voice) for c in _paired(mine, theirs, same, 0) if c.before and c.after)
    together = {pair for pair, count in often.items() if count >= _TOGETHER}
    if not together:
        return []
    return _paired(before, after, lambda a, b: same(a, b) if (a.voice, b.voice) in together else None, 0)


def _same_moment(a: Hit, b: Hit) -> int | None:
    same = a.position_ticks == b.position_ticks and a.grace == b.grace and voice(a.voice).group == voice(b.voice).group
    return 0 if same else None


def _moved(a: Hit, b: Hit) -> int | None:
    alike = (a.voice, a.role, a.grace) == (b.voice, b.role, b.grace)
    return abs(a.position_ticks - b.position_ticks) if alike else None


def _paired(before: list[Hit], after: list[Hit], same: Measure, reach: int) -> list[Change]:
    """Pairs of hits that are the same by some measure and no further apart than `reach` ticks, nearest first.

    They leave both lists, which are in the order of position.
    """
    at = [h.position_ticks for h in after]
    options = sorted(
        (away, i, j)
        for i, a in enumerate(before)
        for j in range(bisect_left(at, a.position_ticks - reach), bisect_right(at, a.position_ticks + reach))
        if (away := same(a, after[j])) is not None
    )
    used_a: set[int] = set()
    used_b: set[int] = set()
    out = []
    for _, i, j in options:
        if i not in used_a and j not in used_b:
            used_a.add(i)
            used_b.add(j)
            out.append(Change(before[i], after[j]))
    before[:] = [h for i, h in enumerate(before) if i not in used_a]
    after[:] = [h for j, h in enumerate(after) if j not in used_b]
    return out


# -- words ------------------------------------------------------------------------------------------------------


def words(first: Groove, second: Groove) -> list[str]:
    """The difference in sentences: the whole first, then bar by bar."""
    found = difference(first, second)
    out = _whole(first, second)
    rest = []
    for group in grouped(found.changes, first, second):
        if len(group) > 1 and _only_voice(group[0]):
            out.append(f"{_began(group_words(group, first, second))}.")
        else:
            rest += group
    rest.sort(key=lambda c: c.place)
    by_bar: dict[int, list[Change]] = {}
    for change in rest:
        by_bar.setdefault(first.pattern.frame.spot_at(change.place).bar, []).append(change)
    told: dict[str, list[int]] = {}  # what is said of a bar, and of which bars
    for bar, changes in sorted(by_bar.items()):
        for phrase in _bar_words(changes, first, second):
            told.setdefault(phrase, []).append(bar)
    together: dict[tuple[int, ...], list[str]] = {}
    for phrase, bars in told.items():
        together.setdefault(tuple(dict.fromkeys(bars)), []).append(phrase)
    out += [f"{_began(bars_words(bars))}: {'; '.join(phrases)}." for bars, phrases in sorted(together.items())]
    return out or ["No difference."]


def grouped(changes: Sequence[Change], first: Groove, second: Groove) -> list[list[Change]]:
    """Changes that are one: strokes that went to another voice together, and what is told alike of several bars."""
    groups: dict[object, list[Change]] = {}
    for change in changes:
        if _only_voice(change) and change.before and change.after:
            groups.setdefault((change.before.voice, change.after.voice), []).append(change)
        else:
            groups.setdefault(change_words(change, first, second), []).append(change)
    return list(groups.values())


def group_words(group: Sequence[Change], first: Groove, second: Groove) -> str:
    """Changes that are one, in words: "hat closed becomes ride (32 strokes)", "bars 1-4: kick on 3 gone"."""
    if len(group) > 1 and _only_voice(group[0]):
        return _voice_words(group, first)
    bars = sorted({first.pattern.frame.spot_at(c.place).bar for c in group})
    return f"{bars_words(bars)}: {change_words(group[0], first, second)}"


def bars_words(bars: Sequence[int]) -> str:
    """Bars by number: "bar 2", "bars 1-3, 5"."""
    return f"bar{'s' if len(bars) > 1 else ''} {runs(bars)}"


def _voice_words(group: Sequence[Change], first: Groove) -> str:
    hits = [c.before for c in group if c.before]
    old, new = hits[0].voice, next(c.after.voice for c in group if c.after)
    label, to = voice(old).label.lower(), voice(new).label.lower()
    same = [h for h in first.pattern.hits if h.voice == old]
    roles = {h.role for h in hits}
    if len(hits) == len(same):
        return f"{label} becomes {to} ({len(hits)} strokes)"
    if len(roles) == 1 and len(hits) == sum(h.role in roles for h in same):
        return f"{label} {next(iter(roles)).value}s become {to} ({len(hits)} strokes)"
    bars = sorted({first.pattern.frame.spot_at(h.position_ticks).bar for h in hits})
    return f"{len(hits)} of {len(same)} strokes of {label} become {to}, in {bars_words(bars)}"


def _only_voice(change: Change) -> bool:
    a, b = change.before, change.after
    return a is not None and b is not None and a.voice != b.voice and _written(replace(a, voice=b.voice)) == _written(b)


def _written(h: Hit) -> Hit:
    return replace(h, key=0, origin=None)


def _began(text: str) -> str:
    return text[:1].upper() + text[1:]


def _whole(first: Groove, second: Groove) -> list[str]:
    out = []
    a, b = first.pattern, second.pattern
    if a.meter != b.meter:
        out.append(f"Meter: {a.meter.full_name} becomes {b.meter.full_name}.")
    if a.meter_changes != b.meter_changes:
        out.append("The meter changes in other bars.")
    if a.bars != b.bars:
        out.append(f"Length: {a.bars} bar{'s' * (a.bars != 1)} become {b.bars}.")
    if f"{first.tempo.main_bpm:.1f}" != f"{second.tempo.main_bpm:.1f}":
        out.append(f"Tempo: {first.tempo.main_bpm:.1f} becomes {second.tempo.main_bpm:.1f} BPM.")
    elif first.tempo != second.tempo:
        out.append("The tempo changes otherwise along the way.")
    if first.feel.swing != second.feel.swing:
        out.append(f"Swing: {_swing(first.feel)} becomes {_swing(second.feel)}.")
    for name in sorted({*a.voices, *b.voices}):
        one, two = first.feel.lean_of(name), second.feel.lean_of(name)
        if abs(one - two) >= 0.05:
            out.append(f"Lean of {voice(name).label.lower()}: {one:+.1f} becomes {two:+.1f} ms.")
    if first.feel.balance_db != second.feel.balance_db:
        out.append(f"Balance: {_balance(first.feel)} becomes {_balance(second.feel)}.")
    if (a.grid, a.lane_grids, a.passages) != (b.grid, b.lane_grids, b.passages):
        out.append("The grid is another one.")
    if a.rules != b.rules:
        out.append("Levels of roles, repeating lanes or what rings over the loop point are set otherwise.")
    if (first.feel.loose_ms, first.feel.take) != (second.feel.loose_ms, second.feel.take):
        out.append(f"Looseness: {first.feel.loose_ms:.1f} becomes {second.feel.loose_ms:.1f} ms.")
    return out


def _balance(feel: Feel) -> str:
    return ", ".join(f"{group} {db:+.1f} dB" for group, db in feel.balance_db.items()) or "as played"


def _swing(feel: Feel) -> str:
    return "straight" if feel.swing.straight else f"{100 * feel.swing.ratio:.1f} % of {feel.swing.unit}ths"


def _bar_words(changes: list[Change], first: Groove, second: Groove) -> list[str]:
    single = [c for c in changes if c.before and c.after]
    gone = [c.before for c in changes if c.before and not c.after]
    new = [c.after for c in changes if c.after and not c.before]
    out = [_changed(c.before, c.after, first.pattern.frame) for c in single if c.before and c.after]
    return out + _listed(gone, "gone", first.pattern.frame) + _listed(new, "added", second.pattern.frame)


def change_words(change: Change, first: Groove, second: Groove) -> str:
    """One change in words: "kick on 3 gone", "ghost on 2a moves to 2e"."""
    return _bar_words([change], first, second)[0]


def _listed(hits: Iterable[Hit], what: str, bars: Bars) -> list[str]:
    """ "kick on 3 gone", "two ghosts added (2a, 4e)"."""
    groups: dict[str, list[Hit]] = {}
    for h in hits:
        groups.setdefault(_kind(h), []).append(h)
    out = []
    for kind, found in groups.items():
        spots = [_spot(h, bars) for h in found]
        if len(found) == 1:
            out.append(f"{kind} on {spots[0]} {what}")
        else:
            number = _NUMBERS[len(found)] if len(found) < len(_NUMBERS) else str(len(found))
            out.append(f"{number} {_plural(kind)} {what} ({', '.join(spots)})")
    return out


def _plural(kind: str) -> str:
    return kind + ("es" if kind.endswith(("sh", "s")) else "s")


def _kind(h: Hit) -> str:
    label = voice(h.voice).label.lower()
    if h.grace:
        return "grace note"
    return "ghost" if h.role is Role.GHOST and voice(h.voice).group == "snare" else label


def _spot(h: Hit, bars: Bars) -> str:
    return name_at(h.position_ticks, bars)


def _changed(a: Hit, b: Hit, bars: Bars) -> str:
    """What became of one hit."""
    name = f"{_kind(a)} on {_spot(a, bars)}"
    parts = []
    if a.voice != b.voice:
        parts.append(f"becomes {voice(b.voice).label.lower()}")
    if a.position_ticks != b.position_ticks:
        bar_a, bar_b = (bars.spot_at(h.position_ticks).bar for h in (a, b))
        parts.append(f"moves to {_spot(b, bars)}" + (f" of bar {bar_b}" if bar_a != bar_b else ""))
    if a.role is not b.role:
        parts.append(f"is {_article(b.role)}")
    if a.velocity != b.velocity:
        parts.append(f"{a.velocity} → {b.velocity}")
    if a.stroke != b.stroke:
        parts.append(f"is played {STROKES[STROKE_INDEX[b.stroke]].label}")
    if a.ornament != b.ornament:
        parts.append(
            f"gets a {ornament(b.ornament).label}" if b.ornament else f"loses its {ornament(a.ornament).label}"
        )
    if a.length_ticks != b.length_ticks:
        share = Fraction(b.length_ticks, TICKS_PER_WHOLE)
        parts.append(f"lasts {share} of a whole note" if b.length_ticks else "rings on")
    if a.limb_letter != b.limb_letter:
        parts.append(f"by {b.limb_letter} instead of {a.limb_letter}")
    if abs(a.offset_ms - b.offset_ms) >= 0.05:
        parts.append(f"{abs(b.offset_ms - a.offset_ms):.1f} ms {'later' if b.offset_ms > a.offset_ms else 'earlier'}")
    if a.fixed is not b.fixed:
        parts.append("is played as written" if b.fixed else "follows the feel again")
    known = {
        "fixed",
        "position_ticks",
        "voice",
        "velocity",
        "role",
        "stroke",
        "limb",
        "offset_ms",
        "ornament",
        "length_ticks",
    }
    if not parts and any(getattr(a, f.name) != getattr(b, f.name) for f in fields(Hit) if f.name not in known):
        parts.append("has another origin")
    return f"{name} {', '.join(parts) or 'changes a little'}"


def _article(role: Role) -> str:
    return {Role.GHOST: "a ghost", Role.ACCENT: "an accent", Role.NORMAL: "a normal stroke"}[role]
