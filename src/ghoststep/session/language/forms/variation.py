"""What leads from one part to another, as phrases of the language, the smallest changes first.

In this order: a voice carried over to another one as a whole, a part shifted as a whole, strokes moved a little, taken
away, added, and struck otherwise. The phrases are done to the base before they are given, so they always lead there.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICE_NAMES
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.spots import exact_name, name_at
from ghoststep.music.time import TICKS_PER_QUARTER, TICKS_PER_WHOLE, step_ticks
from ghoststep.session.form.plain import plain, without_keys
from ghoststep.session.language.forms.words import changed_by

_NEAR = TICKS_PER_QUARTER // 2  # a stroke that is not further away has moved, else one is gone and one is new
_LEAST_CARRIED, _LEAST_SHIFTED = 3, 3
_Key = tuple[int, str]


@dataclass(frozen=True)
class Changes:
    """phrases: what leads from base to the other; exact: whether they lead all the way."""

    phrases: tuple[str, ...]
    exact: bool = True


def changes_between(base: Pattern, other: Pattern) -> Changes:
    """The phrases that make the base the other part; `exact` is false where the language cannot say it all."""
    base, other = without_keys(base), without_keys(other)
    if base == other:
        return Changes(())
    if base.bars != other.bars or base.frame != other.frame:
        return Changes((), exact=False)
    best: Changes | None = None
    grids = _grids(base, other)
    for begin in dict.fromkeys((tuple(_carried(base, other)), tuple(_shifted(base, other)), ())):
        found = _with_beginning(base, other, (*grids, *begin))
        if found is not None and (
            best is None or (found.exact, -len(found.phrases)) > (best.exact, -len(best.phrases))
        ):
            best = found
    return best or Changes((), exact=False)


def _grids(base: Pattern, other: Pattern) -> tuple[str, ...]:
    """Bars that have another grid: "grid 12 bars 2"."""
    if base.passages == other.passages:
        return ()
    out = []
    for bar, start, meter in other.frame.between(0, other.length_ticks):
        end = start + meter.bar_ticks
        whole = [p.grid for p in other.passages if not p.voices and p.start_ticks <= start and p.end_ticks >= end]
        if any(p.start_ticks < end and p.end_ticks > start for p in (*base.passages, *other.passages)):
            out.append(f"grid {whole[0] if whole else other.grid} bars {bar}")
    return tuple(out)


def _rank(found: Changes) -> tuple[bool, int]:
    """Exact before not, then the fewest phrases."""
    return found.exact, -len(found.phrases)


def _with_beginning(base: Pattern, other: Pattern, begin: tuple[str, ...]) -> Changes | None:
    """Some phrases first, then what single strokes are still different."""
    try:
        pattern = changed_by(base, begin)
        rest = _single(pattern, other)
        done = changed_by(pattern, rest)
    except InputError:
        return None
    return Changes((*begin, *rest), _same(done, other))


def _same(one: Pattern, other: Pattern) -> bool:
    return Counter(one.hits) == Counter(other.hits) and one.passages == other.passages


# -- changes of the whole -----------------------------------------------------------------------------------------


def _carried(base: Pattern, other: Pattern) -> list[str]:
    """Voices whose strokes all stand on another voice now: "voice tom_low on hat_closed"."""
    out = []
    before, after = _by_voice(base), _by_voice(other)
    for name, hits in before.items():
        gone = len(hits) >= _LEAST_CARRIED and not (set(_ticks(hits)) & set(_ticks(after.get(name, []))))
        if not gone:
            continue
        for new in VOICE_NAMES:
            there = {h.position_ticks for h in after.get(new, [])}
            here = {h.position_ticks for h in before.get(new, [])}
            ticks = set(_ticks(hits))
            if new != name and ticks <= there and not ticks & here:
                out.append(f"voice {new} on {name}")
                break
    return out


def _shifted(base: Pattern, other: Pattern) -> list[str]:
    """Voices that are the base's but for a shift round the end: "rotate 2 kick"."""
    step = step_ticks(base.grid)
    length = base.length_ticks
    if base.lane_grids or base.passages or length % step:
        return []
    before, after = _by_voice(base), _by_voice(other)
    if before.keys() != after.keys() or sum(map(len, before.values())) < _LEAST_SHIFTED:
        return []
    for steps in sorted(range(1, length // step), key=lambda s: min(s, length // step - s)):
        moved = {n: sorted((t + steps * step) % length for t in _ticks(hits)) for n, hits in before.items()}
        if all(moved[n] == sorted(_ticks(after[n])) for n in moved):
            by = steps if steps <= length // step // 2 else steps - length // step
            return [f"rotate {by} {name}" for name in before]
    return []


def _by_voice(pattern: Pattern) -> dict[str, list[Hit]]:
    out: dict[str, list[Hit]] = {}
    for h in pattern.hits:
        if not h.grace:
            out.setdefault(h.voice, []).append(h)
    return out


def _ticks(hits: Sequence[Hit]) -> list[int]:
    return [h.position_ticks for h in hits]


# -- single strokes -----------------------------------------------------------------------------------------------


def _single(base: Pattern, other: Pattern) -> list[str]:
    before = {(h.position_ticks, h.voice): h for h in base.hits if not h.grace}
    after = {(h.position_ticks, h.voice): h for h in other.hits if not h.grace}
    gone = [k for k in before if k not in after]
    new = [k for k in after if k not in before]
    moves = _moves(base, before, after, gone, new)
    out = [_moved(base, old, now) for old, now in moves]
    old_ones, new_ones = {old for old, _ in moves}, {now for _, now in moves}
    out += [f"remove {name} {_at(base, tick)}" for tick, name in gone if (tick, name) not in old_ones]
    out += [_placed(other, after[k]) for k in new if k not in new_ones]
    for key, h in after.items():
        if key in before:
            was = before[key]
        elif key in new_ones:
            was = before[next(old for old, now in moves if now == key)]
        else:
            was = _fresh(other, h)
        out += _otherwise(other, was, h)
    return out


def _moves(
    base: Pattern, before: dict[_Key, Hit], after: dict[_Key, Hit], gone: Sequence[_Key], new: Sequence[_Key]
) -> list[tuple[_Key, _Key]]:
    """Strokes that went a little way inside their bar: pairs of old and new place, the nearest first."""
    pairs = []
    for tick, name in gone:
        for to, other in new:
            near = abs(to - tick) <= _NEAR and base.frame.spot_at(to).bar == base.frame.spot_at(tick).bar
            if name == other and near:
                alike = before[tick, name].role is after[to, name].role
                pairs.append((abs(to - tick), not alike, (tick, name), (to, name)))
    out: list[tuple[_Key, _Key]] = []
    used: set[_Key] = set()
    for _, _, old, now in sorted(pairs):
        if old not in used and now not in used:
            used |= {old, now}
            out.append((old, now))
    return out


def _moved(pattern: Pattern, old: _Key, now: _Key) -> str:
    spot = _spot(pattern, now[0])
    if pattern.bars == 1 and "." not in (at := _spot(pattern, old[0])) and "+" not in at:
        return f"move {old[1]} {at} to {spot}"
    return f"move to {spot} on {old[1]} {_at(pattern, old[0])}"


def _placed(pattern: Pattern, h: Hit) -> str:
    bars = f" bars {pattern.frame.spot_at(h.position_ticks).bar}" if pattern.bars > 1 else ""
    role = "" if h.role == "normal" else f" as {h.role.value}"
    return f"place {h.voice} {_spot(pattern, h.position_ticks)}{role}{bars}"


def _fresh(pattern: Pattern, h: Hit) -> Hit:
    """The hit as it is when it is placed."""
    velocity = pattern.rules.level_of(h.voice, h.role)
    return Hit(h.position_ticks, h.voice, velocity, h.role)


def _otherwise(pattern: Pattern, was: Hit, h: Hit) -> list[str]:
    """How a stroke is struck otherwise than before."""
    was = replace(plain(was), position_ticks=h.position_ticks)
    if was == plain(h):
        return []
    on = f"on {h.voice} {_at(pattern, h.position_ticks)}"
    out = []
    if was.role is not h.role:
        out.append(f"role {h.role.value} {on}")
        was = replace(was, role=h.role, velocity=pattern.rules.level_of(h.voice, h.role))
    if was.velocity != h.velocity:
        out.append(f"velocity {h.velocity} {on}")
    if was.stroke != h.stroke:
        out.append(f"stroke {h.stroke} {on}")
    if was.ornament != h.ornament:
        out.append(f"ornament {h.ornament or 'none'} {on}")
    if was.limb != h.limb and h.limb:
        out.append(f"limb {h.limb.lower()} {on}")
    if was.offset_ms != h.offset_ms:
        out.append(f"offset {h.offset_ms:g} ms {on}")
    if was.fixed is not h.fixed:
        out.append(f"as-written {'yes' if h.fixed else 'no'} {on}")
    if was.length_ticks != h.length_ticks:
        share = Fraction(h.length_ticks, TICKS_PER_WHOLE)
        length = f"{share.numerator}/{share.denominator}" if h.length_ticks else "ring"
        out.append(f"length {length} {on}")
    return out


def _spot(pattern: Pattern, tick: int) -> str:
    name = name_at(tick, pattern.frame)
    if "." in name:
        return exact_name(pattern.frame.spot_at(tick).tick, pattern.frame.meter_at(tick))
    return name


def _at(pattern: Pattern, tick: int) -> str:
    bars = f" bars {pattern.frame.spot_at(tick).bar}" if pattern.bars > 1 else ""
    return f"at {_spot(pattern, tick)}{bars}"
