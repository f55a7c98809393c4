"""A groove in sentences a drummer would use, each a test on the pattern and so true by construction.

For every voice the shortest of the sentences that hold is taken: a rule for all bars ("on every eighth"), a rule with
exceptions, a run that goes over the bar lines ("every third sixteenth"), the same places in every bar, or bar by bar.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from ghoststep.judge.words import began, plain, runs
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANES, STROKE_INDEX, STROKES, voice
from ghoststep.music.ornaments import ornament
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.spots import count_name
from ghoststep.music.time import TICKS_PER_QUARTER, TICKS_PER_WHOLE
from ghoststep.music.touch import Role

_MOST_EXCEPTIONS = 3
_LISTED = 6  # by so many letters a rule may be longer than a list of places
_ORDINALS = {3: "third", 5: "fifth", 7: "seventh", 9: "ninth"}
_BEATS = (("on 1", (1,)), ("on 2", (2,)), ("on 1 and 3", (1, 3)), ("on 2 and 4", (2, 4)), ("on 3", (3,)))
_RUNNING = (8, 16, 12, 24, 32)
_NOTES = {8: "eighth", 16: "sixteenth", 32: "32nd", 12: "triplet eighth", 24: "triplet sixteenth"}


@dataclass(frozen=True)
class Sentence:
    """What is said, and the test that makes it true."""

    words: str
    holds: Callable[[Pattern], bool]


@dataclass(frozen=True)
class _Bar:
    number: int
    start: int
    places: frozenset[int]  # where the voice strikes, from the bar line


def described(groove: Groove) -> list[Sentence]:
    """Sentences that are true of a groove, of the whole first and then of each lane from the top of the kit."""
    pattern = groove.pattern
    if not pattern.hits:
        return [Sentence("Nothing is struck.", lambda p: not p.hits)]
    out = [*_whole(pattern)]
    for lane in LANES:
        for name in lane.voices:
            if name in pattern.voices:
                out += [*_of_voice(pattern, name), *_struck(pattern, name)]
    out += _pauses(pattern)
    out += _backbeats(pattern)
    return [s for s in out if s.holds(pattern)]


# -- of the whole -------------------------------------------------------------------------------------------------


def _linear(pattern: Pattern) -> bool:
    ticks = [h.position_ticks for h in pattern.hits if not h.grace]
    return len(ticks) == len(set(ticks)) and len(ticks) > 1


def _whole(pattern: Pattern) -> list[Sentence]:
    out = []
    if _linear(pattern) and len(pattern.voices) > 1:
        out.append(Sentence("Linear: no two limbs strike together.", _linear))
    return out


Which = Callable[[Hit], bool]


def _every(_hit: Hit) -> bool:
    return True


def _of_role(role: Role) -> Which:
    return lambda h: h.role is role


def _bars(pattern: Pattern, name: str, which: Which = _every) -> list[_Bar]:
    out = []
    for number, start, meter in pattern.frame.between(0, pattern.length_ticks):
        hits = [pattern.hits[i] for i in pattern.between(start, start + meter.bar_ticks)]
        places = {h.position_ticks - start for h in hits if h.voice == name and not h.grace and which(h)}
        out.append(_Bar(number, start, frozenset(places)))
    return out


# -- rules for every bar ------------------------------------------------------------------------------------------


def _rules(pattern: Pattern) -> list[tuple[str, Callable[[Pattern, _Bar], frozenset[int]]]]:
    """Words and the places they stand for in a bar, the shortest words first."""

    def steps(unit: int, first: int = 0, every: int = 1) -> Callable[[Pattern, _Bar], frozenset[int]]:
        def places(p: Pattern, bar: _Bar) -> frozenset[int]:
            length = p.frame.length_of(bar.number)
            return frozenset(range(first, length, unit * every))

        return places

    def beats(wanted: Callable[[int], bool]) -> Callable[[Pattern, _Bar], frozenset[int]]:
        def places(p: Pattern, bar: _Bar) -> frozenset[int]:
            meter = p.frame.meter_of(bar.number)
            row = range(0, meter.bar_ticks, meter.unit_ticks)
            return frozenset(t for k, t in enumerate(row, 1) if wanted(k))

        return places

    unit = pattern.meter.unit_ticks
    whole = TICKS_PER_WHOLE
    least = min(m.numerator for m in (pattern.meter, *(m for _, m in pattern.meter_changes)))  # beats of every bar
    # "On 2" is said where there is no 4 to say with it.
    known = [(words, named) for words, named in _BEATS if named[-1] <= least and (named != (2,) or least < 4)]
    return [
        *((words, beats(named.__contains__)) for words, named in known),
        *([("on every beat", beats(lambda k: True))] if unit != whole // 8 else []),
        ("on every &", steps(unit, unit // 2)),
        *((f"on every {_NOTES[n]}", steps(whole // n)) for n in (8, 16, 12, 32, 24)),
        ("on e and a of every beat", lambda p, b: _of_beats(p, b, (1, 3))),
        ("on every beat and its a", lambda p, b: _of_beats(p, b, (0, 3))),
        ("on every beat, & and a", lambda p, b: _of_beats(p, b, (0, 2, 3))),
        ("on every beat, e and &", lambda p, b: _of_beats(p, b, (0, 1, 2))),
        ("on every beat and its last triplet", lambda p, b: _of_beats(p, b, (0, 2), 3)),
    ]  # fmt: skip


def _of_beats(p: Pattern, bar: _Bar, quarters: Iterable[int], parts: int = 4) -> frozenset[int]:
    meter = p.frame.meter_of(bar.number)
    row = range(0, meter.bar_ticks, meter.unit_ticks)
    return frozenset(t + q * meter.unit_ticks // parts for t in row for q in quarters)


def _of_voice(pattern: Pattern, name: str) -> list[Sentence]:
    """The shortest sentence of where a voice is struck, for each of its roles where it has several."""
    label = began(plain(name))
    roles = {h.role for h in pattern.hits if h.voice == name and not h.grace}
    if len(roles) < 2:
        return [_placed(pattern, name, label)]
    order = [r for r in (Role.ACCENT, Role.NORMAL, Role.GHOST) if r in roles]
    words = {Role.ACCENT: f"{label} accents", Role.NORMAL: label, Role.GHOST: f"{label} ghosts"}
    together = [_placed(pattern, name, label)] if _is_rule(pattern, name) else []
    return together + [
        _placed(pattern, name, words[r], _of_role(r)) for r in order if not (together and r is Role.NORMAL)
    ]


def _struck(pattern: Pattern, name: str) -> list[Sentence]:
    """How single strokes of a voice are struck: ornaments, grace notes, other strokes than the plain one, closings."""
    hits = [h for h in pattern.hits if h.voice == name and not h.grace]
    drum = f"the {plain(name)}"
    led = {h.position_ticks for h in pattern.hits if h.voice == name and h.grace}
    out: list[Sentence] = []
    for told in dict.fromkeys(h.ornament for h in hits if h.ornament):
        label = f"A {ornament(told).label} on {drum}"
        out.append(_placed(pattern, name, label, lambda h, told=told: h.ornament == told))  # type: ignore[misc]
    if led:
        out.append(_placed(pattern, name, f"A grace note leads to {drum}", lambda h: h.position_ticks in led))
    for stroke in dict.fromkeys(h.stroke for h in hits if h.stroke != "plain"):
        label = f"{began(STROKES[STROKE_INDEX[stroke]].label)} of {drum}"
        out.append(_placed(pattern, name, label, lambda h, stroke=stroke: h.stroke == stroke))  # type: ignore[misc]
    for length in dict.fromkeys(h.length_ticks for h in hits if h.length_ticks and not h.ornament):
        share = Fraction(length, TICKS_PER_WHOLE)
        label = f"{began(drum)} is stopped after {share.numerator}/{share.denominator}"
        out.append(_placed(pattern, name, label, lambda h, length=length: h.length_ticks == length))  # type: ignore[misc]
    return out


def _is_rule(pattern: Pattern, name: str) -> bool:
    """Whether a voice as a whole keeps to a rule, whatever its roles."""
    return bool(_ruled(pattern, _bars(pattern, name)))


def _placed(pattern: Pattern, name: str, label: str, which: Which = _every) -> Sentence:
    bars = _bars(pattern, name, which)
    options = [*_ruled(pattern, bars), *_running(pattern, bars), *_listed(pattern, bars)]
    words, expected = min(options, key=lambda o: len(o[0]) + (_LISTED if o[0].startswith("at ") else 0))
    keyed = {b.number: expected[b.number] for b in bars}

    def holds(p: Pattern) -> bool:
        now = {b.number: b.places for b in _bars(p, name, which)}
        return now == keyed

    return Sentence(f"{label} {words}.", holds)


_Option = tuple[str, dict[int, frozenset[int]]]


def _ruled(pattern: Pattern, bars: Sequence[_Bar]) -> list[_Option]:
    """Rules that hold in every bar but for a few exceptions, which are told."""
    out: list[_Option] = []
    for words, places in _rules(pattern):
        expected = {b.number: places(pattern, b) for b in bars}
        if not any(expected.values()):
            continue
        gone = [(b, t) for b in bars for t in sorted(expected[b.number] - b.places)]
        more = [(b, t) for b in bars for t in sorted(b.places - expected[b.number])]
        if len(gone) + len(more) > _MOST_EXCEPTIONS or len(gone) * 2 > sum(map(len, expected.values())):
            continue
        told = words
        if gone:
            told += f", but not at {_spots(pattern, gone)}"
        if more:
            told += f", and at {_spots(pattern, more)}"
        out.append((told, {b.number: b.places for b in bars}))
    return out


def _spots(pattern: Pattern, places: Sequence[tuple[_Bar, int]]) -> str:
    """Places in words: "4 in bar 2", with the bar left out where there is only one."""
    one = pattern.bars == 1
    names = [(count_name(t, pattern.frame.meter_of(b.number)), b.number) for b, t in places]
    return " and ".join(n if one else f"{n} in bar {bar}" for n, bar in names)


def _running(pattern: Pattern, bars: Sequence[_Bar]) -> list[_Option]:
    """Every third, fifth ... step over the bar lines: "every third sixteenth, starting anew in bar 5"."""
    ticks = [b.start + t for b in bars for t in sorted(b.places)]
    out: list[_Option] = []
    if len(ticks) < 4:
        return out
    for grid in _RUNNING:
        note = _NOTES[grid]
        unit = TICKS_PER_WHOLE // grid
        step = ticks[1] - ticks[0]
        if step % unit or step // unit not in _ORDINALS or not (step // unit) % 2:
            continue
        starts = _anew(ticks, step, {b.start for b in bars}, bars, pattern.length_ticks)
        if starts is None:
            continue
        words = f"every {_ORDINALS[step // unit]} {note}"
        first = ticks[0] - bars[0].start
        if ticks[0] != 0:
            words += f" from {count_name(first, pattern.meter)} on"
        if starts:
            words += f", starting anew in bar{'s' if len(starts) > 1 else ''} {', '.join(str(b) for b in starts)}"
        out.append((words, {b.number: b.places for b in bars}))
        break
    return out


def _anew(ticks: Sequence[int], step: int, lines: set[int], bars: Sequence[_Bar], end: int) -> list[int] | None:
    """Bars in which a run of one step begins again on the bar line; None where the strokes are no such run."""
    starts = []
    number = {b.start: b.number for b in bars}
    for a, b in pairwise(ticks):
        if b - a == step:
            continue
        if b - a > step or b not in lines:
            return None
        starts.append(number[b])
    return starts if end - ticks[-1] <= step else None


def _listed(pattern: Pattern, bars: Sequence[_Bar]) -> list[_Option]:
    """The same places in every bar, in sets of bars, or bar by bar."""
    sets: dict[tuple[frozenset[int], str], list[int]] = {}
    for b in bars:
        sets.setdefault((b.places, str(pattern.frame.meter_of(b.number))), []).append(b.number)
    parts = []
    for (places, _), numbers in sets.items():
        if not places and len(sets) > 1:
            continue
        meter = pattern.frame.meter_of(numbers[0])
        bar = next(b for b in bars if b.number == numbers[0])
        names = f"at {', '.join(count_name(t, meter) for t in sorted(places))}" if places else "nowhere"
        rules = [words for words, rule in _rules(pattern) if places and rule(pattern, bar) == places]
        names = min([*rules, names], key=lambda w: len(w) + (_LISTED if w.startswith("at ") else 0))
        where = "" if len(sets) == 1 else f" in bar{'s' if len(numbers) > 1 else ''} {runs(numbers)}"
        parts.append(names + where)
    return [("; ".join(parts), {b.number: b.places for b in bars})]


# -- how voices answer each other ---------------------------------------------------------------------------------


def _pauses(pattern: Pattern) -> list[Sentence]:
    """Time that pauses where a crash is struck."""
    out = []
    for keeper in ("hat", "ride"):

        def holds(p: Pattern, keeper: str = keeper) -> bool:
            crash = {h.position_ticks for h in p.hits if h.voice.startswith("crash")}
            time = {h.position_ticks for h in p.hits if h.voice.startswith(keeper) and h.voice != "hat_pedal"}
            return bool(crash) and len(time) > 2 and not crash & time

        if holds(pattern):
            out.append(Sentence(f"{'Hats pause' if keeper == 'hat' else 'Ride pauses'} at the crash.", holds))
    return out  # fmt: skip


def _backbeats(pattern: Pattern) -> list[Sentence]:
    """Backbeats that are pushed or late in single bars, where the others have them on 2 and 4."""
    if pattern.meter.denominator != 4 or pattern.meter_changes or pattern.bars < 2:
        return []
    loud = {b.number: b for b in _bars_of_loud(pattern)}
    unit = pattern.meter.unit_ticks
    usual = [t for t in (unit, 3 * unit) if t < pattern.meter.bar_ticks]
    out = []
    for beat, t in enumerate(usual):
        away = [b for b in loud.values() if t not in b.places]
        if 2 * len(away) >= len(loud):
            continue
        for b in away:
            for moved, words in _MOVES:
                if t + moved in b.places and all(t + moved not in o.places for o in loud.values() if o not in away):
                    out.append(_moved_backbeat(b.number, 2 + 2 * beat, t, moved, words))
                    break
    return out


_EIGHTH, _SIXTEENTH = TICKS_PER_QUARTER // 2, TICKS_PER_QUARTER // 4
_MOVES = (
    (_EIGHTH, "late by an eighth"),
    (-_EIGHTH, "early by an eighth"),
    (_SIXTEENTH, "late by a sixteenth"),
    (-_SIXTEENTH, "early by a sixteenth"),
)


def _bars_of_loud(pattern: Pattern) -> list[_Bar]:
    """Where the snare is struck and is no ghost."""
    snare = [h for h in pattern.hits if voice(h.voice).group == "snare" and h.role is not Role.GHOST and not h.grace]
    out = []
    for number, start, meter in pattern.frame.between(0, pattern.length_ticks):
        inside = {h.position_ticks - start for h in snare if start <= h.position_ticks < start + meter.bar_ticks}
        out.append(_Bar(number, start, frozenset(inside)))
    return out


def _moved_backbeat(bar: int, beat: int, at: int, moved: int, words: str) -> Sentence:
    def holds(p: Pattern) -> bool:
        here = next((b.places for b in _bars_of_loud(p) if b.number == bar), frozenset())
        return at not in here and at + moved in here

    return Sentence(f"Backbeat on {beat} {words} in bar {bar}.", holds)
