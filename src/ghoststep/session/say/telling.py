"""A groove told in the sentences in which it could be asked for.

Each sentence is said to an empty groove of the same bars, meters and tempo as soon as it is made, and only stays where
it comes to just what it tells: so what is told is true, and said again it gives the groove back. What no sentence comes
to is told as what could not be said.
"""

from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from math import gcd
from typing import Any

from ghoststep.music.feel import Feel
from ghoststep.music.form import Form
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANES, voice
from ghoststep.music.ornaments import ornament
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.time import TICKS_PER_WHOLE
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.say.selecting import plain_name
from ghoststep.session.say.understanding import understood
from ghoststep.session.words import count

_NAMES = {
    "hat_closed": "hat", "hat_half": "half open hat", "hat_open": "open hat", "hat_pedal": "foot hat",
    "tom_high": "high tom", "tom_mid": "mid tom", "tom_low": "low tom", "tom_floor": "floor tom",
    "cross_stick": "cross stick", "ride_bell": "ride bell", "crash_left": "left crash",
}  # fmt: skip
_ROLES = {Role.NORMAL: "", Role.GHOST: " ghosts", Role.ACCENT: " accents"}
_STROKES = {
    "rim": "rim shot", "buzz": "buzz", "edge": "edge", "shoulder": "shoulder", "brush": "brush",
    "tip": "tip", "splash": "foot splash",
}  # fmt: skip
_ORNAMENTS = {
    "flam": "flam", "drag": "drag", "ruff": "ruff", "double": "double stroke", "roll5": "five stroke roll",
    "roll6": "six stroke roll", "roll7": "seven stroke roll", "roll": "roll", "press": "press roll",
}  # fmt: skip
_NOTES = {8: "in eighths", 16: "in sixteenths", 12: "in triplets", 32: "in 32nds"}
_BARS_AT_ONCE = 8  # a longer groove is told by its different bars, and which are like them
_SAME_MS = 0.05

Places = dict[int, frozenset[int]]  # by bar, ticks from its line


@dataclass
class _Teller:
    """What was told so far, and what it comes to."""

    wanted: Groove
    context: EditContext
    told: list[str] = field(default_factory=list)
    untold: list[str] = field(default_factory=list)

    @property
    def pattern(self) -> Pattern:
        return self.wanted.pattern

    def try_all(self, options: Iterable[Sequence[str]], good: set[tuple[object, ...]]) -> bool:
        """Tell the first of some ways to say it (each some clauses) that comes to just these strokes."""
        for clauses in options:
            after = _said(self.context, clauses)
            if after is not None and strokes_told(after.document.groove) == good:
                self.context = after
                self.told.append(_sentence(clauses))
                return True
        return False


def told(groove: Groove, only: Collection[int] = ()) -> list[str]:
    """Sentences of the whole groove, or of some bars: its length, each voice, how strokes are struck, when they come;
    and at the end, as one sentence, how many strokes hold something that no sentence says."""
    if only:
        frame = groove.pattern.frame
        groove = groove.changed(
            hits=tuple(h for h in groove.pattern.hits if frame.spot_at(h.position_ticks).bar in only)
        )
    bare = groove.changed(hits=(), feel=Feel(), name="")
    teller = _Teller(groove, EditContext(opened(Document("", bare))))
    head = f"{count(groove.pattern.bars, 'bar')} of {groove.pattern.meter} at {groove.tempo.main_bpm:g} BPM."
    bars = _different_bars(groove.pattern)
    _voices(teller, bars)
    _struck(teller, bars)
    _early_and_late(teller, bars)
    _likenesses(teller, bars)
    _feel(teller)
    left = strokes_told(groove) - strokes_told(teller.context.document.groove)
    if left:
        teller.untold.append(f"{count(len(left), 'stroke')} could not be told in words.")
    if not groove.pattern.hits:
        teller.untold.append("Nothing is struck.")
    return [head, *teller.told, *teller.untold]


def form_told(form: Form | None) -> list[str]:
    """The order of the sections in one sentence; nothing where there is no form."""
    return [f"Form: {', '.join(s.name for s in form.played)}."] if form is not None else []


def said_again(groove: Groove, sentences: Sequence[str]) -> Groove:
    """What sentences come to on an empty groove of the same length, meters and tempo; the first of them tells these."""
    context = EditContext(opened(Document("", groove.changed(hits=(), feel=Feel(), name=""))))
    for sentence in sentences[1:]:
        found = understood(context, sentence)
        if found.sure:
            context = replace(found.tried[0].context, chosen=frozenset())
    return context.document.groove


def _sentence(clauses: Sequence[str]) -> str:
    text = "; ".join(clauses)
    return f"{text[:1].upper()}{text[1:]}."


def _said(context: EditContext, clauses: Sequence[str]) -> EditContext | None:
    """What one sentence leads to; None where it is not understood for sure."""
    found = understood(context, _sentence(clauses))
    return replace(found.tried[0].context, chosen=frozenset()) if found.sure else None


def _stroke(h: Hit) -> tuple[object, ...]:
    """What is told of a hit; its time to a tenth of a ms."""
    return h.position_ticks, h.voice, h.role, h.ornament, h.stroke, h.length_ticks, round(h.offset_ms, 1), h.grace


def strokes_told(groove: Groove) -> set[tuple[object, ...]]:
    """All that is told of the strokes of a groove."""
    return {_stroke(h) for h in groove.pattern.hits}


# -- bars that are alike -----------------------------------------------------------------------------------------------


def _different_bars(pattern: Pattern) -> list[int]:
    """The bars that are told one by one: all of a short groove, of a long one the first of each kind."""
    if pattern.bars <= _BARS_AT_ONCE:
        return list(range(1, pattern.bars + 1))
    seen: dict[object, int] = {}
    for bar in range(1, pattern.bars + 1):
        seen.setdefault(_bar_key(pattern, bar), bar)
    return sorted(seen.values())


def _bar_key(pattern: Pattern, bar: int) -> object:
    start, end = pattern.frame.start_of(bar), pattern.frame.start_of(bar + 1)
    hits = tuple(
        (pattern.hits[i].position_ticks - start, *_stroke(pattern.hits[i])[1:]) for i in pattern.between(start, end)
    )
    return str(pattern.frame.meter_of(bar)), hits


def _likenesses(teller: _Teller, bars: list[int]) -> None:
    """Which bars are like those that were told, rows of them in one sentence."""
    pattern = teller.pattern
    if len(bars) == pattern.bars:
        return
    first = {_bar_key(pattern, b): b for b in bars}
    pairs = [(b, first[_bar_key(pattern, b)]) for b in range(1, pattern.bars + 1) if b not in set(bars)]
    pairs = [(b, like) for b, like in pairs if _bar_key(pattern, b)[1]]  # type: ignore[index]
    while pairs:
        run = _cycle(pairs)
        size = len({like for _, like in run})
        goal, source = _range(run[0][0], run[-1][0]), _range(run[0][1], run[0][1] + size - 1)
        sentence = f"bar{'s' if len(run) > 1 else ''} {goal} like bar{'s' if size > 1 else ''} {source}"
        pairs = pairs[len(run) :]
        after = _said(teller.context, [sentence])
        if after is not None:
            teller.context = after
            teller.told.append(_sentence([sentence]))


def _cycle(pairs: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Bars from the first on that are like a row of others, or like it again and again."""
    size = 1
    while size < len(pairs) and pairs[size] == (pairs[size - 1][0] + 1, pairs[size - 1][1] + 1):
        size += 1
    end = size
    while end < len(pairs) and pairs[end] == (pairs[end - 1][0] + 1, pairs[end - size][1]):
        end += 1
    return pairs[:end]


def _range(first: int, last: int) -> str:
    return f"{first}" if first == last else f"{first}-{last}"


# -- where voices strike -----------------------------------------------------------------------------------------------


def _voices(teller: _Teller, bars: list[int]) -> None:
    """Each voice from the top of the kit, its accents, plain strokes and ghosts."""
    wanted = set(bars)
    for lane in LANES:
        for name in lane.voices:
            for role in (Role.NORMAL, Role.ACCENT, Role.GHOST):
                hits = [
                    h
                    for h in teller.pattern.hits
                    if h.voice == name and h.role is role and not h.grace and _bar(teller.pattern, h) in wanted
                ]
                if hits:
                    _placed(teller, f"{_NAMES.get(name, voice(name).label.lower())}{_ROLES[role]}", hits, bars)


def _bar(pattern: Pattern, h: Hit) -> int:
    return pattern.frame.spot_at(h.position_ticks).bar


def _plain(h: Hit) -> tuple[object, ...]:
    return _stroke(replace(h, ornament="", stroke="plain", length_ticks=0, offset_ms=0.0))


def _placed(teller: _Teller, name: str, hits: Sequence[Hit], bars: list[int]) -> None:
    places = _places(teller.pattern, hits)
    good = strokes_told(teller.context.document.groove) | {_plain(h) for h in hits}
    options = sorted(_ways(teller.pattern, name, places, bars), key=lambda o: sum(map(len, o)))
    if not teller.try_all(options, good):
        for bar, ticks in places.items():  # one bar after the other: the longest way, and the plainest
            here = {_plain(h) for h in hits if _bar(teller.pattern, h) == bar}
            one = [f"{name} on {_listed(ticks, teller.pattern, bar)}{_in_bars(teller.pattern, [bar])}"]
            teller.try_all([one], strokes_told(teller.context.document.groove) | here)


def _places(pattern: Pattern, hits: Sequence[Hit]) -> Places:
    out: dict[int, set[int]] = {}
    for h in hits:
        spot = pattern.frame.spot_at(h.position_ticks)
        out.setdefault(spot.bar, set()).add(spot.tick)
    return {bar: frozenset(ticks) for bar, ticks in out.items()}


def _ways(pattern: Pattern, name: str, places: Places, bars: list[int]) -> Iterator[list[str]]:
    """Ways to say where a voice strikes: in sets of bars that are alike; what all have, and what some have besides."""
    sets = _alike(pattern, places)
    for words in (_rule, _spelled):
        yield [f"{name} {words(ticks, pattern, some[0])}{_in_bars(pattern, some)}" for ticks, some in sets]
    everywhere = len(places) == pattern.bars and pattern.bars > 1 and not pattern.meter_changes
    common = frozenset.intersection(*places.values()) if everywhere else frozenset()
    if common and len(sets) > 1:
        rest = {bar: ticks - common for bar, ticks in places.items() if ticks - common}
        base = f"{name} {_rule(common, pattern, bars[0])}"
        yield [
            base,
            *(f"{name} {_spelled(t, pattern, some[0])}{_in_bars(pattern, some)}" for t, some in _alike(pattern, rest)),
        ]


def _alike(pattern: Pattern, places: Places) -> list[tuple[frozenset[int], list[int]]]:
    sets: dict[tuple[frozenset[int], str], list[int]] = {}
    for bar, ticks in places.items():
        sets.setdefault((ticks, str(pattern.frame.meter_of(bar))), []).append(bar)
    return [(ticks, some) for (ticks, _), some in sets.items()]


def _in_bars(pattern: Pattern, bars: Sequence[int]) -> str:
    """ " in bars 1, 3 and 5-8"; nothing where all of them are meant."""
    if len(bars) == pattern.bars:
        return ""
    runs: list[list[int]] = []
    for b in sorted(bars):
        if runs and b == runs[-1][-1] + 1:
            runs[-1].append(b)
        else:
            runs.append([b])
    parts = [p for run in runs for p in ([_range(run[0], run[-1])] if len(run) > 2 else map(str, run))]
    return f" in bar{'s' if len(bars) > 1 else ''} {_and(parts)}"


def _and(parts: Sequence[str]) -> str:
    return " and ".join([", ".join(parts[:-1]), parts[-1]] if len(parts) > 1 else parts)


def _listed(ticks: Iterable[int], pattern: Pattern, bar: int) -> str:
    meter = pattern.frame.meter_of(bar)
    return _and([plain_name(t, meter, pattern.grid) for t in sorted(ticks)])


def _spelled(ticks: frozenset[int], pattern: Pattern, bar: int) -> str:
    return f"on {_listed(ticks, pattern, bar)}"


def _rule(ticks: frozenset[int], pattern: Pattern, bar: int) -> str:
    """The shortest words for places of a bar: a note value, every beat or &, else their counts."""
    meter = pattern.frame.meter_of(bar)
    unit, length = meter.unit_ticks, meter.bar_ticks
    if ticks == set(range(0, length, unit)) and len(ticks) > 2:
        return "on every beat"
    if ticks == set(range(unit // 2, length, unit)) and len(ticks) > 2:
        return "on every &"
    for note, words in _NOTES.items():
        if ticks == set(range(0, length, TICKS_PER_WHOLE // note)) and len(ticks) > 2:
            return words
    return _spelled(ticks, pattern, bar)


# -- how and when ------------------------------------------------------------------------------------------------------


def _struck(teller: _Teller, bars: list[int]) -> None:
    """Ornaments and strokes other than the plain one, and what is stopped."""
    for kind, names in (("ornament", _ORNAMENTS), ("stroke", _STROKES)):
        usual = "" if kind == "ornament" else "plain"
        for value in dict.fromkeys(getattr(h, kind) for h in teller.pattern.hits):
            if value != usual:
                word = names.get(value, ornament(value).label if kind == "ornament" else value)
                hits = [h for h in teller.pattern.hits if getattr(h, kind) == value]
                _changed(teller, hits, bars, {kind: value}, f"{word} on the {{}}".format)
    for length in sorted({h.length_ticks for h in teller.pattern.hits if h.length_ticks}):
        hits = [h for h in teller.pattern.hits if h.length_ticks == length]
        share = f"{length // _common(length)}/{TICKS_PER_WHOLE // _common(length)}"
        _changed(teller, hits, bars, {"length_ticks": length}, f"lasts {share}: {{}}".format)


def _common(length: int) -> int:
    return gcd(length, TICKS_PER_WHOLE)


def _early_and_late(teller: _Teller, bars: list[int]) -> None:
    """Strokes that stray from their spots by themselves."""
    for ms in sorted({round(h.offset_ms, 1) for h in teller.pattern.hits if abs(h.offset_ms) >= _SAME_MS}):
        hits = [h for h in teller.pattern.hits if round(h.offset_ms, 1) == ms]
        way = f"{abs(ms):g} ms {'late' if ms > 0 else 'early'}"
        _changed(teller, hits, bars, {"offset_ms": ms}, f"{way}: {{}}".format)


def _changed(
    teller: _Teller, hits: Sequence[Hit], bars: list[int], changes: dict[str, Any], words: Callable[[str], str]
) -> None:
    """Tell what some strokes have besides, voice by voice."""
    pattern = teller.pattern
    inside = [h for h in hits if _bar(pattern, h) in set(bars) and not h.grace]
    for drum in dict.fromkeys(h.voice for h in inside):
        mine = [h for h in inside if h.voice == drum]
        keys = {(h.position_ticks, h.voice) for h in mine}
        now = teller.context.document.groove.pattern.hits
        good = {_stroke(replace(h, **changes)) if (h.position_ticks, h.voice) in keys else _stroke(h) for h in now}
        label = words(_NAMES.get(drum, voice(drum).label.lower()))
        places = _places(pattern, mine)
        clauses = [
            f"{label} {_spelled(t, pattern, some[0])}{_in_bars(pattern, some)}" for t, some in _alike(pattern, places)
        ]
        if teller.try_all([clauses], good):
            continue
        for clause in clauses:
            after = _said(teller.context, [clause])
            if after is not None and strokes_told(after.document.groove) <= good | strokes_told(
                teller.context.document.groove
            ):
                teller.context = after
                teller.told.append(_sentence([clause]))


def _feel(teller: _Teller) -> None:
    """Swing and leans, which belong to the playing and not to the pattern."""
    feel = teller.wanted.feel
    wanted: list[str] = []
    if not feel.swing.straight:
        unit = "eighths" if feel.swing.unit == 8 else "sixteenths"
        wanted.append(f"{unit} swung {100 * feel.swing.ratio:g} percent")
    for ms in sorted(set(feel.lean_ms.values())):
        voices = [v for v in teller.pattern.voices if feel.lean_ms.get(v) == ms]
        names = [_NAMES.get(v, voice(v).label.lower()) for v in voices]
        if names:
            wanted.append(f"{_and(names)} {abs(ms):g} ms {'late' if ms > 0 else 'early'}")
    for clause in wanted:
        after = _said(teller.context, [clause])
        if after is not None:
            teller.context = after
            teller.told.append(_sentence([clause]))
