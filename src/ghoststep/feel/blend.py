"""Between two feels: any part of the way, and voices of one with the rest of another."""

from collections.abc import Collection
from dataclasses import fields, replace

from ghoststep.music.feel import SWING_LIMITS, Feel, Swing
from ghoststep.music.player import ROLE_ORDER, Spacing, SpotFeel, Touch, Wander
from ghoststep.music.touch import Role

_FORCES = ("velocity",)
_LIMITS = {
    "exponent": (0.0, 2.0), "shared": (0.0, 1.0), "together": (0.0, 2.0), "softer": (0.0, 3.0), "velocity": (0.0, 30.0),
    "tempo_percent": (0.0, 5.0), "push_percent": (-10.0, 10.0),
}  # fmt: skip


def between(a: float, b: float, share: float) -> float:
    """The value a share of the way from one to another; a share over 1 goes on beyond it."""
    return a + share * (b - a)


def swing_between(a: Swing, b: Swing, share: float) -> Swing:
    """A swing on the way from one to another; on another unit it is straight halfway."""
    low, high = SWING_LIMITS
    if a.straight or b.straight or a.unit == b.unit:
        unit = b.unit if not b.straight or a.straight else a.unit
        return Swing(unit, min(max(between(a.ratio, b.ratio, share), low), high))
    if share < 0.5:
        return Swing(a.unit, between(a.ratio, 0.5, 2 * share))
    return Swing(b.unit, min(max(between(0.5, b.ratio, 2 * share - 1), low), high))


def wander_between(a: Wander, b: Wander, time: float, touch: float) -> Wander:
    """A wander on the way from one to another; what is force goes by the share of touch."""
    out = {}
    for name, (low, high) in _LIMITS.items():
        share = touch if name in _FORCES else time
        out[name] = min(max(between(getattr(a, name), getattr(b, name), share), low), high)
    return Wander(**out, phrase_bars=(b if time >= 0.5 else a).phrase_bars)


def blended(a: Feel, b: Feel, share: float) -> Feel:
    """A feel on the way from one (0) to another (1)."""
    voices = {*a.lean_ms, *b.lean_ms}
    swing = swing_between(a.swing, b.swing, share)
    own = {*a.swings, *b.swings}
    return Feel(
        swing,
        {v: between(a.lean_of(v), b.lean_of(v), share) for v in voices},
        between(a.loose_ms, b.loose_ms, share),
        a.take,
        a.balance_db,
        {v: swing_between(a.swing_of(v), b.swing_of(v), share) for v in own},
        _spots_between(a, b, share),
        wander_between(a.wander, b.wander, share, share),
        _touch_between(a.touch, b.touch, share),
        Spacing(*(between(getattr(a.spacing, f.name), getattr(b.spacing, f.name), share) for f in fields(Spacing))),
        a.seed,
        a.frozen,
    )


def _spots_between(a: Feel, b: Feel, share: float) -> tuple[SpotFeel, ...]:
    out = []
    for key in {**a.spot_table, **b.spot_table}:
        one, two = (f.spot_table.get(key) or SpotFeel(*key) for f in (a, b))
        levels = [_known_between(x, y, share) for x, y in zip(one.levels, two.levels, strict=True)]
        out.append(SpotFeel(*key, between(one.late_ms, two.late_ms, share), (levels[0], levels[1], levels[2])))
    return tuple(out)


def _known_between(a: float, b: float, share: float) -> float:
    """Between two velocities; where only one is known, that one."""
    return between(a, b, share) if a and b else a or b


def _touch_between(a: Touch, b: Touch, share: float) -> Touch:
    one, two = ({(n, r): v for n, r, v in t.levels} for t in (a, b))
    rows = sorted({*one, *two}, key=lambda row: (row[0], ROLE_ORDER.index(row[1])))
    levels: list[tuple[str, Role, float]] = [
        (n, r, _known_between(one.get((n, r), 0.0), two.get((n, r), 0.0), share)) for n, r in rows
    ]
    return replace(
        a,
        levels=tuple(levels),
        share=between(a.share, b.share, share),
        second=between(a.second, b.second, share),
        weaker=between(a.weaker, b.weaker, share),
    )


def with_voices_of(base: Feel, other: Feel, voices: Collection[str]) -> Feel:
    """A feel in which some voices are played as in another."""
    wanted = set(voices)
    return replace(
        base,
        lean_ms={v: ms for v, ms in base.lean_ms.items() if v not in wanted}
        | {v: ms for v, ms in other.lean_ms.items() if v in wanted},
        swings={v: base.swing_of(v) for v in base.swings if v not in wanted} | {v: other.swing_of(v) for v in wanted},
        spots=tuple(s for s in base.spots if s.voice not in wanted)
        + tuple(s for s in other.spots if s.voice in wanted),
        touch=replace(
            base.touch,
            levels=tuple(r for r in base.touch.levels if r[0] not in wanted)
            + tuple(r for r in other.touch.levels if r[0] in wanted),
        ),
    )
